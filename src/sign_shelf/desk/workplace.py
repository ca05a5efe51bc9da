"""In which change one works, and moving a change's state forward: the one way in which anything of a site is edited."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import NamedTuple
from uuid import UUID
from zoneinfo import ZoneInfo

from sign_shelf.core.changes import life
from sign_shelf.core.changes.arrangement import Arrangement
from sign_shelf.core.changes.state import State
from sign_shelf.core.errors import Clash, NotAllowed, NotFound
from sign_shelf.desk.permission import Person, may
from sign_shelf.desk.portfolio import View, unknown_change
from sign_shelf.store import changes, menus, releases, sites, states
from sign_shelf.store.database import Session
from sign_shelf.store.tables import ChangePartRow, ChangeRow, RevisionRow, SiteRow


@dataclass(frozen=True)
class Workplace:
    """A change's part at one site, locked: its head stays what it is until the transaction ends.

    A person who moves the head becomes an author of the change, and authors do not approve it (core/changes/review.py).
    """

    site: SiteRow
    change: ChangeRow
    part: ChangePartRow
    author_id: UUID | None
    """Who writes here. None: nobody, such as the program itself, which only carries on what others wrote."""


class Wanted(NamedTuple):
    """A state that a change wants at a site: the name of a kept arrangement, and those of kept trees by menu."""

    arrangement: str
    trees: Mapping[str, str]


async def begin_with(
    session: Session, person: Person, title: str, rows: Sequence[SiteRow], wants: Mapping[UUID, Wanted], now: datetime
) -> ChangeRow:
    """A new change that wants these states on top of what is live. Nobody else knows of it yet: nothing is to be locked, and all of it
    is written at once, at however many sites."""
    heads = dict(zip(wants, await states.keep_all_menus(session, wants.values()), strict=True))
    change = await changes.begin(
        session, title=title, why="", author_id=person.id, at=now,
        parts=[(row.id, row.live_state, heads[row.id]) for row in rows],
    )  # fmt: skip
    live = await states.states(session, [row.live_state for row in rows])
    revised = [
        menus.Revised(row.id, menu, has, hash)
        for row in rows
        for menu, hash in wants[row.id].trees.items()
        if (has := live[row.live_state].menus.get(menu)) != hash
    ]
    await menus.add_revisions(session, revised, author_id=person.id, change_id=change.id, at=now)
    return change


async def to_edit(session: Session, person: Person, site: SiteRow, view: View, now: datetime) -> Workplace:
    """Where what the person does at the site goes: the named change, or the one in which they work, opened where there is
    none. Raises Clash where one cannot edit: as live, or in a change that is over."""
    where = f"sites/{site.key}"
    if site.archived_at is not None:
        raise Clash(f"{site.name} is put away.", where=where, remedy="Take it out again in its settings to edit it.")
    if view == "live":
        raise Clash(
            f"You look at {site.name} as it is live.", where=where,
            remedy="Look in a change, or begin one, to edit.",
        )  # fmt: skip
    if isinstance(view, UUID):
        return await edit_in(session, person, site, view)
    return await _own(session, person, site, now)


async def edit_in(session: Session, person: Person | None, site: SiteRow, change_id: UUID) -> Workplace:
    """The change's part at the site, begun where it has none. `person` None: for the program itself. Raises Clash where the change
    is over; NotFound, or NotAllowed, where the person may not add a site to it."""
    change = await changes.change_by_id(session, change_id)
    if change is None:
        raise unknown_change(change_id)
    part = await changes.part_of(session, change_id, site.id, lock=True)
    if part is None:
        _refuse_to_add(person, site, change, [other for other, _ in await changes.sites_of(session, change_id)])
        part = await _more(session, change, site)
    await session.refresh(change)
    return await _edited(session, site, change, part, person.id if person is not None else None)


def _refuse_to_add(person: Person | None, site: SiteRow, change: ChangeRow, others: Sequence[SiteRow]) -> None:
    """Another site makes approvals of a change void and its publish time uncertain, and those who look after its other sites may
    not look at the new one: only who may edit all of them adds one."""
    if person is not None and not all(may(person, "edit", other.key) for other in others):
        raise NotAllowed(
            f"{change.title} is of sites that you may not edit: you cannot add {site.name} to it.",
            where=f"changes/{change.id}", remedy="Begin a change of your own, or ask somebody who may edit all of its sites.",
        )  # fmt: skip


async def seen_state(session: Session, person: Person, site: SiteRow, view: View) -> tuple[ChangeRow | None, State]:
    """What the person sees of the site, and in which change."""
    if isinstance(view, UUID):
        change = await changes.change_by_id(session, view)
        if change is None:
            raise unknown_change(view)
        part = await changes.part_of(session, view, site.id)
        return change, await states.state(session, part.head if part is not None else site.live_state)
    working = (await changes.worked_in(session, person.id, [site.id])).get(site.id) if view is None else None
    return (working[0] if working else None), await states.state(
        session, working[1].head if working else site.live_state
    )


async def _own(session: Session, person: Person, site: SiteRow, now: datetime) -> Workplace:
    change = await _worked_in(session, person, site)
    if change is None:
        await changes.alone_at(session, person.id, site.id)
        change = await _worked_in(session, person, site)
    if change is None:
        # What goes live just now is what the person sees: the next draft sets out from it. Once it is live, from what is live then.
        await sites.keep_live(session, [site.id])
        working = (await changes.worked_in(session, person.id, [site.id])).get(site.id)
        base = working[1].head if working else site.live_state
        change = await changes.begin(
            session, title=usual_title(site, now), why="", author_id=person.id, at=now, parts=[(site.id, base)]
        )
        await changes.work_in(session, person.id, site.id, change.id)
    part = await changes.part_of(session, change.id, site.id, lock=True)
    assert part is not None
    await session.refresh(change)
    if (
        change.state == "going live"
        or part.live_at is not None
        or await releases.under_way(session, change.id, site.id)
    ):
        # It went while the lock was waited for.
        return await _own(session, person, site, now)
    return await _edited(session, site, change, part, person.id)


async def _worked_in(session: Session, person: Person, site: SiteRow) -> ChangeRow | None:
    working = (await changes.worked_in(session, person.id, [site.id])).get(site.id)
    if working is None or working[0].state == "going live":
        return None
    # A change of several sites stays a draft while it goes live at one of them.
    return None if await releases.under_way(session, working[0].id, site.id) else working[0]


async def _more(session: Session, change: ChangeRow, site: SiteRow) -> ChangePartRow:
    """The change touches one more site."""
    life.step(change.state, "edit", title=change.title, where=f"changes/{change.id}")  # type: ignore[arg-type]
    live = (await sites.keep_live(session, [site.id]))[site.id]
    # Somebody else may add the site at the same time.
    await changes.add_part(session, change.id, site.id, live)
    part = await changes.part_of(session, change.id, site.id, lock=True)
    assert part is not None
    return part


async def _edited(
    session: Session, site: SiteRow, change: ChangeRow, part: ChangePartRow, author_id: UUID | None
) -> Workplace:
    where = f"sites/{site.key}"
    if part.live_at is not None:
        raise Clash(f"{change.title} is live at {site.name} already.", where=where, remedy="Begin another change.")
    if await releases.under_way(session, change.id, site.id):
        raise Clash(f"{change.title} goes live at {site.name} just now.", where=where,
                    remedy="Wait until it has, or begin another change.")  # fmt: skip
    after = life.step(change.state, "edit", title=change.title, where=f"changes/{change.id}")  # type: ignore[arg-type]
    if change.state != after.to:
        change.state = after.to
        session.add(change)
    return Workplace(site, change, part, author_id)


def usual_title(site: SiteRow, now: datetime) -> str:
    """By the day on the site's own calendar."""
    day = now.astimezone(ZoneInfo(site.particulars.get("zone", "UTC")))
    return f"Draft of {day:%-d %B}"


