"""The records: schema as the tables say, jobs only with their write, drafts single, searches literal."""

import asyncio
import re
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import create_engine, inspect, text

from sign_shelf.core.errors import Clash
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.site import Page
from sign_shelf.core.template import USUAL_WIDTHS, Template
from sign_shelf.demo.cluster import Cluster
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.permission import Person
from sign_shelf.store import changes, ledger, menus, people, queue, requests, sites
from sign_shelf.store.database import Database, Session, driver_address
from sign_shelf.store.migrate import alembic_config, migrate
from sign_shelf.store.tables import AttemptRow, SessionRow, SiteRow, Table
from tests.conftest import make_database

NOW = datetime(2026, 11, 24, 12, 0, tzinfo=UTC)


async def a_site(session: Session, key: str = "ferry") -> SiteRow:
    await sites.keep_template(session, Template(key="quay", devices=USUAL_WIDTHS, locations=()))
    row = SiteRow(
        key=key,
        name=key.title(),
        base=f"https://{key}.example/",
        particulars={"key": key, "name": key, "base": f"https://{key}.example/"},
        facts={},
        audiences={},
        template_key="quay",
        template_version=1,
        connection="observe",
        created_at=NOW,
    )
    session.add(row)
    await session.flush()
    return row


async def scalar(session: Session, statement: str, **values: Any) -> Any:
    return (await (await session.connection()).execute(text(statement), values)).scalar_one()


def test_the_migrations_make_what_the_tables_say(address: str) -> None:
    """Nothing to migrate after migrating, and migrating again changes nothing."""
    migrate(address)
    engine = create_engine(driver_address(address))
    with engine.connect() as connection:
        context = MigrationContext.configure(
            connection,
            opts={"include_name": lambda name, kind, _: not (name or "").startswith(("procrastinate", "alembic"))},
        )
        assert compare_metadata(context, Table.metadata) == []
    engine.dispose()


def test_sites_keep_what_they_have_through_every_migration(cluster: Cluster) -> None:
    """Back to the first schema and forth again: what the older one knew is as it was, what is new has its beginning."""
    address = make_database(cluster, "migrating")
    engine = create_engine(driver_address(address))
    site = "id, key, name, base, particulars, facts, audiences, template_key, template_version, connection, created_at"
    with engine.begin() as connection:
        connection.execute(text("INSERT INTO template (key, version, document) VALUES ('quay', 1, '{}')"))
        connection.execute(
            text(
                f"INSERT INTO site ({site}, looks, delivery_key, rules, fact_sets, facts_key) VALUES (gen_random_uuid(), 'ferry', 'Ferry', 'https://ferry.example/',"
                """ '{"zone": "Europe/London"}', '{"roles": {"type": "flag"}}', '{"crew": {"roles": true}}', 'quay', 1,"""
                """ 'observe', now(), '{}', 'd', '{"staff": "roles"}', '["all"]', 'of old')"""
            )
        )
    command.downgrade(alembic_config(address), "0001")
    with engine.begin() as connection:
        older = connection.execute(text(f"SELECT {site} FROM site")).one()
        assert "fact_set" not in inspect(connection).get_table_names()
    migrate(address)
    with engine.begin() as connection:
        assert connection.execute(text(f"SELECT {site} FROM site")).one() == older
        assert older.facts == {"roles": {"type": "flag"}}
        rules, sets, key = connection.execute(text("SELECT rules, fact_sets, facts_key FROM site")).one()
        assert (rules, sets) == ({}, [])
        assert re.fullmatch("[0-9a-f]{64}", key), "a key that nobody knew before"
    engine.dispose()


async def test_a_job_is_deferred_with_its_write_or_not_at_all(database: Database) -> None:
    async def defer(then: Exception | None) -> None:
        async with database.transaction() as session:
            await a_site(session, "with-job" if then is None else "without")
            await queue.defer(session, "some_task", lock="site:1", number="7")
            if then:
                raise then

    with pytest.raises(ZeroDivisionError):
        await defer(ZeroDivisionError())
    await defer(None)
    async with database.transaction() as session:
        assert await scalar(session, "SELECT count(*) FROM site") == 1
        jobs = (await (await session.connection()).execute(
            text("SELECT task_name, lock, args, status::text FROM procrastinate_jobs"))).all()  # fmt: skip
    assert [tuple(job) for job in jobs] == [("some_task", "site:1", {"number": "7"}, "todo")]


