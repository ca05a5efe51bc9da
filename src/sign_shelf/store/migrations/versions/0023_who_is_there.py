"""Who is in a change just now, and on which line; PostgreSQL tells of it as it changes."""

import sqlalchemy as sa
from alembic import op

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None

_TELL = """
CREATE FUNCTION tell_who_is_there() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('change_moved', coalesce(NEW.change_id, OLD.change_id)::text);
    RETURN NULL;
END $$
"""


def upgrade() -> None:
    op.create_table(
        "presence",
        sa.Column("page", sa.Uuid, primary_key=True),
        sa.Column("person_id", sa.Uuid, sa.ForeignKey("person.id"), nullable=False),
        sa.Column("change_id", sa.Uuid, sa.ForeignKey("change.id"), nullable=False),
        sa.Column("site", sa.String, nullable=False),
        sa.Column("menu", sa.String, nullable=False),
        sa.Column("item", sa.String, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("ix_presence_change_id", "presence", ["change_id"])
    op.execute(_TELL)
    op.execute(
        "CREATE TRIGGER who_is_there AFTER INSERT OR DELETE OR UPDATE OF change_id, site, menu, item ON presence "
        "FOR EACH ROW EXECUTE FUNCTION tell_who_is_there()"
    )
    op.execute(
        "CREATE TRIGGER part_moved AFTER UPDATE OF head, base ON change_part FOR EACH ROW "
        "WHEN (OLD.head <> NEW.head OR OLD.base <> NEW.base) EXECUTE FUNCTION tell_who_is_there()"
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
