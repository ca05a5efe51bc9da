"""The records: schema as the tables say, jobs only with their write, drafts single, searches literal."""

import asyncio
import json
import re
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from uuid import UUID, uuid4

import psycopg
import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from procrastinate.schema import SchemaManager
from sqlalchemy import create_engine, text

from sign_shelf.core.changes.arrangement import Arrangement, TemplateVersion
from sign_shelf.core.drawing.summary import summary_of
from sign_shelf.core.errors import Clash, Refusal
from sign_shelf.core.model.documents import content_hash, read_menu
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.template import USUAL_WIDTHS, Template
from sign_shelf.core.outline import parse_outline
from sign_shelf.demo.cluster import Cluster
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import board
from sign_shelf.desk.workplace import to_edit
from sign_shelf.store import changes, ledger, menus, people, queue, requests, seals, sites, states
from sign_shelf.store.database import Database, Session, driver_address
from sign_shelf.store.migrate import ahead, alembic_config, migrate
from sign_shelf.store.recent import Recent
from sign_shelf.store.requests import RequestKey
from sign_shelf.store.tables import RevisionRow, SessionRow, SiteRow, Table, TryRow
from tests.constants import SEALS
from tests.databases import bare_database

NOW = datetime(2026, 11, 24, 12, 0, tzinfo=UTC)


async def a_site(session: Session, key: str = "ferry") -> SiteRow:
    await sites.keep_template(session, Template(key="quay", devices=USUAL_WIDTHS, locations=()))
    row = SiteRow(
        key=key,
        name=key.title(),
        base=f"https://{key}.example/",
        particulars={"key": key, "name": key, "base": f"https://{key}.example/"},
        connection="observe",
        live_state=await states.keep_state(session, Arrangement(template=TemplateVersion(key="quay", version=1)), {}),
        live_since=NOW,
        created_at=NOW,
    )
    session.add(row)
    await session.flush()
    return row


async def scalar(session: Session, statement: str, **values: Any) -> Any:
    return (await (await session.connection()).execute(text(statement), values)).scalar_one()


def test_the_migrations_make_what_the_tables_say(address: str) -> None:
    """Nothing to migrate after migrating, and migrating again changes nothing."""
    migrate(address, SEALS)
    engine = create_engine(driver_address(address))
    with engine.connect() as connection:
        context = MigrationContext.configure(
            connection,
            opts={"include_name": lambda name, kind, _: not (name or "").startswith(("procrastinate", "alembic"))},
        )
        assert compare_metadata(context, Table.metadata) == []
    engine.dispose()


def test_the_queues_schema_is_the_one_that_the_migrations_make() -> None:
    """Another release of the queue may come with migrations of its own: ours then run them, and this is the newest."""
    theirs = sorted(one.name for one in Path(SchemaManager.get_migrations_path()).glob("*.sql"))
    assert theirs[-1] == "03.04.00_50_post_add_retry_failed_job_procedure.sql"


