"""Releases planned ahead: what goes live and what it is stopped by takes a while to work out, so that of what is due soon it is known
before. When the moment comes, only the names of all that it came of are compared; where one is another, it is worked out then
(desk/due.py)."""

import random
from collections import Counter
from collections.abc import Sequence
from datetime import datetime, timedelta
from uuid import UUID

from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.changes.beginning import obstacle
from sign_shelf.core.errors import Busy, Refusal
from sign_shelf.desk import put_live
from sign_shelf.desk.due import Approved
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.store import changes, plans, schedules, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ReleasePlanRow

SOON = timedelta(hours=1)
AT_ONCE = 100
"""Sites whose releases are begun in one transaction."""


async def plan_ahead(database: Database, now: datetime) -> int:
    """What goes within the hour and has no plan that holds. How many were worked out."""
    async with database.transaction() as session:
        await plans.forget_idle(session)
        found = await plans.to_plan(session, now + SOON)
    for one in found:
        async with database.transaction() as session:
            await _plan(session, one)
    return len(found)


async def _plan(session: Session, one: plans.ToPlan) -> None:
    site = await sites.site_by_id(session, one.site_id)
    part = await changes.part_of(session, one.change_id, one.site_id)
    if part is None or part.goes_at is None:
        return
    plan = ReleasePlanRow(
        change_id=one.change_id, site_id=one.site_id, named=one.named, target=None, steps=[],
        day=clock_of(facts_of(site).zone).now(part.goes_at)[:10],
    )  # fmt: skip
    change = await changes.change_by_id(session, one.change_id)
    assert change is not None
    try:
        await put_live.refuse_unreachable(session, site)
        live, goes = await put_live.live_and_target(session, site, change, part, approved=True)
        if live == site.live_state:
            plan.steps = await put_live.steps_without_a_stop(session, site, live, goes, plan.day)
            plan.target = goes
    except Busy:
        raise
    except Refusal:
        pass  # It is told when the moment comes, and ahead of it by what is foretold.
    await plans.keep(session, plan)


async def begin(database: Database, due: Sequence[tuple[UUID, UUID]], approved: Approved, now: datetime) -> None:
    """Of the changes and sites whose moment has come, in their order, those that are planned: begun, many at once, each site's
    first."""
    firsts = list({site: (change, site) for change, site in reversed(due)}.values())
    # Workers take them in different orders, so that they seldom meet.
    random.shuffle(firsts)
    for at in range(0, len(firsts), AT_ONCE):
        async with database.transaction() as session:
            await _begin(session, firsts[at : at + AT_ONCE], approved, now)


async def _begin(session: Session, pairs: Sequence[tuple[UUID, UUID]], approved: Approved, now: datetime) -> None:
    found = await plans.at_hand(session, pairs, now)
    if not found:
        return
    freezes = await schedules.freezes(session)
    set_by = {one.change_id: one.set_by for one in (await schedules.schedules(session, {c for c, _ in pairs})).values()}
    sites_of = Counter(one.change_id for one in await changes.all_parts_of(session, {row.id for _, _, row, _ in found}))
    begun: list[put_live.Goes] = []
    for plan, part, change, site in found:
        at, clock = part.goes_at, clock_of(facts_of(site).zone)
        goes = approved.get(change.id, {}).get(site.id) == (part.base, part.head)
        in_the_way = obstacle("put live", now, moment=at, freezes=put_live.freezes_of(site, freezes))
        if not goes or at is None or in_the_way is not None or clock.now(now)[:10] != plan.day or plan.target is None:
            continue
        begun.append(put_live.Goes(
            site=site, change=change, live=site.live_state, target=plan.target, steps=plan.steps, by=set_by.get(change.id),
            alone=sites_of[change.id] == 1,
        ))  # fmt: skip
    if begun:
        await put_live.begin(session, begun, now)
    await plans.forget(session, [(plan.change_id, plan.site_id) for plan, *_ in found])
