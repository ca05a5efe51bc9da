"""Beside a site's home page, pages of its sections are kept as crawlers get them. Sites are read again."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_column("site_look", "live_page")
    op.add_column("site_look", sa.Column("live_pages", JSONB, nullable=True))
    op.execute("UPDATE site_look SET live_at = NULL")


def downgrade() -> None:
    op.drop_column("site_look", "live_pages")
    op.add_column("site_look", sa.Column("live_page", JSONB, nullable=True))
    op.execute("UPDATE site_look SET live_at = NULL")
