"""What a site shows becomes an immutable state named by its content, and a change a branch of states.

Carries over what is there: each site as it went live last, its draft as a change, its releases and its menus' saves.
"""

import json
from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any
from uuid import UUID, uuid4

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

from sign_shelf.core.changes.arrangement import Arrangement, arrangement_name
from sign_shelf.core.changes.state import State, state_name
from sign_shelf.core.compare.sites import own_look
from sign_shelf.core.model.documents import content_hash, read, read_menu
from sign_shelf.core.model.facts import FactSet
from sign_shelf.core.model.template import Template
from sign_shelf.core.model.tree import count, depth_of

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

AT = sa.DateTime(timezone=True)

TELL = """
CREATE FUNCTION tell_what_is_given() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    PERFORM pg_notify('live_site', NEW.key);
    RETURN NEW;
END $$
"""


def upgrade() -> None:
    _tables()
    op.execute("ALTER TABLE revision DISABLE TRIGGER USER")
    _Carrying(op.get_bind()).all()
    op.execute("ALTER TABLE revision ENABLE TRIGGER USER")
    _tighten()


def _tables() -> None:
    op.create_table(
        "arrangement",
        sa.Column("hash", sa.String(), nullable=False),
        sa.Column("document", postgresql.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("hash", name=op.f("pk_arrangement")),
    )
    op.create_table(
        "state",
        sa.Column("hash", sa.String(), nullable=False),
        sa.Column("arrangement", sa.String(), nullable=False),
        sa.Column("menus", postgresql.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["arrangement"], ["arrangement.hash"], name=op.f("fk_state_arrangement")),
        sa.PrimaryKeyConstraint("hash", name=op.f("pk_state")),
    )
    op.add_column("fact_set", sa.Column("version", sa.Integer(), nullable=False, server_default="1"))
    op.alter_column("fact_set", "version", server_default=None)
    op.drop_constraint(op.f("pk_fact_set"), "fact_set")
    op.create_primary_key(op.f("pk_fact_set"), "fact_set", ["key", "version"])
    op.create_table(
        "membership",
        sa.Column("person_id", sa.Uuid(), nullable=False),
        sa.Column("site_id", sa.Uuid(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_membership_person_id")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_membership_site_id")),
        sa.PrimaryKeyConstraint("person_id", "site_id", name=op.f("pk_membership")),
    )
    op.create_index(op.f("ix_membership_site_id"), "membership", ["site_id"])
    for name in ("live_state", "trying_state"):
        op.add_column("site", sa.Column(name, sa.String(), nullable=True))
    op.add_column("site", sa.Column("live_since", AT, nullable=True))
    op.add_column("change", sa.Column("why", sa.String(), nullable=False, server_default=""))
    op.alter_column("change", "why", server_default=None)
    op.create_table(
        "change_part",
        sa.Column("change_id", sa.Uuid(), nullable=False),
        sa.Column("site_id", sa.Uuid(), nullable=False),
        sa.Column("base", sa.String(), nullable=False),
        sa.Column("head", sa.String(), nullable=False),
        sa.Column("live_at", AT, nullable=True),
        sa.ForeignKeyConstraint(["change_id"], ["change.id"], name=op.f("fk_change_part_change_id")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_change_part_site_id")),
        sa.ForeignKeyConstraint(["base"], ["state.hash"], name=op.f("fk_change_part_base")),
        sa.ForeignKeyConstraint(["head"], ["state.hash"], name=op.f("fk_change_part_head")),
        sa.PrimaryKeyConstraint("change_id", "site_id", name=op.f("pk_change_part")),
    )
    op.create_index(op.f("ix_change_part_site_id"), "change_part", ["site_id"])
    op.create_table(
        "work",
        sa.Column("person_id", sa.Uuid(), nullable=False),
        sa.Column("site_id", sa.Uuid(), nullable=False),
        sa.Column("change_id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_work_person_id")),
        sa.ForeignKeyConstraint(["site_id"], ["site.id"], name=op.f("fk_work_site_id")),
        sa.ForeignKeyConstraint(["change_id"], ["change.id"], name=op.f("fk_work_change_id")),
        sa.PrimaryKeyConstraint("person_id", "site_id", name=op.f("pk_work")),
    )
    op.create_index(op.f("ix_work_change_id"), "work", ["change_id"])
    op.add_column("revision", sa.Column("site_id", sa.Uuid(), nullable=True))
    op.add_column("revision", sa.Column("menu", sa.String(), nullable=True))
    for name in ("before", "target"):
        op.add_column("release", sa.Column(name, sa.String(), nullable=True))
    op.add_column("release_step", sa.Column("menu", sa.String(), nullable=True))
    op.add_column("release_step", sa.Column("placed_before", postgresql.JSONB(), nullable=True))


def _tighten() -> None:
    """Nothing of the old records is read any more: they go, and what took their place must be there."""
    op.drop_index("uq_change_open_draft", "change")
    op.drop_index(op.f("ix_change_site_id"), "change")
    op.drop_column("change", "site_id")
    op.drop_table("change_menu")
    for name in ("menu_id", "revision_id"):
        op.drop_column("release_step", name)
    op.drop_column("release", "document")
    op.drop_index(op.f("ix_revision_menu_id"), "revision")
    op.drop_column("revision", "menu_id")
    op.drop_table("placement")
    op.drop_table("menu")
    op.drop_table("live_site")
    op.execute("DROP FUNCTION tell_live_site")
    op.drop_constraint("fk_site_template", "site", type_="foreignkey")
    for name in ("facts", "audiences", "rules", "fact_sets", "looks", "template_key", "template_version"):
        op.drop_column("site", name)
    for table, names in (("site", ("live_state", "live_since")), ("revision", ("site_id", "menu")),
                         ("release", ("before", "target"))):  # fmt: skip
        for name in names:
            op.alter_column(table, name, nullable=False)
    for table, name in (("site", "live_state"), ("site", "trying_state"), ("release", "before"), ("release", "target")):
        op.create_foreign_key(op.f(f"fk_{table}_{name}"), table, "state", [name], ["hash"])
    op.create_foreign_key(op.f("fk_revision_site_id"), "revision", "site", ["site_id"], ["id"])
    op.create_index("ix_revision_site_id_menu_hash", "revision", ["site_id", "menu", "hash"])
    op.create_index(op.f("ix_revision_change_id"), "revision", ["change_id"])
    for table in ("arrangement", "state", "fact_set"):
        op.execute(
            f"CREATE TRIGGER {table}_never_changed BEFORE UPDATE OR DELETE ON {table} "
            "FOR EACH ROW EXECUTE FUNCTION refuse_change()"
        )
    op.execute(TELL)
    op.execute(
        "CREATE TRIGGER site_told AFTER INSERT OR UPDATE OF live_state, trying_state ON site "
        "FOR EACH ROW EXECUTE FUNCTION tell_what_is_given()"
    )


class _Carrying:
    def __init__(self, connection: sa.Connection) -> None:
        self.connection = connection
        self.templates: dict[tuple[str, int], Template] = {}
        self.sets: dict[str, FactSet] = {}
        self.people: list[UUID] = []
        self.now = datetime.now(UTC)

    def rows(self, query: str, **values: Any) -> list[sa.Row[Any]]:
        return list(self.connection.execute(sa.text(query), values))

    def insert(self, table: str, *, more: str = "", **values: Any) -> None:
        written = {"document", "menus"}
        columns, marks = ", ".join(values), ", ".join(
            f"CAST(:{name} AS json)" if name in written and table != "tree" else f"CAST(:{name} AS jsonb)" if name in written else f":{name}"
            for name in values
        )  # fmt: skip
        plain = {name: json.dumps(value) if name in written else value for name, value in values.items()}
        self.connection.execute(sa.text(f"INSERT INTO {table} ({columns}) VALUES ({marks}) {more}"), plain)  # noqa: S608 -- names of ours

    def all(self) -> None:
        for row in self.rows("SELECT key, version, document FROM template"):
            self.templates[row.key, row.version] = read(Template, row.document)
        self.sets = {row.key: read(FactSet, row.document) for row in self.rows("SELECT key, document FROM fact_set")}
        self.people = [row.id for row in self.rows("SELECT id FROM person WHERE role <> 'viewer'")]
        self.connection.execute(
            sa.text(
                "UPDATE revision SET site_id = menu.site_id, menu = menu.key FROM menu WHERE menu.id = revision.menu_id"
            )
        )
        self.connection.execute(
            sa.text("UPDATE release_step SET menu = menu.key FROM menu WHERE menu.id = release_step.menu_id")
        )
        for site in self.rows("SELECT * FROM site"):
            self.site(site)
        self.connection.execute(sa.text("UPDATE change SET state = 'going live' WHERE state = 'scheduled'"))

    def site(self, site: sa.Row[Any]) -> None:
        menus = self.rows(
            "SELECT menu.id, menu.key, head.hash AS head, live.hash AS live FROM menu"
            " LEFT JOIN revision head ON head.id = menu.head_revision_id"
            " LEFT JOIN revision live ON live.id = menu.live_revision_id"
            " WHERE menu.site_id = :site ORDER BY menu.created_at, menu.key", site=site.id,
        )  # fmt: skip
        keys = {one.id: one.key for one in menus}
        placed = {
            (one.location, one.device): keys.get(one.menu_id)
            for one in self.rows("SELECT * FROM placement WHERE site_id = :site", site=site.id)
        }
        arrangement = read(
            Arrangement,
            {
                "template": {"key": site.template_key, "version": site.template_version},
                "looks": site.looks, "facts": site.facts, "audiences": site.audiences, "rules": site.rules,
                "sets": [{"key": key, "version": 1} for key in site.fact_sets],
            },
        )  # fmt: skip
        head = self.state(arrangement.hanging(placed), {one.key: one.head for one in menus if one.head})
        kept = self.rows("SELECT document, at FROM live_site WHERE site_id = :site", site=site.id)
        if kept:
            live = self.whole(kept[0].document, arrangement)
        else:
            lived = {one.key: one.live for one in menus if one.live}
            live = self.state(arrangement.hanging({slot: key for slot, key in placed.items() if key in lived}), lived)
        self.connection.execute(
            sa.text("UPDATE site SET live_state = :live, live_since = :at WHERE id = :site"),
            {"live": live, "at": kept[0].at if kept else site.created_at, "site": site.id},
        )
        self.changes(site, arrangement, live, head)

    def changes(self, site: sa.Row[Any], arrangement: Arrangement, live: str, head: str) -> None:
        targets: dict[UUID, str] = {}
        for one in self.rows(
            "SELECT id, change_id, document FROM release WHERE site_id = :site ORDER BY asked_at", site=site.id
        ):
            target = self.whole(one.document, arrangement) if one.document else live
            targets[one.change_id] = target
            self.connection.execute(
                sa.text("UPDATE release SET before = :live, target = :target WHERE id = :id"),
                {"live": live, "target": target, "id": one.id},
            )
        draft = None
        for one in self.rows("SELECT * FROM change WHERE site_id = :site", site=site.id):
            wanted = head if one.state == "draft" else targets.get(one.id, live)
            base = live if one.state in {"draft", "scheduled"} else wanted
            draft = one.id if one.state == "draft" else draft
            self.part(one.id, site.id, base, wanted, one.live_at)
        if draft is None and head != live and not any(
            self.rows("SELECT 1 FROM change WHERE site_id = :site AND state = 'scheduled'", site=site.id)
        ):  # fmt: skip
            draft = uuid4()
            self.insert("change", id=draft, site_id=site.id, title="Edits that were kept", why="", state="draft",
                        author_id=None, created_at=self.now, live_at=None)  # fmt: skip
            self.part(draft, site.id, live, head, None)
        if draft is not None:
            # Until now everybody worked in the site's one draft.
            for person in self.people:
                self.insert("work", person_id=person, site_id=site.id, change_id=draft)

    def part(self, change: UUID, site: UUID, base: str, head: str, live_at: datetime | None) -> None:
        self.insert("change_part", change_id=change, site_id=site, base=base, head=head, live_at=live_at)

    def state(self, arrangement: Arrangement, menus: Mapping[str, str]) -> str:
        name = arrangement_name(arrangement)
        self.insert("arrangement", more="ON CONFLICT DO NOTHING", hash=name, document=arrangement.to_json())
        state = State(arrangement=name, menus=dict(menus))
        self.insert("state", more="ON CONFLICT DO NOTHING", hash=state_name(state), arrangement=name, menus=dict(menus))
        return state_name(state)

    def whole(self, document: Mapping[str, Any], now: Arrangement) -> str:
        """The state of a site document that was kept whole."""
        template = read(Template, document["template"])
        known = read(FactSet, {part: document.get(part, {}) for part in ("facts", "audiences", "rules")})
        arrangement = read(
            Arrangement,
            {
                "template": {"key": template.key, "version": template.version},
                "looks": self.looks(template),
                "placements": document.get("placements", []),
            },
        )
        if self.known(now) == known:
            arrangement = arrangement.knowing(now.own()).model_copy(update={"sets": now.sets})
        else:
            arrangement = arrangement.knowing(known)
        return self.state(arrangement, {key: self.tree(menu) for key, menu in document.get("menus", {}).items()})

    def looks(self, template: Template) -> dict[str, Any]:
        plain = self.templates.get((template.key, template.version), template)
        usual = {one.key: one.look for one in plain.locations}
        looks = {one.key: own_look(usual[one.key], one.look) for one in template.locations if one.key in usual}
        return {key: look for key, look in looks.items() if look}

    def known(self, arrangement: Arrangement) -> FactSet:
        known = FactSet()
        for one in arrangement.sets:
            known = self.sets[one.key].over(known) if one.key in self.sets else known
        return arrangement.own().over(known).model_copy(update={"title": "Facts"})

    def tree(self, raw: Any) -> str:
        menu = read_menu(raw)
        name = content_hash(menu)
        self.insert("tree", more="ON CONFLICT DO NOTHING", hash=name, document=menu.to_json(), items=count(menu.items),
                    depth=depth_of(menu.items))  # fmt: skip
        return name


def downgrade() -> None:
    raise RuntimeError(
        "Several changes of one site do not go into one draft: restore the back-up that was made before."
    )
