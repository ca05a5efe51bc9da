"""Housekeeping of menus: copies, putting away, removing what was never live. What hangs or includes a menu is told first."""

from datetime import datetime
from typing import Any

from sign_shelf.core.basics.ids import slug
from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.copying import copied_from, copy_items
from sign_shelf.core.model.includes import included
from sign_shelf.core.model.menu import menu_document
from sign_shelf.desk.edit import begin_menu
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import Board, View, board, menu_on_shelf, site_row
from sign_shelf.desk.workplace import Workplace, arrange, drop_menu, to_edit
from sign_shelf.store import ledger, menus, requests, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.requests import RequestKey


async def duplicate(
    database: Database, person: Person, site_key: str, menu: str, *, view: View, request_key: RequestKey, now: datetime
) -> dict[str, Any]:
    """A copy whose items remember what they were copied from."""
    require(person, "edit", f"sites/{site_key}", site_key)
    async with database.transaction() as session:
        await site_row(session, person, site_key)

        async def act() -> dict[str, Any]:
            at, found = await _begin(session, person, site_key, view, now)
            document = menu_on_shelf(found, menu).document
            name = f"{document.name}, copy"
            items, _ = copy_items(document.items, origin=copied_from(menu))
            whole = menu_document(name, items)
            key, hash = await begin_menu(session, at, name, slug(name, otherwise="menu"), whole, person, now)
            return {"key": key, "hash": hash}

        return await requests.once(session, person.id, request_key, act, at=now)


async def put_away(
    database: Database, person: Person, site_key: str, menu: str, *, view: View, away: bool, now: datetime
) -> None:
    """Keeps the menu and offers it nowhere any more, or offers it again. Raises EditRefused while it is used."""
    where = f"sites/{site_key}/menus/{menu}"
    require(person, "edit", where, site_key)
    async with database.transaction() as session:
        at, found = await _begin(session, person, site_key, view, now)
        name = menu_on_shelf(found, menu).document.name
        if away:
            _refuse_used(found, menu, where)
        others = tuple(key for key in found.arrangement.archived if key != menu)
        archived = (*others, menu) if away else others
        await arrange(session, at, found.arrangement.model_copy(update={"archived": archived}))
        says = f"Put {name} away" if away else f"Took {name} out again"
        ledger.write(session, "menu", says, at=now, person_id=person.id, site_id=at.site.id, menu=menu,
                     change=str(at.change.id))  # fmt: skip


async def remove(database: Database, person: Person, site_key: str, menu: str, *, view: View, now: datetime) -> None:
    """Raises EditRefused for a menu that was live, or that is used."""
    where = f"sites/{site_key}/menus/{menu}"
    require(person, "edit", where, site_key)
    async with database.transaction() as session:
        at, found = await _begin(session, person, site_key, view, now)
        name = menu_on_shelf(found, menu).document.name
        live = menu in (await states.state(session, at.site.live_state)).menus
        if live or await menus.was_live(session, at.site.id, menu):
            raise EditRefused(
                f"{name} was live: what visitors got stays on record.", where=where, remedy="Put it away instead."
            )
        _refuse_used(found, menu, where)
        archived = tuple(key for key in found.arrangement.archived if key != menu)
        await arrange(session, at, found.arrangement.model_copy(update={"archived": archived}))
        await drop_menu(session, at, menu)
        ledger.write(session, "menu", f"Removed {name}, which was never live", at=now, person_id=person.id,
                     site_id=at.site.id, menu=menu, change=str(at.change.id))  # fmt: skip


async def _begin(session: Session, person: Person, site_key: str, view: View, now: datetime) -> tuple[Workplace, Board]:
    at = await to_edit(session, person, await site_row(session, person, site_key), view, now)
    return at, await board(session, person, site_key, at.change.id)


def _refuse_used(found: Board, menu: str, where: str) -> None:
    """While it hangs somewhere, or another menu includes it."""
    name = found.menus[menu].document.name
    hangs = [
        f"hangs in {place.title if place else one.location} for {one.device}"
        for one in found.placements
        if one.menu == menu
        for place in (found.template.location(one.location),)
    ]
    within = [
        f"is included in {one.document.name}"
        for key, one in found.menus.items()
        if key != menu and menu in included(one.document.items)
    ]
    if hangs or within:
        raise EditRefused(f"{name} {', and '.join([*hangs, *within])}.", where=where,
                          remedy="Take it down there first.")  # fmt: skip
