"""Changes reviewed: asked for, approved, declined, remarked on. An approval holds for what was looked at, and for nothing else."""

import asyncio
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import cast
from uuid import UUID

from sign_shelf.core.changes import life
from sign_shelf.core.changes.review import Given, Verdict, approved_by, wanted
from sign_shelf.core.changes.state import Part, change_name
from sign_shelf.core.compare.rails import Rails, rails
from sign_shelf.core.errors import Clash, NotAllowed, NotFound, Refusal
from sign_shelf.desk.permission import Action, Person, may, require
from sign_shelf.desk.portfolio import facts_of, unknown_change
from sign_shelf.store import changes, ledger, menus, people, releases, reviews, schedules, seasons, sites, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import (
    ChangePartRow,
    ChangeRow,
    PersonRow,
    RemarkRow,
    ScheduleRow,
    SeasonRow,
    SiteRow,
    VerdictRow,
)

LONGEST = 4_000


@dataclass(frozen=True, kw_only=True)
class Reviewed:
    """A change with what was said of it. `content` is the name of what it is now; `approvals` are those that hold for that, of
    `wanted`."""

    row: ChangeRow
    parts: tuple[tuple[SiteRow, ChangePartRow], ...]
    content: str
    approvals: tuple[VerdictRow, ...]
    wanted: int
    verdicts: tuple[VerdictRow, ...]
    authors: frozenset[UUID]
    people: Mapping[UUID, PersonRow]
    """Of whom any of this tells."""
    schedule: ScheduleRow | None
    season: SeasonRow | None
    """Where it comes back every year."""

    def name_of(self, person_id: UUID | None) -> str | None:
        person = self.people.get(person_id) if person_id is not None else None
        return person.name if person is not None else None

    @property
    def is_approved(self) -> bool:
        return len(self.approvals) >= self.wanted


async def reviewed(session: Session, rows: Sequence[ChangeRow]) -> list[Reviewed]:
    """These changes, each whole."""
    ids = [row.id for row in rows]
    parts: dict[UUID, list[ChangePartRow]] = {}
    for part in await changes.all_parts_of(session, ids):
        parts.setdefault(part.change_id, []).append(part)
    every = {row.id: row for row in await sites.all_sites(session)}
    set_for = await schedules.schedules(session, ids)
    of_seasons = await seasons.seasons(
        session, [one.season_id for one in set_for.values() if one.season_id is not None]
    )
    said: dict[UUID, list[VerdictRow]] = {}
    for one in await reviews.verdicts(session, ids):
        said.setdefault(one.change_id, []).append(one)
    saved = await reviews.authors(session, ids)
    named = {one for ids_ in saved.values() for one in ids_} | {v.person_id for mine in said.values() for v in mine}
    named |= {row.author_id for row in rows if row.author_id is not None}
    named |= {one.set_by for one in set_for.values() if one.set_by is not None}
    known = await people.people_by_id(session, named)
    found = []
    for row in rows:
        mine = sorted(parts.get(row.id, ()), key=lambda part: every[part.site_id].name)
        content = _content(mine, every, set_for.get(row.id))
        authors = frozenset(saved.get(row.id, set()) | ({row.author_id} if row.author_id is not None else set()))
        verdicts = said.get(row.id, [])
        given = [
            Given(person=str(one.person_id), content=one.content, verdict=cast(Verdict, one.verdict))
            for one in verdicts
        ]
        holding = approved_by(given, content, {str(one) for one in authors})
        newest = {(str(one.person_id), one.content): one for one in verdicts}
        found.append(Reviewed(
            row=row, parts=tuple((every[part.site_id], part) for part in mine), content=content,
            approvals=tuple(newest[person, content] for person in holding),
            wanted=wanted(facts_of(every[part.site_id]).policy.approvals for part in mine),
            verdicts=tuple(verdicts), authors=authors, people=known, schedule=set_for.get(row.id),
            season=_going_on(of_seasons, set_for.get(row.id)),
        ))  # fmt: skip
    return found


def _going_on(of_seasons: Mapping[UUID, SeasonRow], kept: ScheduleRow | None) -> SeasonRow | None:
    found = of_seasons.get(kept.season_id) if kept is not None and kept.season_id is not None else None
    return found if found is not None and found.over_at is None else None


def _content(parts: Sequence[ChangePartRow], every: Mapping[UUID, SiteRow], schedule: ScheduleRow | None) -> str:
    moment = None
    if schedule is not None and any(facts_of(every[part.site_id]).policy.moment_too for part in parts):
        moment = f"{schedule.kind} {schedule.goes} {schedule.ends or '-'}"
    named = (Part(site=every[part.site_id].key, base=part.base, head=part.head) for part in parts)
    return change_name(named, moment)


