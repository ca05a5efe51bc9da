"""What sites will show from each moment ahead on."""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "foretold_state",
        sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id", name="fk_foretold_state_site_id"), primary_key=True),
        sa.Column("position", sa.Integer, primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("state", sa.String, sa.ForeignKey("state.hash", name="fk_foretold_state_state"), nullable=False),
        sa.Column("says", sa.String, nullable=False),
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
