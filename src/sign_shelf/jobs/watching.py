"""Looks after what nobody asks for: pages and addresses that are due are asked, sites that differ are checked again, and people
are told what they want to know.

Any number of workers may watch: who asks a host has it alone, and who looks at a site or reads it too.
"""

import asyncio
from collections.abc import Awaitable, Callable, Iterable, Sequence
from datetime import UTC, datetime, timedelta
from typing import TypeVar
from uuid import UUID

import structlog

from sign_shelf.core.errors import Refusal
from sign_shelf.desk import crawled, findings, inventory, links, live_reading, posting, telling
from sign_shelf.desk.posting import Post
from sign_shelf.jobs import releasing
from sign_shelf.jobs.rounds import Round
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import drift, ledger_seals, looks, moments, queue
from sign_shelf.store import inventory as readings
from sign_shelf.store.database import Database, Session

log = structlog.get_logger()
AT_ONCE = 4
"""Sites that one worker reads at once."""
Subject = TypeVar("Subject")
FIRST_READING = timedelta(hours=6)
"""After a site was taken in: until then what was read then counts."""
FIRST_READING_LIVE = timedelta(minutes=1)


Clock = Callable[[], datetime]


def rounds(database: Database, by: Post) -> Sequence[Round]:
    """All that a worker watches. Whatever fails here, its releases go on; a site that takes its time keeps no address waiting."""
    fetcher = by.fetcher
    foretold: dict[UUID, str] = {}

    async def next_notice(session: Session, after: datetime) -> datetime | None:
        return await moments.next_notice(session, after, quiet=telling.QUIET, at_latest=telling.AT_LATEST)

    return (
        Round(
            run=lambda: releasing.begin_due(database),
            tables=frozenset({"change", "change_part", "release"}),
            next_moment=moments.next_change,
            every_s=releasing.EVERY_S,
        ),
        Round(
            run=lambda: releasing.plan_soon(database),
            tables=frozenset({"change", "change_part", "site"}),
            every_s=releasing.PLANNED_EVERY_S,
        ),
        Round(
            run=lambda: releasing.foretell(database, known=foretold),
            tables=frozenset({"change", "change_part", "freeze_period", "season", "site", "verdict"}),
            every_s=releasing.FORETOLD_EVERY_S,
        ),
        Round(run=lambda: seal_ledger(database), tables=frozenset({"ledger"})),
        Round(
            run=lambda: tell_people(database, by),
            tables=frozenset({"channel", "finding", "notice", "person"}),
            next_moment=next_notice,
        ),
        Round(
            run=lambda: read_pages(database, fetcher),
            tables=frozenset({"site", "site_reading"}),
            next_moment=moments.next_reading_of_pages,
        ),
        Round(run=lambda: read_homes(database, fetcher), tables=frozenset({"site", "site_look"})),
        Round(
            run=lambda: read_what_sites_show(database, fetcher),
            tables=frozenset({"live_reading", "release", "site"}),
            next_moment=moments.next_reading_of_places,
        ),
        Round(
            run=lambda: ask_and_check(database, fetcher),
            tables=frozenset(
                {"change", "change_part", "drift", "link", "shared_menu", "site", "site_link", "site_look"}
            ),
            next_moment=moments.next_address,
        ),
    )


def _now() -> datetime:
    return datetime.now(UTC)


async def look(database: Database, fetcher: Fetcher, clock: Clock = _now) -> int:
    """Once around: which pages and addresses there are, what they answer, what follows. How many addresses were asked."""
    await read_pages(database, fetcher, clock)
    await read_homes(database, fetcher, clock)
    return await ask_and_check(database, fetcher, clock)


async def read_pages(database: Database, fetcher: Fetcher, clock: Clock = _now) -> None:
    """Of sites whose pages are due."""
    async with database.transaction() as session:
        await readings.expect_readings(session, clock() + FIRST_READING)
        due = await readings.due(session, clock())
    await _each(due, lambda site_id: _read_again(database, fetcher, site_id, clock))


