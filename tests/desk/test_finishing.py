"""A change of several sites ends: live once it is live at all of them, whatever happens at the same moment."""

import asyncio
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from uuid import UUID, uuid4

import httpx
import psycopg
import pytest
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import text

from sign_shelf.core.changes import life
from sign_shelf.demo.cluster import free_port
from sign_shelf.demo.seed import take_in_stand_in
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins, stand_in_app
from sign_shelf.desk import sending
from sign_shelf.desk.finishing import finish_all
from sign_shelf.desk.permission import Person
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store.database import Database
from tests.api.test_changes import begin, relabelled
from tests.api.test_menus import read
from tests.serving import serving
from tests.waiting import eventually

WAITING = "SELECT count(*) FROM pg_locks WHERE NOT granted AND relation = 'ledger'::regclass"


async def state_of(database: Database, change: str) -> tuple[str, bool]:
    async with database.transaction() as session:
        found = await (await session.connection()).execute(
            text("SELECT state, live_at IS NOT NULL FROM change WHERE id = :id"), {"id": change}
        )
        return tuple(found.one())  # type: ignore[return-value]


@pytest.fixture
async def released(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, fetcher: Fetcher, ines: Person, tmp_path: Path
):  # type: ignore[no-untyped-def]
    """A change of two sites and its two releases, which wait."""
    vesper = next(one for one in make_stand_ins(tmp_path, iter(free_port, None)) if one.content.key == "vesper")
    with serving(stand_in_app(vesper), vesper.port):
        await take_in_stand_in(database, vesper, ines)
        change = await begin(as_ines, "Both")
        await relabelled(as_ines, change, "Sail early")
        menu = f"/api/sites/vesper/menus/header?in={change}"
        bench = await read(as_ines, menu)
        renamed = bench["document"] | {"name": "Programme and more"}
        saved = await as_ines.put(menu, json=renamed, headers={"if-match": bench["hash"]})
        assert saved.status_code == 200, saved.text
        releases = []
        for site in ("brackwater", "vesper"):
            asked = await as_ines.post(
                f"/api/sites/{site}/releases?in={change}", headers={"idempotency-key": str(uuid4())}
            )
            assert asked.status_code == 202, asked.text
            releases.append(UUID(asked.json()["id"]))
        yield change, releases


async def test_two_sites_that_finish_at_the_same_moment_finish_the_change(
    address: str, released: tuple[str, list[UUID]], database: Database, fetcher: Fetcher
) -> None:
    """Neither sees the other's part before both are kept."""
    change, releases = released
    clock: Callable[[], datetime] = lambda: datetime.now(UTC)  # noqa: E731
    with psycopg.connect(address) as holding, psycopg.connect(address, autocommit=True) as looking:
        holding.execute("LOCK TABLE ledger IN SHARE MODE")
        both = asyncio.gather(*(sending.carry_out(database, fetcher, one, clock) for one in releases))
        await asyncio.to_thread(eventually, lambda: looking.execute(WAITING).fetchone() == (2,))
        holding.rollback()
        await both
    assert await state_of(database, change) == ("live", True)


async def test_a_change_that_was_left_behind_its_parts_is_finished_later(
    released: tuple[str, list[UUID]], database: Database, fetcher: Fetcher
) -> None:
    """Whoever was to finish it died in between."""
    change, releases = released
    for one in releases:
        await sending.carry_out(database, fetcher, one, lambda: datetime.now(UTC))
    async with database.transaction() as session:
        await (await session.connection()).execute(text("UPDATE change SET state = 'draft', live_at = NULL"))
    assert await finish_all(database, datetime.now(UTC)) == 1
    assert await state_of(database, change) == ("live", True)
    assert await finish_all(database, datetime.now(UTC)) == 0, "nothing is left"


_LIVES = st.sampled_from([*life.OPEN, *life.FINAL, "going live", "live"])


@given(_LIVES, st.lists(st.sampled_from(["open", "live", "over"]), max_size=4), st.sampled_from(["undo", "end"]))
def test_a_change_stands_where_its_parts_say(at: life.Life, parts: list[str], by: str) -> None:
    """Never back, never live or over too early, and asking twice says the same."""
    live, over = [one != "open" for one in parts], [one == "over" for one in parts]
    then = life.reached(at, live=live, over=over, by=by)  # type: ignore[arg-type]
    if at in life.FINAL or not parts:
        assert then == at
    elif at != "live":
        assert then == ("live" if "open" not in parts else at)
    else:
        assert then == ({"undo": "undone", "end": "ended"}[by] if set(parts) == {"over"} else "live")
    once_more = life.reached(then, live=live, over=over, by=by)  # type: ignore[arg-type]
    assert once_more == then or (then, set(parts)) == ("live", {"over"})
