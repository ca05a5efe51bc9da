"""A site's menus on the bench: read, saved, merged, resolved, exported."""

import asyncio
from typing import Any

from fastapi import APIRouter, Response

from sign_shelf.api import views
from sign_shelf.api.documents import Menu
from sign_shelf.api.guards import Db, Expected, In, Language, Now, Once, Someone
from sign_shelf.api.lens import Seen
from sign_shelf.api.models import (
    ArchivedBody,
    BenchPage,
    CreatedMenu,
    CreateMenuBody,
    Edits,
    HiddenOut,
    ListedPage,
    ListingBody,
    ListingOut,
    ResolvedPage,
    SavedOut,
    SettleBody,
    WorkedOut,
)
from sign_shelf.api.routes.sites import whole_site_page
from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.checks import Checked, Finding, SiteView
from sign_shelf.core.compare import diff_documents
from sign_shelf.core.drawing.strip import count_entries, first_entries, strip_html
from sign_shelf.core.errors import InvalidDocument, Problem
from sign_shelf.core.formats import Writable, write_menu
from sign_shelf.core.model.documents import read_menu
from sign_shelf.core.model.menu import MenuDocument, menu_document
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.template import Location
from sign_shelf.core.model.tree import targeted_pages
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.resolve import resolve_items
from sign_shelf.core.resolve.listing import listed_pages
from sign_shelf.desk import edit, put_away
from sign_shelf.desk.portfolio import board, facts_of, menu_on_shelf, site_row
from sign_shelf.desk.ready import ready
from sign_shelf.desk.whose import whose_edits
from sign_shelf.store import menus, states
from sign_shelf.store.database import Session
from sign_shelf.store.tables import ChangeRow, SiteRow

router = APIRouter(prefix="/api/sites/{site}/menus", tags=["menus"])


async def _changes(
    session: Session, site: SiteRow, menu: str, change: ChangeRow | None, live: str | None, document: MenuDocument
) -> Edits:
    """Against what is live, whose tree has the name `live`; whose they are, where they are a change's."""
    language = facts_of(site).languages[0]
    before = await menus.document(session, live) if live else menu_document(document.name)
    edits = await asyncio.to_thread(diff_documents, before, document, language=language)
    by = await whose_edits(session, site, change.id, menu, edits) if change is not None and edits else []
    return Edits.of(edits, by)


@router.post("", status_code=201)
async def create(
    site: str, body: CreateMenuBody, database: Db, person: Someone, view: In, key: Once, now: Now
) -> CreatedMenu:
    """A new menu, empty or with what it is to begin with. The same key makes it once."""
    name = body.name.strip()
    given = body.document or (parse_outline(body.outline) if body.outline else None)
    document = read_menu(menu_document_json(name, given))
    made = await edit.create_menu(
        database, person, site, view=view, name=name, document=document, request_key=key, now=now
    )
    return CreatedMenu.model_validate(made)


def menu_document_json(name: str, whole: MenuDocument | None) -> dict[str, Any]:
    if not name:
        raise InvalidDocument([Problem(where="name", says="give the menu a name")])
    return (whole.to_json() if whole else menu_document("Menu").to_json()) | {"name": name}


@router.get("/{menu}")
async def bench(
    site: str, menu: str, response: Response, database: Db, person: Someone, view: In, now: Now
) -> BenchPage:
    async with database.transaction() as session:
        found = await board(session, person, site, view)
        one = menu_on_shelf(found, menu)
        change = found.change.id if found.change else None
        saved = await menus.newest_with(session, found.site.id, menu, one.hash, change)
        response.headers["etag"] = f'"{one.hash}"'
        since = await menus.live_since(session, found.site.id, menu, one.live) if one.live else None
        return BenchPage(
            site=await whole_site_page(session, found, now),
            key=menu,
            document=one.document,
            hash=one.hash,
            saved_at=saved.at if saved else found.site.live_since,
            live_hash=one.live,
            live_since=since or (found.site.created_at if one.live else None),
            places=views.places_of(found, menu),
            changes=await _changes(session, found.site, menu, found.change, one.live, one.document),
            follows=menu in found.arrangement.follows,
        )


@router.post("/{menu}/copies", status_code=201)
async def duplicate(site: str, menu: str, database: Db, person: Someone, view: In, key: Once, now: Now) -> CreatedMenu:
    """A copy of the menu, beside it. The same key makes it once."""
    made = await put_away.duplicate(database, person, site, menu, view=view, request_key=key, now=now)
    return CreatedMenu.model_validate(made)


@router.put("/{menu}/archived", status_code=204)
async def archive(site: str, menu: str, body: ArchivedBody, database: Db, person: Someone, view: In, now: Now) -> None:
    """Puts a menu away that hangs nowhere, or takes it out again."""
    await put_away.put_away(database, person, site, menu, view=view, away=body.archived, now=now)


@router.delete("/{menu}", status_code=204)
async def remove(site: str, menu: str, database: Db, person: Someone, view: In, now: Now) -> None:
    """Removes a menu that was never live and is used nowhere."""
    await put_away.remove(database, person, site, menu, view=view, now=now)


