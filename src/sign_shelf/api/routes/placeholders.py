"""Entries that lead nowhere yet, at all sites: who owes which and until when, and the page that fits one."""

from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, In, Now, Someone
from sign_shelf.api.models import Answer
from sign_shelf.desk import placeholders as desk

router = APIRouter(prefix="/api/placeholders", tags=["findings"])


class FitsOut(Answer):
    ref: str
    title: str
    path: str
    because: str


class PlaceholderOut(Answer):
    """`late`: its due day has come, on the site's own calendar; `live`: visitors would get it if it led anywhere."""

    site: str
    site_name: str
    menu: str
    menu_name: str
    item: str
    number: str
    label: str
    note: str | None
    owner: str | None
    due: str | None
    late: bool
    live: bool
    fits: FitsOut | None


class LeadBody(BaseModel):
    site: str = Field(max_length=200)
    menu: str = Field(max_length=200)
    item: str = Field(max_length=200)
    page: str = Field(max_length=200)


class LedOut(Answer):
    change: UUID


@router.get("")
async def placeholders(database: Db, person: Someone, view: In, now: Now) -> list[PlaceholderOut]:
    """What is due first comes first; what has no day comes last."""
    async with database.transaction() as session:
        found = await desk.placeholders(session, person, view, now)
    return [
        PlaceholderOut(
            site=one.site.key, site_name=one.site.name, menu=one.menu, menu_name=one.menu_name, item=one.item,
            number=one.number, label=one.label, note=one.pending.note, owner=one.pending.owner, due=one.pending.due,
            late=one.late, live=one.live,
            fits=FitsOut(
                ref=one.page.ref, title=next(iter(one.page.title.values()), one.page.path), path=one.page.path,
                because=one.fits.because,
            )
            if one.fits is not None and one.page is not None else None,
        )
        for one in found
    ]  # fmt: skip


@router.post("/lead")
async def lead(body: LeadBody, database: Db, person: Someone, view: In, now: Now) -> LedOut:
    """The entry leads to the page from now on, in the change in which one works."""
    change = await desk.lead(
        database, person, body.site, menu=body.menu, item=body.item, page=body.page, view=view, now=now
    )
    return LedOut(change=change)