async def open_changes(database: Database, person: Person) -> list[Reviewed]:
    """Those that are neither live nor over, of sites that the person may look at, the newest first."""
    async with database.transaction() as session:
        seen = [
            row for row in await sites.all_sites(session) if row.archived_at is None and may(person, "look", row.key)
        ]
        rows = {row.id: row for row, _, _ in await changes.changes_at(session, [row.id for row in seen])}
        found = await reviewed(session, list(rows.values()))
        return [one for one in found if all(may(person, "look", site.key) for site, _ in one.parts)]


async def one_change(
    session: Session, person: Person, change_id: UUID, action: Action = "look", *, lock: bool = False
) -> Reviewed:
    """Raises NotFound, and NotAllowed where the person may not do this at all of its sites."""
    if lock:
        # What is looked at stays what it is until the transaction ends; parts before the change, as whoever saves does.
        for part in sorted(await changes.parts_of(session, change_id), key=lambda part: part.site_id):
            await changes.part_of(session, change_id, part.site_id, lock=True)
    row = await changes.change_by_id(session, change_id, lock=lock)
    if row is None:
        raise unknown_change(change_id)
    (found,) = await reviewed(session, [row])
    for site, _ in found.parts:
        require(person, action, f"changes/{change_id}", site.key)
    return found


def _step(found: Reviewed, deed: life.Deed) -> life.Life:
    return life.step(found.row.state, deed, title=found.row.title, where=f"changes/{found.row.id}").to  # type: ignore[arg-type]


def _tell(
    session: Session, found: Reviewed, action: str, says: str, by: UUID | None, now: datetime, **more: str
) -> None:
    for site, _ in found.parts:
        ledger.write(
            session, action, says, at=now, person_id=by, site_id=site.id, change=str(found.row.id), content=found.content, **more
        )  # fmt: skip


async def ask_for_review(database: Database, person: Person, change_id: UUID, now: datetime) -> None:
    """Raises Clash where it does nothing, or goes live just now."""
    async with database.transaction() as session:
        found = await one_change(session, person, change_id, "edit", lock=True)
        to = _step(found, "ask for review")
        if all(part.base == part.head for _, part in found.parts):
            raise Clash(
                f"{found.row.title} does nothing yet.",
                where=f"changes/{change_id}",
                remedy="Edit something in it first.",
            )
        for site, _ in found.parts:
            if await releases.under_way(session, change_id, site.id):
                raise Clash(f"{found.row.title} goes live at {site.name} just now.", where=f"changes/{change_id}",
                            remedy="Wait until it has.")  # fmt: skip
        found.row.state = to
        session.add(found.row)
        _tell(session, found, "review", f"Asked for a review of {found.row.title}", person.id, now)


async def judge(
    database: Database, person: Person, change_id: UUID, verdict: Verdict, *, content: str, says: str, now: datetime
) -> None:
    """`content` names what the person looked at: raises Clash where it is another by now. NotAllowed for whoever wrote any of it;
    Refusal where it is declined without a reason."""
    where = f"changes/{change_id}"
    reason = _words(says, "says") if verdict == "declined" or says.strip() else ""
    async with database.transaction() as session:
        found = await one_change(session, person, change_id, "review", lock=True)
        row = found.row
        to = _step(found, "approve" if verdict == "approved" else "decline")
        if person.id in found.authors and verdict == "approved":
            raise NotAllowed(
                f"Some of {row.title} is yours: somebody else approves it.", where=where, remedy="Ask a colleague."
            )
        if content != found.content:
            raise Clash(f"{row.title} is not what you looked at: somebody saved since, or something else went live.", where=where,
                        remedy="Look at it again.")  # fmt: skip
        given = VerdictRow(
            change_id=change_id, person_id=person.id, content=content, verdict=verdict, says=reason, at=now
        )  # fmt: skip
        session.add(given)
        await session.flush()
        (after,) = await reviewed(session, [row])
        told = f"Approved {row.title}" if verdict == "approved" else f"Asked for changes to {row.title}: {reason}"
        _tell(session, found, "review", told, person.id, now)
        if verdict == "declined" or after.is_approved:
            row.state = to
            if to == "approved" and found.schedule is not None:
                row.state = life.step(to, "schedule", title=row.title, where=where).to
            session.add(row)


def _words(says: str, where: str) -> str:
    wanted = says.strip()
    if not wanted or len(wanted) > LONGEST:
        raise Refusal(f"Say it in 1 to {LONGEST} signs.", where=where, remedy="Say what is to be changed.")
    return wanted


