"""Schedules: when changes go live and come back, freezes, and releases that give back what was live before."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
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
        "schedule",
        sa.Column("change_id", sa.Uuid, sa.ForeignKey("change.id", name="fk_schedule_change_id"), primary_key=True),
        _text("kind"), _text("goes"), _text("ends", nullable=True),
        _of("schedule", "set_by", "person", nullable=True), _at("set_at"),
    )  # fmt: skip
    op.create_table(
        "freeze_period",
        sa.Column("id", sa.Uuid, primary_key=True),
        _of("freeze_period", "site_id", "site", nullable=True), _text("begins"), _text("ends"), _text("why"),
        _of("freeze_period", "set_by", "person", nullable=True), _at("set_at"),
    )  # fmt: skip
    op.create_index("ix_freeze_period_site_id", "freeze_period", ["site_id"])
    for name in ("goes_at", "ends_at", "over_at"):
        op.add_column("change_part", _at(name, nullable=True))
    for name in ("goes_at", "ends_at"):
        op.create_index(f"ix_change_part_{name}", "change_part", [name])
    for name in ("says", "foretold"):
        op.add_column("change_part", sa.Column(name, sa.String, nullable=False, server_default=""))
        op.alter_column("change_part", name, server_default=None)
    op.add_column("release", sa.Column("kind", sa.String, nullable=False, server_default="put live"))
    op.alter_column("release", "kind", server_default=None)


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
