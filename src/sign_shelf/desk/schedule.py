"""When a change goes live: set, moved, taken off, held and let go; and what is known of its moment ahead of it."""

import asyncio
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise
from typing import cast
from uuid import UUID

from pydantic import TypeAdapter

from sign_shelf.core.basics.clock import clock_of, instant_of, moment_of, said_moment
from sign_shelf.core.changes import life
from sign_shelf.core.changes.foretold import brought, foretold
from sign_shelf.core.changes.queue import Due, Event, Lent
from sign_shelf.core.changes.queue import ahead as lived_through
from sign_shelf.core.changes.schedule import AtOnce, ByTheClock, Freeze, Moments, Schedule, frozen, moments
from sign_shelf.core.errors import Clash, ClockRefused, EditRefused, Refusal
from sign_shelf.core.notices import Stays
from sign_shelf.desk.on_top import templates_of
from sign_shelf.desk.permission import Person, may
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.desk.put_live import freezes_at
from sign_shelf.desk.review import Reviewed, one_change, reviewed
from sign_shelf.desk.telling import tell_of_change
from sign_shelf.store import changes, ledger, schedules, seasons, sites, states
from sign_shelf.store import foretold as foretold_states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ChangePartRow, ChangeRow, ScheduleRow, SiteRow

FORETOLD_AT_ONCE = 12
_SCHEDULE: TypeAdapter[ByTheClock | AtOnce] = TypeAdapter(Schedule)


def schedule_of(row: ScheduleRow) -> ByTheClock | AtOnce:
    return _SCHEDULE.validate_python({"kind": row.kind, "goes": row.goes, "ends": row.ends})


async def set_schedule(
    database: Database, person: Person, change_id: UUID, asked: ByTheClock | AtOnce, now: datetime
) -> None:
    """The change's moments at all of its sites where it is not live yet. Where it is not approved, it goes only if it is by then.

    Raises ClockRefused for an hour that a site's clock does not show, or shows twice; EditRefused for a moment that has passed or
    that is in a freeze; Clash where the change is over.
    """
    async with database.transaction() as session:
        found = await one_change(session, person, change_id, "put live", lock=True)
        row = found.row
        to = life.step(row.state, "schedule", title=row.title, where=f"changes/{change_id}").to  # type: ignore[arg-type]
        waiting = [(site, part) for site, part in found.parts if part.live_at is None]
        for site, part in waiting:
            at = _moments(site, asked, instant_of(now), await freezes_at(session, site))
            part.goes_at = moment_of(at.goes)
            part.ends_at = moment_of(at.ends) if at.ends is not None else None
            part.says = part.foretold = ""
            session.add(part)
        kept = await schedules.schedule_of(session, change_id) or ScheduleRow(
            change_id=change_id, kind="", goes="", set_at=now
        )
        if asked.ends is None and await seasons.comes_again(session, kept):
            raise EditRefused(f"{row.title} comes back every year: it has an end in each.", where="ends",
                              remedy="Say when it comes back, or let it come no more.")  # fmt: skip
        kept.kind, kept.goes, kept.ends, kept.set_by, kept.set_at = asked.kind, asked.goes, asked.ends, person.id, now
        session.add(kept)
        await session.flush()
        await _stands(session, row, to)
        for site, part in waiting:
            ledger.write(session, "schedule", f"{row.title} is to go live at {_said(site, part)}", at=now,
                         person_id=person.id, site_id=site.id, change=str(change_id))  # fmt: skip
    # Of very many sites the rest is foretold by a worker, within seconds.
    await foretell(database, [site.id for site, _ in waiting[:FORETOLD_AT_ONCE]], now)


def _moments(site: SiteRow, asked: ByTheClock | AtOnce, now: str, freezes: Sequence[Freeze]) -> Moments:
    clock = clock_of(facts_of(site).zone)
    try:
        at = moments(asked, clock)
    except ClockRefused as refused:
        raise ClockRefused(
            f"{site.name}: {refused.says}", where=refused.where or "goes", remedy=refused.remedy or "", comes=refused.comes, offers=refused.offers
        ) from refused  # fmt: skip
    if at.goes <= now:
        raise EditRefused(f"{said_moment(clock.reading_at(at.goes))} has passed at {site.name}.", where="goes",
                          remedy="Choose a later moment, or put it live now.")  # fmt: skip
    for where, instant in (("goes", at.goes), ("ends", at.ends)):
        freeze = frozen(instant, freezes) if instant is not None else None
        if freeze is not None:
            until = said_moment(clock.reading_at(freeze.ends))
            raise EditRefused(f"Nothing goes live at {site.name} until {until}: {freeze.why}.", where=where,
                              remedy=f"Choose a moment from {until} on.")  # fmt: skip
    return at


async def _stands(session: Session, row: ChangeRow, to: life.Life) -> None:
    """Scheduled only as far as it is approved as it is now, with its moment where that is approved too."""
    (after,) = await reviewed(session, [row])
    if to == "scheduled" and not after.is_approved:
        to = "in review" if row.state in {"approved", "scheduled", "held", "in review"} else "draft"
    row.state = to
    session.add(row)
    await session.flush()


