"""The same place of several sites side by side, and an entry of one brought over to another."""

import asyncio
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sign_shelf.core.compare.across import Row, Shown, across, comparable
from sign_shelf.core.compare.matching import match_by_content
from sign_shelf.core.errors import NotFound, Refusal
from sign_shelf.core.model.copying import PagesBetween, copied_from, copy_items
from sign_shelf.core.model.menu import Device, children, walk
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.template import Location, Template
from sign_shelf.core.model.tree import Tree, index_by_id, insert, parents
from sign_shelf.core.outline.called import title
from sign_shelf.core.resolve import find_placement
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import Board, View, board, facts_of, menu_on_shelf
from sign_shelf.desk.workplace import put_tree, to_edit
from sign_shelf.store import ledger, menus, requests, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.requests import RequestKey

MOST_SITES = 12


@dataclass(frozen=True)
class Column:
    """`location` None where the site has no such place; `menu` None where nothing hangs there."""

    site: str
    name: str
    location: str | None
    location_title: str | None
    menu: str | None
    menu_name: str | None


@dataclass(frozen=True)
class Compared:
    columns: tuple[Column, ...]
    rows: tuple[Row, ...]


async def compared(
    database: Database, person: Person, keys: Sequence[str], location: str, device: Device, view: View
) -> Compared:
    """The first site's place of that key beside the likest ones of the others: of the same key, else of the same shape. Raises
    Refusal where there are too few or too many sites, and NotFound for a site or a place that there is not."""
    wanted = list(dict.fromkeys(keys))
    if not 2 <= len(wanted) <= MOST_SITES:
        raise Refusal(
            f"Two to {MOST_SITES} sites are compared at once.",
            where="site",
            remedy="Choose another site beside the first.",
        )
    shown: list[Shown] = []
    columns: list[Column] = []
    like: Location | None = None
    for key in wanted:
        async with database.transaction() as session:
            found = await board(session, person, key, view)
            pages = await sites.pages_of_site(session, found.site.id)
        if like is None:
            like = found.template.location(location)
            if like is None:
                raise NotFound(
                    f'{found.site.name} has no location "{location}".', where="location",
                    remedy=f"It has {', '.join(one.key for one in found.template.locations)}.",
                )  # fmt: skip
        place = _likest(found.template, like)
        menu = find_placement(found.document(), place.key, device).menu if place is not None else None
        document = found.menus[menu].document if menu is not None else None
        columns.append(Column(
            found.site.key, found.site.name, place.key if place else None, place.title if place else None, menu,
            document.name if document is not None else None,
        ))  # fmt: skip
        shown.append(Shown(document.items if document else (), pages, facts_of(found.site).languages[0]))
    return Compared(tuple(columns), tuple(await asyncio.to_thread(across, shown)))


def _likest(template: Template, like: Location) -> Location | None:
    if (same := template.location(like.key)) is not None:
        return same
    return next((one for one in template.locations if one.shape == like.shape), None)


async def bring_over(
    database: Database,
    person: Person,
    *,
    site: str,
    menu: str,
    item: str,
    to_site: str,
    to_menu: str,
    request_key: RequestKey,
    now: datetime,
    view: View = None,
) -> dict[str, Any]:
    """A copy of the entry, with what is below it, in the other site's menu: where its neighbours stand there. Pages are found again by
    address or title, or become pending. The change's id, and what could not be taken as it was."""
    where = f"sites/{to_site}/menus/{to_menu}"
    require(person, "edit", where, to_site)
    async with database.transaction() as session:
        source = await board(session, person, site, view)
        document = menu_on_shelf(source, menu).document
        wanted = index_by_id(document.items).get(item)
        if wanted is None:
            raise NotFound("The menu has no such entry any more.", where="item", remedy="Compare them again.")

        async def act() -> dict[str, Any]:
            target = await board(session, person, to_site, view)
            at = await to_edit(session, person, target.site, view, now)
            target = await board(session, person, to_site, at.change.id)
            there = menu_on_shelf(target, to_menu).document
            ours, theirs = await _pages(session, source), await _pages(session, target)
            taken = {one.id for _, one in walk(there.items)}
            copies, notes = copy_items(
                (wanted,), origin=copied_from(menu, site), between=PagesBetween(ours, theirs), taken=taken
            )
            mine = Shown(document.items, ours, facts_of(source.site).languages[0])
            other = Shown(there.items, theirs, facts_of(target.site).languages[0])
            same = {one: match.id for one, match in match_by_content(comparable(other), comparable(mine)).items()}
            parent, position = _spot(document.items, item, there.items, same)
            items = there.items
            for step, copy in enumerate(copies):
                items = insert(items, copy, parent=parent, at=position + step)
            hash = await menus.keep_tree(session, there.with_items(items))
            await put_tree(session, at, to_menu, hash, now=now)
            words = title(wanted, facts_of(source.site).languages[0])
            ledger.write(
                session, "edit", f"{there.name}: brought {words} over from {source.site.name}", at=now, person_id=person.id,
                site_id=target.site.id, menu=to_menu, hash=hash, change=str(at.change.id),
            )  # fmt: skip
            return {"change": str(at.change.id), "notes": [f"{one.where}: {one.says}" for one in notes]}

        return await requests.once(session, person.id, request_key, act, at=now)


async def _pages(session: Session, found: Board) -> tuple[Page, ...]:
    return await sites.pages_of_site(session, found.site.id)


def _below(items: Tree, parent: str | None) -> Tree:
    return items if parent is None else children(index_by_id(items)[parent])


def _spot(mine: Tree, item: str, there: Tree, same: dict[str, str]) -> tuple[str | None, int]:
    """Below what its parent is there, behind what the entry before it is; else at the end."""
    above = parents(mine)
    parent = same.get(above[item] or "")
    siblings = [one.id for one in _below(mine, above[item])]
    order = [one.id for one in _below(there, parent)]
    before = [same[one] for one in siblings[: siblings.index(item)] if same.get(one) in order]
    return parent, order.index(before[-1]) + 1 if before else len(order)