OLD_TEMPLATE = {
    "key": "quay",
    "devices": {"phone": [0, 767], "desktop": [768, None]},
    "locations": [{"key": place, "title": place, "shape": "bar"} for place in ("header", "legal")],
}
OLD_MENU = {"format": "sign-shelf/menu", "version": 1, "name": "Header", "items": []}
OLD_SITE = """
INSERT INTO person (id, email, name, password_hash, role, created_at)
  VALUES ('00000000-0000-0000-0000-000000000001', 'i@x.example', 'Ines', '', 'lead', now());
INSERT INTO tree (hash, document, items, depth) VALUES (:live, :live_menu, 0, 0), (:head, :head_menu, 3, 2);
INSERT INTO menu (id, site_id, key, created_at) SELECT '00000000-0000-0000-0000-000000000002', id, 'main', now() FROM site;
INSERT INTO change (id, site_id, title, state, author_id, created_at)
  SELECT '00000000-0000-0000-0000-000000000003', id, 'Summer', 'draft', '00000000-0000-0000-0000-000000000001', now()
  FROM site;
INSERT INTO revision (menu_id, hash, at) VALUES ('00000000-0000-0000-0000-000000000002', :live, now());
INSERT INTO revision (menu_id, hash, parent_id, change_id, author_id, at)
  VALUES ('00000000-0000-0000-0000-000000000002', :head, 1, '00000000-0000-0000-0000-000000000003',
          '00000000-0000-0000-0000-000000000001', now());
UPDATE menu SET head_revision_id = 2, live_revision_id = 1;
INSERT INTO placement (site_id, location, device, menu_id)
  SELECT id, place, 'desktop', '00000000-0000-0000-0000-000000000002' FROM site, unnest(ARRAY['header', 'legal']) place;
INSERT INTO live_site (site_id, hash, document, at) SELECT id, 'x', :live_site, '2026-01-02T00:00Z' FROM site;
INSERT INTO fact_set (key, title, document) VALUES ('crew', 'Crew', '{"facts": {"rank": {"type": "text"}}}');
UPDATE site SET looks = '{"header": {"size": 18}}', fact_sets = '["crew"]';
INSERT INTO change (id, site_id, title, state, created_at, live_at)
  SELECT '00000000-0000-0000-0000-000000000004', id, 'Spring', 'live', now(), now() FROM site;
INSERT INTO release (id, change_id, site_id, state, says, asked_at, finished_at, document, tries)
  SELECT gen_random_uuid(), '00000000-0000-0000-0000-000000000004', id, 'live', '', now(), now(), :live_site, 1 FROM site
"""


