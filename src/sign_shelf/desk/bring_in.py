"""Menus that come in from elsewhere: a paste or file, another menu, what was cut or copied, the live page.

Nothing here is kept: each answers what would come in, and what of it was not understood, for the person to decide.
"""

import asyncio
from collections.abc import Iterable, Sequence
from dataclasses import replace

from sign_shelf.core.basics.address import normal, origin
from sign_shelf.core.errors import SourceRefused
from sign_shelf.core.formats import IncomingMenu, Readable, read_menus, read_pasted
from sign_shelf.core.formats.titles import match_titles
from sign_shelf.core.model.copying import PagesBetween, copied_from, copy_items
from sign_shelf.core.model.menu import Link, MenuDocument, menu_document
from sign_shelf.core.model.rel import usual_for_outside
from sign_shelf.core.model.site import Page, Particulars
from sign_shelf.core.model.tree import rebuilt
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import View, board, facts_of, menu_on_shelf, site_row
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import sites
from sign_shelf.store.database import Database


async def from_data(
    database: Database,
    person: Person,
    site_key: str,
    data: bytes,
    format: Readable | None,
    *,
    name: str | None,
    columns: Sequence[str] | None = None,
    headed: bool | None = None,
) -> list[IncomingMenu]:
    """What a paste or a file holds, with the pages that its words are titles of. Raises a Refusal that says what, where
    and why."""
    facts, pages = await _site(database, person, site_key)

    def read() -> list[IncomingMenu]:
        found = read_pasted(
            data, format, language=facts.languages[0], base=facts.base, pages=pages, name=name, columns=columns,
            headed=headed,
        )  # fmt: skip
        return [replace(one, titles=match_titles(one.document, pages)) for one in _as_usual(found, facts)]

    return await asyncio.to_thread(read)


async def from_live(
    database: Database, fetcher: Fetcher, person: Person, site_key: str, path: str
) -> list[IncomingMenu]:
    """The navigations of one of the site's pages as it is now. Raises SourceRefused where it cannot be read."""
    facts, pages = await _site(database, person, site_key)
    url = normal(path or "/", facts.base)
    if url is None or origin(url) != origin(facts.base):
        raise SourceRefused(f'"{path}" is no address of {facts.name}.', remedy="Write one like /about")
    answer = await fetcher.get(url)
    if answer.status != 200:
        raise SourceRefused(f"The page is answered with {answer.status}.", where=url)
    found = await asyncio.to_thread(read_menus, answer.body, "html", language=facts.languages[0], base=url, pages=pages)
    return list(found)


async def from_menu(
    database: Database, person: Person, site_key: str, *, view: View = None, from_site: str, from_menu: str
) -> IncomingMenu:
    """A copy of a menu of this or another site: its items remember where they came from."""
    require(person, "edit", f"sites/{site_key}", site_key)
    async with database.transaction() as session:
        there = await board(session, person, from_site, view if from_site == site_key else None)
        document = menu_on_shelf(there, from_menu).document
    return await from_items(database, person, site_key, document, from_site=from_site, from_menu=from_menu)


async def from_items(
    database: Database, person: Person, site_key: str, document: MenuDocument, *, from_site: str, from_menu: str
) -> IncomingMenu:
    """The items as copies for the site: pages of another site are found again here, or become pending."""
    _, pages = await _site(database, person, site_key)
    between = None
    prefix = copied_from(from_menu)
    if from_site != site_key:
        async with database.transaction() as session:
            there = await site_row(session, person, from_site)
            between = PagesBetween(await sites.pages_of_site(session, there.id), pages)
        prefix = copied_from(from_menu, from_site)
    items, notes = copy_items(document.items, origin=prefix, between=between)
    return IncomingMenu(document.name, None, menu_document(document.name, items), notes)


async def _site(database: Database, person: Person, site_key: str) -> tuple[Particulars, tuple[Page, ...]]:
    require(person, "edit", f"sites/{site_key}", site_key)
    async with database.transaction() as session:
        row = await site_row(session, person, site_key)
        return facts_of(row), await sites.pages_of_site(session, row.id)


def _as_usual(found: Iterable[IncomingMenu], facts: Particulars) -> list[IncomingMenu]:
    """Outside links that say nothing of tab and relations get what the site's policy has."""

    def fields(item: object) -> dict[str, object]:
        if not isinstance(item, Link) or item.new_tab or item.rel:
            return {}
        usual = usual_for_outside(item, facts)
        return {} if usual is item else {"new_tab": usual.new_tab, "rel": usual.rel}

    return [
        replace(one, document=one.document.with_items(tuple(rebuilt(item, fields) for item in one.document.items)))
        for one in found
    ]
