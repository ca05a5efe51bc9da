"""Sites that we can only look at: what goes live there is carried out by a person, entry by entry, and held against what visitors get.

A release waits so until its places are read back on the page. What no page shows from the start (a menu that scripts make, entries behind a
rule) holds by the word of whoever ticked it.
"""

import asyncio
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import cast
from uuid import UUID

from sign_shelf.core.compare import diff
from sign_shelf.core.compare.edits import Edit
from sign_shelf.core.compare.sentences import as_task
from sign_shelf.core.errors import Clash, NotFound, Refusal
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.protocol.placed import PlacedMenu
from sign_shelf.core.protocol.shown import missing, navigations
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.desk import as_visitors
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.desk.put_live import TASK, look, whole
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import ledger, queue, releases, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ReleaseRow, ReleaseStepRow, SiteRow

BY_WORD = "by the word of a person"


@dataclass(frozen=True)
class ToDo:
    """A place with what is to be done there: `edits` lead from what hung there to what is to hang."""

    step: ReleaseStepRow
    title: str
    edits: tuple[Edit, ...]

    def task(self, edit: Edit) -> str:
        """What is to be done, with the addresses of pages in place of their references."""
        pages = read(PlacedMenu, self.step.placed).pages
        says = edit.says if edit.op == "set" else as_task(edit.says)
        return re.sub(r"@([^\s#,@{}\"<>]+)", lambda at: pages[at[1]].path if at[1] in pages else at[0], says)

    @property
    def ticked(self) -> set[str]:
        """The keys of the edits that somebody said are done."""
        return {str(one["key"]) for one in self.step.done}


def to_do(step: ReleaseStepRow, title: str, language: str) -> ToDo:
    after = read(PlacedMenu, step.placed).menu
    before = read(PlacedMenu, step.placed_before).menu if step.placed_before is not None else None
    edits = [
        one for one in diff(before.items if before is not None else (), after.items, language=language) if _seen(one)
    ]
    return ToDo(step, title, tuple(edits))


def _seen(edit: Edit) -> bool:
    """Whether a visitor can tell: where an entry was copied from, nobody can."""
    return not (edit.op == "set" and edit.field == "origin")


async def verify(
    database: Database, fetcher: Fetcher, site: SiteRow, release: ReleaseRow, steps: Sequence[ReleaseStepRow], now: datetime
) -> str | None:  # fmt: skip
    """What is still to be done, in a sentence; None where the site shows all of it. Places that it shows are noted as verified."""
    async with database.transaction() as session:
        before, document = [await whole(session, site, name) for name in (release.before, release.target)]
    try:
        came = await as_visitors.visits(
            fetcher, document, await as_visitors.our_word(database, site, document, now), now
        )
    except Refusal as away:
        return f"{away.says} It is looked at again."
    sides = Prepared(before), Prepared(document)
    says, seen = await asyncio.to_thread(_held_against, sides[1], came, now)
    left: list[str] = []
    async with database.transaction() as session:
        for step in await releases.steps_of(session, release.id):
            todo = to_do(step, _title(document, step.location), facts_of(site).languages[0])
            slot = (step.location, step.device)
            anybody = {id for side in sides for id in _shown_to_anybody(side, *slot, now)} if slot in seen else set()
            open_ = [edit for edit in todo.edits if edit.id not in anybody and edit.key not in todo.ticked]
            if slot in says:
                left.append(says[slot])
            elif open_:
                what = (
                    "is in no page from the start"
                    if slot not in seen
                    else f"has {_count(len(open_), 'edit')} that no stranger sees"
                )
                left.append(f"{todo.title} on the {step.device} {what}: tick what is done.")
            step.state = "waiting" if slot in says or open_ else "verified"
            by_word = slot not in seen or any(edit.id not in anybody for edit in todo.edits)
            step.says = says.get(slot, BY_WORD if by_word else "read back on the page")
            session.add(step)
    more = f" So do {len(left) - 1} more places." if len(left) > 1 else ""
    return f"{left[0]}{more}" if left else None


Slots = set[tuple[str, str]]


