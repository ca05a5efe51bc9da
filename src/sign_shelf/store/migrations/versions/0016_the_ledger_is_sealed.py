"""Every line of the ledger is sealed with a hash over it and all before it."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "ledger_seal",
        sa.Column("position", sa.BigInteger, primary_key=True, autoincrement=False),
        # No foreign key: a line that is gone is found by its seal.
        sa.Column("line", sa.BigInteger, nullable=False),
        sa.Column("hash", sa.String, nullable=False),
        sa.UniqueConstraint("line", name="uq_ledger_seal_line"),
    )
    op.execute(
        "CREATE TRIGGER ledger_seal_never_changed BEFORE UPDATE OR DELETE ON ledger_seal "
        "FOR EACH ROW EXECUTE FUNCTION refuse_change()"
    )


def downgrade() -> None:
    raise RuntimeError("Restore the back-up that was made before.")
