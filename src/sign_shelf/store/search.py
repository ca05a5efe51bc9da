"""Search over everything on the shelf: menus and their entries as one sees them, pages, people. Nothing is read for it but
the indexes of trees (`tree_item`) and what lies beside them."""

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import text

from sign_shelf.store.changes import LOOKED_IN
from sign_shelf.store.database import Session


@dataclass(frozen=True, slots=True)
class FoundMenu:
    site: str
    site_name: str
    menu: str
    name: str


@dataclass(frozen=True, slots=True)
class FoundEntry:
    site: str
    site_name: str
    menu: str
    menu_name: str
    item: str
    number: str
    kind: str
    label: str
    leads_to: str | None


@dataclass(frozen=True, slots=True)
class FoundPage:
    site: str
    site_name: str
    ref: str
    title: str
    path: str


@dataclass(frozen=True, slots=True)
class FoundPerson:
    name: str
    email: str
    role: str


_SEEN = """
WITH seen AS (
  SELECT site.id, site.key, site.name, coalesce(part.head, site.live_state) AS state
  FROM site
  LEFT JOIN (
    SELECT change_part.site_id, change_part.head FROM work
    JOIN change_part ON change_part.change_id = work.change_id AND change_part.site_id = work.site_id
    JOIN change ON change.id = change_part.change_id
    WHERE work.person_id = :person AND change.state = ANY (:looked_in) AND change_part.live_at IS NULL
  ) part ON part.site_id = site.id
  WHERE site.key = ANY (:sites)
),
menu AS (
  SELECT seen.id, seen.key AS site, seen.name AS site_name, one.key AS menu, tree.hash, tree.name
  FROM seen JOIN state ON state.hash = seen.state CROSS JOIN json_each_text(state.menus) one
  JOIN tree ON tree.hash = one.value
)
"""
_MENUS = """{seen}
SELECT site, site_name, menu, name FROM menu
WHERE lower(concat_ws(' ', site_name, site, name, menu)) LIKE ALL (:likes)
ORDER BY lower(name) NOT LIKE :begins, length(name), site_name, name LIMIT :most
"""
_ENTRIES = """{seen}
SELECT site, site_name, menu, menu.name, item, number, kind, split_part(label, chr(10), 1),
  coalesce('@' || page, address)
FROM menu JOIN tree_item ON tree_item.hash = menu.hash
WHERE lower(concat_ws(' ', label, '@' || page, address)) LIKE ANY (:likes)
  AND lower(concat_ws(' ', label, '@' || page, address, menu.name, site_name)) LIKE ALL (:likes)
ORDER BY lower(label) NOT LIKE :begins, length(label), site_name, menu.name, position LIMIT :most
"""
_PAGES = """
SELECT site.key, site.name, page.ref, coalesce((SELECT value FROM jsonb_each_text(page.title) LIMIT 1), page.path),
  page.path
FROM page JOIN site ON site.id = page.site_id
WHERE site.key = ANY (:sites) AND lower(concat_ws(' ', page.path,
  (SELECT string_agg(value, ' ') FROM jsonb_each_text(page.title)), site.name)) LIKE ALL (:likes)
  AND lower(concat_ws(' ', page.path, (SELECT string_agg(value, ' ') FROM jsonb_each_text(page.title)))) LIKE ANY (:likes)
ORDER BY lower(coalesce((SELECT value FROM jsonb_each_text(page.title) LIMIT 1), '')) NOT LIKE :begins,
  length(page.path), site.name LIMIT :most
"""
_PEOPLE = """
SELECT name, email, role FROM person
WHERE disabled_at IS NULL AND lower(concat_ws(' ', name, email)) LIKE ALL (:likes) ORDER BY name LIMIT :most
"""


_MENUS, _ENTRIES = (query.format(seen=_SEEN) for query in (_MENUS, _ENTRIES))


def _like(word: str) -> str:
    return word.lower().replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")


async def _found(
    session: Session, query: str, words: Sequence[str], most: int, **more: object
) -> list[tuple[object, ...]]:
    given = {"likes": [f"%{_like(word)}%" for word in words], "begins": f"{_like(words[0])}%", "most": most} | more
    asked = {name: value for name, value in given.items() if f":{name}" in query}
    return [tuple(row) for row in await (await session.connection()).execute(text(query), asked)]


async def menus(
    session: Session, words: Sequence[str], sites: Sequence[str], person: UUID, most: int
) -> list[FoundMenu]:
    """Whose name, with its site's, holds all the words."""
    more = {"sites": list(sites), "person": person, "looked_in": list(LOOKED_IN)}
    return [FoundMenu(*row) for row in await _found(session, _MENUS, words, most, **more)]  # type: ignore[arg-type]


async def entries(
    session: Session, words: Sequence[str], sites: Sequence[str], person: UUID, most: int
) -> list[FoundEntry]:
    """Whose labels and goals hold one of the words, and with its menu's and site's names all of them."""
    more = {"sites": list(sites), "person": person, "looked_in": list(LOOKED_IN)}
    return [FoundEntry(*row) for row in await _found(session, _ENTRIES, words, most, **more)]  # type: ignore[arg-type]


async def pages(session: Session, words: Sequence[str], sites: Sequence[str], most: int) -> list[FoundPage]:
    return [FoundPage(*row) for row in await _found(session, _PAGES, words, most, sites=list(sites))]  # type: ignore[arg-type]


async def people(session: Session, words: Sequence[str], most: int) -> list[FoundPerson]:
    return [FoundPerson(*row) for row in await _found(session, _PEOPLE, words, most)]  # type: ignore[arg-type]