async def read_homes(database: Database, fetcher: Fetcher, clock: Clock = _now) -> None:
    """The home pages of sites at which something else is live by now."""
    async with database.transaction() as session:
        homes = await looks.homes_to_read(session)
    await _each(homes, lambda home: _read_home(database, fetcher, *home, clock))


async def read_what_sites_show(database: Database, fetcher: Fetcher, clock: Clock = _now) -> None:
    """Sites that are due, against what was verified there."""
    async with database.transaction() as session:
        await drift.expect_readings(session, clock() + FIRST_READING_LIVE)
        due = await drift.due(session, clock())
    await _each(due, lambda site_id: _read_live(database, fetcher, site_id, clock))


async def _read_live(database: Database, fetcher: Fetcher, site_id: UUID, clock: Clock) -> None:
    async with database.alone(queue.work_name("read live", str(site_id))) as alone:
        if not alone:
            return
        async with database.transaction() as session:
            reading = await drift.reading_of(session, site_id)
        if reading is not None and reading.due_at <= clock():
            await live_reading.read_live(database, fetcher, site_id, clock())


async def _each(subjects: Iterable[Subject], act: Callable[[Subject], Awaitable[None]]) -> None:
    """A few at once: a site that takes its time holds up no other."""
    room = asyncio.Semaphore(AT_ONCE)

    async def one(subject: Subject) -> None:
        async with room:
            await act(subject)

    async with asyncio.TaskGroup() as together:
        for subject in subjects:
            together.create_task(one(subject))


async def _read_again(database: Database, fetcher: Fetcher, site_id: UUID, clock: Clock) -> None:
    async with database.alone(queue.work_name("read pages", str(site_id))) as alone:
        if not alone:
            return
        async with database.transaction() as session:
            # Whoever had it alone before may have read it just now.
            reading = await readings.reading_of(session, site_id)
        if reading is not None and reading.due_at <= clock():
            await inventory.read_one(database, fetcher, site_id, clock())


async def _read_home(database: Database, fetcher: Fetcher, site_id: UUID, state: str, clock: Clock) -> None:
    async with database.alone(queue.work_name("read home", str(site_id))) as alone:
        if alone:
            await crawled.read_live_pages(database, fetcher, site_id, state, clock())


async def seal_ledger(database: Database) -> None:
    """All that was written up to now, a stretch at a time."""
    async with database.alone("seal the ledger") as alone:
        while alone:
            async with database.transaction() as session:
                if await ledger_seals.seal(session) < ledger_seals.AT_ONCE:
                    return


async def tell_people(database: Database, by: Post, clock: Clock = _now) -> int:
    """What they are to be told is written down by one worker at a time, and sent by any. How many notices arrived."""
    async with database.alone("tell people") as alone:
        if alone:
            await telling.tell(database, clock())
    return await posting.post(database, by, clock)


async def ask_and_check(database: Database, fetcher: Fetcher, clock: Clock = _now) -> int:
    """Asks the addresses that are due, and checks the sites that differ. How many addresses were asked."""
    async with database.transaction() as session:
        sites = await looks.to_look(session)
    for one in sites:
        if one.leads != one.gathered:
            await links.gather(database, one.site_id, one.leads, clock())
    asked = await links.ask_due(database, fetcher, clock)
    async with database.transaction() as session:
        sites = await looks.to_look(session)
    for one in sites:
        # Where something else is live, the home page is read first: what it shows is not gone and back in between.
        if one.live == one.state and findings.to_be_called(one, clock()) != one.looked:
            await _check(database, one, clock)
    return asked


async def _check(database: Database, site: looks.ToLook, clock: Clock) -> None:
    async with database.alone(queue.work_name("look", str(site.site_id))) as alone:
        if not alone:
            return
        try:
            await findings.look(database, site.site_id, clock())
        except Refusal as refused:
            # One site that cannot be looked at keeps no other from it.
            log.warning("site_not_checked", site=site.key, says=str(refused))
