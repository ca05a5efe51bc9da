"""The clock's hand: what is due is begun, by whichever worker sees it first; what is ahead is looked at again as it changes, and what
is soon is planned."""

import asyncio
import random
from collections.abc import Callable
from datetime import UTC, datetime
from uuid import UUID

from sign_shelf.desk import due, plan_ahead, schedule, seasons
from sign_shelf.store import foretold, schedules
from sign_shelf.store.database import Database

EVERY_S = 0.5
FORETOLD_EVERY_S = 5.0
PLANNED_EVERY_S = 5.0
AT_ONCE = 4

Clock = Callable[[], datetime]


def _now() -> datetime:
    return datetime.now(UTC)


async def begin_due(database: Database, clock: Clock = _now) -> int:
    """Plans what is due, of each site in its order. How many moments had come."""
    async with database.transaction() as session:
        found = await schedules.due(session, clock())
    if not found:
        return 0
    approved = await due.as_approved(database, {change_id for change_id, _ in found})
    await plan_ahead.begin(database, found, approved, clock())
    async with database.transaction() as session:
        left = await schedules.due(session, clock())
    at_sites: dict[UUID, list[UUID]] = {}
    for change_id, site_id in left:
        at_sites.setdefault(site_id, []).append(change_id)
    room = asyncio.Semaphore(AT_ONCE)

    async def begin(site_id: UUID) -> None:
        async with room:
            for change_id in at_sites[site_id]:
                await due.carry_out(database, change_id, site_id, approved, clock())

    # As above, workers seldom meet.
    order = random.sample(list(at_sites), len(at_sites))
    await asyncio.gather(*(begin(site_id) for site_id in order))
    return len(found)


async def foretell(database: Database, clock: Clock = _now, known: dict[UUID, str] | None = None) -> None:
    """Next year's of what is over is made; then of sites where it may be another than when it was foretold last: `known` names what
    that came of, and is kept up."""
    known = known if known is not None else {}
    async with database.alone("foretell") as alone:
        if not alone:
            return
        await seasons.come_again(database, clock())
        async with database.transaction() as session:
            at = await schedules.sites_with_moments(session)
            await foretold.forget_but(session, at)
        await schedule.foretell(database, [site for site, named in at.items() if known.get(site) != named], clock())
        known.clear()
        known.update(at)


async def plan_soon(database: Database, clock: Clock = _now) -> None:
    """What goes within the hour is planned, by one worker at a time."""
    async with database.alone("plan ahead") as alone:
        if alone:
            await plan_ahead.plan_ahead(database, clock())
