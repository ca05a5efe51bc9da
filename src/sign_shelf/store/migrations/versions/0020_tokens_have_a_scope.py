"""What a program's token may do, and at which sites."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("signed_in", sa.Column("scope", sa.String, nullable=False, server_default="all"))
    op.add_column("signed_in", sa.Column("only_at", JSONB, nullable=False, server_default="[]"))


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
