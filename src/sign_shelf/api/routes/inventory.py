"""The pages of a site: how far they are known, what came to differ, new ones to be placed, and what goes with a page."""

import asyncio
from collections.abc import Mapping
from datetime import datetime
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Path, Query
from pydantic import AwareDatetime, BaseModel, Field

from sign_shelf.api.guards import Db, In, Now, Someone
from sign_shelf.api.lens import Seen, whole_site
from sign_shelf.api.models import Answer, PageOut
from sign_shelf.core.basics.text import Day
from sign_shelf.core.errors import NotFound
from sign_shelf.core.inventory import NewsKind
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.site import Page, PageState
from sign_shelf.core.visitors.without import Affected, Without, affected, without
from sign_shelf.desk import inventory as desk
from sign_shelf.desk import new_pages
from sign_shelf.desk.led_to import led_to_from
from sign_shelf.desk.portfolio import board, facts_of, site_row
from sign_shelf.desk.ready import ready
from sign_shelf.store import inventory, sites

router = APIRouter(prefix="/api/sites/{site}", tags=["pages"])

MOST_NEWS = 500


class ReadingOut(Answer):
    doing: str
    done: int
    of: int | None


class DoubtOut(Answer):
    """What a reading told and is not believed until somebody says so; `pages` would be gone."""

    says: str
    at: datetime
    pages: int


class SuggestedOut(Answer):
    """`parent` None: at the top of the menu; `below` is what the entry is called that it would stand below."""

    menu: str
    menu_name: str
    parent: str | None
    below: str | None
    at: int
    number: str
    because: str


class NewPageOut(Answer):
    ref: str
    path: str
    title: dict[str, str]
    type: str
    since: datetime
    noindex: bool
    led_from: list[str]
    """Names of the menus that lead there by now."""
    suggested: SuggestedOut | None


class DismissedPageOut(Answer):
    """Dismissed by somebody, and still there."""

    ref: str
    path: str
    title: dict[str, str]
    at: datetime
    by: str


class VersionOut(Answer):
    version: int
    at: datetime
    news: int


class InventoryOut(Answer):
    version: int
    every: str
    read_at: datetime | None
    due_at: datetime | None
    reading: ReadingOut | None
    """While it is read."""
    says: str
    """Why the last reading came to nothing; empty where it did not."""
    notes: list[str]
    doubt: DoubtOut | None
    new: list[NewPageOut]
    left_out: list[DismissedPageOut]
    versions: list[VersionOut]


class WindowOut(Answer):
    """As written: from when and until when an entry shows."""

    opens: str | None
    closes: str | None


class BearsOnOut(Answer):
    """The places and audiences that have the page, or would have it if it were there; when entries that lead there begin and end."""

    places: list[str]
    audiences: list[str]
    windows: list[WindowOut]


class NewsOut(Answer):
    """A difference. `menus` lead to the page, as it is live or in the change that one looks in."""

    version: int
    at: datetime
    kind: NewsKind
    ref: str
    title: str
    path: str
    was: str | None
    """Its address before, where it moved."""
    because: str
    differs: list[str]
    menus: list[str]
    bears_on: BearsOnOut


class SightingOut(Answer):
    """What is known of one page. `status` is the last HTTP status; `seen_at` when it was there last."""

    ref: str
    path: str
    title: dict[str, str]
    type: str
    state: PageState
    language: str | None
    noindex: bool
    parts: list[str]
    overlays: list[str]
    alternates: dict[str, str]
    status: int | None
    asked_at: datetime | None
    seen_at: datetime | None
    ends: str | None


class EntryOut(Answer):
    menu: str
    menu_name: str
    item: str
    number: str
    label: str
    lists: bool
    opens: str | None
    closes: str | None


class HadByOut(Answer):
    location: str
    title: str
    device: Device
    audiences: list[str]


class CutOffOut(Answer):
    device: Device
    pages: list[str]
    """Titles."""


class WithoutOut(Answer):
    """What the site loses with the page."""

    page: SightingOut
    entries: list[EntryOut]
    had_by: list[HadByOut]
    below: list[str]
    cut_off: list[CutOffOut]


class DoubtBody(BaseModel):
    believe: bool


class PlaceBody(BaseModel):
    ref: str = Field(max_length=200)
    menu: str = Field(max_length=200)
    parent: str | None = Field(default=None, max_length=200)
    at: int = Field(ge=0, le=100_000)


class PlacedOut(Answer):
    menu: str
    item: str
    change: UUID


class DismissBody(BaseModel):
    refs: list[str] = Field(max_length=1_000)


class DismissedOut(Answer):
    pages: int


class EndBody(BaseModel):
    ends: Day | None


