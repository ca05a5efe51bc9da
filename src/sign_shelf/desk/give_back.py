"""What was live before a change is live again: at its end, or undone. Later edits survive."""

from collections.abc import Mapping
from datetime import datetime
from typing import Literal
from uuid import UUID

from sign_shelf.core.changes.going_live import given_back
from sign_shelf.core.changes.merging import Merged
from sign_shelf.core.changes.state import Contents, same_contents
from sign_shelf.core.compare import Side
from sign_shelf.core.errors import Clash
from sign_shelf.desk.changes import Told, in_words
from sign_shelf.desk.on_top import templates_of
from sign_shelf.desk.permission import Person
from sign_shelf.desk.put_live import TASK, plan_steps, refuse_unreachable
from sign_shelf.desk.review import one_change
from sign_shelf.store import changes, ledger, queue, releases, schedules, sites, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ChangePartRow, ChangeRow, ReleaseRow, SiteRow

Kind = Literal["end", "undo"]
_SAYS: Mapping[str, str] = {"end": "has come to its end", "undo": "is undone"}


async def undo(
    database: Database, person: Person, change_id: UUID, *, at_site: str | None, choices: Mapping[str, Side], now: datetime
) -> list[UUID]:  # fmt: skip
    """Plans a release at each site where the change is live, or at the one. Raises Clash where it is live nowhere, and where
    something that went live since meets it and nothing is chosen: "ours" is what is live, "theirs" what was before."""
    where = f"changes/{change_id}"
    async with database.transaction() as session:
        found = await one_change(session, person, change_id, "put live")
        planned = []
        for site_row, _ in sorted(found.parts, key=lambda part: part[0].id):
            if at_site not in {None, site_row.key}:
                continue
            site = await sites.site_by_id(session, site_row.id, lock=True)
            part = await changes.part_of(session, change_id, site.id, lock=True)
            if part is None or part.live_at is None or part.over_at is not None:
                continue
            if not await releases.under_way(session, change_id, site.id):
                planned.append(
                    await plan_back(session, site, found.row, "undo", by=person.id, choices=choices, now=now)
                )
        if not planned:
            raise Clash(
                f"{found.row.title} is live nowhere, or on its way already.",
                where=where,
                remedy="Look at the ledger: it tells what went live, and what came back.",
            )
        return [one.id for one in planned]


async def plan_back(
    session: Session, site: SiteRow, change: ChangeRow, kind: Kind, *, by: UUID | None, now: datetime,
    choices: Mapping[str, Side] | None = None,
) -> ReleaseRow:  # fmt: skip
    """The release with its steps and its job, all or nothing. Raises Clash where what went live since meets it, and where none of
    it is live any more."""
    await refuse_unreachable(session, site)
    waiting = await releases.last_waiting(session, site.id)
    live = waiting.target if waiting is not None else site.live_state
    target = await what_comes_back(session, site, change, live, choices or {})
    release = ReleaseRow(
        change_id=change.id, site_id=site.id, state="waiting", asked_by=by, asked_at=now, before=live, target=target,
        kind=kind,
    )  # fmt: skip
    session.add(release)
    await session.flush()
    await plan_steps(session, site, release)
    await queue.defer(session, TASK, lock=f"site:{site.id}", subject=str(release.id))
    says = f"Asked to undo {change.title}" if kind == "undo" else f"{change.title} comes to its end"
    ledger.write(session, "put live", says, at=now, person_id=by, site_id=site.id, release=str(release.id),
                 change=str(change.id))  # fmt: skip
    return release


async def what_comes_back(
    session: Session, site: SiteRow, change: ChangeRow, live: str, choices: Mapping[str, Side]
) -> str:
    """The name of the state without what the change did. Raises Clash."""
    merged, sides = await _merged(session, site, change, live, choices)
    if merged.conflicts:
        told = await in_words(session, merged.conflicts, sides)
        about = "; ".join(dict.fromkeys(words.title for _, words in told[:3]))
        raise Clash(
            f"What went live at {site.name} since builds on {change.title}: {about}.", where=f"changes/{change.id}",
            remedy="Choose for each what holds, or take it out by hand in a change of its own.",
        )  # fmt: skip
    if same_contents(merged.contents, sides[1]):
        raise Clash(f"Nothing of {change.title} is live at {site.name} any more.", where=f"changes/{change.id}")
    return await states.keep_contents(session, merged.contents)


async def _merged(
    session: Session, site: SiteRow, change: ChangeRow, live: str, choices: Mapping[str, Side]
) -> tuple[Merged, tuple[Contents, Contents, Contents]]:
    """With what the change made, what is live by then, and what was before."""
    went = await schedules.went_live(session, change.id, site.id)
    if went is None:
        raise Clash(f"{change.title} never went live at {site.name}.", where=f"changes/{change.id}")
    made, then, before = [await states.contents(session, name) for name in (went.target, live, went.before)]
    templates = await templates_of(session, (made, then, before))
    return given_back(made, then, before, templates=templates, choices=choices), (made, then, before)


async def meets(database: Database, person: Person, change_id: UUID) -> list[tuple[SiteRow, Told]]:
    """The sites at which something that went live since builds on the change, with what has to be chosen there before it is undone:
    "ours" is what is live, "theirs" what was before."""
    async with database.transaction() as session:
        found = await one_change(session, person, change_id, "put live")
        told: list[tuple[SiteRow, Told]] = []
        for site, part in found.parts:
            if part.live_at is None or part.over_at is not None:
                continue
            merged, sides = await _merged(session, site, found.row, site.live_state, {})
            if merged.conflicts:
                told.append((site, await in_words(session, merged.conflicts, sides)))
        return told


async def came_back(
    session: Session, site: SiteRow, change: ChangeRow, part: ChangePartRow, kind: str, now: datetime
) -> str:
    """Ends the change at the site; returns the sentence for the activity log."""
    part.over_at = now
    session.add(part)
    return f"{change.title} {_SAYS[kind]}: what {site.name} showed before it is live again"