async def arrange(session: Session, at: Workplace, arrangement: Arrangement) -> None:
    """The change has this arrangement from now on."""
    before = await states.state(session, at.part.head)
    await _move(session, at, await states.keep_state(session, arrangement, before.menus))


async def put_tree(session: Session, at: Workplace, menu: str, hash: str, *, now: datetime) -> RevisionRow:
    """The change has this tree as the menu from now on: a revision on top of the one that it had."""
    before = await states.state(session, at.part.head)
    row = await _revised(session, at, menu, before.menus.get(menu), hash, now=now)
    await _move(session, at, await states.keep_menus(session, before.arrangement, {**before.menus, menu: hash}))
    return row


async def drop_menu(session: Session, at: Workplace, menu: str) -> None:
    """The change has no such menu from now on."""
    before = await states.state(session, at.part.head)
    left = {key: hash for key, hash in before.menus.items() if key != menu}
    await _move(session, at, await states.keep_menus(session, before.arrangement, left))


async def put_state(
    session: Session, at: Workplace, arrangement: Arrangement, trees: Mapping[str, str], *, now: datetime
) -> None:
    """The change wants this state from now on; each menu that has another tree gets a revision."""
    before = await states.state(session, at.part.head)
    for menu, hash in trees.items():
        if before.menus.get(menu) != hash:
            await _revised(session, at, menu, before.menus.get(menu), hash, now=now)
    await _move(session, at, await states.keep_state(session, arrangement, trees))


async def _revised(
    session: Session, at: Workplace, menu: str, has: str | None, hash: str, *, now: datetime
) -> RevisionRow:
    """The menu's revision with this tree, on top of the one that it had."""
    parent = await menus.newest_with(session, at.site.id, menu, has, at.change.id) if has else None
    return await menus.add_revision(
        session, at.site.id, menu, hash, parent=parent.id if parent else None, author_id=at.author_id,
        change_id=at.change.id, at=now,
    )  # fmt: skip


async def _move(session: Session, at: Workplace, head: str) -> None:
    if at.author_id is not None and head != at.part.head:
        await changes.contribute(session, at.change.id, [at.author_id])
    at.part.head = head
    session.add(at.part)
    await session.flush()


async def part_at(session: Session, change_id: UUID, site: SiteRow) -> tuple[ChangeRow, ChangePartRow]:
    change = await changes.change_by_id(session, change_id)
    part = await changes.part_of(session, change_id, site.id)
    if change is None or part is None:
        raise NotFound(f"There is no such change of {site.name}.", where=f"sites/{site.key}/changes/{change_id}")
    return change, part
