"""When each site was last read as it is live, and in which places it shows something else than was verified."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None
beside = True


def upgrade() -> None:
    op.create_table(
        "live_reading",
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id"), primary_key=True),
        sa.Column("every_minutes", sa.Integer, nullable=False),
        sa.Column("due_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("read_at", sa.DateTime(timezone=True)),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("says", sa.String, nullable=False),
        sa.Column("places", sa.Integer, nullable=False),
    )
    op.create_table(
        "drift",
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id"), primary_key=True),
        sa.Column("location", sa.String, primary_key=True),
        sa.Column("device", sa.String, primary_key=True),
        sa.Column("edits", JSONB, nullable=False),
        sa.Column("base", JSONB, nullable=False),
        sa.Column("there", JSONB, nullable=False),
        sa.Column("sure", sa.Float, nullable=False),
        sa.Column("etag", sa.String),
        sa.Column("edited_by", sa.String),
        sa.Column("edited_at", sa.DateTime(timezone=True)),
        sa.Column("since", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
