"""What was read of sites that nobody confirmed yet says where their places stand, and no longer where their menus were seen."""

from alembic import op

revision = "0031"
down_revision = "0030"
branch_labels = None
depends_on = None
beside = True


def upgrade() -> None:
    op.execute(
        "UPDATE take_in SET proposal = jsonb_set(proposal, '{menus}',"
        " (SELECT coalesce(jsonb_agg(menu - 'selector'), '[]') FROM jsonb_array_elements(proposal -> 'menus') menu))"
        " WHERE proposal ? 'menus'"
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
