"""Notices: where people get them, what they say, and whether they arrived."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def _at(name: str, *, nullable: bool = False) -> sa.Column[object]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=nullable)


def _text(name: str) -> sa.Column[str]:
    return sa.Column(name, sa.String, nullable=False)


def upgrade() -> None:
    op.add_column("finding", _at("told_at", nullable=True))
    # What was there before anybody could be told is no news.
    op.execute("UPDATE finding SET told_at = now()")
    op.create_index(
        "ix_finding_untold", "finding", ["since"], postgresql_where=sa.text("severity = 'stop' AND gone_at IS NULL")
    )
    op.create_table(
        "channel",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("person_id", sa.Uuid, sa.ForeignKey("person.id", name="fk_channel_person_id"), nullable=False),
        _text("kind"), _text("address"), _text("sealed"), sa.Column("wishes", JSONB, nullable=False), _at("made_at"),
        _at("daily_at", nullable=True), _at("daily_due_at", nullable=True), _at("off_at", nullable=True),
        sa.UniqueConstraint("person_id", "kind", "address", name="uq_channel_address"),
    )  # fmt: skip
    op.create_index("ix_channel_daily_due_at", "channel", ["daily_due_at"])
    op.create_table(
        "notice",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("channel_id", sa.Uuid, sa.ForeignKey("channel.id", name="fk_notice_channel_id"), nullable=False),
        _text("key"), sa.Column("said", JSONB, nullable=False), _text("state"), _at("made_at"), _at("due_at"),
        _at("sent_at", nullable=True), sa.Column("tries", sa.Integer, nullable=False), _text("says"),
        sa.UniqueConstraint("channel_id", "key", name="uq_notice_key"),
    )  # fmt: skip
    op.create_index("ix_notice_due_at", "notice", ["due_at"], postgresql_where=sa.text("state IN ('waiting', 'going')"))
    op.create_index("ix_notice_channel_id_made_at", "notice", ["channel_id", "made_at"])


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
