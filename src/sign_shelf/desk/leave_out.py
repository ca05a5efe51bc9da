"""Leaving a menu out of a change before it goes live: its edits, and whose they are, go over into a change of their own."""

from datetime import datetime
from typing import Any
from uuid import UUID

from sign_shelf.core.changes.leaving_out import left_out
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import site_row
from sign_shelf.desk.workplace import Workplace, put_state, to_edit
from sign_shelf.store import changes, ledger, menus, requests, reviews, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.requests import RequestKey


async def leave_out(
    database: Database,
    person: Person,
    site_key: str,
    change_id: UUID,
    menu: str,
    *,
    request_key: RequestKey,
    now: datetime,
) -> dict[str, Any]:
    """The change that the menu's edits are in from now on, with its title; the same for the same key. Raises EditRefused
    where the change does nothing to the menu, or where one cannot be without the other."""
    require(person, "edit", f"sites/{site_key}", site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)

        async def act() -> dict[str, Any]:
            at = await to_edit(session, person, site, change_id, now)
            return await _part(session, at, menu, person, now)

        return await requests.once(session, person.id, request_key, act, at=now)


async def _part(session: Session, at: Workplace, menu: str, person: Person, now: datetime) -> dict[str, Any]:
    site, change, part = at.site, at.change, at.part
    base, head = [await states.contents(session, name) for name in (part.base, part.head)]
    kept, alone = left_out(base, head, menu)
    names = await states.state(session, part.head)
    before = await states.state(session, part.base)
    name = head.menus[menu].name
    other = await changes.begin(
        session, title=f"{name}, left out of {change.title}"[:200], why=change.why, author_id=person.id, at=now,
        parts=[(site.id, part.base)],
    )  # fmt: skip
    its_part = await changes.part_of(session, other.id, site.id, lock=True)
    assert its_part is not None
    await _saves_again(session, at, menu, other.id)
    # Who wrote what goes over is not told apart: all of them are authors of it.
    everybody = await reviews.authors(session, [change.id])
    await changes.contribute(session, other.id, everybody.get(change.id, set()))
    trees = {**before.menus, menu: names.menus[menu]}
    its_part.head = await states.keep_state(session, alone.arrangement, trees)
    session.add(its_part)
    rest = {key: before.menus[key] if key == menu else names.menus[key] for key in kept.menus}
    await put_state(session, at, kept.arrangement, rest, now=now)
    ledger.write(session, "change", f"Left {name} out of {change.title}", at=now, person_id=person.id, site_id=site.id,
                 menu=menu, change=str(change.id))  # fmt: skip
    return {"change": str(other.id), "title": other.title}


async def _saves_again(session: Session, at: Workplace, menu: str, change_id: UUID) -> None:
    """What was saved of the menu in the one change was saved, by the same people at the same times, in the other."""
    newer: dict[int | None, int | None] = {}
    for row in await menus.revisions_in(session, at.site.id, menu, at.change.id):
        again = await menus.add_revision(
            session, at.site.id, menu, row.hash, parent=newer.get(row.parent_id, row.parent_id), author_id=row.author_id,
            change_id=change_id, at=row.at,
        )  # fmt: skip
        newer[row.id] = again.id
