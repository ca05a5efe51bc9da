"""Entries that lead nowhere yet, as work: who owes which, due when, for which client, and which page fits one."""

import asyncio
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.errors import EditRefused, NotFound
from sign_shelf.core.inventory.fitting import Fitting, fitting
from sign_shelf.core.model.menu import AnyItem, Link, PageTarget, Pending, PendingTarget, walk
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.tree import numbers, rebuilt
from sign_shelf.core.outline.called import title
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import Board, View, boards, facts_of, site_row, unknown_menu, visible_sites
from sign_shelf.desk.workplace import put_tree, to_edit
from sign_shelf.store import menus, sites, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import SiteRow


@dataclass(frozen=True, kw_only=True)
class Placeholder:
    """`today` is the day it is at the site, `live` whether visitors would get the entry if it led anywhere."""

    site: SiteRow
    menu: str
    menu_name: str
    item: str
    number: str
    label: str
    pending: Pending
    today: str
    live: bool
    fits: Fitting | None
    page: Page | None

    @property
    def late(self) -> bool:
        return self.pending.due is not None and self.pending.due <= self.today


async def placeholders(session: Session, person: Person, view: View, now: datetime) -> list[Placeholder]:
    """At all sites that the person may look at, as they see them: what is due first, then what has no day."""
    return await _at(session, await boards(session, person, await visible_sites(session, person), view), now)


async def live_placeholders(session: Session, rows: list[SiteRow], now: datetime) -> list[Placeholder]:
    """At these sites, as they are live."""
    return await _at(session, await boards(session, None, rows, "live"), now)


async def _at(session: Session, shown: Sequence[Board], now: datetime) -> list[Placeholder]:
    found: list[Placeholder] = []
    for board in shown:
        if any(menu.summary.pending for menu in board.menus.values()):
            pages = await sites.pages_of_site(session, board.site.id)
            found += await asyncio.to_thread(lambda b=board, p=pages: _of_site(b, p, now))  # type: ignore[misc]
    return sorted(found, key=lambda one: (one.pending.due or "9999", one.site.name, one.menu, _numbered(one.number)))


def _numbered(number: str) -> list[int]:
    return [int(one) for one in number.split(".")]


def _of_site(board: Board, pages: Sequence[Page], now: datetime) -> list[Placeholder]:
    particulars = facts_of(board.site)
    today = clock_of(particulars.zone).now(now)[:10]
    by_ref = {page.ref: page for page in pages}
    hung = {one.menu for one in board.placements if one.menu is not None}
    found = []
    for key, menu in board.menus.items():
        if not menu.summary.pending or key in board.arrangement.archived:
            continue
        number = numbers(menu.document.items)
        for _, item in walk(menu.document.items):
            if isinstance(item, Link) and isinstance(item.target, PendingTarget):
                fits = fitting(item.label, pages)
                found.append(
                    Placeholder(
                        site=board.site, menu=key, menu_name=menu.document.name, item=item.id, number=number[item.id],
                        label=title(item, particulars.languages[0]), pending=item.target.pending, today=today,
                        live=key in hung and not menu.changed, fits=fits, page=by_ref[fits.ref] if fits else None,
                    )
                )  # fmt: skip
    return found


async def lead(
    database: Database, person: Person, site_key: str, *, menu: str, item: str, page: str, view: View, now: datetime
) -> UUID:
    """The entry leads to the page, in the change in which the person works: that one. Raises NotFound for a page or a menu that
    is not there, EditRefused where the entry leads somewhere by now."""
    where = f"sites/{site_key}/menus/{menu}"
    require(person, "edit", where, site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        if page not in {one.ref for one in await sites.pages_of_site(session, site.id)}:
            raise NotFound(f"{site.name} has no page @{page}.", where=where, remedy="Choose another page.")
        at = await to_edit(session, person, site, view, now)
        hash = (await states.state(session, at.part.head)).menus.get(menu)
        if hash is None:
            raise unknown_menu(site, menu)
        document = (await menus.documents(session, [hash]))[hash]
        waits = {
            one.id for _, one in walk(document.items) if isinstance(one, Link) and isinstance(one.target, PendingTarget)
        }
        if item not in waits:
            raise EditRefused(
                "The entry leads somewhere by now, or is gone.", where=item, remedy="Look at the placeholders again."
            )

        def update(one: AnyItem) -> dict[str, object]:
            return {"target": PageTarget(page=page)} if one.id == item else {}

        after = document.with_items(tuple(rebuilt(one, update) for one in document.items))
        await put_tree(session, at, menu, await menus.keep_tree(session, after), now=now)
        return at.change.id