async def test_sites_keep_what_they_have_through_every_migration(cluster: Cluster) -> None:
    """From the first schema to the newest: what the older one knew is as it was, keys are sealed on the way, what was live
    is live, and the draft is a change in which everybody works who worked in it."""
    with psycopg.connect(cluster.address("postgres"), autocommit=True) as making:
        making.execute("CREATE DATABASE migrating")
    address = cluster.address("migrating")
    await asyncio.to_thread(command.upgrade, alembic_config(address, SEALS), "0001")
    engine = create_engine(driver_address(address))
    site = "id, key, name, base, particulars, facts, audiences, template_key, template_version, connection, created_at"
    with engine.begin() as connection:
        connection.execute(
            text("INSERT INTO template (key, version, document) VALUES ('quay', 1, :template)"),
            {"template": json.dumps(OLD_TEMPLATE)},
        )
        connection.execute(
            text(
                f"INSERT INTO site ({site}, secret) VALUES (gen_random_uuid(), 'ferry', 'Ferry', 'https://ferry.example/',"
                """ '{"key": "ferry", "name": "Ferry", "base": "https://ferry.example/", "zone": "Europe/London"}',"""
                """ '{"roles2": {"type": "flag"}}', '{"crew": {"roles2": true}}', 'quay', 1, 'observe', now(), 'whsec_of_old')"""
            )
        )
        connection.execute(
            text(
                "INSERT INTO procrastinate_jobs (queue_name, task_name, args) VALUES ('default', 'put_live', "
                """'{"release": "7"}'), ('default', 'take_in', '{"take_in": "8"}')"""
            )
        )
    await asyncio.to_thread(command.upgrade, alembic_config(address, SEALS), "0004")
    with engine.begin() as connection:
        connection.execute(
            text(
                "INSERT INTO take_in (id, url, state, progress, proposal, says, asked_at, tries) VALUES"
                """ (gen_random_uuid(), 'a', 'ready', '{}', '{"menus": [{"key": "main", "selector": "nav"}]}', '', now(), 1),"""
                " (gen_random_uuid(), 'b', 'reading', '{}', NULL, '', now(), 1)"
            )
        )
    fares = {"id": "b", "kind": "link", "label": {"en": "Fares"}, "target": {"url": "https://Fares.example/"}}
    soon = {"id": "c", "kind": "link", "label": {"en": "Soon"}, "target": {"pending": {"note": "in May"}}}
    head_menu = OLD_MENU | {"items": [{"id": "a", "kind": "heading", "label": {"en": "A"}, "items": [fares, soon]}]}
    names = {name: content_hash(read_menu(one)) for name, one in (("live", OLD_MENU), ("head", head_menu))}
    live_site = {"template": OLD_TEMPLATE, "placements": [{"location": "header", "device": "desktop", "menu": "main"}],
                 "menus": {"main": OLD_MENU}, "facts": {"roles2": {"type": "flag"}}}  # fmt: skip
    with engine.begin() as connection:
        told = {"live_menu": OLD_MENU, "head_menu": head_menu, "live_site": live_site}
        given = names | {name: json.dumps(one) for name, one in told.items()}
        for statement in OLD_SITE.split(";\n"):
            connection.execute(text(statement), {key: one for key, one in given.items() if f":{key}" in statement})
    assert (await asyncio.to_thread(ahead, address)).now == "0004"
    await asyncio.to_thread(migrate, address, SEALS)
    assert not (await asyncio.to_thread(ahead, address)).steps
    with engine.begin() as connection:
        keys = {
            kind: SEALS.open(sealed, seals.site_key(site, kind)).get_secret_value()
            for site, kind, sealed in connection.execute(text("SELECT site_id, kind, sealed FROM site_key"))
        }
        assert keys["signing"] == "whsec_of_old"
        assert re.fullmatch("[0-9a-f]{64}", keys["facts"]), "a key that nobody knew before"
        assert re.fullmatch("[0-9a-f]{64}", keys["delivery"])
        jobs = connection.execute(text("SELECT args FROM procrastinate_jobs ORDER BY id")).scalars().all()
        assert jobs == [{"subject": "7"}, {"subject": "8"}]
        proposals = connection.execute(text("SELECT proposal FROM take_in ORDER BY url")).scalars().all()
        assert proposals == [{"menus": [{"key": "main"}]}, None], "what waits to be confirmed can still be read"
        told = connection.execute(text("SELECT items, depth, pending, lists, bars FROM tree WHERE hash = :head"), names)
        summary = summary_of(read_menu(head_menu))
        assert tuple(told.one()) == (3, 2, 1, False, [one.to_json() for one in summary.bars]), "worked out on the way"
        lines = connection.execute(text("SELECT item, number, address, host FROM tree_item ORDER BY position"))
        assert [tuple(line) for line in lines] == [
            ("a", "1", None, None), ("b", "1.1", "https://Fares.example/", "fares.example"), ("c", "1.2", None, None)
        ]  # fmt: skip
    engine.dispose()
    with psycopg.connect(address) as raw:
        assert "whsec_of_old" not in str(raw.execute("SELECT * FROM site_key").fetchall())
    database = Database(address, SEALS)
    async with database.transaction() as session:
        row = await sites.site_by_key(session, "ferry")
        assert row is not None
        ines = Person(id=UUID(int=1), name="Ines", email="i@x.example", role="lead")
        live, draft = await board(session, ines, "ferry", "live"), await board(session, ines, "ferry")
        assert draft.change is not None
        assert (draft.change.title, draft.change.state) == ("Summer", "draft")
        assert (live.menus["main"].hash, draft.menus["main"].hash) == (names["live"], names["head"])
        assert live.arrangement.placed() == {("header", "desktop"): "main"}
        assert draft.arrangement.placed() == {("header", "desktop"): "main", ("legal", "desktop"): "main"}
        assert (live.arrangement.looks, draft.arrangement.looks) == ({}, {"header": {"size": 18}})
        assert {"roles2", "rank"} == draft.facts.facts.keys()
        assert live.facts.facts.keys() == {"roles2"}
        assert draft.facts.audiences == {"crew": {"roles2": True}}
        told_past = await menus.newest_revisions(session, row.id, "main", change_id=draft.change.id)
        assert [one.hash for one in told_past] == [names["head"], names["live"]]
        assert [hash for hash, _ in await menus.went_live(session, row.id, "main")] == [names["live"]]
    await database.close()