def _held_against(
    whole_: Prepared, came: Sequence[as_visitors.Visit], now: datetime
) -> tuple[dict[tuple[str, str], str], Slots]:
    """What keeps the page from showing a place as it is to be, by location and device; and the places that it shows."""
    document = whole_.site
    language, base = document.site.languages[0], document.site.base
    found = [
        (visit, navigations(visit.page.body, language=language, base=base, seen_at=document.site.seen_at))
        for visit in came
    ]
    says: dict[tuple[str, str], str] = {}
    seen: Slots = set()
    for place in as_visitors.shown(whole_, found, now):
        what = missing(place.title, place.given, place.found, language=language, base=base)
        slot = (place.location, place.device)
        if what is None:
            seen.add(slot)
        elif place.certain:
            says.setdefault(slot, f"{what[:-1]}, to {place.audience}." if place.audience else what)
    # The other devices of a place that is one and the same in the page are seen with it.
    for location in document.template.locations:
        if (location.key, "desktop") in seen:
            seen |= {(location.key, device) for device in location.devices if (location.key, device) not in says}
    return says, seen - says.keys()


def _shown_to_anybody(whole_: Prepared, location: str, device: str, now: datetime) -> Iterator[str]:
    """The entries that somebody of whom nothing is known gets there."""
    document = whole_.site
    if document.template.location(location) is None:
        return
    lens = Lens(device=cast(Device, device), language=document.site.languages[0], at=whole_.clock.now(now))
    rest = list(whole_.resolve(location, lens).items)
    while rest:
        one = rest.pop()
        yield one.id
        rest += one.items


async def list_to_do(database: Database, person: Person, release_id: UUID) -> tuple[ReleaseRow, SiteRow, list[ToDo]]:
    release, steps, site = await look(database, person, release_id)
    async with database.transaction() as session:
        document = await whole(session, site, release.target)
    language = facts_of(site).languages[0]
    found = [to_do(step, _title(document, step.location), language) for step in steps]
    return release, site, [one for one in found if one.edits]


def how_it_went(steps: Sequence[ReleaseStepRow]) -> str:
    by_word = [step for step in steps if step.says == BY_WORD]
    who = ", ".join(dict.fromkeys(str(one["by"]) for step in by_word for one in step.done))
    word = f", in {places(by_word)} in part by the word of {who}" if who else ""
    return f"{places(steps)} carried out by hand, read back on the page{word}"


def places(steps: Sequence[ReleaseStepRow]) -> str:
    return _count(len(steps), "place")


def _count(number: int, what: str) -> str:
    return f"{number} {what}{'s' if number != 1 else ''}"


def _title(document: SiteDocument, location: str) -> str:
    place = document.template.location(location)
    return place.title if place is not None else location


async def tick(
    database: Database, person: Person, release_id: UUID, step_id: UUID, key: str, done: bool, now: datetime
) -> None:
    """Somebody says that they did one of its edits on the site, or that it is not done after all."""
    async with database.transaction() as session:
        _, site = await _open(session, person, release_id)
        steps = {step.id: step for step in await releases.steps_of(session, release_id)}
        step = steps.get(step_id)
        if step is None:
            raise NotFound("There is no such place in the release.", where=f"releases/{release_id}")
        if key not in {edit.key for edit in to_do(step, step.location, facts_of(site).languages[0]).edits}:
            raise NotFound("There is no such edit to be done there.", where=f"releases/{release_id}")
        others = [one for one in step.done if one["key"] != key]
        step.done = [*others, {"key": key, "by": person.name, "at": now.isoformat()}] if done else others
        session.add(step)


async def look_again(database: Database, person: Person, release_id: UUID) -> None:
    """Holds it against what visitors get, as soon as a worker can."""
    async with database.transaction() as session:
        await _open(session, person, release_id)
        await look_at(session, release_id)


async def look_at(session: Session, release_id: UUID) -> None:
    release = await releases.release_by_id(session, release_id, lock=True)
    if release is not None and not await queue.has_job(session, TASK, str(release_id)):
        await queue.defer(session, TASK, lock=f"site:{release.site_id}", subject=str(release_id))


async def _open(session: Session, person: Person, release_id: UUID) -> tuple[ReleaseRow, SiteRow]:
    release = await releases.release_by_id(session, release_id, lock=True)
    site = await sites.site_by_id(session, release.site_id) if release is not None else None
    if release is None or site is None:
        raise NotFound("There is no such release.", where=f"releases/{release_id}")
    require(person, "put live", f"releases/{release_id}", site.key)
    if release.state != releases.BY_HAND:
        raise Clash("Nothing of it is to be done by hand any more.", where=f"releases/{release_id}")
    return release, site


async def may_give_up(database: Database, person: Person, release_id: UUID, now: datetime) -> None:
    """Raises as `tick` does; writes who did it."""
    async with database.transaction() as session:
        release, site = await _open(session, person, release_id)
        ledger.write(
            session, "by hand", f"Gave up putting it live at {site.name} by hand", at=now, person_id=person.id, site_id=site.id,
            release=str(release_id), change=str(release.change_id),
        )  # fmt: skip
