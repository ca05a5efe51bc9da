"""Looks after what nobody asks for: pages and addresses that are due are asked, and sites that differ are checked again.

Any number of workers may watch: who asks a host has it alone, and who looks at a site or reads it too.
"""

import asyncio
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

import structlog

from sign_shelf.core.errors import Busy, Refusal
from sign_shelf.desk import findings, inventory, links
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import inventory as readings
from sign_shelf.store import looks, queue
from sign_shelf.store.database import Database

log = structlog.get_logger()
EVERY_S = 2.0
FIRST_READING = timedelta(hours=6)
"""After a site was taken in: until then what was read then counts."""


async def watch(database: Database, fetcher: Fetcher, every_s: float = EVERY_S) -> None:
    """For ever. While the database is away it waits for it. Whatever fails here, the worker's releases go on."""
    while True:
        try:
            await look(database, fetcher)
        except* Busy as away:
            log.warning("watching_waits_for_the_database", says=str(away.exceptions[0]))
        except* Exception:
            log.exception("watching_failed")
        await asyncio.sleep(every_s)


async def look(database: Database, fetcher: Fetcher, clock: Callable[[], datetime] = lambda: datetime.now(UTC)) -> int:
    """Once around: which pages and addresses there are, what they answer, what follows. How many addresses were asked."""
    await _read_again(database, fetcher, clock)
    async with database.transaction() as session:
        sites = await looks.to_look(session)
    for one in sites:
        if one.leads != one.gathered:
            await links.gather(database, one.site_id, one.leads, clock())
    asked = await links.ask_due(database, fetcher, clock)
    async with database.transaction() as session:
        sites = await looks.to_look(session)
    for one in sites:
        if findings.to_be_called(one, clock()) != one.looked:
            await _check(database, one, clock)
    return asked


async def _read_again(database: Database, fetcher: Fetcher, clock: Callable[[], datetime]) -> None:
    async with database.transaction() as session:
        await readings.expect_readings(session, clock() + FIRST_READING)
        due = await readings.due(session, clock())
    for site_id, _ in due:
        async with database.alone(queue.work_name("read pages", str(site_id))) as alone:
            if alone:
                await inventory.read_one(database, fetcher, site_id, clock())


async def _check(database: Database, site: looks.ToLook, clock: Callable[[], datetime]) -> None:
    async with database.alone(queue.work_name("look", str(site.site_id))) as alone:
        if not alone:
            return
        try:
            await findings.look(database, site.site_id, clock())
        except Refusal as refused:
            # One site that cannot be looked at keeps no other from it.
            log.warning("site_not_checked", site=site.key, says=str(refused))
