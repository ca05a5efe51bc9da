"""Views of the shelf that people keep."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0030"
down_revision = "0029"
branch_labels = None
depends_on = None
beside = True


def upgrade() -> None:
    op.create_table(
        "shelf_view",
        sa.Column("person_id", sa.Uuid, sa.ForeignKey("person.id"), primary_key=True),
        sa.Column("name", sa.String, primary_key=True),
        sa.Column("at", JSONB, nullable=False),
        sa.Column("kept_at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
