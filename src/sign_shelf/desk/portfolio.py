"""What is on the shelf, gathered for looking: sites as they are live, or in a change."""

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Literal
from uuid import UUID

from sign_shelf.core.changes.arrangement import Arrangement, SetVersion, TemplateVersion
from sign_shelf.core.changes.state import Contents, known_facts, site_of
from sign_shelf.core.drawing.summary import Summary
from sign_shelf.core.errors import NotFound
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.facts import FactSet
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.site import Page, Particulars, Placement, SiteDocument
from sign_shelf.core.model.template import Template
from sign_shelf.desk.on_top import merged_with
from sign_shelf.desk.permission import Person, may, require
from sign_shelf.store import changes, facts, foretold, menus, releases, sites, states
from sign_shelf.store.database import Session
from sign_shelf.store.tables import ChangePartRow, ChangeRow, LiveSlotRow, ReleaseRow, SiteRow

View = UUID | Literal["live"] | None
"""In which change one looks; "live": as it is live; None: in the one in which one works, or else as it is live."""


When = Callable[[SiteRow], datetime | None]
"""The moment in which a site is looked at, where that is still to come."""


@dataclass(frozen=True, kw_only=True)
class MenuOnShelf:
    document: MenuDocument
    summary: Summary
    hash: str
    live: str | None
    """The name of the tree that is live."""

    @property
    def changed(self) -> bool:
        """Whether it differs from what is live."""
        return self.live != self.hash


@dataclass(frozen=True, kw_only=True)
class Board:
    """One site, in a change or as it is live."""

    site: SiteRow
    state: str
    contents: Contents
    plain: Template
    """The template without the site's own looks."""
    shared: tuple[FactSet, ...]
    menus: dict[str, MenuOnShelf]
    slots: tuple[LiveSlotRow, ...]
    change: ChangeRow | None
    part: ChangePartRow | None
    release: ReleaseRow | None
    live: ReleaseRow | None

    @property
    def arrangement(self) -> Arrangement:
        return self.contents.arrangement

    @property
    def placements(self) -> tuple[Placement, ...]:
        return self.arrangement.placements

    @property
    def template(self) -> Template:
        return self.plain.adjusted(self.arrangement.looks)

    @property
    def facts(self) -> FactSet:
        """The site's own facts, audiences and rules over those of the sets that it follows."""
        return known_facts(self.arrangement, self.shared)

    def document(self, pages: Iterable[Page] = ()) -> SiteDocument:
        return site_of(facts_of(self.site), self.contents, self.plain, self.shared, pages)


def facts_of(row: SiteRow) -> Particulars:
    return read(Particulars, row.particulars)


def unknown_site(key: str) -> NotFound:
    return NotFound(f'There is no site "{key}" on the shelf.', where=f"sites/{key}")


async def site_row(session: Session, person: Person, key: str, *, lock: bool = False) -> SiteRow:
    """Raises NotFound, and NotAllowed where the person may not look at the site."""
    require(person, "look", f"sites/{key}", key)
    row = await sites.site_by_key(session, key, lock=lock)
    if row is None:
        raise unknown_site(key)
    return row


def unknown_menu(site: SiteRow, key: str) -> NotFound:
    return NotFound(f'{site.name} has no menu "{key}".', where=f"sites/{site.key}/menus/{key}")


def menu_on_shelf(found: Board, key: str) -> MenuOnShelf:
    """Raises NotFound, with the menus that there are."""
    menu = found.menus.get(key)
    if menu is None:
        raise NotFound(
            f'{found.site.name} has no menu "{key}"{_where(found)}.',
            where=f"sites/{found.site.key}/menus/{key}",
            remedy=f"Its menus are {', '.join(found.menus)}." if found.menus else None,
        )
    return menu


def _where(found: Board) -> str:
    return f" in {found.change.title}" if found.change else " as it is live"


async def visible_sites(session: Session, person: Person) -> list[SiteRow]:
    """Those that the person may look at, without those that are put away."""
    return [row for row in await sites.all_sites(session) if row.archived_at is None and may(person, "look", row.key)]


async def _looked_in(
    session: Session, person: Person | None, rows: list[SiteRow], view: View
) -> Mapping[UUID, tuple[ChangeRow, ChangePartRow]]:
    """In which changes one looks, by site; the others are looked at as they are live."""
    if isinstance(view, UUID):
        return await _in_change(session, view, rows)
    if view is None and person is not None:
        inside = await changes.worked_in(session, person.id, [row.id for row in rows])
        # Where a change went live since the sites were read, its edits are in neither.
        await sites.read_again(session, [row.id for row in rows if row.id not in inside])
        return inside
    return {}


