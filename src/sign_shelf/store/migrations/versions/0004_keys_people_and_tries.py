"""Keys of sites sealed and replaceable; sign-ins that can be listed and ended; work that is tried a number of times."""

import sqlalchemy as sa
from alembic import op
from pydantic import SecretStr

from sign_shelf.store.seals import site_key

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

TELL = """
CREATE FUNCTION tell_site_key() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('live_site', (SELECT key FROM site WHERE id = NEW.site_id));
    RETURN NEW;
END $$
"""


def upgrade() -> None:
    at = sa.DateTime(timezone=True)
    op.create_table(
        "site_key",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("site_id", sa.Uuid(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("sealed", sa.String(), nullable=False),
        sa.Column("made_at", at, nullable=False),
        sa.Column("until", at, nullable=True),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_site_key_site_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_site_key")),
    )
    op.create_index(op.f("ix_site_key_site_id"), "site_key", ["site_id"])
    _seal_what_is_there()
    op.execute(TELL)
    op.execute(
        "CREATE TRIGGER site_key_told AFTER INSERT OR UPDATE ON site_key FOR EACH ROW EXECUTE FUNCTION tell_site_key()"
    )
    for column in ("secret", "delivery_key", "facts_key"):
        op.drop_column("site", column)

    op.add_column("person", sa.Column("disabled_at", at, nullable=True))
    op.add_column("signed_in", sa.Column("id", sa.Uuid(), nullable=False, server_default=sa.text("gen_random_uuid()")))
    op.alter_column("signed_in", "id", server_default=None)
    op.create_unique_constraint(op.f("uq_signed_in_id"), "signed_in", ["id"])
    for column in ("name", "browser", "address"):
        op.add_column("signed_in", sa.Column(column, sa.String(), nullable=False, server_default=""))
        op.alter_column("signed_in", column, server_default=None)
    op.add_column("signed_in", sa.Column("seen_at", at, nullable=True))

    op.create_table(
        "known_browser",
        sa.Column("mark_hash", sa.String(), nullable=False),
        sa.Column("person_id", sa.Uuid(), nullable=False),
        sa.Column("at", at, nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_known_browser_person_id")),
        sa.PrimaryKeyConstraint("mark_hash", name=op.f("pk_known_browser")),
    )
    op.create_index(op.f("ix_known_browser_person_id"), "known_browser", ["person_id"])
    op.drop_table("failed_sign_in")
    op.create_table(
        "sign_in_try",
        sa.Column("id", sa.BigInteger(), autoincrement=True, nullable=False),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("at", at, nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sign_in_try")),
    )
    op.create_index(op.f("ix_sign_in_try_subject_at"), "sign_in_try", ["subject", "at"])

    for table in ("take_in", "release"):
        op.add_column(table, sa.Column("tries", sa.Integer(), nullable=False, server_default="0"))
        op.alter_column(table, "tries", server_default=None)
    op.execute(
        "UPDATE procrastinate_jobs SET args = jsonb_build_object('subject', coalesce(args ->> 'release', args ->> 'take_in'))"
        " WHERE args ? 'release' OR args ? 'take_in'"
    )


def _seal_what_is_there() -> None:
    connection = op.get_bind()
    rows = connection.execute(sa.text("SELECT id, secret, delivery_key, facts_key, created_at FROM site")).all()
    if not rows:
        return
    seals = op.get_context().config.attributes["seals"]
    for row in rows:
        for kind, secret in (("signing", row.secret), ("delivery", row.delivery_key), ("facts", row.facts_key)):
            if secret:
                values = {
                    "site": row.id,
                    "kind": kind,
                    "sealed": seals.seal(SecretStr(secret), site_key(row.id, kind)),
                    "at": row.created_at,
                }
                connection.execute(
                    sa.text(
                        "INSERT INTO site_key (site_id, kind, sealed, made_at) VALUES (:site, :kind, :sealed, :at)"
                    ),
                    values,
                )


def downgrade() -> None:
    raise RuntimeError("Sealed keys are not written out again: restore the back-up that was made before.")
