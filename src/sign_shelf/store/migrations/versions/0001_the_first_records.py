"""The first records, the rows that never change, and the queue's own tables."""

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


NEVER_CHANGED = """
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'rows of % are never changed or removed', TG_TABLE_NAME USING ERRCODE = 'integrity_constraint_violation';
END $$
"""


def upgrade() -> None:
    op.create_table(
        "failed_sign_in",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("email", sa.String(), nullable=False),
        sa.Column("address", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_failed_sign_in")),
    )
    op.create_index(op.f("ix_failed_sign_in_address"), "failed_sign_in", ["address"], unique=False)
    op.create_index(op.f("ix_failed_sign_in_email"), "failed_sign_in", ["email"], unique=False)
    op.create_table(
        "person",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("email", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("password_hash", sa.String(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_person")),
        sa.UniqueConstraint("email", name=op.f("uq_person_email")),
    )
    op.create_table(
        "template",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("document", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.PrimaryKeyConstraint("key", "version", name=op.f("pk_template")),
    )
    op.create_table(
        "tree",
        sa.Column("hash", sa.String(), nullable=False),
        sa.Column("document", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("items", sa.Integer(), nullable=False),
        sa.Column("depth", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("hash", name=op.f("pk_tree")),
    )
    op.create_table(
        "request",
        sa.Column("person_id", sa.Uuid(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("asked", sa.String(), nullable=False),
        sa.Column("answer", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_request_person_id")),
        sa.PrimaryKeyConstraint("person_id", "key", name=op.f("pk_request")),
    )
    op.create_table(
        "signed_in",
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("person_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_signed_in_person_id")),
        sa.PrimaryKeyConstraint("token_hash", name=op.f("pk_signed_in")),
    )
    op.create_index(op.f("ix_signed_in_person_id"), "signed_in", ["person_id"], unique=False)
    op.create_table(
        "site",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("base", sa.String(), nullable=False),
        sa.Column("particulars", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("facts", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("audiences", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("template_key", sa.String(), nullable=False),
        sa.Column("template_version", sa.Integer(), nullable=False),
        sa.Column("connection", sa.String(), nullable=False),
        sa.Column("endpoint", sa.String(), nullable=True),
        sa.Column("secret", sa.String(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["template_key", "template_version"], ["template.key", "template.version"], name="fk_site_template"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_site")),
        sa.UniqueConstraint("base", name=op.f("uq_site_base")),
        sa.UniqueConstraint("key", name=op.f("uq_site_key")),
    )
    op.create_table(
        "change",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("site_id", sa.Uuid(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("author_id", sa.Uuid(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("live_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["author_id"], ["person.id"], name=op.f("fk_change_author_id")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_change_site_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_change")),
    )
    op.create_index(op.f("ix_change_site_id"), "change", ["site_id"], unique=False)
    op.create_index("uq_change_open_draft", "change", ["site_id"], unique=True, postgresql_where="state = 'draft'")
    op.create_table(
        "ledger",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("person_id", sa.Uuid(), nullable=True),
        sa.Column("site_id", sa.Uuid(), nullable=True),
        sa.Column("action", sa.String(), nullable=False),
        sa.Column("says", sa.Text(), nullable=False),
        sa.Column("detail", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_ledger_person_id")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_ledger_site_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_ledger")),
    )
    op.create_index(op.f("ix_ledger_at"), "ledger", ["at"], unique=False)
    op.create_index(op.f("ix_ledger_site_id"), "ledger", ["site_id"], unique=False)
    op.create_table(
        "live_slot",
        sa.Column("site_id", sa.Uuid(), nullable=False),
        sa.Column("location", sa.String(), nullable=False),
        sa.Column("device", sa.String(), nullable=False),
        sa.Column("hash", sa.String(), nullable=False),
        sa.Column("etag", sa.String(), nullable=False),
        sa.Column("seen_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_live_slot_site_id")),
        sa.PrimaryKeyConstraint("site_id", "location", "device", name=op.f("pk_live_slot")),
    )
    op.create_table(
        "menu",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("site_id", sa.Uuid(), nullable=True),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("head_revision_id", sa.BigInteger(), nullable=True),
        sa.Column("live_revision_id", sa.BigInteger(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_menu_site_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_menu")),
        sa.UniqueConstraint("site_id", "key", name="uq_menu_key"),
    )
    op.create_index(op.f("ix_menu_site_id"), "menu", ["site_id"], unique=False)
    op.create_table(
        "page",
        sa.Column("site_id", sa.Uuid(), nullable=False),
        sa.Column("ref", sa.String(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("path", sa.String(), nullable=False),
        sa.Column("title", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("type", sa.String(), nullable=False),
        sa.Column("language", sa.String(), nullable=True),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("under", sa.String(), nullable=True),
        sa.Column("date", sa.String(), nullable=True),
        sa.Column("parts", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("overlays", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_page_site_id")),
        sa.PrimaryKeyConstraint("site_id", "ref", name=op.f("pk_page")),
        sa.UniqueConstraint("site_id", "path", name="uq_page_path"),
    )
    op.create_table(
        "take_in",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("url", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("progress", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("proposal", postgresql.JSONB(astext_type=sa.Text()), nullable=True),
        sa.Column("says", sa.String(), nullable=False),
        sa.Column("asked_by", sa.Uuid(), nullable=True),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("site_id", sa.Uuid(), nullable=True),
        sa.ForeignKeyConstraint(["asked_by"], ["person.id"], name=op.f("fk_take_in_asked_by")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_take_in_site_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_take_in")),
    )
    op.create_table(
        "placement",
        sa.Column("site_id", sa.Uuid(), nullable=False),
        sa.Column("location", sa.String(), nullable=False),
        sa.Column("device", sa.String(), nullable=False),
        sa.Column("menu_id", sa.Uuid(), nullable=True),
        sa.ForeignKeyConstraint(["menu_id"], ["menu.id"], name=op.f("fk_placement_menu_id")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_placement_site_id")),
        sa.PrimaryKeyConstraint("site_id", "location", "device", name=op.f("pk_placement")),
    )
    op.create_table(
        "release",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("change_id", sa.Uuid(), nullable=False),
        sa.Column("site_id", sa.Uuid(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("says", sa.String(), nullable=False),
        sa.Column("asked_by", sa.Uuid(), nullable=True),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("finished_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["asked_by"], ["person.id"], name=op.f("fk_release_asked_by")),
        sa.ForeignKeyConstraint(["change_id"], ["change.id"], name=op.f("fk_release_change_id")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_release_site_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_release")),
    )
    op.create_index(op.f("ix_release_change_id"), "release", ["change_id"], unique=False)
    op.create_index(op.f("ix_release_site_id"), "release", ["site_id"], unique=False)
    op.create_table(
        "revision",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("menu_id", sa.Uuid(), nullable=False),
        sa.Column("hash", sa.String(), nullable=False),
        sa.Column("parent_id", sa.BigInteger(), nullable=True),
        sa.Column("change_id", sa.Uuid(), nullable=True),
        sa.Column("author_id", sa.Uuid(), nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["author_id"], ["person.id"], name=op.f("fk_revision_author_id")),
        sa.ForeignKeyConstraint(["change_id"], ["change.id"], name=op.f("fk_revision_change_id")),
        sa.ForeignKeyConstraint(["hash"], ["tree.hash"], name=op.f("fk_revision_hash")),
        sa.ForeignKeyConstraint(["menu_id"], ["menu.id"], name=op.f("fk_revision_menu_id")),
        sa.ForeignKeyConstraint(["parent_id"], ["revision.id"], name=op.f("fk_revision_parent_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_revision")),
    )
    op.create_index(op.f("ix_revision_menu_id"), "revision", ["menu_id"], unique=False)
    op.create_table(
        "change_menu",
        sa.Column("change_id", sa.Uuid(), nullable=False),
        sa.Column("menu_id", sa.Uuid(), nullable=False),
        sa.Column("base_revision_id", sa.BigInteger(), nullable=True),
        sa.Column("head_revision_id", sa.BigInteger(), nullable=False),
        sa.ForeignKeyConstraint(["base_revision_id"], ["revision.id"], name=op.f("fk_change_menu_base_revision_id")),
        sa.ForeignKeyConstraint(["change_id"], ["change.id"], name=op.f("fk_change_menu_change_id")),
        sa.ForeignKeyConstraint(["head_revision_id"], ["revision.id"], name=op.f("fk_change_menu_head_revision_id")),
        sa.ForeignKeyConstraint(["menu_id"], ["menu.id"], name=op.f("fk_change_menu_menu_id")),
        sa.PrimaryKeyConstraint("change_id", "menu_id", name=op.f("pk_change_menu")),
    )
    op.create_table(
        "release_step",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("release_id", sa.Uuid(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("location", sa.String(), nullable=False),
        sa.Column("device", sa.String(), nullable=False),
        sa.Column("menu_id", sa.Uuid(), nullable=False),
        sa.Column("revision_id", sa.BigInteger(), nullable=False),
        sa.Column("placed", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("hash", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("etag_before", sa.String(), nullable=True),
        sa.Column("etag_after", sa.String(), nullable=True),
        sa.Column("sends", sa.Integer(), nullable=False),
        sa.Column("says", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["menu_id"], ["menu.id"], name=op.f("fk_release_step_menu_id")),
        sa.ForeignKeyConstraint(["release_id"], ["release.id"], name=op.f("fk_release_step_release_id")),
        sa.ForeignKeyConstraint(["revision_id"], ["revision.id"], name=op.f("fk_release_step_revision_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_release_step")),
    )
    op.create_index(op.f("ix_release_step_release_id"), "release_step", ["release_id"], unique=False)
    op.execute(NEVER_CHANGED)
    for table in ("tree", "revision", "ledger"):
        op.execute(
            f"CREATE TRIGGER {table}_never_changed BEFORE UPDATE OR DELETE ON {table} "
            "FOR EACH ROW EXECUTE FUNCTION refuse_change()"
        )
    # The driver's own connection: the schema holds many statements and percent signs.
    op.get_bind().connection.driver_connection.execute(SchemaManager.get_schema())


def downgrade() -> None:
    raise RuntimeError("the first schema has nothing to go back to; restore a backup instead")