def _said(site: SiteRow, part: ChangePartRow) -> str:
    """On the site's clock."""
    clock = clock_of(facts_of(site).zone)
    assert part.goes_at is not None
    goes = said_moment(clock.now(part.goes_at))
    return f"{goes}, until {said_moment(clock.now(part.ends_at))}" if part.ends_at is not None else goes


async def take_off(database: Database, person: Person, change_id: UUID, now: datetime) -> None:
    """It has no moment any more; what was approved stays so. Raises Clash where it has none."""
    async with database.transaction() as session:
        found = await one_change(session, person, change_id, "put live", lock=True)
        if found.schedule is None:
            raise Clash(f"{found.row.title} has no moment.", where=f"changes/{change_id}")
        if found.schedule.season_id is not None:
            await seasons.over(session, found.schedule.season_id, now)
        await schedules.forget(session, change_id)
        for site, part in found.parts:
            if part.live_at is None:
                part.goes_at = part.ends_at = None
                part.says = part.foretold = ""
                session.add(part)
                ledger.write(session, "schedule", f"{found.row.title} has no moment any more", at=now, person_id=person.id,
                             site_id=site.id, change=str(change_id))  # fmt: skip
        await session.flush()
        if found.row.state in {"scheduled", "held", "missed"}:
            (after,) = await reviewed(session, [found.row])
            found.row.state = "approved" if after.is_approved else "draft"
            session.add(found.row)


async def hold(database: Database, person: Person, change_id: UUID, *, says: str, now: datetime) -> None:
    """It does not go when its moment comes, until somebody lets it go."""
    reason = " ".join(says.split())
    if len(reason) > 400:
        raise Refusal("The reason has 400 signs at most.", where="says", remedy="Say it shorter.")
    async with database.transaction() as session:
        found = await one_change(session, person, change_id, "put live", lock=True)
        row = found.row
        row.state = life.step(row.state, "hold", title=row.title, where=f"changes/{change_id}").to  # type: ignore[arg-type]
        session.add(row)
        _tell(session, found, f"Held {row.title}{': ' + reason if reason else ''}", person.id, now)


async def let_go(database: Database, person: Person, change_id: UUID, now: datetime) -> None:
    """It goes when its moment comes. Raises Clash where that has passed at any site: never late by itself."""
    async with database.transaction() as session:
        found = await one_change(session, person, change_id, "put live", lock=True)
        row = found.row
        to = life.step(row.state, "let go", title=row.title, where=f"changes/{change_id}").to  # type: ignore[arg-type]
        late = [
            site for site, part in found.parts
            if part.live_at is None and (part.goes_at is None or part.goes_at <= now)
        ]  # fmt: skip
        if late:
            raise Clash(
                f"The moment of {row.title} has passed at {late[0].name}.", where=f"changes/{change_id}",
                remedy="Choose another, or put it live now.",
            )  # fmt: skip
        for _, part in found.parts:
            part.says = ""
            session.add(part)
        await _stands(session, row, to)
        _tell(session, found, f"Let {row.title} go", person.id, now)


def _tell(session: Session, found: Reviewed, says: str, by: UUID, now: datetime) -> None:
    for site, _ in found.parts:
        ledger.write(session, "schedule", says, at=now, person_id=by, site_id=site.id, change=str(found.row.id))


@dataclass(frozen=True, kw_only=True)
class Ahead:
    """A moment at a site. `says`: what stands in its way, empty where nothing does."""

    site: SiteRow
    title: str
    event: Event
    reading: str
    """On the site's clock."""
    says: str
    does: tuple[str, ...]
    """What differs at the site from then on, in sentences."""
    since: datetime | None
    """Of an end: since when the change is live; None where it is to go live first."""


async def ahead_at(session: Session, site: SiteRow, *, told: bool = False) -> list[Ahead]:
    """Every moment of the site that is still to come, in order, by what is known now; `told` with what it brings."""
    waiting, lent = await schedules.waiting_at(session, site.id), await schedules.lent_at(session, site.id)
    if not waiting and not lent:
        return []
    approved = {one.row.id: one.is_approved for one in await reviewed(session, [row for row, _ in waiting])}
    clock = clock_of(facts_of(site).zone)
    live = await states.contents(session, site.live_state)
    due = [
        Due(
            change=str(row.id), goes=instant_of(cast(datetime, part.goes_at)), ends=_instant(part.ends_at),
            base=await states.contents(session, part.base), head=await states.contents(session, part.head),
            approved=approved[row.id] and row.state in {"approved", "scheduled"}, held=row.state == "held",
        )
        for row, part in waiting
    ]  # fmt: skip
    back = []
    for row, part in lent:
        went = await schedules.went_live(session, row.id, site.id)
        if went is not None:
            back.append(Lent(
                change=str(row.id), ends=instant_of(cast(datetime, part.ends_at)),
                before=await states.contents(session, went.before), made=await states.contents(session, went.target),
            ))  # fmt: skip
    sides = (
        live,
        *(side for one in due for side in (one.base, one.head)),
        *(side for one in back for side in (one.before, one.made)),
    )
    events = lived_through(
        live, due, back, freezes=await freezes_at(session, site), templates=await templates_of(session, sides)
    )
    titles = {str(row.id): row.title for row, _ in (*waiting, *lent)}
    since = {str(row.id): part.live_at for row, part in lent}
    language = facts_of(site).languages[0]
    shown = [live, *(one.live for one in events)]
    does: list[tuple[str, ...]] = [()] * len(events)
    if told:
        does = await asyncio.to_thread(lambda: [brought(*two, language=language) for two in pairwise(shown)])
    return [
        Ahead(site=site, title=titles[one.change], event=one, reading=clock.reading_at(one.at), says=foretold(one, titles),
              does=done, since=since.get(one.change) if one.comes == "ends" else None)
        for one, done in zip(events, does, strict=True)
    ]  # fmt: skip


