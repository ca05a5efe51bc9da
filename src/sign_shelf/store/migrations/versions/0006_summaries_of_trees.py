"""What is told of a menu at a glance, and every item's line, worked out once for each tree; pages have versions."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

from sign_shelf.core.drawing.summary import summary_of
from sign_shelf.core.model.documents import read_menu
from sign_shelf.core.outline.lines import item_lines

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

_AT_ONCE = 200


def upgrade() -> None:
    op.add_column("tree", sa.Column("pending", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("tree", sa.Column("lists", sa.Boolean(), nullable=False, server_default="false"))
    op.add_column("tree", sa.Column("bars", postgresql.JSON(), nullable=False, server_default="[]"))
    op.add_column("site", sa.Column("inventory", sa.Integer(), nullable=False, server_default="1"))
    op.create_table(
        "tree_item",
        sa.Column("hash", sa.String(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("item", sa.String(), nullable=False),
        sa.Column("number", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("page", sa.String(), nullable=True),
        sa.Column("address", sa.String(), nullable=True),
        sa.Column("host", sa.String(), nullable=True),
        sa.Column("rule", sa.String(), nullable=True),
        sa.Column("opens", sa.String(), nullable=True),
        sa.Column("closes", sa.String(), nullable=True),
        sa.ForeignKeyConstraint(["hash"], ["tree.hash"], name=op.f("fk_tree_item_hash")),
        sa.PrimaryKeyConstraint("hash", "position", name=op.f("pk_tree_item")),
    )
    op.execute("DROP TRIGGER site_told ON site")
    op.execute(
        "CREATE TRIGGER site_told AFTER INSERT OR UPDATE OF live_state, trying_state, inventory ON site "
        "FOR EACH ROW EXECUTE FUNCTION tell_what_is_given()"
    )
    op.execute("ALTER TABLE tree DISABLE TRIGGER USER")
    _fill(op.get_bind())
    op.execute("ALTER TABLE tree ENABLE TRIGGER USER")
    for column in ("pending", "lists", "bars"):
        op.alter_column("tree", column, server_default=None)
    op.alter_column("site", "inventory", server_default=None)
    op.create_index(op.f("ix_tree_item_page"), "tree_item", ["page"])
    op.create_index(op.f("ix_tree_item_host"), "tree_item", ["host"])
    # An address may be longer than a row of a B-tree.
    op.create_index(op.f("ix_tree_item_address"), "tree_item", ["address"], postgresql_using="hash")


def _fill(connection: sa.Connection) -> None:
    tree = sa.table(
        "tree", sa.column("hash"), sa.column("document", postgresql.JSONB()), sa.column("pending"), sa.column("lists"),
        sa.column("bars", postgresql.JSON()),
    )  # fmt: skip
    columns = (
        "hash",
        "position",
        "item",
        "number",
        "kind",
        "label",
        "page",
        "address",
        "host",
        "rule",
        "opens",
        "closes",
    )
    lines = sa.table("tree_item", *map(sa.column, columns))
    put = (
        sa.update(tree)
        .where(tree.c.hash == sa.bindparam("of"))
        .values({name: sa.bindparam(name) for name in ("pending", "lists", "bars")})
    )
    names = list(connection.scalars(sa.select(tree.c.hash).order_by(tree.c.hash)))
    for begin in range(0, len(names), _AT_ONCE):
        found = connection.execute(
            sa.select(tree.c.hash, tree.c.document).where(tree.c.hash.in_(names[begin : begin + _AT_ONCE]))
        )
        summaries, rows = [], []
        for name, whole in found:
            document = read_menu(whole)
            told = summary_of(document)
            bars = [bar.to_json() for bar in told.bars]
            summaries.append({"of": name, "pending": told.pending, "lists": told.lists, "bars": bars})
            rows += [{"hash": name, "position": at} | line._asdict() for at, line in enumerate(item_lines(document))]
        connection.execute(put, summaries)
        if rows:
            connection.execute(sa.insert(lines), rows)


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