async def refuse_unapproved(session: Session, change: ChangeRow, site: SiteRow, *, first: bool) -> None:
    """Raises Clash where the change may go live at the site only approved, and is not; `first`: nothing goes there that was not."""
    if not first and change.state not in {"approved", "scheduled"}:
        return
    (found,) = await reviewed(session, [change])
    if not found.is_approved:
        lacking = found.wanted - len(found.approvals)
        raise Clash(
            f"{change.title} has {lacking} approval{'s' if lacking > 1 else ''} too few to go live at {site.name}.",
            where=f"changes/{change.id}", remedy="Ask for a review of it as it is now.",
        )  # fmt: skip


async def moved_on(session: Session, before: Reviewed, *, as_it_was: bool, now: datetime) -> None:
    """What is live moved on, and the change with it. Where its edits are those that were reviewed, approvals stand; otherwise they
    are asked for again."""
    row = before.row
    (after,) = await reviewed(session, [row])
    if before.content == after.content:
        return
    if as_it_was:
        await reviews.hold_on(session, before.approvals, after.content, now)
        if before.approvals:
            names = ", ".join(name for one in before.approvals if (name := before.name_of(one.person_id)))
            _tell(session, after, "review", f"{row.title} stays approved by {names}: something else went live, and it does what it did",
                  None, now)  # fmt: skip
        return
    if "become another" in life.deeds(row.state):  # type: ignore[arg-type]
        row.state = _step(before, "become another")
        session.add(row)
        _tell(session, after, "review", f"{row.title} is to be approved again: something else went live, and it does another thing now",
              None, now)  # fmt: skip


async def menu_rails(
    database: Database, person: Person, change_id: UUID, site_key: str, menu: str, language: str | None
) -> Rails:
    """The menu as the change found it beside what it makes of it. Raises NotFound for one that it does nothing to."""
    async with database.transaction() as session:
        found = await one_change(session, person, change_id)
        at = next(((site, part) for site, part in found.parts if site.key == site_key), None)
        if at is None:
            raise NotFound(f"{found.row.title} does nothing at {site_key}.", where=f"changes/{change_id}")
        named = [(await states.state(session, name)).menus.get(menu) for name in (at[1].base, at[1].head)]
        if named == [None, None]:
            raise NotFound(f'{at[0].name} has no menu "{menu}" in {found.row.title}.', where=f"changes/{change_id}")
        trees = await menus.documents(session, [name for name in named if name is not None])
        before, after = (trees[name].items if name is not None else () for name in named)
        spoken = language or facts_of(at[0]).languages[0]
    return await asyncio.to_thread(rails, before, after, spoken)


@dataclass(frozen=True, kw_only=True)
class Remark:
    row: RemarkRow
    by: str
    settled_by: str | None
    site: str | None


async def remarks(session: Session, found: Reviewed) -> list[Remark]:
    rows = await reviews.remarks(session, found.row.id)
    named = {one for row in rows for one in (row.person_id, row.settled_by) if one is not None}
    names = {row.id: row.name for row in (await people.people_by_id(session, named)).values()}
    keys = {site.id: site.key for site, _ in found.parts}
    return [
        Remark(
            row=row, by=names[row.person_id], settled_by=names.get(row.settled_by) if row.settled_by else None,
            site=keys.get(row.site_id) if row.site_id else None,
        )
        for row in rows
    ]  # fmt: skip


async def remark(
    database: Database, person: Person, change_id: UUID, *, says: str, site: str | None, menu: str | None, item: str | None,
    answers: UUID | None, now: datetime,
) -> UUID:  # fmt: skip
    """On the change, an entry of it, or a remark. Whoever may look at it may. Raises NotFound, Refusal."""
    words = _words(says, "says")
    async with database.transaction() as session:
        found = await one_change(session, person, change_id)
        at = {row.key: row.id for row, _ in found.parts}
        if site is not None and site not in at:
            raise NotFound(f"{found.row.title} does nothing at {site}.", where="site")
        if answers is not None:
            before = await reviews.remark(session, answers)
            if before is None or before.change_id != change_id or before.answers is not None:
                raise NotFound("There is no such remark.", where="answers")
        row = RemarkRow(
            change_id=change_id, person_id=person.id, site_id=at[site] if site is not None else None, menu=menu, item=item,
            answers=answers, says=words, at=now,
        )  # fmt: skip
        session.add(row)
        await session.flush()
        return row.id


async def settle(
    database: Database, person: Person, change_id: UUID, remark_id: UUID, *, settled: bool, now: datetime
) -> None:
    """A remark, with its replies. Whoever may edit the change may, or made the remark."""
    async with database.transaction() as session:
        await one_change(session, person, change_id)
        row = await reviews.remark(session, remark_id, lock=True)
        if row is None or row.change_id != change_id or row.answers is not None:
            raise NotFound("There is no such remark.", where=f"changes/{change_id}/remarks/{remark_id}")
        if row.person_id != person.id:
            await one_change(session, person, change_id, "edit")
        row.settled_at, row.settled_by = (now, person.id) if settled else (None, None)
        session.add(row)
