"""Links by which clients look at a change, and what they said of it."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "sign_off",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("change_id", sa.Uuid, sa.ForeignKey("change.id", name="fk_sign_off_change_id"), nullable=False),
        sa.Column("token_hash", sa.String, nullable=False),
        sa.Column("for_whom", sa.String, nullable=False),
        sa.Column("sites", JSONB, nullable=False),
        sa.Column("made_by", sa.Uuid, sa.ForeignKey("person.id", name="fk_sign_off_made_by"), nullable=True),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("until", sa.DateTime(timezone=True), nullable=False),
        sa.Column("withdrawn_at", sa.DateTime(timezone=True), nullable=True),
        sa.UniqueConstraint("token_hash", name="uq_sign_off_token_hash"),
    )
    op.create_index("ix_sign_off_change_id", "sign_off", ["change_id"])
    op.create_table(
        "sign_off_said",
        sa.Column("id", sa.BigInteger, primary_key=True, autoincrement=True),
        sa.Column(
            "sign_off_id", sa.Uuid, sa.ForeignKey("sign_off.id", name="fk_sign_off_said_sign_off_id"), nullable=False
        ),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("verdict", sa.String, nullable=False),
        sa.Column("says", sa.String, nullable=False),
        sa.Column("content", sa.String, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("ix_sign_off_said_sign_off_id", "sign_off_said", ["sign_off_id"])


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
