"""Search over everything that a person may look at, in the changes in which they work."""

from collections.abc import Iterable
from dataclasses import dataclass

from sign_shelf.core.model.template import Template
from sign_shelf.desk.permission import Person, may
from sign_shelf.desk.portfolio import arrangements_of, visible_sites
from sign_shelf.store import search, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.search import FoundEntry, FoundMenu, FoundPage, FoundPerson
from sign_shelf.store.tables import SiteRow

MOST = 8
"""Of each kind."""
MOST_WORDS = 8


@dataclass(frozen=True, kw_only=True)
class FoundSite:
    key: str
    name: str


@dataclass(frozen=True, kw_only=True)
class Found:
    sites: tuple[FoundSite, ...]
    menus: tuple[FoundMenu, ...]
    entries: tuple[FoundEntry, ...]
    pages: tuple[FoundPage, ...]
    people: tuple[FoundPerson, ...]
    hangs: dict[str, tuple[str, ...]]
    """Where the menus of this answer hang: the titles of places by "site/menu"."""


async def everything(database: Database, person: Person, words: str) -> Found:
    """Sites, menus, entries, pages and people that hold all the words; those that begin with them first. People are found
    by whoever looks after accounts."""
    wanted = words.replace("\0", "").split()[:MOST_WORDS]
    if not wanted:
        return Found(sites=(), menus=(), entries=(), pages=(), people=(), hangs={})
    async with database.transaction() as session:
        rows = await visible_sites(session, person)
        keys = [row.key for row in rows]
        called = [
            FoundSite(key=row.key, name=row.name)
            for row in rows
            if all(word.lower() in f"{row.name} {row.key} {row.base}".lower() for word in wanted)
        ]
        menus = await search.menus(session, wanted, keys, person.id, MOST)
        entries = await search.entries(session, wanted, keys, person.id, MOST)
        named = {(one.site, one.menu) for one in menus} | {(one.site, one.menu) for one in entries}
        return Found(
            sites=tuple(called[:MOST]),
            menus=tuple(menus),
            entries=tuple(entries),
            pages=tuple(await search.pages(session, wanted, keys, MOST)),
            people=tuple(await search.people(session, wanted, MOST)) if may(person, "people") else (),
            hangs=await _hangs(session, person, [row for row in rows if row.key in {site for site, _ in named}], named),
        )


async def _hangs(
    session: Session, person: Person, rows: list[SiteRow], named: Iterable[tuple[str, str]]
) -> dict[str, tuple[str, ...]]:
    found = await arrangements_of(session, person, rows)
    templates = await sites.templates(session, {(one.template.key, one.template.version) for _, one in found})
    places: dict[str, dict[str, None]] = {f"{site}/{menu}": {} for site, menu in named}
    for row, arrangement in found:
        template = templates[arrangement.template.key, arrangement.template.version]
        for placement in arrangement.placements:
            name = f"{row.key}/{placement.menu}"
            if name in places:
                places[name][_title(template, placement.location)] = None
    return {name: tuple(titles) for name, titles in places.items()}


def _title(template: Template, location: str) -> str:
    place = template.location(location)
    return place.title if place is not None else location
