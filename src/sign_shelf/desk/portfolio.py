"""What is on the shelf, gathered for looking: sites with their places, menus, drafts and what is live."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from uuid import UUID

from sign_shelf.core.documents import read
from sign_shelf.core.errors import NotFound
from sign_shelf.core.facts import FactSet
from sign_shelf.core.menu import MenuDocument
from sign_shelf.core.site import Page, Placement, SiteDocument, SiteFacts
from sign_shelf.core.template import Template
from sign_shelf.store import changes, facts, menus, releases, sites
from sign_shelf.store.database import Session
from sign_shelf.store.tables import ChangeRow, LiveSlotRow, MenuRow, ReleaseRow, RevisionRow, SiteRow


@dataclass(frozen=True, kw_only=True)
class MenuOnShelf:
    row: MenuRow
    document: MenuDocument
    head: RevisionRow
    live: RevisionRow | None

    @property
    def changed(self) -> bool:
        """Whether what is edited differs from what is live."""
        return self.live is None or self.live.hash != self.head.hash


@dataclass(frozen=True, kw_only=True)
class Board:
    """One site as the shelf knows it now."""

    site: SiteRow
    template: Template
    menus: dict[str, MenuOnShelf]
    placements: tuple[Placement, ...]
    slots: tuple[LiveSlotRow, ...]
    facts: FactSet
    """The site's own facts, audiences and rules over those of the sets that it follows."""
    draft: ChangeRow | None
    release: ReleaseRow | None
    live: ReleaseRow | None

    def document(self, pages: Iterable[Page] = ()) -> SiteDocument:
        """The site document with the newest revision of every menu."""
        return SiteDocument.model_construct(
            format="sign-shelf/site",
            version=1,
            site=facts_of(self.site),
            template=self.template,
            facts=self.facts.facts,
            audiences=self.facts.audiences,
            rules=self.facts.rules,
            menus={key: menu.document for key, menu in self.menus.items()},
            placements=self.placements,
            pages=tuple(pages),
            changes=(),
        )


def facts_of(row: SiteRow) -> SiteFacts:
    return read(SiteFacts, row.particulars)


def own_facts(row: SiteRow) -> FactSet:
    return read(FactSet, {"facts": row.facts, "audiences": row.audiences, "rules": row.rules}, what="facts")


def known_facts(row: SiteRow, shared: dict[str, FactSet]) -> FactSet:
    """The site's own facts over those of the shared sets that it follows."""
    known = FactSet()
    for key in row.fact_sets:
        known = shared[key].over(known) if key in shared else known
    return own_facts(row).over(known)


def unknown_site(key: str) -> NotFound:
    return NotFound(f'There is no site "{key}" on the shelf.', where=f"sites/{key}")


async def site_row(session: Session, key: str, *, lock: bool = False) -> SiteRow:
    row = await sites.site_by_key(session, key, lock=lock)
    if row is None:
        raise unknown_site(key)
    return row


async def menu_row(session: Session, site: SiteRow, key: str, *, lock: bool = False) -> MenuRow:
    row = await menus.menu_by_key(session, site.id, key, lock=lock)
    if row is None:
        raise NotFound(f'{site.name} has no menu "{key}".', where=f"sites/{site.key}/menus/{key}")
    return row


def menu_on_shelf(found: Board, key: str) -> MenuOnShelf:
    """Raises NotFound, with the menus that there are."""
    menu = found.menus.get(key)
    if menu is None:
        raise NotFound(
            f'{found.site.name} has no menu "{key}".',
            where=f"sites/{found.site.key}/menus/{key}",
            remedy=f"Its menus are {', '.join(found.menus)}." if found.menus else None,
        )
    return menu


async def boards(session: Session, rows: list[SiteRow]) -> list[Board]:
    """The boards of these sites, read with a fixed number of queries."""
    ids = [row.id for row in rows]
    templates = await sites.templates(session, {(row.template_key, row.template_version) for row in rows})
    menu_rows = await menus.menus_of_sites(session, ids)
    revisions = await menus.revisions_by_id(
        session, [one for row in menu_rows for one in (row.head_revision_id, row.live_revision_id)]
    )
    documents = await menus.documents(
        session, [revisions[row.head_revision_id].hash for row in menu_rows if row.head_revision_id]
    )
    on_shelf: dict[UUID, dict[str, MenuOnShelf]] = defaultdict(dict)
    for row in menu_rows:
        assert row.head_revision_id is not None
        assert row.site_id is not None
        head = revisions[row.head_revision_id]
        document = documents[head.hash]
        live = revisions.get(row.live_revision_id) if row.live_revision_id else None
        on_shelf[row.site_id][row.key] = MenuOnShelf(row=row, document=document, head=head, live=live)
    keys = {menu.row.id: key for found in on_shelf.values() for key, menu in found.items()}
    placed: dict[UUID, list[Placement]] = defaultdict(list)
    for placement in await sites.placements(session, ids):
        placed[placement.site_id].append(
            Placement.model_construct(
                location=placement.location,
                device=placement.device,  # type: ignore[arg-type]
                menu=keys[placement.menu_id] if placement.menu_id else None,
            )
        )
    shared = await facts.fact_sets(session) if any(row.fact_sets for row in rows) else {}
    slots: dict[UUID, list[LiveSlotRow]] = defaultdict(list)
    for slot in await sites.live_slots(session, ids):
        slots[slot.site_id].append(slot)
    return [
        Board(
            site=row,
            template=templates[row.template_key, row.template_version].adjusted(row.looks),
            menus=on_shelf[row.id],
            placements=tuple(placed[row.id]),
            slots=tuple(slots[row.id]),
            facts=known_facts(row, shared),
            draft=await changes.draft_of_site(session, row.id),
            release=await releases.newest_release(session, row.id),
            live=await releases.newest_live(session, row.id),
        )
        for row in rows
    ]


async def board(session: Session, key: str) -> Board:
    return (await boards(session, [await site_row(session, key)]))[0]
