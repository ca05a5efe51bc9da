"""What a change does to a site against what is live, and taking it back edit by edit."""

import asyncio
from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime

from sign_shelf.core.changes.arrangement import Arrangement
from sign_shelf.core.changes.life import step
from sign_shelf.core.compare import diff_documents
from sign_shelf.core.compare.sites import LookEdit, PlaceEdit, SiteEdit, TemplateEdit, site_edits
from sign_shelf.core.errors import NotFound
from sign_shelf.core.model.menu import menu_document
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import Board, View, board, boards, site_row
from sign_shelf.desk.workplace import Workplace, arrange, to_edit
from sign_shelf.store import changes, ledger
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
    if found.change is None:
        return DraftEdits(site=(), menus=())
    live = await _as_live(session, found)
    before, after = live.document(), found.document()
    language = after.site.languages[0]

    def compared() -> DraftEdits:
        menus = []
        for key, menu in found.menus.items():
            earlier = before.menus.get(key) or menu_document(menu.document.name)
            if menu.changed and earlier != menu.document:
                count = len(diff_documents(earlier, menu.document, language=language))
                menus.append(MenuEdits(menu=key, name=menu.document.name, count=count))
        return DraftEdits(site=site_edits(before, after), menus=tuple(menus))

    return await asyncio.to_thread(compared)


async def _as_live(session: Session, found: Board) -> Board:
    return (await boards(session, None, [found.site], "live"))[0]


async def take_back(
    database: Database, person: Person, site_key: str, keys: Collection[str], now: datetime, *, view: View = None
) -> None:
    """Makes the named edits undone. Raises NotFound where the change no longer has one of them."""
    where = f"sites/{site_key}/draft"
    require(person, "hang", where, site_key)
    require(person, "design", where, site_key)
    async with database.transaction() as session:
        at = await to_edit(session, person, await site_row(session, person, site_key), view, now)
        found = await board(session, person, site_key, at.change.id)
        live = await _as_live(session, found)
        there = {edit.key: edit for edit in site_edits(live.document(), found.document())}
        for key in keys:
            edit = there.get(key)
            if edit is None:
                raise NotFound(
                    f'The draft has no edit "{key}".', where=where,
                    remedy="Somebody took it back meanwhile; look at the list again.",
                )  # fmt: skip
            found = await board(session, person, site_key, at.change.id)
            await arrange(session, at, _without(found.arrangement, live.arrangement, edit))
            ledger.write(session, "take back", f"Took back: {edit.says}", at=now, person_id=person.id,
                         site_id=found.site.id, change=str(at.change.id))  # fmt: skip
        await _end_if_empty(session, at)


def _without(arrangement: Arrangement, live: Arrangement, edit: SiteEdit) -> Arrangement:
    match edit:
        case PlaceEdit(location, device):
            was, placed = live.placed(), arrangement.placed()
            placed.pop((location, device), None)
            if (location, device) in was:
                placed[location, device] = was[location, device]
            return arrangement.hanging(placed)
        case LookEdit(location):
            looks = {key: look for key, look in arrangement.looks.items() if key != location}
            if location in live.looks:
                looks[location] = live.looks[location]
            return arrangement.model_copy(update={"looks": looks})
        case TemplateEdit():
            moved = {"template": live.template, "looks": live.looks, "placements": live.placements}
            return arrangement.model_copy(update=moved)


async def _end_if_empty(session: Session, at: Workplace) -> None:
    """A change that does nothing any more to the one site that it touches is withdrawn."""
    if at.part.head == at.site.live_state and len(await changes.parts_of(session, at.change.id)) == 1:
        at.change.state = step(at.change.state, "withdraw", title=at.change.title, where=f"changes/{at.change.id}").to  # type: ignore[arg-type]
        session.add(at.change)
