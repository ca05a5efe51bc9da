import asyncio
import json
from datetime import datetime
from typing import Annotated, Literal
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from sign_shelf.api import views
from sign_shelf.api.guards import Db, In, Now, Someone
from sign_shelf.api.lens import Seen
from sign_shelf.api.models import Answer, Cell, PageOut, SitePage
from sign_shelf.core.formats.whole_site import site_to_csv, site_to_print
from sign_shelf.desk import take_back
from sign_shelf.desk.led_to import led_to_from
from sign_shelf.desk.portfolio import Board, board, site_row
from sign_shelf.desk.ready import ready
from sign_shelf.desk.report import report as written_report
from sign_shelf.desk.take_back import MenuEdits
from sign_shelf.store import foretold, keys, releases, sites
from sign_shelf.store.database import Session

router = APIRouter(prefix="/api/sites/{site}", tags=["sites"])


class SiteEditOut(Answer):
    """An edit of the site itself: its template, a place, a look."""

    key: str
    says: str


class DraftOut(Answer):
    site: list[SiteEditOut]
    menus: tuple[MenuEdits, ...]


class TakeBackKeys(BaseModel):
    keys: list[str] = Field(max_length=500)


class ThenOut(Answer):
    """What hangs where at a moment to come. `says` None where nothing that is scheduled has changed the site by then."""

    says: str | None
    cells: list[Cell]
    names: dict[str, str]
    """What the menus are called then, by their keys."""


async def whole_site_page(session: Session, found: Board, now: datetime) -> SitePage:
    pages = await sites.count_pages(session, found.site.id)
    steps = await releases.steps_of(session, found.release.id) if found.release else []
    made = await keys.made(session, found.site.id)
    return views.site_page(
        found, pages=pages, steps=steps, keys=[one for one in made if one.until is None or one.until > now]
    )


@router.get("")
async def site(site: str, database: Db, person: Someone, view: In, now: Now) -> SitePage:
    async with database.transaction() as session:
        return await whole_site_page(session, await board(session, person, site, view), now)


@router.get("/hanging-then")
async def hanging_then(site: str, database: Db, person: Someone, view: In, now: Now, seen: Seen) -> ThenOut:
    """What hangs where at the lens's moment, by what is approved and scheduled; with the change that one looks in on top."""
    async with database.transaction() as session:
        found = await board(session, person, site, view, seen.when(now))
        moment = seen.when(now)(found.site)
        coming = [one for one in await foretold.at_site(session, found.site.id) if moment and one.at <= moment]
    names = {key: menu.document.name for key, menu in found.menus.items()}
    return ThenOut(says=coming[-1].says if coming else None, cells=views.cells(found), names=names)


PRINTED = "sandbox allow-modals; default-src 'none'; style-src 'unsafe-inline'"


@router.get("/export/{form}", response_class=Response)
async def export(
    site: str, form: Literal["csv", "print", "json"], database: Db, person: Someone, view: In, now: Now
) -> Response:
    """All menus of the site: a table, a page for printing, or the whole site document."""
    async with database.transaction() as session:
        whole = (await ready(session, await board(session, person, site, view))).site
    if form == "print":
        local = now.astimezone(ZoneInfo(whole.site.zone))
        page = await asyncio.to_thread(site_to_print, whole, day=f"{local.day} {local:%B %Y}")
        return Response(page, media_type="text/html", headers={"content-security-policy": PRINTED})

    def text() -> str:
        if form == "csv":
            return site_to_csv(whole)
        return json.dumps(whole.to_json(), ensure_ascii=False, indent=2) + "\n"

    kind = "text/csv" if form == "csv" else "application/json"
    headers = {"content-disposition": f'attachment; filename="{site}.{form}"'}
    return Response(await asyncio.to_thread(text), media_type=kind, headers=headers)


@router.get("/report", response_class=Response)
async def report(
    site: str, database: Db, person: Someone, now: Now,
    month: Annotated[str, Query(max_length=10, description="Such as 2026-11.")],
) -> Response:  # fmt: skip
    """The client's month as a page for printing: what changed and why, what was found and mended, what is to come."""
    page = await written_report(database, person, site, month, now)
    return Response(page, media_type="text/html", headers={"content-security-policy": PRINTED})


@router.get("/pages")
async def pages(
    site: str,
    database: Db,
    person: Someone,
    view: In,
    words: Annotated[str, Query(max_length=200)] = "",
    limit: Annotated[int, Query(ge=1, le=500)] = 20,
    places: Annotated[bool, Query(description="Whether to tell which menus lead to each page.")] = False,
) -> list[PageOut]:
    """Pages of the inventory that hold all the words in title, address or type."""
    async with database.transaction() as session:
        row = await site_row(session, person, site)
        pages = await sites.search_pages(session, row.id, words.replace("\0", ""), limit)
        led = await led_to_from(session, await board(session, person, site, view), pages) if places else {}
    return [
        PageOut(
            ref=page.ref,
            path=page.path,
            title=page.title,
            type=page.type,
            state=page.state,
            parts=list(page.parts),
            places=led.get(page.ref, []),
        )
        for page in pages
    ]


@router.get("/draft")
async def draft(site: str, database: Db, person: Someone, view: In) -> DraftOut:
    """What the draft changes against what is live: of the site itself, and how much of which menus."""
    async with database.transaction() as session:
        found = await take_back.draft_edits(session, await board(session, person, site, view))
    return DraftOut(
        site=[SiteEditOut(key=edit.key, says=edit.says) for edit in found.site],
        menus=found.menus,
    )


@router.post("/draft/take-back", status_code=204)
async def take_draft_back(site: str, body: TakeBackKeys, database: Db, person: Someone, view: In, now: Now) -> None:
    """Makes edits of the site undone, each named by its key."""
    await take_back.take_back(database, person, site, body.keys, now, view=view)
