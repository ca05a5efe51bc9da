"""What each person saw last of a change."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None
beside = True


def upgrade() -> None:
    op.create_table(
        "change_look",
        sa.Column("person_id", sa.Uuid, sa.ForeignKey("person.id"), primary_key=True),
        sa.Column("change_id", sa.Uuid, sa.ForeignKey("change.id"), primary_key=True),
        sa.Column("heads", JSONB, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
