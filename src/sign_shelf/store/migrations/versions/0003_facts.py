"""Named rules, sets of facts that sites share, and the key that facts of visitors are signed with."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "fact_set",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("document", postgresql.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_fact_set")),
    )
    op.add_column("site", sa.Column("rules", postgresql.JSON(), nullable=False, server_default="{}"))
    op.add_column("site", sa.Column("fact_sets", postgresql.JSONB(), nullable=False, server_default="[]"))
    op.add_column("site", sa.Column("facts_key", sa.String(), nullable=True))
    op.execute("UPDATE site SET facts_key = replace(gen_random_uuid()::text || gen_random_uuid()::text, '-', '')")
    for column in ("rules", "fact_sets"):
        op.alter_column("site", column, server_default=None)
    for column in ("facts", "audiences"):
        op.alter_column("site", column, type_=postgresql.JSON(), postgresql_using=f"{column}::json")
    op.alter_column("site", "facts_key", nullable=False)


def downgrade() -> None:
    for column in ("facts", "audiences"):
        op.alter_column("site", column, type_=postgresql.JSONB(), postgresql_using=f"{column}::jsonb")
    for column in ("rules", "fact_sets", "facts_key"):
        op.drop_column("site", column)
    op.drop_table("fact_set")
