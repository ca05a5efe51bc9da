"""A release that went live or failed stays so, whoever was still at work on it."""

from alembic import op

revision = "0033"
down_revision = "0032"
branch_labels = None
depends_on = None
beside = True

_KEEP = """
CREATE FUNCTION keep_what_is_over() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'release % is %, and cannot become %', OLD.id, OLD.state, NEW.state USING ERRCODE = 'check_violation';
END $$
"""


def upgrade() -> None:
    op.execute(_KEEP)
    op.execute(
        "CREATE TRIGGER release_stays_over BEFORE UPDATE OF state ON release FOR EACH ROW "
        "WHEN (OLD.state IN ('live', 'failed') AND NEW.state <> OLD.state) EXECUTE FUNCTION keep_what_is_over()"
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
