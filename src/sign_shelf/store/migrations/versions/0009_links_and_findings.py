"""What addresses answered, what checks found and who sees to it; pages that ask search engines to leave them out."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def _at(name: str, *, nullable: bool = False) -> sa.Column[object]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=nullable)


def _text(name: str, *, nullable: bool = False) -> sa.Column[str]:
    return sa.Column(name, sa.String, nullable=nullable)


def upgrade() -> None:
    op.add_column("page", sa.Column("noindex", sa.Boolean, nullable=False, server_default=sa.false()))
    op.alter_column("page", "noindex", server_default=None)
    op.create_table(
        "link",
        sa.Column("address", sa.String, primary_key=True),
        _text("host"), sa.Column("ours", sa.Boolean, nullable=False), _text("verdict", nullable=True),
        sa.Column("hops", JSONB, nullable=False), _text("says"), _at("since", nullable=True), _at("asked_at", nullable=True),
        sa.Column("suspect", sa.Boolean, nullable=False), sa.Column("fails", sa.Integer, nullable=False), _at("due_at"),
    )  # fmt: skip
    op.create_index("ix_link_host_due_at", "link", ["host", "due_at"])
    op.create_index("ix_link_due_at", "link", ["due_at"])
    op.create_table(
        "link_verdict",
        sa.Column("id", sa.BigInteger, primary_key=True, autoincrement=True),
        sa.Column("address", sa.String, sa.ForeignKey("link.address", name="fk_link_verdict_address"), nullable=False),
        _at("at"), _text("verdict"), _text("says"), sa.Column("hops", JSONB, nullable=False),
    )  # fmt: skip
    op.create_index("ix_link_verdict_address", "link_verdict", ["address"])
    op.create_table(
        "site_link",
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id", name="fk_site_link_site_id"), primary_key=True),
        sa.Column("address", sa.String, sa.ForeignKey("link.address", name="fk_site_link_address"), primary_key=True),
    )
    op.create_index("ix_site_link_address", "site_link", ["address"])
    op.create_table(
        "link_host",
        sa.Column("host", sa.String, primary_key=True),
        sa.Column("held_by", sa.Uuid, nullable=False), _at("held_until"),
    )  # fmt: skip
    op.create_table(
        "site_look",
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id", name="fk_site_look_site_id"), primary_key=True),
        _text("gathered"), _text("looked"), _at("at", nullable=True),
    )  # fmt: skip
    op.create_table(
        "finding",
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id", name="fk_finding_site_id"), primary_key=True),
        sa.Column("fingerprint", sa.String, primary_key=True),
        _text("code"), _text("severity"), _text("cause"), _text("menu", nullable=True), _text("item", nullable=True),
        sa.Column("found", JSONB, nullable=False), _at("since"), _at("gone_at", nullable=True),
        sa.Column("back", sa.Integer, nullable=False),
    )  # fmt: skip
    op.create_table(
        "care",
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id", name="fk_care_site_id"), primary_key=True),
        sa.Column("code", sa.String, primary_key=True),
        sa.Column("cause", sa.String, primary_key=True),
        sa.Column("owner_id", sa.Uuid, sa.ForeignKey("person.id", name="fk_care_owner_id"), nullable=True),
        _text("due", nullable=True),
        sa.Column("waived_by", sa.Uuid, sa.ForeignKey("person.id", name="fk_care_waived_by"), nullable=True),
        _at("waived_at", nullable=True), _text("waived_until", nullable=True), _text("reason"),
    )  # fmt: skip


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
