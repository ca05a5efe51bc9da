"""New pages of a site: where in its menus they probably belong, put there, or dismissed."""

import asyncio
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

import structlog

from sign_shelf.core.basics.ids import ReadableIds, slug
from sign_shelf.core.errors import NotFound, Refusal
from sign_shelf.core.inventory import Placing, placing
from sign_shelf.core.inventory.placing import top_level
from sign_shelf.core.model.menu import Link, MenuDocument, PageTarget, walk
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.tree import insert, numbers
from sign_shelf.core.outline.called import title
from sign_shelf.desk.led_to import led_to_from
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import Board, View, facts_of, site_row, unknown_menu
from sign_shelf.desk.workplace import Workplace, edit_in, put_tree, to_edit
from sign_shelf.store import changes, inventory, ledger, menus, people, sites, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import SiteRow

log = structlog.get_logger()
TITLE = "New pages"
"""Of the change that they are put in by themselves."""
MOST_AT_ONCE = 50
"""Where more come at once, people say which of them belong in a menu."""


@dataclass(frozen=True, kw_only=True)
class Suggested:
    """`below` is what the entry is called that the page would stand below; `number` the one that it would have."""

    placing: Placing
    menu_name: str
    below: str | None
    number: str


@dataclass(frozen=True, kw_only=True)
class NewPage:
    """`led_from`: the menus that lead there by now."""

    page: Page
    since: datetime
    led_from: tuple[str, ...]
    suggested: Suggested | None


async def new_pages(session: Session, found: Board) -> list[NewPage]:
    """Those that wait to be placed, as the board's menus stand."""
    since = {row.ref: row.at for row in await inventory.to_be_placed(session, found.site.id)}
    every = {page.ref: page for page in await sites.pages_of_site(session, found.site.id)} if since else {}
    mine = [every[ref] for ref in since if ref in every and every[ref].state == "published"]
    led = await led_to_from(session, found, mine) if mine else {}
    documents = _hung_first(found)
    language = facts_of(found.site).languages[0]

    def told() -> list[NewPage]:
        return [
            NewPage(
                page=page, since=since[page.ref], led_from=tuple(led[page.ref]),
                suggested=None if led[page.ref] else _suggested(page, every, documents, language),
            )
            for page in mine
        ]  # fmt: skip

    return await asyncio.to_thread(told)


def _hung_first(found: Board) -> dict[str, MenuDocument]:
    """Menus that visitors get, in the order of the places, before those that hang nowhere."""
    order = [location.key for location in found.template.locations]
    hung = sorted((one for one in found.placements if one.menu), key=lambda one: order.index(one.location))
    keys = dict.fromkeys([*(one.menu for one in hung if one.menu in found.menus), *found.menus])
    return {key: found.menus[key].document for key in keys if key is not None and key not in found.arrangement.archived}


def _suggested(
    page: Page, pages: dict[str, Page], documents: dict[str, MenuDocument], language: str
) -> Suggested | None:
    where = placing(page, pages, documents)
    if where is None:
        return None
    document = documents[where.menu]
    number = numbers(document.items)
    above = next((item for _, item in walk(document.items) if item.id == where.parent), None)
    return Suggested(
        placing=where, menu_name=document.name, below=title(above, language) if above is not None else None,
        number=f"{number[above.id]}.{where.at + 1}" if above is not None else str(where.at + 1),
    )  # fmt: skip


@dataclass(frozen=True)
class Placed:
    menu: str
    item: str
    change: UUID