async def arrangements_of(
    session: Session, person: Person, rows: list[SiteRow], view: View = None
) -> list[tuple[SiteRow, Arrangement]]:
    """How the sites are arranged; no menu is read for it."""
    inside = await _looked_in(session, person, rows, view)
    heads = {row.id: inside[row.id][1].head if row.id in inside else row.live_state for row in rows}
    named = await states.states(session, heads.values())
    found = await states.arrangements(session, {one.arrangement for one in named.values()})
    return [(row, found[named[heads[row.id]].arrangement]) for row in rows]


async def boards(
    session: Session, person: Person | None, rows: list[SiteRow], view: View = None, when: When | None = None
) -> list[Board]:
    """The boards of these sites, read with a fixed number of queries. `person` None: as they are live. `when`: as they will be then,
    by what is approved and scheduled; the change that one looks in on top of that, where it agrees with it."""
    ids = [row.id for row in rows]
    inside = await _looked_in(session, person, rows, view)
    heads = {row.id: inside[row.id][1].head if row.id in inside else row.live_state for row in rows}
    for site_id, then in (await _to_come(session, rows, when) if when is not None else {}).items():
        heads[site_id] = await _on_top(session, inside[site_id][1], then) if site_id in inside else then
    named = await states.states(session, {*heads.values(), *(row.live_state for row in rows)})
    arrangements = await states.arrangements(session, {named[head].arrangement for head in heads.values()})
    trees = {hash for head in heads.values() for hash in named[head].menus.values()}
    documents, summaries = await menus.documents(session, trees), await menus.summaries(session, trees)
    templates = await sites.templates(
        session, {(one.template.key, one.template.version) for one in arrangements.values()}
    )
    shared = await facts.fact_sets(session, {one for each in arrangements.values() for one in each.sets})
    slots: dict[UUID, list[LiveSlotRow]] = defaultdict(list)
    for slot in await sites.live_slots(session, ids):
        slots[slot.site_id].append(slot)
    newest, lived = await releases.newest(session, ids), await releases.newest(session, ids, state="live")
    found = []
    for row in rows:
        state, live = named[heads[row.id]], named[row.live_state]
        arrangement = arrangements[state.arrangement]
        change, part = inside.get(row.id, (None, None))
        on_shelf = {
            key: MenuOnShelf(document=documents[hash], summary=summaries[hash], hash=hash, live=live.menus.get(key))
            for key, hash in state.menus.items()
        }
        contents = Contents(arrangement=arrangement, menus={key: one.document for key, one in on_shelf.items()})
        found.append(
            Board(
                site=row,
                state=heads[row.id],
                contents=contents,
                plain=templates[arrangement.template.key, arrangement.template.version],
                shared=tuple(shared[one] for one in arrangement.sets),
                menus=on_shelf,
                slots=tuple(slots[row.id]),
                change=change,
                part=part,
                release=newest.get(row.id),
                live=lived.get(row.id),
            )
        )
    return found


async def _to_come(session: Session, rows: Iterable[SiteRow], when: When) -> dict[UUID, str]:
    moments = {row.id: when(row) for row in rows}
    return await foretold.at_moments(session, {id: moment for id, moment in moments.items() if moment is not None})


async def _on_top(session: Session, part: ChangePartRow, state: str) -> str:
    merged = await merged_with(session, part, state)
    return part.head if merged.conflicts else await states.keep_contents(session, merged.contents)


async def _in_change(
    session: Session, change_id: UUID, rows: Iterable[SiteRow]
) -> dict[UUID, tuple[ChangeRow, ChangePartRow]]:
    change = await changes.change_by_id(session, change_id)
    if change is None:
        raise unknown_change(change_id)
    parts = {part.site_id: part for part in await changes.parts_of(session, change_id)}
    return {row.id: (change, parts[row.id]) for row in rows if row.id in parts}


async def refuse_unseen(session: Session, person: Person, change_id: UUID) -> None:
    """Raises NotFound for who may look at none of the change's sites: that other clients have it is nothing to them."""
    if not any(may(person, "look", site.key) for site, _ in await changes.sites_of(session, change_id)):
        raise unknown_change(change_id)


def unknown_change(change_id: UUID) -> NotFound:
    return NotFound("There is no such change.", where=f"changes/{change_id}")


async def board(session: Session, person: Person, key: str, view: View = None, when: When | None = None) -> Board:
    return (await boards(session, person, [await site_row(session, person, key)], view, when))[0]


async def template_of(session: Session, version: TemplateVersion) -> Template:
    found = await sites.templates(session, {(version.key, version.version)})
    if (version.key, version.version) not in found:
        raise NotFound(f'There is no template "{version.key}" in version {version.version}.', where="template")
    return found[version.key, version.version]


async def shared_sets(session: Session, followed: Iterable[SetVersion]) -> tuple[FactSet, ...]:
    wanted = tuple(followed)
    found = await facts.fact_sets(session, wanted)
    return tuple(found[one] for one in wanted)
