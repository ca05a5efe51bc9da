"""Releases worked out ahead of their moment."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "release_plan",
        sa.Column("change_id", sa.Uuid, sa.ForeignKey("change.id", name="fk_release_plan_change_id"), primary_key=True),
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id", name="fk_release_plan_site_id"), primary_key=True),
        sa.Column("named", sa.String, nullable=False),
        sa.Column("day", sa.String, nullable=False),
        sa.Column("target", sa.String, sa.ForeignKey("state.hash", name="fk_release_plan_target"), nullable=True),
        sa.Column("steps", JSONB, nullable=False),
    )
    op.create_index("ix_release_plan_site_id", "release_plan", ["site_id"])


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
