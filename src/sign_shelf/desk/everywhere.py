"""The same edit in menus of many sites: one change that sets out from what is live, with a part for each site."""

from collections.abc import Callable, Collection, Mapping
from datetime import datetime
from uuid import UUID

from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.desk.changes import checked_title
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import boards
from sign_shelf.desk.ready import ready
from sign_shelf.desk.workplace import put_trees, to_edit
from sign_shelf.store import changes, ledger, menus
from sign_shelf.store.database import Session
from sign_shelf.store.tables import ChangeRow, SiteRow

Edited = Callable[[SiteDocument, str, Collection[str]], tuple[MenuDocument, int]]
"""The menu of that key with these of its items edited, and how many of them were."""


async def edit_everywhere(
    session: Session, person: Person, title: str, wanted: Mapping[UUID, Mapping[str, Collection[str]]], rows: Mapping[UUID, SiteRow],
    edited: Edited, now: datetime,
) -> tuple[ChangeRow | None, list[str], int]:  # fmt: skip
    """`wanted` are items by site and menu. The change, the keys of its sites, and how many entries are edited; no change where that
    is none."""
    at = sorted((rows[site_id] for site_id in wanted), key=lambda row: row.name)
    made: dict[UUID, dict[str, MenuDocument]] = {}
    entries = 0
    for board in await boards(session, None, at, "live"):
        whole = (await ready(session, board)).site
        for menu, items in wanted[board.site.id].items():
            after, count = edited(whole, menu, items)
            if after != board.menus[menu].document:
                entries += count
                made.setdefault(board.site.id, {})[menu] = after
    if not made:
        return None, [], 0
    named: dict[UUID, dict[str, str]] = {}
    for site_id, documents in made.items():
        named[site_id] = {menu: content_hash(document) for menu, document in documents.items()}
        await menus.keep_trees(session, {named[site_id][menu]: document for menu, document in documents.items()})
    touched = [row for row in at if row.id in made]
    change = await changes.begin(
        session, title=checked_title(title), why="", author_id=person.id, at=now,
        parts=[(row.id, row.live_state) for row in touched],
    )  # fmt: skip
    for row in touched:
        place = await to_edit(session, person, row, change.id, now)
        await put_trees(session, place, named[row.id], author_id=person.id, now=now)
        ledger.write(
            session, "change", f"Began {change.title}", at=now, person_id=person.id, site_id=row.id, change=str(change.id)
        )  # fmt: skip
    return change, [row.key for row in touched], entries
