"""Sites that get their menus by commits to a Git repository."""

import sqlalchemy as sa
from alembic import op

revision = "0027"
down_revision = "0026"
branch_labels = None
depends_on = None
beside = True


def upgrade() -> None:
    op.create_table(
        "repository",
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id"), primary_key=True),
        sa.Column("sealed", sa.String, nullable=False),
        sa.Column("branch", sa.String, nullable=False),
        sa.Column("folder", sa.String, nullable=False),
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
