"""Changes that come back every year."""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "season",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("title", sa.String, nullable=False),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("goes", sa.String, nullable=False),
        sa.Column("ends", sa.String, nullable=False),
        sa.Column("goes_on", sa.String, nullable=False),
        sa.Column("ends_on", sa.String, nullable=False),
        sa.Column("approved", sa.Boolean, nullable=False),
        sa.Column("set_by", sa.Uuid, sa.ForeignKey("person.id"), nullable=True),
        sa.Column("set_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("over_at", sa.DateTime(timezone=True), nullable=True),
    )
    op.add_column("schedule", sa.Column("season_id", sa.Uuid, sa.ForeignKey("season.id"), nullable=True))
    op.add_column("schedule", sa.Column("years", sa.Integer, nullable=False, server_default="0"))
    op.create_index("ix_schedule_season_id", "schedule", ["season_id"])


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
