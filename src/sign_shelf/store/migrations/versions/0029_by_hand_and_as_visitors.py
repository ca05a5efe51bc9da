"""Releases that a person carries out on the site; places that differ for an audience alone."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0029"
down_revision = "0028"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("release_step", sa.Column("done", JSONB, nullable=False, server_default="[]"))
    op.alter_column("release_step", "done", server_default=None)
    op.add_column("drift", sa.Column("audience", sa.String, nullable=False, server_default=""))
    op.alter_column("drift", "audience", server_default=None)
    op.drop_constraint("pk_drift", "drift")
    op.create_primary_key("pk_drift", "drift", ["site_id", "location", "device", "audience"])


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
