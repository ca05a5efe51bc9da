"""What is live as a whole, looks of a site's own, delivery keys, fonts of the agency's own."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

TELL = """
CREATE FUNCTION tell_live_site() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('live_site', (SELECT key FROM site WHERE id = NEW.site_id));
    RETURN NEW;
END $$
"""


def upgrade() -> None:
    op.add_column("site", sa.Column("looks", postgresql.JSONB(), nullable=False, server_default="{}"))
    op.add_column("site", sa.Column("delivery_key", sa.String(), nullable=True))
    op.execute("UPDATE site SET delivery_key = replace(gen_random_uuid()::text || gen_random_uuid()::text, '-', '')")
    op.alter_column("site", "delivery_key", nullable=False)
    op.alter_column("site", "looks", server_default=None)
    op.create_table(
        "live_site",
        sa.Column("site_id", sa.Uuid(), nullable=False),
        sa.Column("hash", sa.String(), nullable=False),
        sa.Column("document", postgresql.JSONB(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_live_site_site_id")),
        sa.PrimaryKeyConstraint("site_id", name=op.f("pk_live_site")),
    )
    op.create_table(
        "font",
        sa.Column("family", sa.String(), nullable=False),
        sa.Column("lightest", sa.Integer(), nullable=False),
        sa.Column("heaviest", sa.Integer(), nullable=False),
        sa.Column("file", sa.LargeBinary(), nullable=False),
        sa.Column("hash", sa.String(), nullable=False),
        sa.Column("person_id", sa.Uuid(), nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_font_person_id")),
        sa.PrimaryKeyConstraint("family", name=op.f("pk_font")),
    )
    op.add_column("release", sa.Column("document", postgresql.JSONB(), nullable=True))
    op.alter_column("release_step", "menu_id", nullable=True)
    op.alter_column("release_step", "revision_id", nullable=True)
    op.execute(TELL)
    op.execute(
        "CREATE TRIGGER live_site_told AFTER INSERT OR UPDATE ON live_site "
        "FOR EACH ROW EXECUTE FUNCTION tell_live_site()"
    )


def downgrade() -> None:
    op.execute("DROP TRIGGER live_site_told ON live_site")
    op.execute("DROP FUNCTION tell_live_site")
    op.drop_column("release", "document")
    op.drop_table("font")
    op.drop_table("live_site")
    op.drop_column("site", "delivery_key")
    op.drop_column("site", "looks")
