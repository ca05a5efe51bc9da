"""Editing menus: every save is a revision in a change; nobody's edit overwrites another's in silence."""

import asyncio
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sign_shelf.core.basics.ids import slug
from sign_shelf.core.changes.state import State
from sign_shelf.core.compare import Conflict, diff, merge
from sign_shelf.core.compare.both import Choice, beside, sides
from sign_shelf.core.compare.met import met
from sign_shelf.core.errors import Clash, EditRefused, NotFound, StaleWrite
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.includes import MOST_ITEMS, Includes, included
from sign_shelf.core.model.menu import MenuDocument, menu_document, walk
from sign_shelf.core.outline.called import title
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import View, board, facts_of, menu_on_shelf, site_row, unknown_menu
from sign_shelf.desk.workplace import Workplace, put_tree, seen_state, to_edit
from sign_shelf.store import changes, ledger, menus, people, requests, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.requests import RequestKey
from sign_shelf.store.tables import ChangeRow, SiteRow

MOST_MENUS = 500


@dataclass(frozen=True, kw_only=True)
class Saved:
    hash: str
    at: datetime
    new: bool
    """Whether the save made a revision: a tree that is the head already makes none."""
    change: ChangeRow | None
    """The change that it was saved in; None where there is none and nothing had to be saved."""


async def save_menu(
    database: Database,
    person: Person,
    site_key: str,
    menu_key: str,
    *,
    view: View = None,
    expected: str,
    document: MenuDocument,
    now: datetime,
) -> Saved:
    """The document as the menu's newest revision in the change. `expected` is the hash that the editor set out from.

    Raises StaleWrite with what others did meanwhile and the merge worked out, where the head is another by now. What
    takes long is done before the change is locked: that it is compared, written down, and checked for loops.
    """
    where = f"sites/{site_key}/menus/{menu_key}"
    require(person, "edit", where, site_key)
    name = await asyncio.to_thread(content_hash, document)
    async with database.transaction() as session:
        language = facts_of(await site_row(session, person, site_key)).languages[0]
        await menus.keep_tree(session, document, name=name)
        before = (await menus.documents(session, [expected])).get(expected)
        if included(document.items):
            await _refuse_includes(session, person, site_key, view, menu_key, document)
    says = await asyncio.to_thread(_says, before, document, language) if before is not None else ""
    stale: tuple[str, UUID] | None = None
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        change, state = await seen_state(session, person, site, view)
        if state.menus.get(menu_key) == name:
            kept = await menus.newest_with(session, site.id, menu_key, name, change.id if change else None)
            return Saved(hash=name, at=kept.at if kept else now, new=False, change=change)
        at = await to_edit(session, person, site, view, now)
        has = (await states.state(session, at.part.head)).menus.get(menu_key)
        if has is None:
            raise unknown_menu(site, menu_key)
        if expected != has:
            stale = (has, at.change.id)
        elif has != name:
            await put_tree(session, at, menu_key, name, now=now)
            ledger.write(session, "edit", f"{document.name}: {says}", at=now, person_id=person.id, site_id=site.id,
                         menu=menu_key, hash=name, change=str(at.change.id))  # fmt: skip
    if stale is not None:
        raise await _stale(database, person, site_key, menu_key, expected=expected, head=stale[0],
                           change=stale[1], ours=document)  # fmt: skip
    return Saved(hash=name, at=now, new=True, change=at.change)


def _says(before: MenuDocument, document: MenuDocument, language: str) -> str:
    edits = diff(before.items, document.items, language=language)
    says = edits[0].says if edits else f"Renamed {before.name} to {document.name}"
    return says + (f" and {len(edits) - 1} more" if len(edits) > 1 else "")


async def _stale(
    database: Database,
    person: Person,
    site_key: str,
    menu_key: str,
    *,
    expected: str,
    head: str,
    change: UUID,
    ours: MenuDocument,
) -> StaleWrite | NotFound:
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        newest = await menus.newest_with(session, site.id, menu_key, head, change)
        since = await menus.revisions_between(session, newest, expected) if newest is not None else None
        if since is None and not await menus.has_revision(session, site.id, menu_key, expected):
            return NotFound(
                "The menu never had the revision that this save sets out from.",
                where="If-Match",
                remedy="Read the menu again and save on top of what it has now.",
            )
        base = await menus.document(session, expected)
        theirs = await menus.document(session, head)
        authors = await people.people_by_id(session, {row.author_id for row in since or () if row.author_id})
    names = sorted(row.name for row in authors.values()) or ["somebody"]
    worked_out = await asyncio.to_thread(merged, base, ours, theirs, {})
    language = facts_of(site).languages[0]
    did = [edit.says for edit in await asyncio.to_thread(diff, base.items, theirs.items, language=language)]
    return StaleWrite(
        f"{' and '.join(names)} saved this menu in between.",
        remedy="Save the merge that comes with this answer on top of the revision it names.",
        # One who works in two windows at once meets nobody but themselves.
        merge=worked_out | {"by": names, "own": set(authors) == {person.id}, "did": did, "base": expected, "on": head},
    )


