"""What is done when a moment comes: a change goes live, or comes back; and where it cannot, it is told and never done late."""

from collections.abc import Collection, Mapping
from datetime import datetime
from typing import cast
from uuid import UUID

from sign_shelf.core.basics.clock import clock_of, said_moment
from sign_shelf.core.changes import life
from sign_shelf.core.changes.beginning import obstacle
from sign_shelf.core.changes.schedule import Freeze
from sign_shelf.core.errors import Busy, Refusal
from sign_shelf.core.notices import Stays
from sign_shelf.desk import give_back, put_live
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.desk.review import reviewed
from sign_shelf.desk.telling import tell_of_change
from sign_shelf.store import changes, ledger, releases, schedules, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ChangePartRow, ChangeRow, SiteRow

Approved = Mapping[UUID, Mapping[UUID, tuple[str, str]]]
"""Of changes that were approved a moment ago: from which state to which, by site."""


async def as_approved(database: Database, change_ids: Collection[UUID]) -> Approved:
    """Of many changes and sites at once: asked one by one, three hundred sites of one change would each read them all."""
    async with database.transaction() as session:
        found = await reviewed(session, await changes.changes_by_id(session, change_ids))
    return {
        one.row.id: {site.id: (part.base, part.head) for site, part in one.parts} for one in found if one.is_approved
    }


async def carry_out(database: Database, change_id: UUID, site_id: UUID, approved: Approved, now: datetime) -> None:
    """Plans the release whose moment has come, once, whoever else does it at the same time."""
    try:
        async with database.transaction() as session:
            if (found := await _still_due(session, change_id, site_id, now)) is None:
                return
            await _carry_out(session, *found, approved, now)
    except Busy:
        raise
    except Refusal as refused:
        async with database.transaction() as session:
            if (found := await _still_due(session, change_id, site_id, now)) is not None:
                await _stays(session, *found, "hold", str(refused), now)


async def _still_due(
    session: Session, change_id: UUID, site_id: UUID, now: datetime
) -> tuple[SiteRow, ChangeRow, ChangePartRow] | None:
    """The site and the part, locked."""
    site = await sites.site_by_id(session, site_id, lock=True)
    part = await changes.part_of(session, change_id, site_id, lock=True)
    change = await changes.change_by_id(session, change_id)
    if part is None or change is None or part.says or await releases.under_way(session, change_id, site_id):
        return None
    await session.refresh(change)
    if part.live_at is None:
        due = part.goes_at is not None and part.goes_at <= now and change.state in schedules.WAITING
    else:
        due = part.over_at is None and part.ends_at is not None and part.ends_at <= now
    return (site, change, part) if due else None


async def _carry_out(
    session: Session, site: SiteRow, change: ChangeRow, part: ChangePartRow, approved: Approved, now: datetime
) -> None:
    at = cast(datetime, part.goes_at if part.live_at is None else part.ends_at)
    clock = clock_of(facts_of(site).zone)
    in_the_way = obstacle(
        "put live" if part.live_at is None else "end", now, moment=at, freezes=await put_live.freezes_at(session, site)
    )
    set_by = kept.set_by if (kept := await schedules.schedule_of(session, change.id)) is not None else None
    if isinstance(in_the_way, Freeze):
        until = said_moment(clock.reading_at(in_the_way.ends))
        why = f"nothing goes live there until {until}: {in_the_way.why}"
        await _stays(session, site, change, part, "hold", why, now)
    elif in_the_way is not None:
        await _stays(session, site, change, part, "miss", "nobody was there to do it when its moment came", now)
    elif part.live_at is not None:
        await give_back.plan_back(session, site, change, "end", by=set_by, now=now)
    elif change.state == "failed":
        await _stays(session, site, change, part, "miss", "it had failed before, and nobody saw to it", now)
    elif change.state == "held":
        await _stays(session, site, change, part, "miss", "it was held when its moment came", now)
    elif change.state != "scheduled" or not await _is_approved(session, site, change, part, approved):
        await _stays(session, site, change, part, "miss", "it was not approved when its moment came", now)
    else:
        await put_live.plan(session, site, change, part, approved=True, by=set_by, now=now)


async def _is_approved(
    session: Session, site: SiteRow, change: ChangeRow, part: ChangePartRow, approved: Approved
) -> bool:
    """An edit anywhere in it makes it a draft again: where it is scheduled still and does here what was approved, it is that."""
    if approved.get(change.id, {}).get(site.id) == (part.base, part.head):
        return True
    return (await reviewed(session, [change]))[0].is_approved


async def _stays(
    session: Session, site: SiteRow, change: ChangeRow, part: ChangePartRow, deed: life.Deed, why: str, now: datetime
) -> None:
    """It is not tried again by itself. The change waits on where another of its sites is still to come, and it is approved."""
    comes = "go live" if part.live_at is None else "come back"
    moment = cast(datetime, part.goes_at if comes == "go live" else part.ends_at)
    at = clock_of(facts_of(site).zone).now(moment)
    part.says = why
    session.add(part)
    await session.flush()
    # Another of its sites may say so at the same time.
    await changes.change_by_id(session, change.id, lock=True)
    await session.refresh(change)
    parts = await changes.parts_of(session, change.id)
    others = [
        one for one in parts
        if one.site_id != site.id and one.live_at is None and not one.says and one.goes_at is not None
    ]  # fmt: skip
    if comes == "go live" and (not others or change.state != "scheduled"):
        deeds = life.deeds(cast(life.Life, change.state))
        found = deeds.get(deed) or deeds.get("miss")
        if found is not None:
            change.state = found.to
            session.add(change)
    said = Stays(
        change=str(change.id), title=change.title, site=site.name, sites=len(parts),
        comes="goes" if comes == "go live" else "ends", at=at, why=why,
    )  # fmt: skip
    kept = await schedules.schedule_of(session, change.id)
    # Of many sites of one schedule once; of the next schedule again.
    await tell_of_change(session, site, said, f"{change.id} {comes} {kept.set_at if kept is not None else moment}", now)
    ledger.write(session, "missed", f"{change.title} did not {comes} at {site.name} at {said_moment(at)}: {why}", at=now,
                 site_id=site.id, change=str(change.id))  # fmt: skip
