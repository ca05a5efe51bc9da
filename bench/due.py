"""Releases that are due at one second on 300 sites: how long after it the last of them is begun."""

import asyncio
from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import psycopg

from bench.trees import Row
from bench.world import new_database, own_cluster
from sign_shelf.core.basics.clock import instant_of
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import Heading
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.desk.people import add_person
from sign_shelf.desk.review import reviewed
from sign_shelf.desk.whole_sites import put_on_shelf
from sign_shelf.store import changes, sites, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.migrate import migrate
from sign_shelf.store.tables import ScheduleRow, SiteRow, VerdictRow
from tests.constants import SEALS
from tests.running import command, environment
from tests.waiting import eventually

SITES = 300
AHEAD = timedelta(seconds=150)


def due_lines() -> Iterator[Row]:
    with own_cluster() as (cluster, _):
        for each, says in ((1, "a change each"), (SITES, "one change of all")):
            for workers in (2, 4):
                address = new_database(cluster, f"due_{each}_{workers}")
                migrate(address, SEALS)
                asyncio.run(_prepared(address, each))
                yield _begun(address, workers, says)


def _begun(address: str, workers: int, says: str) -> Row:
    with ExitStack() as together, psycopg.connect(address, autocommit=True) as looking:
        for _ in range(workers):
            together.enter_context(command("worker", environment=environment(address)))
        eventually(lambda: looking.execute("SELECT count(*) FROM ledger_seal").fetchone() != (0,), within_s=60)
        due = datetime.now(UTC) + AHEAD
        looking.execute("UPDATE change_part SET goes_at = %s", [due])
        planned = "SELECT count(*), 0, NULL FROM release_plan WHERE target IS NOT NULL"
        eventually(lambda: _many(looking, planned)[0] >= SITES, within_s=AHEAD.total_seconds())
        spare = (due - datetime.now(UTC)).total_seconds()
        begun = "SELECT count(*), count(DISTINCT (change_id, site_id)), max(asked_at) FROM release"
        eventually(lambda: _many(looking, begun)[0] >= SITES, within_s=spare + 120)
        took = (datetime.now(UTC) - due).total_seconds()
        many, different, _ = _many(looking, begun)
        assert many == different == SITES, "none is begun twice"
    return (
        "releases due at one second", f"{SITES} sites, {says}, {workers} workers", f"all begun {took:.1f} s after it, planned in {AHEAD.total_seconds() - spare:.0f} s before it", "",
        "≤ 5 s with two workers",
    )  # fmt: skip


def _many(looking: "psycopg.Connection[tuple[object, ...]]", query: str) -> tuple[int, int, object]:
    found = looking.execute(query).fetchone()
    assert found is not None
    return int(str(found[0])), int(str(found[1])), found[2]


def _document(at: int) -> SiteDocument:
    places = [{"key": "top", "title": "Top", "shape": "bar", "depth": 3, "devices": ["desktop"]}]
    entries = [
        {"id": f"e{one}", "kind": "link", "label": {"en": f"Entry {one}"}, "target": {"url": f"/page-{one}"}}
        for one in range(60)
    ]
    return read(SiteDocument, {
        "format": "sign-shelf/site", "version": 1,
        "site": {"key": f"site-{at}", "name": f"Site {at}", "base": f"http://127.0.0.1:9/{at}/"},
        "template": {"key": "t", "devices": {"desktop": [0, None]}, "locations": places},
        "menus": {"top": {"format": "sign-shelf/menu", "version": 1, "name": "Top", "items": entries}},
        "placements": [{"location": "top", "device": "desktop", "menu": "top"}],
        "pages": [{"ref": "home", "path": "/"}],
    })  # fmt: skip


async def _prepared(address: str, each: int) -> None:
    """Sites with a change that is approved and scheduled, for so many of them each."""
    database = Database(address, SEALS)
    now = datetime.now(UTC)
    ines, tom = [
        await add_person(database, email=f"{name}@quillfen.example", name=name, password="a lamp on the quay", role="lead", now=now)
        for name in ("Ines", "Tom")
    ]  # fmt: skip
    for at in range(SITES):
        await put_on_shelf(database, _document(at), now)
    async with database.transaction() as session:
        rows = list(await sites.all_sites(session))
        for row in rows:
            row.connection = "fetch"
            session.add(row)
    for first in range(0, SITES, each):
        async with database.transaction() as session:
            some = rows[first : first + each]
            parts = [(row.id, row.live_state) for row in some]
            change = await changes.begin(session, title="New footer", why="", author_id=tom.id, at=now, parts=parts)
            heads = {row.id: await _edited(session, row) for row in some}
            for part in await changes.parts_of(session, change.id):
                part.head, part.goes_at = heads[part.site_id], now + timedelta(days=1)
                session.add(part)
            session.add(
                ScheduleRow(change_id=change.id, kind="instant", goes=instant_of(now), set_by=ines.id, set_at=now)
            )
            change.state = "scheduled"
            session.add(change)
            await session.flush()
            (found,) = await reviewed(session, [change])
            session.add(
                VerdictRow(
                    change_id=change.id, person_id=ines.id, content=found.content, verdict="approved", says="", at=now
                )
            )
    await database.close()


async def _edited(session: Session, row: SiteRow) -> str:
    live = await states.contents(session, row.live_state)
    menu = live.menus["top"]
    more = menu.with_items((*menu.items, Heading(id="new", kind="heading", label={"en": "New"})))
    return await states.keep_contents(session, replace(live, menus={**live.menus, "top": more}))