def test_authors_of_changes_are_filled_in_from_saves_and_from_the_activity_log(cluster: Cluster) -> None:
    """Who saved a menu, and who wrote anything else; who only asked for a review, or set a time, is no author."""
    address = bare_database(cluster, "authors")
    command.upgrade(alembic_config(address, SEALS), "0034")
    change, site = uuid4(), uuid4()
    who = {name: uuid4() for name in ("saved", "placed", "styled", "asked", "set")}
    engine = create_engine(driver_address(address))
    with engine.begin() as connection:
        connection.execute(text("SET session_replication_role = replica"))  # no site is needed
        for name, id in who.items():
            connection.execute(
                text(
                    "INSERT INTO person (id, email, name, password_hash, role, created_at) VALUES (:id, :name, :name, '', 'lead', now())"
                ),
                {"id": id, "name": name},
            )
        connection.execute(
            text("INSERT INTO change (id, title, why, state, created_at) VALUES (:id, 'T', '', 'draft', now())"),
            {"id": change},
        )
        connection.execute(
            text(
                "INSERT INTO revision (site_id, menu, hash, author_id, change_id, at) VALUES (:site, 'm', 'h', :who, :change, now())"
            ),
            {"site": site, "who": who["saved"], "change": change},
        )
        for action, name in (
            ("hang", "placed"),
            ("look", "styled"),
            ("review", "asked"),
            ("schedule", "set"),
            ("look", "styled"),
        ):
            connection.execute(
                text(
                    "INSERT INTO ledger (at, person_id, action, says, detail) VALUES (now(), :who, :action, '', CAST(:detail AS json))"
                ),
                {"who": who[name], "action": action, "detail": json.dumps({"change": str(change)})},
            )
    command.upgrade(alembic_config(address, SEALS), "0035")
    with engine.begin() as connection:
        found = connection.execute(text("SELECT change_id, person_id FROM contribution")).all()
    engine.dispose()
    assert {tuple(row) for row in found} == {(change, who[name]) for name in ("saved", "placed", "styled")}


async def test_what_one_does_alone_nobody_else_begins(database: Database) -> None:
    async with database.alone("reading 7") as mine:
        assert mine
        async with database.alone("reading 7") as theirs, database.alone("reading 8") as other:
            assert (theirs, other) == (False, True)
    async with database.alone("reading 7") as again:
        assert again


async def test_closing_waits_for_what_is_still_read_and_leaves_no_connection_open(address: str) -> None:
    database = Database(f"{address}?application_name=closing", SEALS)
    reads, let_go = asyncio.Event(), asyncio.Event()

    async def read() -> None:
        async with database.transaction():
            reads.set()
            await let_go.wait()

    reading = asyncio.create_task(read())
    await reads.wait()
    closing = asyncio.create_task(database.close())
    await asyncio.sleep(0)
    assert not closing.done()
    let_go.set()
    await asyncio.gather(reading, closing)
    assert database.engine.pool.checkedin() == 0, "nothing came back after the end"  # type: ignore[attr-defined]


async def test_a_job_is_deferred_with_its_write_or_not_at_all(database: Database) -> None:
    async def defer(then: Exception | None) -> None:
        async with database.transaction() as session:
            await a_site(session, "with-job" if then is None else "without")
            await queue.defer(session, "some_task", lock="site:1", subject="7")
            if then:
                raise then

    with pytest.raises(ZeroDivisionError):
        await defer(ZeroDivisionError())
    await defer(None)
    async with database.transaction() as session:
        assert await scalar(session, "SELECT count(*) FROM site") == 1
        jobs = (await (await session.connection()).execute(
            text("SELECT task_name, lock, args, status::text FROM procrastinate_jobs"))).all()  # fmt: skip
    assert [tuple(job) for job in jobs] == [("some_task", "site:1", {"subject": "7"}, "todo")]


async def test_a_person_who_edits_at_several_places_at_once_has_one_draft(
    database: Database, brackwater: StandIn, ines: Person, tom: Person
) -> None:
    """And everybody else has their own."""

    async def begin(person: Person) -> str:
        async with database.transaction() as session:
            site = await sites.site_by_key(session, "brackwater")
            assert site is not None
            return str((await to_edit(session, person, site, None, NOW)).change.id)

    begun = await asyncio.gather(*(begin(person) for person in (ines, tom) for _ in range(4)))
    assert (len(set(begun[:4])), len(set(begun[4:])), len(set(begun))) == (1, 1, 2)
    async with database.transaction() as session:
        draft = await changes.change_by_id(session, UUID(begun[0]))
        assert draft is not None
        draft.state = "withdrawn"
        session.add(draft)
    assert await begin(ines) not in begun


