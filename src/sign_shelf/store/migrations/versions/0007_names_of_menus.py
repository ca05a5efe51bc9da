"""What a menu is called stands beside its tree, and what an opener opens in its line: both are searched for."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("tree", sa.Column("name", sa.String(), nullable=False, server_default=""))
    op.execute("ALTER TABLE tree DISABLE TRIGGER USER")
    op.execute("UPDATE tree SET name = document ->> 'name'")
    op.execute("ALTER TABLE tree ENABLE TRIGGER USER")
    op.alter_column("tree", "name", server_default=None)
    op.execute(
        """
        UPDATE tree_item SET address = '!' || (
          jsonb_path_query_first(
            tree.document, '$.**?(@.id == $item).target.overlay', jsonb_build_object('item', tree_item.item)
          ) #>> '{}'
        ) FROM tree WHERE tree.hash = tree_item.hash AND tree_item.kind = 'opener'
        """
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
