"""Addresses of feeds: one a person, its token hashed."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "feed",
        sa.Column("person_id", sa.Uuid, sa.ForeignKey("person.id", name="fk_feed_person_id"), primary_key=True),
        sa.Column("token_hash", sa.String, nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.UniqueConstraint("token_hash", name="uq_feed_token_hash"),
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
