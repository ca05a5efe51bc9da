"""When changes go live and come back, what is ahead of all sites, and when nothing may go live."""

from datetime import datetime
from typing import Literal
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, Now, Someone
from sign_shelf.api.models import Answer
from sign_shelf.api.routes.changes import ConflictOut, conflicts_out
from sign_shelf.core.basics.clock import clock_of, moment_of
from sign_shelf.core.changes.queue import Outcome
from sign_shelf.core.changes.schedule import AtOnce, ByTheClock, Schedule
from sign_shelf.core.changes.season import Season
from sign_shelf.core.compare import Side
from sign_shelf.desk import freezes, give_back, schedule, seasons, windows
from sign_shelf.desk.portfolio import facts_of

router = APIRouter(tags=["schedules"])
MOST_TOLD = 5


class HoldBody(BaseModel):
    says: str = Field(default="", max_length=400)


class UndoBody(BaseModel):
    """`site`: at this one alone. `choices`: of what went live since and builds on it, "ours" what is live, "theirs" what was
    before."""

    site: str | None = Field(default=None, max_length=200)
    choices: dict[str, Side] = {}


class UndoneOut(Answer):
    releases: list[UUID]


class AheadOut(Answer):
    """A moment at a site. `at` is the instant, `reading` what the site's clock shows then. `says`: what stands in its way by what is
    known now; empty where nothing does."""

    change: UUID
    title: str
    site: str
    site_name: str
    zone: str
    at: datetime
    reading: str
    comes: Literal["goes", "ends"]
    outcome: Outcome
    by: UUID | None
    says: str
    does: tuple[str, ...]
    """The first of what differs at the site from then on, in sentences."""
    more: int
    since: datetime | None
    """Of an end: since when the change is live; null where it is to go live first."""


class FreezeBody(BaseModel):
    """Readings of the site's clock, or of each site's own where none is named."""

    site: str | None = Field(default=None, max_length=200)
    begins: str = Field(max_length=40)
    ends: str = Field(max_length=40)
    why: str = Field(max_length=400)


class FreezeOut(Answer):
    id: UUID
    site: str | None
    site_name: str | None
    begins: str
    ends: str
    why: str
    by: str | None


class MadeOut(Answer):
    id: UUID


@router.put("/api/changes/{change}/schedule", status_code=204)
async def set_schedule(change: UUID, body: Schedule, database: Db, person: Someone, now: Now) -> None:
    """By each site's own clock, or at one instant. Where it is not approved, it goes only if it is by then."""
    assert isinstance(body, ByTheClock | AtOnce)
    await schedule.set_schedule(database, person, change, body, now)


@router.delete("/api/changes/{change}/schedule", status_code=204)
async def take_off(change: UUID, database: Db, person: Someone, now: Now) -> None:
    """It has no moment any more."""
    await schedule.take_off(database, person, change, now)


class SeasonOccurrenceOut(Answer):
    """A coming year's occurrence of a change that comes back every year, at a site: `change` is the newest that is one by now."""

    change: UUID
    title: str
    site: str
    site_name: str
    zone: str
    goes: datetime
    goes_reading: str
    ends: datetime
    ends_reading: str
    approved: bool


@router.put("/api/changes/{change}/season", status_code=204)
async def set_season(change: UUID, body: Season, database: Db, person: Someone, now: Now) -> None:
    """It comes back every year, by the moments that it has."""
    await seasons.set_season(database, person, change, body, now)


@router.delete("/api/changes/{change}/season", status_code=204)
async def end_season(change: UUID, database: Db, person: Someone, now: Now) -> None:
    """It comes back every year no more; this year's stays as it is."""
    await seasons.end_season(database, person, change, now)


@router.get("/api/seasons")
async def to_come(database: Db, person: Someone) -> list[SeasonOccurrenceOut]:
    """What comes in the next years of changes that come back every year, at all sites that one may look at."""
    return [
        SeasonOccurrenceOut(
            change=one.change, title=one.season.title, site=one.site.key, site_name=one.site.name,
            zone=facts_of(one.site).zone, goes=moment_of(one.at.goes), ends=moment_of(str(one.at.ends)),
            goes_reading=clock_of(facts_of(one.site).zone).reading_at(one.at.goes),
            ends_reading=clock_of(facts_of(one.site).zone).reading_at(str(one.at.ends)), approved=one.season.approved,
        )
        for one in await seasons.to_come(database, person)
    ]  # fmt: skip