async def test_equal_trees_are_kept_once_and_revisions_tell_their_parent(
    database: Database, brackwater: StandIn
) -> None:
    async with database.transaction() as session:
        site = await sites.site_by_key(session, "brackwater")
        assert site is not None
        one, two = parse_outline("A -> /a"), parse_outline("B -> /b")
        kept = [await menus.keep_tree(session, document) for document in (one, two, one)]
        assert kept[0] == kept[2]
        assert await scalar(session, "SELECT count(*) FROM tree WHERE hash = :hash", hash=kept[0]) == 1
        parent: RevisionRow | None = None
        for hash in kept:
            parent = await menus.add_revision(
                session, site.id, "legal", hash, parent=parent.id if parent else None, author_id=None, change_id=None,
                at=NOW,
            )  # fmt: skip
        assert parent is not None
        assert await menus.revisions_between(session, parent, kept[0]) == [], "the newest revision with the hash counts"
        assert [row.hash for row in await menus.revisions_between(session, parent, kept[1]) or ()] == [kept[0]]
        assert await menus.revisions_between(session, parent, "sha256:never") is None
        assert await menus.document(session, kept[0]) == one


async def test_what_is_named_by_its_content_is_kept_once_and_never_changed(database: Database) -> None:
    async with database.transaction() as session:
        site = await a_site(session)
        arrangement = await states.arrangement(session, (await states.state(session, site.live_state)).arrangement)
        assert await states.keep_state(session, arrangement, {}) == site.live_state
    for table in ("state", "arrangement"):
        with pytest.raises(Exception, match="never changed"):
            async with database.transaction() as session:
                await (await session.connection()).execute(text(f"DELETE FROM {table}"))


async def test_large_inventories_are_kept_and_searched_literally(database: Database) -> None:
    titles = ["100% wool", "under_score", "back\\slash", "Plain", "plain sailing", 'quote "x"']
    pages = [Page(ref=f"p{n}", path=f"/pages/{n}", title={"en": f"Page {n}"}) for n in range(2_500)]
    pages += [Page(ref=f"t{n}", path=f"/t/{n}", title={"en": title}) for n, title in enumerate(titles)]
    async with database.transaction() as session:
        site = await a_site(session)
        await sites.add_pages(session, site.id, pages)
    async with database.transaction() as session:
        assert await sites.count_pages(session, site.id) == 2_506

        async def found(words: str, limit: int = 10) -> list[str]:
            return [page.ref for page in await sites.search_pages(session, site.id, words, limit)]

        assert await found("100%") == ["t0"]
        assert await found("under_s") == ["t1"]
        assert await found("zzz%") == []
        assert await found("en") == [], "the tags of languages are no words of a title"
        assert await found("PLAIN") == ["t3", "t4"]
        assert await found("sailing plain") == ["t4"]
        assert await found("/pages/2499") == ["p2499"]
        assert len(await found("", 25)) == 25
        kept = await sites.pages_of_site(session, site.id)
        assert [page.ref for page in kept] == [page.ref for page in pages]
        assert kept[2_505] == pages[2_505]


async def test_a_create_is_carried_out_once_for_a_key_and_a_person(
    database: Database, ines: Person, tom: Person
) -> None:
    made: list[str] = []

    async def ask(person: Person, key: RequestKey) -> dict[str, Any]:
        async def act() -> dict[str, Any]:
            made.append(person.name)
            await asyncio.sleep(0.05)
            return {"id": str(uuid4())}

        async with database.transaction() as session:
            return await requests.once(session, person.id, key, act, at=NOW)

    answers = await asyncio.gather(*(ask(ines, RequestKey("k", "one")) for _ in range(5)))
    assert (len({answer["id"] for answer in answers}), made) == (1, ["Ines Calder"])
    assert (await ask(tom, RequestKey("k", "one")))["id"] != answers[0]["id"], "keys are each person's own"
    with pytest.raises(Refusal, match="another request"):
        await ask(ines, RequestKey("k", "another"))


