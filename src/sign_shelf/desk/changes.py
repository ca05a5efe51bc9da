"""Changes of a site as people handle them: begun, named, worked in, brought up to what is live, withdrawn."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sign_shelf.core.changes import life
from sign_shelf.core.changes.conflict_words import state_met
from sign_shelf.core.changes.merging import StateConflict, merge_states, with_both
from sign_shelf.core.changes.state import Contents
from sign_shelf.core.compare.both import Choice, sides
from sign_shelf.core.compare.met import Met
from sign_shelf.core.errors import Clash, Refusal
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.desk.on_top import merged_with, templates_of
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import site_row, template_of, unknown_change
from sign_shelf.desk.workplace import Workplace, part_at, put_state, to_edit
from sign_shelf.store import changes, ledger, menus, releases, requests, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.requests import RequestKey
from sign_shelf.store.tables import ChangePartRow, ChangeRow, SiteRow


@dataclass(frozen=True, kw_only=True)
class ChangeAtSite:
    row: ChangeRow
    author: str | None
    working: bool
    """Whether the person who asks works in it."""
    behind: bool
    """Whether what is live moved on in a way that it does not go with."""


async def at_site(database: Database, person: Person, site_key: str) -> list[ChangeAtSite]:
    """The changes of the site that are neither live nor over, the newest first."""
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        mine = (await changes.worked_in(session, person.id, [site.id])).get(site.id)
        return [
            ChangeAtSite(
                row=row,
                author=author,
                working=mine is not None and mine[0].id == row.id,
                behind=part.base != site.live_state and row.state in life.OPEN,
            )
            for row, part, author in await changes.changes_at(session, [site.id])
        ]


async def begin(
    database: Database, person: Person, site_key: str, *, title: str, why: str, request_key: RequestKey, now: datetime
) -> UUID:
    """A new change that sets out from what is live; the person works in it from now on."""
    require(person, "edit", f"sites/{site_key}", site_key)
    called = checked_title(title)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)

        async def act() -> dict[str, Any]:
            row = await changes.begin(
                session, title=called, why=why.strip(), author_id=person.id, at=now, parts=[site.id]
            )
            await changes.work_in(session, person.id, site.id, row.id)
            ledger.write(session, "change", f"Began {called}", at=now, person_id=person.id, site_id=site.id,
                         change=str(row.id))  # fmt: skip
            return {"change": str(row.id)}

        return UUID((await requests.once(session, person.id, request_key, act, at=now))["change"])


def checked_title(title: str) -> str:
    called = " ".join(title.split())
    if not called or len(called) > 200 or not called.isprintable():
        raise Refusal("A change has a title of 1 to 200 signs.", where="title", remedy="Say what it is for.")
    return called


async def work_in(database: Database, person: Person, site_key: str, change_id: UUID | None) -> None:
    """Where the person's edits of the site go from now on; None: into a change of their own, once they begin to edit."""
    require(person, "edit", f"sites/{site_key}", site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        if change_id is not None:
            change, part = await part_at(session, change_id, site)
            if change.state not in changes.LOOKED_IN or part.live_at is not None:
                raise Clash(f"{change.title} is {change.state}: nobody works in it any more.", where=f"sites/{site_key}",
                            remedy="Choose another change, or begin one.")  # fmt: skip
        await changes.work_in(session, person.id, site.id, change_id)


async def name(database: Database, person: Person, change_id: UUID, *, title: str, why: str, now: datetime) -> None:
    called = checked_title(title)
    async with database.transaction() as session:
        row, sites_of = await _touched(session, person, change_id, "edit")
        if (row.title, row.why) == (called, why.strip()):
            return
        ledger.write(session, "change", f"Called {row.title} from now on {called}", at=now, person_id=person.id,
                     site_id=sites_of[0].id, change=str(row.id))  # fmt: skip
        row.title, row.why = called, why.strip()
        session.add(row)


async def withdraw(database: Database, person: Person, change_id: UUID, now: datetime) -> None:
    """The change is over, and does nothing; its menus' saves are kept. Raises Clash while it goes live at one of its
    sites."""
    async with database.transaction() as session:
        row, sites_of = await _touched(session, person, change_id, "edit")
        for site in sites_of:
            if await releases.under_way(session, change_id, site.id):
                raise Clash(f"{row.title} goes live at {site.name} just now.", where=f"changes/{change_id}",
                            remedy="Wait until it has.")  # fmt: skip
        row.state = life.step(row.state, "withdraw", title=row.title, where=f"changes/{change_id}").to  # type: ignore[arg-type]
        session.add(row)
        for site in sites_of:
            ledger.write(session, "change", f"Withdrew {row.title}", at=now, person_id=person.id, site_id=site.id,
                         change=str(row.id))  # fmt: skip


async def _touched(session: Session, person: Person, change_id: UUID, action: str) -> tuple[ChangeRow, list[SiteRow]]:
    """The change and its sites, where the person may do this at all of them."""
    row = await changes.change_by_id(session, change_id, lock=True)
    if row is None:
        raise unknown_change(change_id)
    touched = [
        site
        for part in await changes.parts_of(session, change_id)
        if (site := await session.get(SiteRow, part.site_id))
    ]
    for site in touched:
        require(person, action, f"changes/{change_id}", site.key)  # type: ignore[arg-type]
    return row, touched


Told = tuple[tuple[StateConflict, Met], ...]
"""Conflicts, each with its words."""


async def conflicts(database: Database, person: Person, site_key: str, change_id: UUID) -> Told:
    """What the change and what is live by now do not agree on."""
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        _, part = await part_at(session, change_id, site)
        found = (await merged_with(session, part, site.live_state)).conflicts
        sides = [await states.contents(session, one) for one in (part.base, site.live_state, part.head)]
        return await in_words(session, found, sides)


@dataclass(frozen=True)
class Settling:
    """A menu that the two sides do not agree on: as each has it, and what comes of it by the choices so far."""

    key: str
    ours: MenuDocument | None
    theirs: MenuDocument | None
    result: MenuDocument | None


async def settling(
    database: Database, person: Person, site_key: str, change_id: UUID, choices: Mapping[str, Choice]
) -> list[Settling]:
    """Every menu with a conflict; nothing is kept. What is not chosen yet stands as the change has it."""
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        _, part = await part_at(session, change_id, site)
        base, ours, theirs = [await states.contents(session, one) for one in (part.base, part.head, site.live_state)]
        templates = await templates_of(session, (base, ours, theirs))
        met = merge_states(base, ours, theirs, templates=templates).conflicts
        merged = merge_states(base, ours, theirs, templates=templates, choices=sides(choices)).contents
        merged = with_both(merged, theirs, met, choices)
        return [
            Settling(key, ours.menus.get(key), theirs.menus.get(key), merged.menus.get(key))
            for key in sorted({one.menu for one in met if one.menu is not None})
        ]


async def in_words(session: Session, found: tuple[StateConflict, ...], sides: Sequence[Contents]) -> Told:
    template = await template_of(session, sides[-1].arrangement.template)
    return tuple((one, state_met(one, sides, template)) for one in found)


async def catch_up(
    database: Database, person: Person, site_key: str, change_id: UUID, choices: Mapping[str, Choice], now: datetime
) -> Told:
    """The change sets out from what is live now, its edits on top. "ours" is the change, "theirs" what is live, "both" has
    theirs beside ours. What is
    still not agreed on; nothing is kept then."""
    require(person, "edit", f"sites/{site_key}", site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        at = await to_edit(session, person, site, change_id, now)
        base, head, live = [
            await states.contents(session, one) for one in (at.part.base, at.part.head, site.live_state)
        ]
        templates = await templates_of(session, (base, head, live))
        merged = merge_states(base, head, live, templates=templates, choices=sides(choices))
        if merged.conflicts:
            return await in_words(session, merged.conflicts, (base, live, head))
        met = merge_states(base, head, live, templates=templates).conflicts
        settled = with_both(merged.contents, live, met, choices)
        trees = {key: await menus.keep_tree(session, document) for key, document in settled.menus.items()}
        await put_state(session, at, settled.arrangement, trees, now=now)
        _set_out_from(session, at, site.live_state)
        ledger.write(session, "change", f"Brought {at.change.title} up to what is live", at=now, person_id=person.id,
                     site_id=site.id, change=str(at.change.id))  # fmt: skip
        return ()


def _set_out_from(session: Session, at: Workplace, base: str) -> None:
    part: ChangePartRow = at.part
    part.base = base
    session.add(part)