def merged(
    base: MenuDocument, ours: MenuDocument, theirs: MenuDocument, choices: Mapping[str, Choice]
) -> dict[str, Any]:
    """Both sides' edits as one document, with the conflicts that are left to settle."""
    met = merge(base.items, ours.items, theirs.items).conflicts
    result = merge(base.items, ours.items, theirs.items, choices=sides(choices))
    items = beside(result.items, theirs.items, met, choices)
    name = ours.name if theirs.name == base.name else theirs.name
    titles = {item.id: title(item) for document in (base, theirs, ours) for _, item in walk(document.items)}
    return {
        "document": menu_document(name, items).to_json(),
        "conflicts": [
            _told(conflict, titles) for conflict in result.conflicts if not {conflict.key, conflict.id} & choices.keys()
        ],
    }


def _told(conflict: Conflict, titles: Mapping[str, str]) -> dict[str, Any]:
    words = met(conflict, titles)
    return {
        "key": conflict.key, "id": conflict.id, "title": words.title, "kind": conflict.kind, "field": words.field,
        "ours": words.ours, "theirs": words.theirs,
    }  # fmt: skip


async def settle(
    database: Database,
    person: Person,
    site_key: str,
    menu_key: str,
    *,
    view: View = None,
    base: str,
    ours: MenuDocument,
    choices: Mapping[str, Choice],
) -> dict[str, Any]:
    """The merge again with the person's choices, on top of what the menu has now. Nothing is saved by it."""
    require(person, "edit", f"sites/{site_key}/menus/{menu_key}", site_key)
    async with database.transaction() as session:
        found = await board(session, person, site_key, view)
        has = menu_on_shelf(found, menu_key)
        if not await menus.has_revision(session, found.site.id, menu_key, base):
            raise NotFound("The menu never had that revision.", where="base")
        base_document = await menus.document(session, base)
    return await asyncio.to_thread(merged, base_document, ours, has.document, choices) | {"on": has.hash}


async def _refuse_includes(
    session: Session, person: Person, site_key: str, view: View, menu: str, document: MenuDocument
) -> None:
    """Menus may not include themselves, not even through others, nor come to more entries than a visitor can get."""
    shelf = (await board(session, person, site_key, view)).menus
    includes = Includes({key: one.document for key, one in shelf.items()} | {menu: document})
    loop = includes.loop(menu)
    if loop:
        raise EditRefused(
            f"The menu would include itself: {' → '.join(loop)}.", where=menu,
            remedy="Include another menu, or copy the items.",
        )  # fmt: skip
    if includes.size(menu) > MOST_ITEMS:
        raise EditRefused(
            f"The menu and what it includes would be over {MOST_ITEMS} entries.", where=menu,
            remedy="Include smaller menus, or each of them once.",
        )  # fmt: skip


async def create_menu(
    database: Database,
    person: Person,
    site_key: str,
    *,
    view: View = None,
    name: str,
    document: MenuDocument | None = None,
    request_key: RequestKey,
    now: datetime,
) -> dict[str, Any]:
    """A new menu in the change, empty or as given; its key is made from its name. It exists nowhere else until the change
    is live."""
    require(person, "edit", f"sites/{site_key}", site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        whole = document or menu_document(name)

        async def act() -> dict[str, Any]:
            at = await to_edit(session, person, site, view, now)
            key, hash = await begin_menu(session, at, name, slug(name, otherwise="menu"), whole, person, now)
            return {"key": key, "hash": hash}

        return await requests.once(session, person.id, request_key, act, at=now)


async def begin_menu(
    session: Session, at: Workplace, name: str, stem: str, document: MenuDocument, person: Person, now: datetime
) -> tuple[str, str]:
    """The new menu's key, begun with `stem`, that no other menu of the site has in any change; and its tree's name."""
    taken = await _taken_keys(session, at)
    refuse_one_more(await states.state(session, at.part.head), at.site)
    key = free_key(stem, taken)
    hash = await menus.keep_tree(session, document)
    await put_tree(session, at, key, hash, now=now)
    ledger.write(session, "create menu", f"Began the menu {name}", at=now, person_id=person.id, site_id=at.site.id,
                 menu=key, change=str(at.change.id))  # fmt: skip
    return key, hash


def refuse_one_more(state: State, site: SiteRow) -> None:
    """Raises Clash where the site has as many menus as it may."""
    if len(state.menus) >= MOST_MENUS:
        raise Clash(f"A site has at most {MOST_MENUS} menus.", where=f"sites/{site.key}",
                    remedy="Put its entries into another menu.")  # fmt: skip


async def _taken_keys(session: Session, at: Workplace) -> set[str]:
    open_ones = [part.head for _, part, _ in await changes.changes_at(session, [at.site.id])]
    found = await states.states(session, {at.part.head, at.site.live_state, *open_ones})
    return {key for state in found.values() for key in state.menus}


def free_key(stem: str, taken: Mapping[str, object] | set[str]) -> str:
    numbered = (stem if number == 1 else f"{stem}-{number}" for number in range(1, 10_000))
    return next(one for one in numbered if one not in taken)
