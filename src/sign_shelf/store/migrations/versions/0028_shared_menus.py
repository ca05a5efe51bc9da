"""Menus of the agency's that many sites follow."""

import sqlalchemy as sa
from alembic import op

revision = "0028"
down_revision = "0027"
branch_labels = None
depends_on = None
beside = True


def upgrade() -> None:
    op.create_table(
        "shared_menu",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("version", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("language", sa.String, nullable=False),
        sa.Column("hash", sa.String, sa.ForeignKey("tree.hash"), nullable=False),
        sa.Column("author_id", sa.Uuid, sa.ForeignKey("person.id")),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
