"""Sweeps: entries of many menus found by a query as they are live, and one change that makes the same edit of all of them."""

import asyncio
from collections import defaultdict
from collections.abc import AsyncIterator, Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import groupby
from typing import Any
from uuid import UUID

from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.sweeps import Making, Sought, SweptEntry, asks_for_pages, read_query, swept
from sign_shelf.desk.everywhere import AT_ONCE, as_live, edit_everywhere
from sign_shelf.desk.permission import Person, may, require
from sign_shelf.desk.portfolio import facts_of, visible_sites
from sign_shelf.store import findings, requests, states, sweeps
from sign_shelf.store.database import Database, Session
from sign_shelf.store.requests import RequestKey
from sign_shelf.store.tables import SiteRow

MOST_ENTRIES = 20_000
"""Entries that one sweep edits."""
Named = tuple[str, str, str]
"""An entry: the keys of its site and its menu, and its id."""


async def find(
    session: Session, person: Person, query: str, now: datetime, sites: Collection[str] | None = None
) -> list[SweptEntry]:
    """Everything that it finds at the sites that the person may look at, or at these of them. Raises QueryRefused."""
    sought = read_query(query)
    rows = {row.key: row for row in await visible_sites(session, person) if sites is None or row.key in sites}
    found = await sweeps.entries(session, list(rows), sought)
    names = {term.name for term in sought.terms}
    placed = await _placed(session, rows) if "place" in names else {}
    codes = await _codes(session, rows) if "finding" in names else {}
    return await asyncio.to_thread(_sifted, sought, found, rows, placed, codes, now)


def _sifted(
    sought: Sought,
    found: Sequence[SweptEntry],
    rows: Mapping[str, SiteRow],
    placed: Mapping[tuple[str, str], frozenset[str]],
    codes: Mapping[Named, frozenset[str]],
    now: datetime,
) -> list[SweptEntry]:
    nothing: frozenset[str] = frozenset()
    readings = {key: clock_of(facts_of(row).zone).now(now) for key, row in rows.items()}
    entries = (
        one._replace(
            places=placed.get((one.site, one.menu), nothing), findings=codes.get((one.site, one.menu, one.item), nothing),
            now=readings[one.site],
        )
        for one in found
    )  # fmt: skip
    return [one for one in entries if sought.finds(one)]


async def _placed(session: Session, rows: Mapping[str, SiteRow]) -> dict[tuple[str, str], frozenset[str]]:
    """By site and menu: the locations in which it was hung."""
    live = await states.states(session, [row.live_state for row in rows.values()])
    arrangements = await states.arrangements(session, {one.arrangement for one in live.values()})
    found: dict[tuple[str, str], set[str]] = defaultdict(set)
    for key, row in rows.items():
        for (location, _), menu in arrangements[live[row.live_state].arrangement].placed().items():
            if menu is not None:
                found[key, menu].add(location)
    return {named: frozenset(places) for named, places in found.items()}


async def _codes(session: Session, rows: Mapping[str, SiteRow]) -> dict[Named, frozenset[str]]:
    """By entry: the codes of what is found in it."""
    keys = {row.id: key for key, row in rows.items()}
    found: dict[Named, set[str]] = defaultdict(set)
    for one in await findings.findings(session, keys):
        if one.menu is not None and one.item is not None:
            found[keys[one.site_id], one.menu, one.item].add(one.code)
    return {named: frozenset(codes) for named, codes in found.items()}


@dataclass(frozen=True)
class Foreseen:
    """What would come of an entry: `does` in sentences, or `refused`, why nothing comes of it."""

    entry: SweptEntry
    does: tuple[str, ...]
    refused: str | None


async def foresee(
    database: Database, person: Person, query: str, making: Making, sites: Collection[str] | None, now: datetime
) -> AsyncIterator[list[Foreseen]]:
    """Menu after menu, of all sites or of these. Raises QueryRefused, and Refusal where the edit could be made of no entry."""
    async with database.transaction() as session:
        found = await find(session, person, query, now, sites)
        rows = {row.key: row for row in await visible_sites(session, person)}
    at_sites = [(rows[key], list(entries)) for key, entries in groupby(found, key=lambda one: one.site)]
    for begin in range(0, len(at_sites), AT_ONCE):
        some = at_sites[begin : begin + AT_ONCE]
        async with database.transaction() as session:
            wanted = {row.id: {one.menu for one in entries} for row, entries in some}
            whole = await as_live(session, [row for row, _ in some], wanted, pages=asks_for_pages(making))
        for row, at_site in some:
            allowed = may(person, "edit", row.key)
            for menu, in_menu in groupby(at_site, key=lambda one: one.menu):
                entries = list(in_menu)
                if menu in whole[row.id].menus:
                    yield await asyncio.to_thread(_foreseen, whole[row.id], menu, entries, making, allowed)


def _foreseen(
    site: SiteDocument, menu: str, entries: Sequence[SweptEntry], making: Making, allowed: bool
) -> list[Foreseen]:
    done = swept(site, menu, {one.item for one in entries}, making)
    return [
        Foreseen(
            one, done.does.get(one.item, ()) if allowed else (),
            done.refused.get(one.item) if allowed else "You may not edit at this site.",
        )
        for one in entries
    ]  # fmt: skip


async def begin(
    database: Database, person: Person, query: str, making: Making, *, title: str, without: Collection[Named], request_key: RequestKey,
    now: datetime,
) -> dict[str, Any]:  # fmt: skip
    """The change that makes the edit of all that the query finds but `without`, as far as the person may edit there: its id and title,
    the sites' keys and the number of entries. The same for the same key. Raises QueryRefused, EditRefused."""
    async with database.transaction() as session:

        async def act() -> dict[str, Any]:
            left_out = set(without)
            everything = await find(session, person, query, now)
            found = [
                one for one in everything
                if (one.site, one.menu, one.item) not in left_out and may(person, "edit", one.site)
            ]  # fmt: skip
            if not found:
                # Who may edit at no site is told that, and not that nothing is found.
                seen = await visible_sites(session, person)
                site = everything[0].site if everything else next((row.key for row in seen), None)
                require(person, "edit", "sweeps", site)
            if len(found) > MOST_ENTRIES:
                raise EditRefused(
                    f"{len(found)} entries are found; one sweep edits at most {MOST_ENTRIES}.", where="query",
                    remedy="Narrow it, by site: or menu: for instance.",
                )  # fmt: skip
            rows = {row.key: row for row in await visible_sites(session, person)}
            wanted: dict[UUID, dict[str, set[str]]] = defaultdict(lambda: defaultdict(set))
            for one in found:
                wanted[rows[one.site].id][one.menu].add(one.item)
            change, sites, entries = await edit_everywhere(
                session,
                person,
                title,
                wanted,
                {row.id: row for row in rows.values()},
                edited,
                now,
                pages=asks_for_pages(making),
            )
            if change is None:
                raise EditRefused(
                    "The edit changes none of these entries.", where="query", remedy="Look at what each of them says."
                )
            return {"change": str(change.id), "title": change.title, "sites": sites, "entries": entries}

        def edited(site: SiteDocument, menu: str, items: Collection[str]) -> tuple[MenuDocument, int]:
            done = swept(site, menu, items, making)
            return done.menu, len(done.does)

        return await requests.once(session, person.id, request_key, act, at=now)
