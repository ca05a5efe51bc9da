"""Every secret is sealed for what it belongs to, and opens for nothing else.

Servers and workers of the version before cannot open what was sealed so.
"""

from collections.abc import Callable
from typing import Any

import sqlalchemy as sa
from alembic import op

from sign_shelf.store.seals import Purpose, Seals, notice_channel, repository, second_factor, site_key

revision = "0034"
down_revision = "0033"
branch_labels = None
depends_on = None

_SEALED: dict[sa.TableClause, Callable[[Any], Purpose]] = {
    sa.table("site_key", sa.column("id"), sa.column("site_id"), sa.column("kind"), sa.column("sealed")): (
        lambda row: site_key(row.site_id, row.kind)
    ),
    sa.table("repository", sa.column("site_id"), sa.column("sealed")): lambda row: repository(row.site_id),
    sa.table("second_factor", sa.column("person_id"), sa.column("sealed")): lambda row: second_factor(row.person_id),
    sa.table("channel", sa.column("id"), sa.column("sealed")): lambda row: notice_channel(row.id),
}
"""Its first column names a row."""


def upgrade() -> None:
    connection = op.get_bind()
    seals: Seals = op.get_context().config.attributes["seals"]
    for table, purpose in _SEALED.items():
        key, sealed = next(iter(table.c)), table.c.sealed
        for row in connection.execute(sa.select(table).where(sealed != "").with_for_update()).all():
            bound = seals.bind(row.sealed, purpose(row))
            connection.execute(sa.update(table).where(key == row[0]).values(sealed=bound))


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
