"""When each page was seen and what it answered; readings of sites; what differed, version by version; planned ends of pages; home
pages as crawlers get them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def _at(name: str, *, nullable: bool = False) -> sa.Column[object]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=nullable)


def _text(name: str, *, nullable: bool = False) -> sa.Column[str]:
    return sa.Column(name, sa.String, nullable=nullable)


def upgrade() -> None:
    op.add_column("page", _text("ends", nullable=True))
    op.add_column("site_look", sa.Column("live_state", sa.String, nullable=False, server_default=""))
    op.alter_column("site_look", "live_state", server_default=None)
    op.add_column("site_look", sa.Column("live_page", JSONB, nullable=True))
    op.add_column("site_look", _at("live_at", nullable=True))
    op.create_table(
        "page_seen",
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id", name="fk_page_seen_site_id"), primary_key=True),
        sa.Column("ref", sa.String, primary_key=True),
        sa.Column("status", sa.Integer, nullable=True), _at("asked_at", nullable=True), _at("seen_at", nullable=True),
        _text("etag", nullable=True), _text("modified", nullable=True), _text("content"), _text("listed_in"), _text("changed"),
        sa.Column("alternates", JSONB, nullable=False),
    )  # fmt: skip
    op.create_table(
        "site_reading",
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id", name="fk_site_reading_site_id"), primary_key=True),
        _at("due_at"), _at("read_at", nullable=True), _text("says"), sa.Column("progress", JSONB, nullable=True),
        sa.Column("listed", sa.Integer, nullable=False), sa.Column("sitemaps", JSONB, nullable=False), _text("ending"),
        sa.Column("notes", JSONB, nullable=False), sa.Column("doubt", JSONB, nullable=True),
    )  # fmt: skip
    op.create_table(
        "page_news",
        sa.Column("id", sa.BigInteger, primary_key=True, autoincrement=True),
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id", name="fk_page_news_site_id"), nullable=False),
        sa.Column("version", sa.Integer, nullable=False), _at("at"), _text("kind"), _text("ref"), _text("because"),
        sa.Column("before", JSONB, nullable=True), sa.Column("after", JSONB, nullable=False),
        _text("settled", nullable=True), _at("settled_at", nullable=True),
        sa.Column("settled_by", sa.Uuid, sa.ForeignKey("person.id", name="fk_page_news_settled_by"), nullable=True),
    )  # fmt: skip
    op.create_index("ix_page_news_site_id_at", "page_news", ["site_id", "at"])


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
