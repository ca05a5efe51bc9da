"""Workers are woken by what they work on, and rest otherwise."""

import asyncio
import json
from collections.abc import Awaitable, Callable
from contextlib import suppress
from datetime import UTC, datetime, timedelta

import psycopg
import pytest
from sqlalchemy import text

from sign_shelf.desk.posting import Post
from sign_shelf.jobs.rounds import Round, go_round
from sign_shelf.jobs.watching import rounds
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import Settings
from sign_shelf.store import ledger as ledger_lines
from sign_shelf.store import queue
from sign_shelf.store.database import Database, Session

SOON_S = 20.0
"""Long for a machine that is busy, and short beside a round that is made in any case."""


class Counted:
    """A piece of work that says how often it was done, and fails where it is told to."""

    def __init__(self, failing: int = 0) -> None:
        self.done = 0
        self.failing = failing
        self.more = asyncio.Event()

    async def __call__(self) -> None:
        self.done += 1
        self.more.set()
        if self.done <= self.failing:
            raise RuntimeError("made to fail")

    async def times(self, many: int) -> None:
        """Waits until it was done so often."""
        while self.done < many:
            self.more.clear()
            await asyncio.wait_for(self.more.wait(), SOON_S)


async def meanwhile(watched: Awaitable[None], act: Callable[[], Awaitable[None]]) -> None:
    task = asyncio.ensure_future(watched)
    try:
        await act()
    finally:
        task.cancel()
        with suppress(asyncio.CancelledError):
            await task


async def test_a_write_wakes_the_rounds_that_depend_on_the_table(database: Database, configured: Settings) -> None:
    ledger, links = Counted(), Counted()
    both = [
        Round(run=ledger, tables=frozenset({"ledger"}), every_s=0), Round(run=links, tables=frozenset({"link"}), every_s=0),
    ]  # fmt: skip

    async def act() -> None:
        await asyncio.gather(ledger.times(1), links.times(1))
        for _ in range(3):
            done = ledger.done
            async with database.transaction() as session:
                ledger_lines.write(session, "tested", "Something happened.", at=datetime.now(UTC))
            await ledger.times(done + 1)
        # At first, and once more when the worker began to listen.
        assert links.done <= 2

    await meanwhile(go_round(database, configured.database, both), act)


async def test_a_round_is_made_when_its_next_moment_comes(database: Database, configured: Settings) -> None:
    work = Counted()

    async def next_moment(_session: Session, after: datetime) -> datetime | None:
        return after + timedelta(seconds=0.2)

    async def act() -> None:
        await work.times(4)

    only = [Round(run=work, tables=frozenset(), next_moment=next_moment, every_s=0)]
    await meanwhile(go_round(database, configured.database, only), act)


async def test_a_round_that_fails_is_made_again_and_its_neighbours_go_on(
    database: Database, configured: Settings
) -> None:
    fails, other = Counted(failing=3), Counted()
    both = [Round(run=one, tables=frozenset({"ledger"}), every_s=0) for one in (fails, other)]

    async def act() -> None:
        await asyncio.gather(fails.times(4), other.times(1))

    await meanwhile(go_round(database, configured.database, both), act)


async def test_rounds_end_whenever_they_are_told_to(database: Database, configured: Settings) -> None:
    """Also at the moment at which one is woken, or its time is over."""

    async def at_once(_session: Session, after: datetime) -> datetime | None:
        return after

    for turns in range(200):
        work = Counted()
        busy = Round(run=work, tables=frozenset(), next_moment=at_once if turns % 2 else None, every_s=0)
        task = asyncio.ensure_future(go_round(database, configured.database, [busy]))
        await work.times(1)
        for _ in range(turns % 12):
            await asyncio.sleep(0)
        busy.woken.set()
        task.cancel()
        done, _ = await asyncio.wait({task}, timeout=SOON_S)
        assert done, f"it goes on after {turns % 12} turns of the loop"


async def test_every_table_that_wakes_a_round_tells_of_its_writes(database: Database, fetcher: Fetcher) -> None:
    async with database.transaction() as session:
        found = await (await session.connection()).scalars(
            text("SELECT tgrelid::regclass::text FROM pg_trigger WHERE tgname LIKE '%worked_on'")
        )
        told = set(found)
    woken = {table for one in rounds(database, Post(fetcher=fetcher, mail=None, shelf="")) for table in one.tables}
    assert woken == told


@pytest.mark.parametrize("becomes", ["succeeded", "failed", "todo"])
async def test_workers_hear_that_a_job_has_ended(database: Database, configured: Settings, becomes: str) -> None:
    """Another job of the same lock may begin now, or this one is to be tried again."""
    async with database.transaction() as session:
        await queue.defer(session, "tested", subject="first", lock="one after the other")
        await (await session.connection()).execute(text("UPDATE procrastinate_jobs SET status = 'doing'"))
    address = configured.database.get_secret_value()
    async with await psycopg.AsyncConnection.connect(address, autocommit=True) as hearing:
        await hearing.execute('LISTEN "procrastinate_queue_v1#default"')
        await hearing.execute("UPDATE procrastinate_jobs SET status = %s::procrastinate_job_status", [becomes])
        heard = [notice async for notice in hearing.notifies(timeout=SOON_S, stop_after=1)]
    assert [json.loads(notice.payload)["type"] for notice in heard] == ["job_inserted"]
