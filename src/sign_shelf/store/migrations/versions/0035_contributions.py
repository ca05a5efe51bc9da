"""Every write into a change makes its writer an author of the change; before, only saved menus did.

Servers and workers of the version before would not write down who contributed.
"""

import sqlalchemy as sa
from alembic import op

revision = "0035"
down_revision = "0034"
branch_labels = None
depends_on = None

_EDITS = ("hang", "take down", "look", "switch", "facts", "menu", "take back", "drift", "edit", "create menu", "shared")
"""What the activity log calls writes into a change."""


def upgrade() -> None:
    op.create_table(
        "contribution",
        sa.Column("change_id", sa.Uuid(), nullable=False),
        sa.Column("person_id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(["change_id"], ["change.id"], name=op.f("fk_contribution_change_id_change")),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_contribution_person_id_person")),
        sa.PrimaryKeyConstraint("change_id", "person_id", name=op.f("pk_contribution")),
    )
    op.execute(
        "INSERT INTO contribution (change_id, person_id) SELECT DISTINCT change_id, author_id FROM revision "
        "WHERE change_id IS NOT NULL AND author_id IS NOT NULL ON CONFLICT DO NOTHING"
    )
    op.execute(
        sa.text(
            "INSERT INTO contribution (change_id, person_id) SELECT DISTINCT change.id, ledger.person_id FROM ledger "
            "JOIN change ON change.id::text = ledger.detail ->> 'change' "
            "WHERE ledger.person_id IS NOT NULL AND ledger.action = ANY(:edits) ON CONFLICT DO NOTHING"
        ).bindparams(edits=list(_EDITS))
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
