"""What a site's draft changes against what is live, and taking it back edit by edit."""

import asyncio
from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sign_shelf.core.compare import diff_documents
from sign_shelf.core.compare.sites import LookEdit, PlaceEdit, SiteEdit, TemplateEdit, own_look, site_edits
from sign_shelf.core.errors import NotFound
from sign_shelf.core.menu import menu_document
from sign_shelf.core.site import SiteDocument
from sign_shelf.core.template import Template
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import Board, board, site_row
from sign_shelf.store import changes, ledger, live, sites
from sign_shelf.store.database import Database, Session


@dataclass(frozen=True, kw_only=True)
class MenuEdits:
    """How many edits of a menu the draft has; they are listed, and taken back, on its bench."""

    menu: str
    name: str
    count: int


@dataclass(frozen=True, kw_only=True)
class DraftEdits:
    site: tuple[SiteEdit, ...]
    menus: tuple[MenuEdits, ...]


async def draft_edits(session: Session, found: Board) -> DraftEdits:
    before = await live.live_document(session, found.site.id)
    if before is None:
        return DraftEdits(site=(), menus=())
    language = found.document().site.languages[0]

    def compared() -> DraftEdits:
        menus = []
        for key, menu in found.menus.items():
            earlier = before.menus.get(key) or menu_document(menu.document.name)
            if earlier != menu.document:
                count = len(diff_documents(earlier, menu.document, language=language))
                menus.append(MenuEdits(menu=key, name=menu.document.name, count=count))
        return DraftEdits(site=site_edits(before, found.document()), menus=tuple(menus))

    return await asyncio.to_thread(compared)


async def take_back(database: Database, person: Person, site_key: str, keys: Collection[str], now: datetime) -> None:
    """Makes the named edits undone. Raises NotFound where the draft no longer has one of them."""
    where = f"sites/{site_key}/draft"
    require(person, "hang", where)
    require(person, "design", where)
    async with database.transaction() as session:
        await site_row(session, site_key, lock=True)
        found = await board(session, site_key)
        before = await live.live_document(session, found.site.id)
        there = {edit.key: edit for edit in site_edits(before, found.document())} if before else {}
        for key in keys:
            edit = there.get(key)
            if edit is None or before is None:
                raise NotFound(
                    f'The draft has no edit "{key}".', where=where,
                    remedy="Somebody took it back meanwhile; look at the list again.",
                )  # fmt: skip
            await _undo(session, found, before, edit)
            ledger.write(session, "take back", f"Took back: {edit.says}", at=now, person_id=person.id,
                         site_id=found.site.id)  # fmt: skip
        await _end_if_empty(session, site_key)


async def _undo(session: Session, found: Board, before: SiteDocument, edit: SiteEdit) -> None:
    site = found.site
    match edit:
        case PlaceEdit(location, device):
            was = {(one.location, one.device): one.menu for one in before.placements}
            if (location, device) in was:
                await sites.place(session, site.id, location, device, _menu_id(found, was[location, device]))
            else:
                await sites.take_down(session, site.id, location, device)
        case LookEdit(location):
            site.looks = _looks(await _plain(session, found.template), before.template, site.looks, {location})
        case TemplateEdit():
            plain = await _plain(session, before.template)
            site.template_key, site.template_version = plain.key, plain.version
            site.looks = _looks(plain, before.template, {}, {one.key for one in plain.locations})
            hung = [(one.location, one.device, _menu_id(found, one.menu)) for one in before.placements]
            await sites.hang_anew(session, site.id, hung)
    session.add(site)


async def _plain(session: Session, template: Template) -> Template:
    """The template without a site's own looks."""
    return (await sites.templates(session, {(template.key, template.version)}))[template.key, template.version]


def _looks(plain: Template, wanted: Template, kept: dict[str, object], locations: set[str]) -> dict[str, object]:
    looks = dict(kept)
    for one in wanted.locations:
        usual = plain.location(one.key)
        if one.key in locations and usual is not None:
            looks[one.key] = own_look(usual.look, one.look)
    return {key: look for key, look in looks.items() if look}


def _menu_id(found: Board, key: str | None) -> UUID | None:
    return found.menus[key].row.id if key is not None else None


async def _end_if_empty(session: Session, site_key: str) -> None:
    """A draft that no longer differs from what is live is withdrawn."""
    await session.flush()
    found = await board(session, site_key)
    edits = await draft_edits(session, found)
    if found.draft is not None and not edits.site and not edits.menus:
        draft = await changes.draft_of_site(session, found.site.id, lock=True)
        assert draft is not None
        draft.state = "withdrawn"
        session.add(draft)