@router.get("/inventory")
async def look(site: str, database: Db, person: Someone, view: In) -> InventoryOut:
    """How far the site's pages are known, and new ones that wait to be placed."""
    async with database.transaction() as session:
        found = await board(session, person, site, view)
        reading = await inventory.reading_of(session, found.site.id)
        fresh = await new_pages.new_pages(session, found)
        dismissed = await new_pages.left_out(session, found)
        versions = await inventory.versions(session, found.site.id, 10)
    doubt = reading.doubt if reading is not None else None
    every = facts_of(found.site).pages.every
    return InventoryOut(
        version=found.site.inventory,
        every=every,
        read_at=reading.read_at if reading is not None else None,
        due_at=reading.due_at if reading is not None and every != "never" else None,
        reading=ReadingOut(**reading.progress) if reading is not None and reading.progress is not None else None,
        says=reading.says if reading is not None else "",
        notes=reading.notes if reading is not None else [],
        doubt=DoubtOut(says=doubt["says"], at=doubt["at"], pages=len(doubt["lost"])) if doubt is not None else None,
        new=[_new(one) for one in fresh],
        left_out=[
            DismissedPageOut(ref=one.page.ref, path=one.page.path, title=one.page.title, at=one.at, by=one.by)
            for one in dismissed[:500]
        ],
        versions=[VersionOut(version=one.version, at=one.at, news=one.news) for one in versions],
    )


def _new(one: new_pages.NewPage) -> NewPageOut:
    there = one.suggested
    return NewPageOut(
        ref=one.page.ref, path=one.page.path, title=one.page.title, type=one.page.type, since=one.since,
        noindex=one.page.noindex, led_from=list(one.led_from),
        suggested=SuggestedOut(
            menu=there.placing.menu, menu_name=there.menu_name, parent=there.placing.parent, below=there.below,
            at=there.placing.at, number=there.number, because=there.placing.because,
        )
        if there is not None else None,
    )  # fmt: skip


@router.post("/inventory/read", status_code=202)
async def read_now(site: str, database: Db, person: Someone, now: Now) -> None:
    """The site's pages are read as soon as a worker can."""
    await desk.read_now(database, person, site, now)


@router.put("/inventory/doubt", status_code=204)
async def answer_doubt(site: str, body: DoubtBody, database: Db, person: Someone, now: Now) -> None:
    """Whether pages that a reading missed are gone, or stay."""
    await desk.answer_doubt(database, person, site, believe=body.believe, now=now)


@router.get("/inventory/news")
async def news(
    site: str, database: Db, person: Someone, view: In, seen: Seen, now: Now,
    since: Annotated[AwareDatetime, Query(description="From this moment on, such as 2026-11-23T00:00:00Z.")],
) -> list[NewsOut]:  # fmt: skip
    """What came to differ on the site, the newest first, with the menus, places, audiences and dates that it bears on."""
    async with database.transaction() as session:
        found = await board(session, person, site, view)
        rows = await inventory.news_since(session, found.site.id, since, MOST_NEWS)
        prepared = await ready(session, found) if rows else None
        pages = prepared.addresses.pages if prepared is not None else {}
        led = await led_to_from(session, found, [pages[ref] for ref in {row.ref for row in rows} if ref in pages])
    if prepared is None:
        return []
    lens = seen.of(prepared.site, now)
    bears_on = await asyncio.to_thread(affected, prepared, {row.ref for row in rows}, lens)
    titles = {one.key: one.title for one in prepared.site.template.locations}
    return [
        NewsOut(
            version=row.version, at=row.at, kind=row.kind, ref=row.ref, because=row.because, menus=led.get(row.ref, []),
            title=next(iter(row.after.get("title", {}).values()), row.after["path"]), path=row.after["path"],
            was=row.before["path"] if row.before is not None and row.before["path"] != row.after["path"] else None,
            differs=_differs(row.before, row.after) if row.kind == "changed" else [],
            bears_on=_bears_on(bears_on.get(row.ref), titles),
        )
        for row in rows
    ]  # fmt: skip


def _bears_on(what: Affected | None, titles: Mapping[str, str]) -> BearsOnOut:
    had_by = what.had_by if what is not None else ()
    windows = what.windows if what is not None else ()
    return BearsOnOut(
        places=list(dict.fromkeys(titles[one.location] for one in had_by)),
        audiences=list(dict.fromkeys(name for one in had_by for name in one.audiences)),
        windows=[WindowOut(opens=opens, closes=closes) for opens, closes in dict.fromkeys(windows)],
    )