async def test_two_drafts_begun_at_once_are_one(database: Database, ines: Person, tom: Person) -> None:
    async with database.transaction() as session:
        site = await a_site(session)

    async def begin(person: Person) -> str:
        async with database.transaction() as session:
            return str((await changes.open_draft(session, site.id, person.id, "Draft", NOW)).id)

    assert len(set(await asyncio.gather(*(begin(person) for person in (ines, tom) for _ in range(4))))) == 1
    async with database.transaction() as session:
        draft = await changes.draft_of_site(session, site.id)
        assert draft is not None
        draft.state = "live"
        session.add(draft)
    assert await begin(ines) not in {str(draft.id)}
    async with database.transaction() as session:
        assert await scalar(session, "SELECT count(*) FROM change WHERE state = 'draft'") == 1


async def test_equal_trees_are_kept_once_and_revisions_tell_their_parent(
    database: Database, brackwater: StandIn
) -> None:
    async with database.transaction() as session:
        site = await sites.site_by_key(session, "brackwater")
        assert site is not None
        menu = await menus.menu_by_key(session, site.id, "legal", lock=True)
        assert menu is not None
        before = menu.head_revision_id
        one, two = parse_outline("A -> /a"), parse_outline("B -> /b")
        first = await menus.add_revision(session, menu, one, author_id=None, change_id=None, at=NOW)
        await menus.add_revision(session, menu, two, author_id=None, change_id=None, at=NOW)
        third = await menus.add_revision(session, menu, one, author_id=None, change_id=None, at=NOW)
        assert (first.parent_id, first.hash) == (before, third.hash)
        assert await scalar(session, "SELECT count(*) FROM tree WHERE hash = :hash", hash=first.hash) == 1
        since = await menus.revisions_since(session, menu.id, first.hash)
        assert since == [], "the newest revision with the hash counts"
        assert await menus.revisions_since(session, menu.id, "sha256:never") is None
        assert await menus.document(session, first.hash) == one


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

    async def ask(person: Person, key: str, asked: dict[str, Any]) -> dict[str, Any]:
        async def act() -> dict[str, Any]:
            made.append(person.name)
            await asyncio.sleep(0.05)
            return {"id": str(uuid4())}

        async with database.transaction() as session:
            return await requests.once(session, person.id, key, asked, act, at=NOW)

    answers = await asyncio.gather(*(ask(ines, "k", {"a": 1}) for _ in range(5)))
    assert (len({answer["id"] for answer in answers}), made) == (1, ["Ines Calder"])
    assert (await ask(tom, "k", {"a": 1}))["id"] != answers[0]["id"], "keys are each person's own"
    with pytest.raises(Clash, match="another request"):
        await ask(ines, "k", {"a": 2})


async def test_a_create_that_fails_can_be_asked_for_again(database: Database, ines: Person) -> None:
    async def fails() -> dict[str, Any]:
        raise ZeroDivisionError

    async def works() -> dict[str, Any]:
        return {"fine": True}

    with pytest.raises(ZeroDivisionError):
        async with database.transaction() as session:
            await requests.once(session, ines.id, "k", {}, fails, at=NOW)
    async with database.transaction() as session:
        assert await requests.once(session, ines.id, "k", {}, works, at=NOW) == {"fine": True}


async def test_sessions_end_and_failures_are_forgotten(database: Database, ines: Person) -> None:
    async with database.transaction() as session:
        session.add(SessionRow(token_hash="t", person_id=ines.id, created_at=NOW, expires_at=NOW + timedelta(days=1)))
        for minutes in (1, 10, 3_000):
            session.add(AttemptRow(email=ines.email, address="192.0.2.1", at=NOW - timedelta(minutes=minutes)))
        session.add(AttemptRow(email="other@x.example", address="192.0.2.1", at=NOW))
    async with database.transaction() as session:
        assert (await people.person_of_token(session, "t", NOW)) is not None
        assert await people.person_of_token(session, "t", NOW + timedelta(days=2)) is None
        since = NOW - timedelta(minutes=15)
        assert await people.failures_since(session, ines.email, "192.0.2.1", since) == (2, 3)
        await people.forget_failures(session, ines.email, NOW)
        assert await people.failures_since(session, ines.email, "192.0.2.1", NOW - timedelta(days=9)) == (0, 1)


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