@router.get("/{menu}/export/{format}", response_class=Response)
async def export(
    site: str, menu: str, format: Writable, database: Db, person: Someone, view: In, language: Language = None
) -> Response:
    """The menu's newest revision in another format, for downloading."""
    async with database.transaction() as session:
        found = await board(session, person, site, view)
        whole = (await ready(session, found)).site
    written = write_menu(
        menu_on_shelf(found, menu).document, format, language=language or whole.site.languages[0], site=whole
    )
    named = f'attachment; filename="{site}-{menu}.{written.suffix}"'
    return Response(written.text, media_type=written.media_type, headers={"content-disposition": named})


@router.get("/{menu}/findings")
async def findings(
    site: str, menu: str, database: Db, person: Someone, view: In, now: Now, seen: Seen
) -> list[Finding]:
    """What the checks find in the menu's newest revision, or will find in it at the lens's moment, the gravest first."""
    async with database.transaction() as session:
        found = await board(session, person, site, view, seen.when(now))
        menu_on_shelf(found, menu)
        whole = await ready(session, found)
    today = seen.reading(whole.site, now)[:10]
    checked = await asyncio.to_thread(Checked.of, SiteView(whole, today))
    return checked.of_menu(menu)[:500]


@router.post("/{menu}/listing")
async def listing(
    site: str, menu: str, body: ListingBody, database: Db, person: Someone, view: In, now: Now
) -> ListingOut:
    """The pages that a listing of this menu would fill itself with today."""
    async with database.transaction() as session:
        found = await board(session, person, site, view)
        pages = (await ready(session, found)).addresses.pages
    hand = targeted_pages(menu_on_shelf(found, menu).document.items)
    particulars = facts_of(found.site)
    languages, today = particulars.languages, clock_of(particulars.zone).now(now)[:10]
    spoken = body.language if body.language in languages else languages[0]

    def title(page: Page) -> str:
        return page.title.get(spoken) or next(iter(page.title.values()), page.path)

    listed = listed_pages(pages, body.list, by_hand=hand, title=title, language=spoken, day=today)
    first = [ListedPage(ref=page.ref, title=title(page), path=page.path) for page in listed[:50]]
    return ListingOut(count=len(listed), first=first)


@router.put("/{menu}")
async def save(
    site: str,
    menu: str,
    document: Menu,
    response: Response,
    database: Db,
    person: Someone,
    view: In,
    expected: Expected,
    now: Now,
) -> SavedOut:
    """Saves a whole menu document as a revision on top of the one named by If-Match."""
    saved = await edit.save_menu(database, person, site, menu, view=view, expected=expected, document=document, now=now)
    response.headers["etag"] = f'"{saved.hash}"'
    async with database.transaction() as session:
        row = await site_row(session, person, site)
        live = (await states.state(session, row.live_state)).menus.get(menu)
        changes = await _changes(session, row, menu, saved.change, live, document)
    return SavedOut(
        hash=saved.hash, saved_at=saved.at, new=saved.new, changes=changes, change=views.change_name(saved.change)
    )


@router.post("/{menu}/merge")
async def settle(site: str, menu: str, body: SettleBody, database: Db, person: Someone, view: In) -> WorkedOut:
    """The merge of the sent document with what the menu has now, conflicts settled by the choices."""
    worked = await edit.settle(
        database, person, site, menu, view=view, base=body.base, ours=body.ours, choices=body.choices
    )
    return WorkedOut.model_validate(worked)


@router.get("/{menu}/resolved")
async def resolved(
    site: str,
    menu: str,
    database: Db,
    person: Someone,
    view: In,
    now: Now,
    seen: Seen,
    location: str | None = None,
) -> ResolvedPage:
    """What a visitor on the device gets of the menu's newest revision, in a place or by itself."""
    async with database.transaction() as session:
        found = await board(session, person, site, view, seen.when(now))
        one = menu_on_shelf(found, menu)
        prepared = await ready(session, found)
    document = prepared.site
    lens = seen.of(document, now)
    got = prepared.resolve(location, lens) if location else resolve_items(document, one.document.items, lens)
    place = (document.template.location(location) if location else None) or LOOSE
    entries = count_entries(got.items)
    drawn = got.items if entries <= MOST_DRAWN else first_entries(got.items, MOST_DRAWN)
    strip = await asyncio.to_thread(
        strip_html,
        drawn,
        place,
        device=lens.device,
        language=lens.language,
        name=document.site.name,
        base=document.site.base,
    )
    return ResolvedPage(
        strip=strip,
        drawn=min(entries, MOST_DRAWN),
        entries=entries,
        hidden=[HiddenOut(id=hidden.id, because=hidden.because, detail=hidden.detail) for hidden in got.hidden],
        placement=got.source.placement,
        device=got.source.device,
    )


MOST_DRAWN = 300
"""Entries that a strip draws: a longer one would be laid out anew at every pause of the typing."""

LOOSE = Location(key="loose", title="Nowhere yet", shape="bar")
"""How a menu is drawn that hangs nowhere yet."""
