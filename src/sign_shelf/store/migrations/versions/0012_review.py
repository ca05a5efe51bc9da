"""Review: what people said of a change, by its content name, and their remarks on its entries."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def _at(name: str, *, nullable: bool = False) -> sa.Column[object]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=nullable)


def _text(name: str, *, nullable: bool = False) -> sa.Column[str]:
    return sa.Column(name, sa.String, nullable=nullable)


def _of(table: str, name: str, other: str, *, nullable: bool = False) -> sa.Column[object]:
    return sa.Column(name, sa.Uuid, sa.ForeignKey(f"{other}.id", name=f"fk_{table}_{name}"), nullable=nullable)


def upgrade() -> None:
    op.create_table(
        "verdict",
        sa.Column("id", sa.BigInteger, primary_key=True, autoincrement=True),
        _of("verdict", "change_id", "change"), _of("verdict", "person_id", "person"), _text("content"), _text("verdict"),
        _text("says"), _at("at"), _at("stands_since", nullable=True),
    )  # fmt: skip
    op.create_index("ix_verdict_change_id", "verdict", ["change_id"])
    op.create_table(
        "remark",
        sa.Column("id", sa.Uuid, primary_key=True),
        _of("remark", "change_id", "change"), _of("remark", "person_id", "person"),
        _of("remark", "site_id", "site", nullable=True), _text("menu", nullable=True), _text("item", nullable=True),
        _of("remark", "answers", "remark", nullable=True), _text("says"), _at("at"), _at("settled_at", nullable=True),
        _of("remark", "settled_by", "person", nullable=True),
    )  # fmt: skip
    op.create_index("ix_remark_change_id", "remark", ["change_id"])


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
