"""In sync or not: what sites show against what was verified there."""

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, In, Now, Once, Someone
from sign_shelf.api.models import Answer
from sign_shelf.core.model.menu import Device
from sign_shelf.desk import drift, sync

router = APIRouter(tags=["sync"])
MOST = 200
"""Edits of one place that are told."""


class DriftEditOut(Answer):
    key: str
    says: str


class DriftOut(Answer):
    """`sure` from 0 to 1: how sure it is that entries are those that they are taken for. `edited_by`, `edited_at`: where the site
    tells."""

    location: str
    device: str
    audience: str
    """Which visitors it shows it to; empty for those of whom nothing is known."""
    edits: list[DriftEditOut]
    more: int
    """Edits that are not told here: they are taken over where all are."""
    sure: float
    since: datetime
    edited_by: str | None
    edited_at: datetime | None


class SyncOut(Answer):
    """`says`: why the site could not be read last. `state`: `unread` until it was read for the first time."""

    site: str
    name: str
    base: str
    connection: Literal["endpoint", "repository", "fetch", "observe"]
    state: Literal["in sync", "drifted", "away", "unread"]
    says: str
    read_at: datetime | None
    due_at: datetime | None
    every_minutes: int | None
    places: int
    release: UUID | None
    """Its last one."""
    release_state: str | None
    release_says: str | None
    live_at: datetime | None
    drifts: list[DriftOut]


class RhythmBody(BaseModel):
    every_minutes: int


class AdoptBody(BaseModel):
    keys: list[str] | None = Field(default=None, max_length=20_000)
    """Of the edits that are taken over; None: all."""
    audience: str = Field(default="", max_length=500)


class AdoptedOut(Answer):
    change: UUID


def _out(one: sync.InSync) -> SyncOut:
    reading = one.reading
    read = reading is not None and reading.read_at is not None
    away = reading is not None and reading.says != ""
    return SyncOut(
        site=one.site.key, name=one.site.name, base=one.site.base, connection=one.site.connection,
        state="drifted" if one.drifts else "away" if away else "in sync" if read else "unread",
        says=reading.says if reading is not None else "", read_at=reading.read_at if reading is not None else None,
        due_at=reading.due_at if reading is not None else None,
        every_minutes=reading.every_minutes if reading is not None else None,
        places=reading.places if reading is not None else 0,
        release=one.last.id if one.last is not None else None,
        release_state=one.last.state if one.last is not None else None,
        release_says=one.last.says if one.last is not None else None,
        live_at=one.lived.finished_at if one.lived is not None else None,
        drifts=[
            DriftOut(
                location=row.location, device=row.device, audience=row.audience, edits=[DriftEditOut.model_validate(edit) for edit in row.edits[:MOST]], more=max(0, len(row.edits) - MOST),
                sure=row.sure, since=row.since, edited_by=row.edited_by, edited_at=row.edited_at,
            )
            for row in one.drifts
        ],
    )  # fmt: skip


@router.get("/api/sync")
async def all_sites(
    database: Db, person: Someone, site: Annotated[str | None, Query(max_length=200)] = None
) -> list[SyncOut]:
    """Of all sites that one may look at, or of one: those that differ first."""
    async with database.transaction() as session:
        return [_out(one) for one in await sync.told(session, person, site)]


@router.post("/api/sites/{site}/sync/read", status_code=202)
async def read(site: str, database: Db, person: Someone, now: Now) -> None:
    """Reads the site as it is live, as soon as a worker can."""
    await sync.read_soon(database, person, site, now)


@router.put("/api/sites/{site}/sync", status_code=204)
async def rhythm(site: str, body: RhythmBody, database: Db, person: Someone, now: Now) -> None:
    """How often the site is read as it is live."""
    await sync.in_rhythm(database, person, site, body.every_minutes, now)


@router.post("/api/sites/{site}/places/{location}/{device}/adopt")
async def adopt(
    site: str, location: str, device: Device, body: AdoptBody, database: Db, person: Someone, view: In, key: Once,
    now: Now,
) -> AdoptedOut:  # fmt: skip
    """Takes what the site shows in a place over into the change, all of it or some of its edits."""
    change = await drift.adopt(
        database,
        person,
        site,
        location=location,
        device=device,
        keys=body.keys,
        request_key=key,
        now=now,
        view=view,
        audience=body.audience,
    )
    return AdoptedOut(change=change)