@router.post("/api/changes/{change}/hold", status_code=204)
async def hold(change: UUID, body: HoldBody, database: Db, person: Someone, now: Now) -> None:
    """It does not go when its moment comes."""
    await schedule.hold(database, person, change, says=body.says, now=now)


@router.post("/api/changes/{change}/let-go", status_code=204)
async def let_go(change: UUID, database: Db, person: Someone, now: Now) -> None:
    await schedule.let_go(database, person, change, now)


@router.post("/api/changes/{change}/undo", status_code=202)
async def undo(change: UUID, body: UndoBody, database: Db, person: Someone, now: Now) -> UndoneOut:
    """What was live before is live again, with what was edited since; a release at each site."""
    made = await give_back.undo(database, person, change, at_site=body.site, choices=body.choices, now=now)
    return UndoneOut(releases=made)


class UndoMeetsOut(Answer):
    """What has to be chosen at a site before a change is undone there: "ours" is what is live, "theirs" what was before."""

    site: str
    site_name: str
    conflicts: list[ConflictOut]


@router.get("/api/changes/{change}/undo")
async def undo_meets(change: UUID, database: Db, person: Someone) -> list[UndoMeetsOut]:
    """The sites at which something that went live since builds on what would be undone."""
    return [
        UndoMeetsOut(site=site.key, site_name=site.name, conflicts=conflicts_out(told))
        for site, told in await give_back.meets(database, person, change)
    ]


@router.get("/api/ahead")
async def ahead(database: Db, person: Someone) -> list[AheadOut]:
    """Every moment that is still to come, at all sites that one may look at, with what stands in its way."""
    return [
        AheadOut(
            change=UUID(one.event.change), title=one.title, site=one.site.key, site_name=one.site.name,
            zone=facts_of(one.site).zone, at=moment_of(one.event.at), reading=one.reading, comes=one.event.comes,
            outcome=one.event.outcome, by=UUID(one.event.by) if one.event.by else None, says=one.says, since=one.since, does=one.does[:MOST_TOLD], more=max(0, len(one.does) - MOST_TOLD),
        )
        for one in await schedule.all_ahead(database, person)
    ]  # fmt: skip


class EntryWindowOut(Answer):
    """From when until when a live entry shows; null where it is open to that side."""

    site: str
    menu: str
    item: str
    label: str
    opens: datetime | None
    closes: datetime | None


@router.get("/api/windows")
async def windows_ahead(database: Db, person: Someone, now: Now) -> list[EntryWindowOut]:
    """Of live entries that come or go by themselves, at all sites that one may look at."""
    return [
        EntryWindowOut(
            site=one.site.key, menu=one.menu, item=one.item, label=one.label,
            opens=moment_of(one.opens) if one.opens else None, closes=moment_of(one.closes) if one.closes else None,
        )
        for one in await windows.ahead(database, person, now)
    ]  # fmt: skip


@router.get("/api/freezes")
async def all_freezes(database: Db, person: Someone) -> list[FreezeOut]:
    """The agency's, and those of sites that one may look at; the first to begin first."""
    return [
        FreezeOut(
            id=one.row.id, site=one.site.key if one.site else None, site_name=one.site.name if one.site else None,
            begins=one.row.begins, ends=one.row.ends, why=one.row.why, by=one.by,
        )
        for one in await freezes.all_of(database, person)
    ]  # fmt: skip


@router.post("/api/freezes", status_code=201)
async def freeze(body: FreezeBody, database: Db, person: Someone, now: Now) -> MadeOut:
    """Nothing goes live from one moment to the other."""
    made = await freezes.add(
        database, person, site_key=body.site, begins=body.begins, ends=body.ends, why=body.why, now=now
    )
    return MadeOut(id=made)


@router.delete("/api/freezes/{freeze}", status_code=204)
async def end(freeze: UUID, database: Db, person: Someone, now: Now) -> None:
    await freezes.end(database, person, freeze, now)
