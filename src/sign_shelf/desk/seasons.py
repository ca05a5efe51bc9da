"""Changes that come back every year. When this year's is over, next year's is made: a change of its own, with its moment, which does
what this one did on top of what is live by then. Where that was approved and is nothing else, it stays approved if so agreed."""

import re
from dataclasses import dataclass
from datetime import datetime
from itertools import islice
from typing import cast
from uuid import UUID

from sign_shelf.core.basics.clock import clock_of, instant_of, moment_of
from sign_shelf.core.changes.schedule import AtOnce, ByTheClock, Moments, moments
from sign_shelf.core.changes.season import Day, Season, checked, occurrences, said_yearly
from sign_shelf.core.errors import Clash, ClockRefused
from sign_shelf.desk.move_on import move_on
from sign_shelf.desk.permission import Person, may
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.desk.review import Reviewed, one_change, reviewed
from sign_shelf.store import changes, ledger, people, reviews, seasons, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ChangeRow, ScheduleRow, SeasonRow, SiteRow

SHOWN = 3
"""Occurrences that are told of, ahead of the newest that is a change by now."""
_YEAR = re.compile(r"\s+\d{4}$")


def season_of(row: SeasonRow) -> Season:
    return Season(goes=cast(Day, row.goes_on), ends=cast(Day, row.ends_on), approved=row.approved)


async def set_season(database: Database, person: Person, change_id: UUID, asked: Season, now: datetime) -> None:
    """The change comes back every year from now on, by the moments that it has. Raises EditRefused where it has no end, Clash where
    it has no moment."""
    async with database.transaction() as session:
        found = await one_change(session, person, change_id, "put live", lock=True)
        kept = found.schedule
        if kept is None or found.row.state in {"withdrawn", "undone", "ended"}:
            raise Clash(f"{found.row.title} has no moment that could come again.", where=f"changes/{change_id}",
                        remedy="Say when it goes live and when it comes back.")  # fmt: skip
        checked(kept.goes, kept.ends, asked)
        await _stop(session, found, person, now, told=False)
        row = SeasonRow(
            title=_YEAR.sub("", found.row.title), kind=kept.kind, goes=kept.goes, ends=cast(str, kept.ends), goes_on=asked.goes,
            ends_on=asked.ends, approved=asked.approved, set_by=person.id, set_at=now,
        )  # fmt: skip
        session.add(row)
        await session.flush()
        kept.season_id, kept.years = row.id, 0
        session.add(kept)
        said = said_yearly(kept.goes, row.ends, asked)
        _tell(session, found, f"{found.row.title} comes back every year, {said}", person, now)


async def end_season(database: Database, person: Person, change_id: UUID, now: datetime) -> None:
    """This year's stays as it is. Raises Clash where it comes back anyway not."""
    async with database.transaction() as session:
        found = await one_change(session, person, change_id, "put live", lock=True)
        if not await _stop(session, found, person, now, told=True):
            raise Clash(f"{found.row.title} does not come back every year.", where=f"changes/{change_id}")


async def _stop(session: Session, found: Reviewed, person: Person, now: datetime, *, told: bool) -> bool:
    if found.schedule is None or found.schedule.season_id is None:
        return False
    row = await seasons.season(session, found.schedule.season_id, lock=True)
    if row is None or row.over_at is not None:
        return False
    row.over_at = now
    session.add(row)
    if told:
        _tell(session, found, f"{found.row.title} comes back every year no more", person, now)
    return True


def _tell(session: Session, found: Reviewed, says: str, person: Person | None, now: datetime) -> None:
    for site, _ in found.parts:
        ledger.write(session, "schedule", says, at=now, person_id=person.id if person else None, site_id=site.id,
                     change=str(found.row.id))  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Comes:
    """A year's occurrence at a site: instants, in minutes of UTC."""

    season: SeasonRow
    change: UUID
    site: SiteRow
    at: Moments


async def to_come(database: Database, person: Person) -> list[Comes]:
    """What comes in the years after the newest that is a change by now, at sites that the person may look at."""
    async with database.transaction() as session:
        going_on = await seasons.going_on(session)
        every = {row.id: row for row in await sites.all_sites(session)}
        at_sites: dict[UUID, list[SiteRow]] = {}
        for part in await changes.all_parts_of(session, [newest.change_id for _, newest in going_on]):
            at_sites.setdefault(part.change_id, []).append(every[part.site_id])
    return [
        Comes(season=row, change=newest.change_id, site=site, at=_moments(row, site, goes, ends)[0])
        for row, newest in going_on
        for site in at_sites.get(newest.change_id, ())
        if site.archived_at is None and may(person, "look", site.key)
        for _, goes, ends in islice(
            occurrences(row.goes, row.ends, season_of(row), after=newest.years + 1), SHOWN
        )
    ]  # fmt: skip