async def place(
    database: Database, person: Person, site_key: str, ref: str, *, menu: str, parent: str | None, at: int, view: View,
    now: datetime,
) -> Placed:  # fmt: skip
    """An entry that leads to the page, in the change in which the person works. Raises NotFound for a page or a menu that is
    not there, EditRefused for an entry that is not."""
    where = f"sites/{site_key}/inventory/place"
    require(person, "edit", where, site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        page = next((one for one in await sites.pages_of_site(session, site.id) if one.ref == ref), None)
        if page is None:
            raise NotFound(f"{site.name} has no page @{ref}.", where=where, remedy="Look at its pages again.")
        workplace = await to_edit(session, person, site, view, now)
        item = await _put(session, workplace, menu, [page], parent, at, now)
        await inventory.settle(session, site.id, [ref], "placed", by=person.id, now=now)
        return Placed(menu, item, workplace.change.id)


async def _put(
    session: Session, at: Workplace, menu: str, pages: Sequence[Page], parent: str | None, index: int | None, now: datetime
) -> str:  # fmt: skip
    """Entries for the pages, one behind the other from this place on, None: from the end on; the last one's id."""
    hash = (await states.state(session, at.part.head)).menus.get(menu)
    if hash is None:
        raise unknown_menu(at.site, menu)
    document = (await menus.documents(session, [hash]))[hash]
    ids = ReadableIds(item.id for _, item in walk(document.items))
    items = document.items
    first = index if index is not None else len(items)
    item_id = ""
    for offset, page in enumerate(pages):
        stem = slug(next(iter(page.title.values()), page.ref), otherwise="entry")
        item_id = ids.take(stem, otherwise="entry")
        item = Link(kind="link", id=item_id, label=page.title, target=PageTarget(page=page.ref))
        items = insert(items, item, parent=parent, at=first + offset)
    tree = await menus.keep_tree(session, document.with_items(items))
    await put_tree(session, at, menu, tree, now=now)
    return item_id


async def dismiss(database: Database, person: Person, site_key: str, refs: Sequence[str], now: datetime) -> int:
    """These are in no menu on purpose."""
    require(person, "edit", f"sites/{site_key}/inventory/dismiss", site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        done = await inventory.settle(session, site.id, refs, "dismissed", by=person.id, now=now)
        if done:
            says = f"{done} new page{'s' if done > 1 else ''} of {site.name} stay out of the menus"
            ledger.write(session, "pages", says, at=now, person_id=person.id, site_id=site.id, pages=list(refs))
        return done


@dataclass(frozen=True, kw_only=True)
class LeftOut:
    """A page that somebody dismissed. `by` is their name."""

    page: Page
    at: datetime
    by: str


async def left_out(session: Session, found: Board) -> list[LeftOut]:
    """Those that are still there, the last ones first."""
    rows = await inventory.left_out(session, found.site.id)
    if not rows:
        return []
    every = {page.ref: page for page in await sites.pages_of_site(session, found.site.id)}
    names = await people.people_by_id(session, {row.settled_by for row in rows if row.settled_by is not None})
    told: dict[str, LeftOut] = {}
    for row in rows:
        page, by = every.get(row.ref), names.get(row.settled_by) if row.settled_by is not None else None
        if page is not None and page.state == "published":
            told.setdefault(
                row.ref, LeftOut(page=page, at=row.settled_at or row.at, by=by.name if by is not None else "")
            )
    return list(told.values())


async def bring_back(database: Database, person: Person, site_key: str, refs: Sequence[str], now: datetime) -> int:
    """These wait to be placed after all."""
    require(person, "edit", f"sites/{site_key}/inventory/bring-back", site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        done = await inventory.unsettle(session, site.id, refs)
        if done:
            says = f"{done} page{'s' if done > 1 else ''} of {site.name} wait to be placed after all"
            ledger.write(session, "pages", says, at=now, person_id=person.id, site_id=site.id, pages=list(refs))
        return done


async def put_top_level(database: Database, site_id: UUID, fresh: Sequence[Page], now: datetime) -> None:
    """Where the site wants it, new pages of its top level are put into a menu's draft: a change of its own, which people
    look at before anything of it goes live. Where that cannot be, they wait to be placed like every other."""
    mine = top_level(fresh)
    if not mine or len(mine) > MOST_AT_ONCE:
        return
    try:
        async with database.transaction() as session:
            await _put_top_level(session, await sites.site_by_id(session, site_id), mine, now)
    except Refusal as refused:
        log.warning("new_pages_not_put", site=str(site_id), says=str(refused))


async def _put_top_level(session: Session, site: SiteRow, mine: Sequence[Page], now: datetime) -> None:
    into = facts_of(site).pages.into
    if into is None or into not in (await states.state(session, site.live_state)).menus:
        return
    change = await changes.open_by_nobody(session, site.id, TITLE)
    if change is None:
        change = await changes.begin(
            session, title=TITLE, why="New pages of the site's top level, put here by themselves.", author_id=None, at=now,
            parts=[site.id],
        )  # fmt: skip
    at = await edit_in(session, None, site, change.id)
    await _put(session, at, into, mine, None, None, now)
    await inventory.settle(session, site.id, [page.ref for page in mine], "placed", by=None, now=now)
    says = f"{len(mine)} new page{'s' if len(mine) > 1 else ''} of {site.name} put into the change {TITLE}"
    ledger.write(session, "pages", says, at=now, site_id=site.id, change=str(change.id))
