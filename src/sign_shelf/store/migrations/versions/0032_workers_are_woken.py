"""Workers are woken by what they work on, and need not look again and again."""

from alembic import op

revision = "0032"
down_revision = "0031"
branch_labels = None
depends_on = None
beside = True

TABLES = (
    "change", "change_part", "channel", "drift", "finding", "freeze_period", "ledger", "link", "live_reading", "notice", "person",
    "release", "season", "shared_menu", "site", "site_link", "site_look", "site_reading", "verdict",
)  # fmt: skip

_TELL = """
CREATE FUNCTION tell_worked_on() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('worked_on', TG_TABLE_NAME);
    RETURN NULL;
END $$
"""
# The queue tells its workers of new jobs only. Whoever waits for the end of another of the same lock, or is to be tried again, is told too.
_TELL_ENDED = """
CREATE FUNCTION tell_job_ended() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    payload text := json_build_object('type', 'job_inserted', 'job_id', NEW.id);
BEGIN
    PERFORM pg_notify('procrastinate_queue_v1#' || NEW.queue_name, payload);
    PERFORM pg_notify('procrastinate_any_queue_v1', payload);
    RETURN NULL;
END $$
"""


def upgrade() -> None:
    op.execute(_TELL)
    for table in TABLES:
        op.execute(
            f"CREATE TRIGGER {table}_worked_on AFTER INSERT OR UPDATE OR DELETE ON {table} "
            "FOR EACH ROW EXECUTE FUNCTION tell_worked_on()"
        )
    op.execute(_TELL_ENDED)
    op.execute(
        "CREATE TRIGGER job_ended AFTER UPDATE OF status ON procrastinate_jobs FOR EACH ROW "
        "WHEN (OLD.status = 'doing' AND NEW.status <> 'doing') EXECUTE FUNCTION tell_job_ended()"
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