def _moments(row: SeasonRow, site: SiteRow, goes: str, ends: str) -> tuple[Moments, str]:
    """And what was moved, in words: an hour that a clock does not show that year, or shows twice, is the nearest that it shows."""
    asked: ByTheClock | AtOnce
    told = ""
    while True:
        asked = (AtOnce if row.kind == "instant" else ByTheClock)(goes=goes, ends=ends)
        try:
            return moments(asked, clock_of(facts_of(site).zone)), told
        except ClockRefused as refused:
            if not refused.offers:
                raise
            told = f"{refused.says} It is {refused.offers[0]} instead."
            goes, ends = (goes, refused.offers[0]) if refused.where == "ends" else (refused.offers[0], ends)


async def come_again(database: Database, now: datetime) -> int:
    """Makes next year's of all that are over. How many were made."""
    async with database.transaction() as session:
        due = await seasons.to_come_again(session, now)
    made = 0
    for season_id in due:
        async with database.transaction() as session:
            made += await _next(session, season_id, now)
    return made


async def _next(session: Session, season_id: UUID, now: datetime) -> bool:
    row = await seasons.season(session, season_id, lock=True)
    newest = await seasons.newest(session, season_id)
    if (
        row is None
        or newest is None
        or row.over_at is not None
        or season_id not in await seasons.to_come_again(session, now)
    ):
        return False
    before_row = await changes.change_by_id(session, newest.change_id)
    assert before_row is not None
    (before,) = await reviewed(session, [before_row])
    if before.row.state == "withdrawn":
        row.over_at = now
        session.add(row)
        _tell(session, before, f"{row.title} comes back every year no more: this year's was withdrawn", None, now)
        return False
    years, goes, ends = next(
        one
        for one in occurrences(row.goes, row.ends, season_of(row), after=newest.years + 1)
        if all(_moments(row, site, one[1], one[2])[0].goes > instant_of(now) for site, _ in before.parts)
    )
    author = await people.person_by_id(session, before.row.author_id) if before.row.author_id is not None else None
    change = await changes.begin(
        session, title=f"{row.title} {goes[:4]}", why=before.row.why, author_id=author.id if author else None, at=now,
        parts=[(site.id, part.base) for site, part in before.parts],
    )  # fmt: skip
    kept = ScheduleRow(change_id=change.id, kind=row.kind, goes=goes, ends=ends, set_by=row.set_by, set_at=now,
                       season_id=row.id, years=years)  # fmt: skip
    session.add(kept)
    for site, part in sorted(before.parts, key=lambda one: one[0].id):
        mine = await changes.part_of(session, change.id, site.id, lock=True)
        assert mine is not None
        at, moved = _moments(row, site, goes, ends)
        mine.head, mine.goes_at, mine.ends_at = part.head, moment_of(at.goes), moment_of(cast(str, at.ends))
        session.add(mine)
        if moved:
            ledger.write(
                session, "schedule", f"{change.title}: {moved}", at=now, site_id=site.id, change=str(change.id)
            )
    await session.flush()
    await _stands(session, before, change, approved=row.approved, now=now)
    for site, _ in sorted(before.parts, key=lambda one: one[0].id):
        locked = await sites.site_by_id(session, site.id, lock=True)
        mine = await changes.part_of(session, change.id, site.id, lock=True)
        assert mine is not None
        await move_on(session, locked, change, mine, now)
    (made,) = await reviewed(session, [change])
    _tell(session, made, f"{change.title} is {change.state}: {row.title} comes back every year", None, now)
    return True


async def _stands(session: Session, before: Reviewed, change: ChangeRow, *, approved: bool, now: datetime) -> None:
    """Approved by whoever approved what it was, where that was agreed and it went live as it was approved."""
    (after,) = await reviewed(session, [change])
    went = before.row.state == "ended"
    if approved and went:
        await reviews.hold_on(session, before.approvals, after.content, now, change_id=change.id)
        (after,) = await reviewed(session, [change])
    change.state = "scheduled" if approved and went and after.is_approved else "in review"
    session.add(change)
    await session.flush()