def _differs(before: dict[str, Any] | None, after: dict[str, Any]) -> list[str]:
    """In words: what of the page is another."""
    if before is None:
        return []
    found = []
    was, is_now = (next(iter(one.get("title", {}).values()), "") for one in (before, after))
    if was != is_now:
        found.append(f"it was called {was}")
    for name, says in (("parts", "part"), ("overlays", "overlay")):
        gone = [f"#{one}" for one in before.get(name, []) if one not in after.get(name, [])]
        if gone:
            found.append(f"{says} {', '.join(gone[:5])} {'is' if len(gone) == 1 else 'are'} gone")
    if before.get("noindex", False) != after.get("noindex", False):
        found.append("asks search engines to leave it out" if after.get("noindex") else "lets search engines have it")
    if before.get("type") != after.get("type"):
        found.append(f"is {after.get('type', 'page')}, was {before.get('type', 'page')}")
    return found


@router.get("/inventory/versions/{version}")
async def version(
    site: str, version: Annotated[int, Path(ge=0, le=2_000_000_000)], database: Db, person: Someone
) -> list[PageOut]:
    """The pages as they were in that version of the inventory."""
    async with database.transaction() as session:
        row = await site_row(session, person, site)
        pages = await inventory.pages_at(session, row.id, version, await sites.pages_of_site(session, row.id))
    return [
        PageOut(ref=one.ref, path=one.path, title=one.title, type=one.type, state=one.state, parts=list(one.parts), places=[])
        for one in pages
    ]  # fmt: skip


@router.post("/inventory/place")
async def place(site: str, body: PlaceBody, database: Db, person: Someone, view: In, now: Now) -> PlacedOut:
    """Puts an entry that leads to the page into a menu, in the change in which one works."""
    done = await new_pages.place(
        database, person, site, body.ref, menu=body.menu, parent=body.parent, at=body.at, view=view, now=now
    )
    return PlacedOut(menu=done.menu, item=done.item, change=done.change)


@router.post("/inventory/dismiss")
async def dismiss(site: str, body: DismissBody, database: Db, person: Someone, now: Now) -> DismissedOut:
    """These new pages are in no menu on purpose."""
    return DismissedOut(pages=await new_pages.dismiss(database, person, site, body.refs, now))


@router.post("/inventory/bring-back")
async def bring_back(site: str, body: DismissBody, database: Db, person: Someone, now: Now) -> DismissedOut:
    """These, which were dismissed, wait to be placed after all."""
    return DismissedOut(pages=await new_pages.bring_back(database, person, site, body.refs, now))


@router.get("/inventory/pages/{ref}/without")
async def what_if(site: str, ref: str, database: Db, person: Someone, view: In, now: Now, seen: Seen) -> WithoutOut:
    """What goes with a page: entries, places and audiences that have it, and pages that only it leads to."""
    prepared = await whole_site(database, person, site, view, seen.when(now))
    page = prepared.addresses.pages.get(ref)
    if page is None:
        raise NotFound(f"The site has no page @{ref}.", where=f"sites/{site}/inventory/pages/{ref}")
    lens = seen.of(prepared.site, now)
    told = await asyncio.to_thread(without, prepared, ref, lens)
    async with database.transaction() as session:
        row = await sites.site_by_key(session, site)
        sightings = await inventory.sightings(session, row.id) if row is not None else {}
    seen_row = sightings.get(ref)
    document = prepared.site
    titles = {one.key: one.title for one in document.template.locations}
    return WithoutOut(
        page=SightingOut(
            ref=page.ref, path=page.path, title=page.title, type=page.type, state=page.state, language=page.language,
            noindex=page.noindex, parts=list(page.parts), overlays=list(page.overlays), ends=page.ends,
            alternates=seen_row.alternates if seen_row is not None else {},
            status=seen_row.status if seen_row is not None else None,
            asked_at=seen_row.asked_at if seen_row is not None else None,
            seen_at=seen_row.seen_at if seen_row is not None else None,
        ),
        entries=[
            EntryOut(
                menu=one.menu, menu_name=document.menus[one.menu].name, item=one.item, number=one.number, label=one.label,
                lists=one.lists, opens=one.opens, closes=one.closes,
            )
            for one in told.entries
        ],
        had_by=[
            HadByOut(location=one.location, title=titles[one.location], device=one.device, audiences=list(one.audiences))
            for one in told.had_by
        ],
        below=[_title(prepared.addresses.pages[ref]) for ref in told.below],
        cut_off=_cut_off(told, prepared.addresses.pages),
    )  # fmt: skip


def _cut_off(told: Without, pages: Mapping[str, Page]) -> list[CutOffOut]:
    return [
        CutOffOut(device=device, pages=[_title(pages[ref]) for ref in refs]) for device, refs in told.cut_off.items()
    ]


def _title(page: Page) -> str:
    return next(iter(page.title.values()), page.path)


@router.put("/inventory/pages/{ref}/ends", status_code=204)
async def plan_end(site: str, ref: str, body: EndBody, database: Db, person: Someone, now: Now) -> None:
    """The day from which on the page will not be there; null takes it back."""
    await desk.plan_end(database, person, site, ref, body.ends, now)
