"""What of others' edits somebody is choosing about just now, told to these as well."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("presence", sa.Column("meets", JSONB, nullable=False, server_default="[]"))
    op.alter_column("presence", "meets", server_default=None)
    op.execute("DROP TRIGGER who_is_there ON presence")
    op.execute(
        "CREATE TRIGGER who_is_there AFTER INSERT OR DELETE OR UPDATE OF change_id, site, menu, item, meets ON presence "
        "FOR EACH ROW EXECUTE FUNCTION tell_who_is_there()"
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