async def test_a_create_that_fails_can_be_asked_for_again(database: Database, ines: Person) -> None:
    async def fails() -> dict[str, Any]:
        raise ZeroDivisionError

    async def works() -> dict[str, Any]:
        return {"fine": True}

    with pytest.raises(ZeroDivisionError):
        async with database.transaction() as session:
            await requests.once(session, ines.id, RequestKey("k"), fails, at=NOW)
    async with database.transaction() as session:
        assert await requests.once(session, ines.id, RequestKey("k"), works, at=NOW) == {"fine": True}


async def test_sign_ins_end_in_time_and_tries_are_counted_by_subject(database: Database, ines: Person) -> None:
    async with database.transaction() as session:
        session.add(SessionRow(token_hash="t", person_id=ines.id, created_at=NOW, expires_at=NOW + timedelta(days=1)))
        for minutes in (1, 10, 3_000):
            session.add(TryRow(subject="account ines", at=NOW - timedelta(minutes=minutes)))
        session.add(TryRow(subject="address 192.0.2.1", at=NOW))
    async with database.transaction() as session:
        assert (await people.sign_in_of_token(session, "t", NOW)) is not None
        assert await people.sign_in_of_token(session, "t", NOW + timedelta(days=2)) is None
        since = NOW - timedelta(minutes=15)
        assert await people.tries_of(session, "account ines", since) == (2, NOW - timedelta(minutes=1))
        await people.forget_subjects(session, ["account ines"])
        assert await people.tries_of(session, "account ines", NOW - timedelta(days=9)) == (0, None)
        assert await people.tries_of(session, "address 192.0.2.1", since) == (1, NOW)


async def test_a_name_that_somebody_took_a_moment_earlier_is_refused_in_words(database: Database) -> None:
    async def take(key: str) -> None:
        async with database.transaction() as session:
            await a_site(session, key)

    done = await asyncio.gather(*(take("ferry") for _ in range(6)), return_exceptions=True)
    assert sum(one is None for one in done) == 1
    for refused in done:
        assert refused is None or (isinstance(refused, Clash) and "Another site has this" in refused.says)


async def test_the_ledger_is_read_newest_first_in_pages(database: Database, ines: Person) -> None:
    async with database.transaction() as session:
        site = await a_site(session)
        for number in range(5):
            ledger.write(
                session, "edit", f"Line {number}", at=NOW, person_id=ines.id, site_id=site.id if number % 2 else None
            )
    async with database.transaction() as session:
        newest = await ledger.lines(session, site_id=None, before=None, limit=2)
        assert [(row.says, name) for row, name, _ in newest] == [("Line 4", "Ines Calder"), ("Line 3", "Ines Calder")]
        older = await ledger.lines(session, site_id=None, before=newest[-1][0].id, limit=2)
        assert [row.says for row, _, _ in older] == ["Line 2", "Line 1"]
        own = await ledger.lines(session, site_id=site.id, before=None, limit=9)
        assert [(row.says, key) for row, _, key in own] == [("Line 3", "ferry"), ("Line 1", "ferry")]


async def test_what_was_seen_live_is_noted_over(database: Database) -> None:
    async with database.transaction() as session:
        site = await a_site(session)
        for etag in ('"1"', '"2"'):
            await sites.saw_live(session, site.id, "header", "desktop", hash="h", etag=etag, at=NOW)
        assert [slot.etag for slot in await sites.live_slots(session, [site.id])] == ['"2"']


def test_what_was_read_last_is_kept_by_its_weight() -> None:
    kept: Recent[str] = Recent(10, len)
    kept.keep({"a": "aaaa", "b": "bbbb"})
    assert kept.known("a") == {"a": "aaaa"}
    kept.keep({"c": "cccc"})
    assert kept.known("abc") == {"a": "aaaa", "c": "cccc"}
    kept.keep({"huge": "x" * 11})
    assert kept.known(["huge"]) == {}