def _instant(at: datetime | None) -> str | None:
    return instant_of(at) if at is not None else None


async def all_ahead(database: Database, person: Person) -> list[Ahead]:
    """Of every site that the person may look at, in the order of the instants."""
    async with database.transaction() as session:
        wanted = set(await schedules.sites_with_moments(session))
        found = [
            one
            for row in await sites.all_sites(session)
            if row.id in wanted and row.archived_at is None and may(person, "look", row.key)
            for one in await ahead_at(session, row, told=True)
        ]
    return sorted(found, key=lambda one: (one.event.at, one.site.name))


async def foretell(database: Database, site_ids: Sequence[UUID], now: datetime) -> None:
    """Notes what stands in the way of moments ahead, and tells in the ledger what did not before. A clock whose rules became others
    moves the moments that were set by it, and that is told too."""
    for site_id in site_ids:
        async with database.transaction() as session:
            site = await sites.site_by_id(session, site_id)
            parts = {str(row.id): (row, part) for row, part in await schedules.waiting_at(session, site_id)}
            set_for = await schedules.schedules(session, [row.id for row, _ in parts.values()])
            for row, part in parts.values():
                _follow_the_clock(session, site, row, part, set_for.get(row.id), now)
            await session.flush()
            said: dict[str, str] = {}
            ahead = await ahead_at(session, site)
            await _keep(session, site, ahead)
            for one in ahead:
                if one.event.outcome not in {"unapproved", "held"}:
                    said.setdefault(one.event.change, one.says)
                    said[one.event.change] = said[one.event.change] or one.says
            await _note(session, site, parts, said, now)


async def _keep(session: Session, site: SiteRow, ahead: Sequence[Ahead]) -> None:
    """What the site shows from each of these moments on: whoever looks at a moment to come looks at that."""
    moments = [
        foretold_states.Foretold(
            at=moment_of(one.event.at), state=await states.keep_contents(session, one.event.live),
            says=f"{one.title} goes live" if one.event.comes == "goes" else f"{one.title} comes to its end",
        )
        for one in ahead if one.event.outcome in {"goes", "returns"}
    ]  # fmt: skip
    await foretold_states.keep(session, site.id, moments)


def _follow_the_clock(
    session: Session, site: SiteRow, row: ChangeRow, part: ChangePartRow, kept: ScheduleRow | None, now: datetime
) -> None:
    if kept is None or kept.kind != "clock":
        return
    try:
        at = moments(schedule_of(kept), clock_of(facts_of(site).zone))
    except Refusal as refused:
        part.foretold = refused.says
        session.add(part)
        return
    goes, ends = moment_of(at.goes), moment_of(at.ends) if at.ends is not None else None
    if (part.goes_at, part.ends_at) != (goes, ends):
        part.goes_at, part.ends_at = goes, ends
        session.add(part)
        ledger.write(session, "schedule",
                     f"The clock of {site.name} has other rules now: {row.title} goes at {_said(site, part)} by it, at another moment than before",
                     at=now, site_id=site.id, change=str(row.id))  # fmt: skip


async def _note(
    session: Session,
    site: SiteRow,
    parts: Mapping[str, tuple[ChangeRow, ChangePartRow]],
    said: Mapping[str, str],
    now: datetime,
) -> None:
    for change_id, (row, part) in parts.items():
        says = said.get(change_id, "")
        if says == part.foretold:
            continue
        if says:
            ledger.write(session, "schedule", f"{row.title} at {_said(site, part)}: {says}", at=now, site_id=site.id,
                         change=change_id)  # fmt: skip
            at = clock_of(facts_of(site).zone).now(cast(datetime, part.goes_at))
            stays = Stays(
                change=change_id, title=row.title, site=site.name, sites=len(await changes.parts_of(session, row.id)),
                comes="goes", at=at, why=says, ahead=True,
            )  # fmt: skip
            await tell_of_change(session, site, stays, f"ahead {change_id} {at} {says}"[:400], now)
        part.foretold = says
        session.add(part)
