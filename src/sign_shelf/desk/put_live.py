"""Putting a change live at a site: planned in one transaction with its job.

What goes live is the change's edits on top of what is live by then. The job that sends it is in desk/sending.py.
"""

import asyncio
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sign_shelf.core.basics.clock import clock_of, said_moment
from sign_shelf.core.changes import life
from sign_shelf.core.changes.beginning import Kind, Late, obstacle
from sign_shelf.core.changes.going_live import as_reviewed
from sign_shelf.core.changes.schedule import Freeze
from sign_shelf.core.changes.state import site_of
from sign_shelf.core.changes.steps import slots_to_send
from sign_shelf.core.errors import Clash, EditRefused, NotFound
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.menu import Device, menu_document
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.outgoing import stops
from sign_shelf.core.protocol.placed import PlacedMenu, placed_menu
from sign_shelf.core.resolve import find_placement
from sign_shelf.desk.hang import refuse_unfit
from sign_shelf.desk.on_top import merged_with
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import View, facts_of, shared_sets, site_row
from sign_shelf.desk.review import refuse_unapproved
from sign_shelf.desk.workplace import part_at
from sign_shelf.store import changes, keys, ledger, queue, releases, requests, schedules, sites, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.requests import RequestKey
from sign_shelf.store.tables import ChangePartRow, ChangeRow, FreezeRow, ReleaseRow, ReleaseStepRow, SiteRow

TASK = "put_live"
Step = dict[str, Any]
"""A place that is written: `location`, `device`, `menu`, the `placed` document that is sent, its `hash`."""


async def ask(
    database: Database,
    person: Person,
    site_key: str,
    *,
    view: View = None,
    told: str | None = None,
    request_key: RequestKey,
    now: datetime,
) -> UUID:
    """Plans a release of the change's part at the site and defers its job. The release's id; the same for the same key.
    `told` is the state that the person was told would be live.

    Raises Clash where there is nothing to put live, where it is not what was told, or where live has moved on and what
    both did has to be settled first; EditRefused where a finding stops it.
    """
    require(person, "put live", f"sites/{site_key}", site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)

        async def act() -> dict[str, Any]:
            change, part = await _part(session, person, site, view)
            await refuse_to_begin(session, site, "put live", now)
            release = await plan(session, site, change, part, told=told, by=person.id, now=now)
            return {"release": str(release.id)}

        answer = await requests.once(session, person.id, request_key, act, at=now)
        return UUID(answer["release"])


async def _part(session: Session, person: Person, site: SiteRow, view: View) -> tuple[ChangeRow, ChangePartRow]:
    nothing = Clash(f"There is nothing to put live: you work in no change of {site.name}.", where=f"sites/{site.key}")
    if isinstance(view, UUID):
        change, _ = await part_at(session, view, site)
    else:
        working = (await changes.worked_in(session, person.id, [site.id])).get(site.id) if view is None else None
        if working is None:
            raise nothing
        change = working[0]
    part = await changes.part_of(session, change.id, site.id, lock=True)
    await session.refresh(change)
    if part is None or part.live_at is not None or await releases.under_way(session, change.id, site.id):
        raise nothing
    return change, part


async def refuse_to_begin(
    session: Session, site: SiteRow, kind: Kind, now: datetime, *, moment: datetime | None = None
) -> None:
    """Raises Clash in a freeze, and where the moment at which it was to begin by itself passed too long ago."""
    where = f"sites/{site.key}"
    match obstacle(kind, now, moment=moment, freezes=await freezes_at(session, site)):
        case Freeze(ends=ends, why=why):
            until = said_moment(clock_of(facts_of(site).zone).reading_at(ends))
            raise Clash(
                f"Nothing goes live at {site.name} until {until}: {why}.", where=where,
                remedy="Wait until then, or have somebody who looks after the site's settings end the freeze.",
            )  # fmt: skip
        case Late():
            raise Clash(LATE_SAYS, where=where, remedy="Look at it, then publish it yourself.")


LATE_SAYS = "Nobody was there to do it when its moment came."


async def freezes_at(session: Session, site: SiteRow) -> tuple[Freeze, ...]:
    """Those that hold for the site, as instants on its clock."""
    return freezes_of(site, await schedules.freezes(session, site.id))


def freezes_of(site: SiteRow, rows: Iterable[FreezeRow]) -> tuple[Freeze, ...]:
    """Those of the rows that hold for the site."""
    clock = clock_of(facts_of(site).zone)
    mine = (row for row in rows if row.site_id in {None, site.id})
    return tuple(Freeze(clock.instant(row.begins), clock.instant(row.ends), row.why) for row in mine)


async def plan(
    session: Session, site: SiteRow, change: ChangeRow, part: ChangePartRow, *, told: str | None = None,
    approved: bool = False, by: UUID | None, now: datetime,
) -> ReleaseRow:  # fmt: skip
    """The release with its steps and its job, all or nothing. `approved`: that it is was asked already. Raises as `ask` does."""
    where = f"sites/{site.key}"
    await refuse_unreachable(session, site)
    life.step(change.state, "put live", title=change.title, where=f"changes/{change.id}")  # type: ignore[arg-type]
    live, goes = await live_and_target(session, site, change, part, approved=approved)
    if told not in {None, goes}:
        raise Clash(
            f"What would go live at {site.name} is not what you were told: somebody has saved since, or something else"
            " went live.", where=where, remedy="Look at what goes live now, then put it live.",
        )  # fmt: skip
    day = clock_of(facts_of(site).zone).now(now)[:10]
    goes_live = Goes(
        site=site, change=change, live=live, target=goes, by=by,
        steps=await steps_without_a_stop(session, site, live, goes, day),
        alone=len(await changes.parts_of(session, change.id)) == 1,
    )  # fmt: skip
    return (await begin(session, [goes_live], now))[0]


@dataclass(frozen=True, kw_only=True)
class Goes:
    """What goes live at one site, worked out. `alone`: the change has no other site."""

    site: SiteRow
    change: ChangeRow
    live: str
    target: str
    steps: Sequence[Step]
    alone: bool
    by: UUID | None


async def begin(session: Session, planned: Sequence[Goes], now: datetime) -> list[ReleaseRow]:
    """The releases with their steps and their jobs, all or nothing."""
    releases_ = [
        ReleaseRow(
            change_id=one.change.id, site_id=one.site.id, state="waiting", asked_by=one.by, asked_at=now, before=one.live,
            target=one.target,
        )
        for one in planned
    ]  # fmt: skip
    session.add_all(releases_)
    await session.flush()
    for one, release in zip(planned, releases_, strict=True):
        keep_steps(session, release, one.steps)
        change = one.change
        if one.alone:
            # A change of several sites goes on being worked in until the last of them is live.
            change.state = life.step(change.state, "put live", title=change.title, where=f"changes/{change.id}").to  # type: ignore[arg-type]
            session.add(change)
        ledger.write(session, "put live", f"Asked to put {change.title} live", at=now, person_id=one.by, site_id=one.site.id,
                     release=str(release.id), change=str(change.id))  # fmt: skip
    await queue.defer_all(session, TASK, {str(one.id): f"site:{one.site_id}" for one in releases_})
    return releases_


async def _refuse_another(
    session: Session, site: SiteRow, change: ChangeRow, part: ChangePartRow, live: str, goes: str
) -> None:
    """What waits before it may move what is live: what goes then does what was approved, or nothing."""
    states_ = [await states.contents(session, name) for name in (part.base, part.head, live, goes)]
    if not await asyncio.to_thread(as_reviewed, *states_):
        raise Clash(
            f"What would go live of {change.title} at {site.name} is not what was approved: something else goes live there before it.",
            where=f"changes/{change.id}", remedy="Wait until that is live, then ask for a review again.",
        )  # fmt: skip


async def refuse_unreachable(session: Session, site: SiteRow) -> None:
    where = f"sites/{site.key}"
    if site.archived_at is not None:
        raise Clash(f"{site.name} is put away.", where=where, remedy="Take it out again in its settings.")
    if site.connection == "observe" and await releases.last_waiting(session, site.id) is not None:
        raise Clash(
            f"Something else is still being put live at {site.name} by hand: one after the other.", where=where,
            remedy="Finish it on the site, or give it up under Sync; then put this live.",
        )  # fmt: skip
    if site.connection == "endpoint" and not site.endpoint:
        raise EditRefused(
            "Where this site takes its menus is not known.", where=where,
            remedy="Set up how it gets its menus, on its page.",
        )  # fmt: skip
    if site.connection == "endpoint" and not await keys.has_key(session, site.id, "signing"):
        raise EditRefused("The site's signing key is missing.", where=where, remedy="Enter it on the site's page.")


async def live_and_target(
    session: Session, site: SiteRow, change: ChangeRow, part: ChangePartRow, *, approved: bool = False
) -> tuple[str, str]:
    """What is live by then, and what would be. Raises Clash where that is not approved and has to be."""
    if not approved:
        await refuse_unapproved(session, change, site, first=facts_of(site).policy.review_first)
    ahead = await releases.last_waiting(session, site.id)
    # What waits before it will be live by then; where it fails, this one is planned anew.
    live = ahead.target if ahead is not None else site.live_state
    goes = await what_goes_live(session, site, part, live)
    if change.state in {"approved", "scheduled"}:
        await _refuse_another(session, site, change, part, live, goes)
    return live, goes


async def planned(
    session: Session, person: Person, site: SiteRow, view: View, now: datetime
) -> tuple[ChangeRow, SiteDocument, SiteDocument, str]:
    """What a release would be of: the change, the site as it is live by then and as it would be, and that state's name.
    Raises as `ask` does, but for findings."""
    change, part = await _part(session, person, site, view)
    await refuse_unreachable(session, site)
    await refuse_to_begin(session, site, "put live", now)
    life.step(change.state, "put live", title=change.title, where=f"changes/{change.id}")  # type: ignore[arg-type]
    live, goes = await live_and_target(session, site, change, part)
    before, after = [await whole(session, site, name) for name in (live, goes)]
    return change, before, after, goes


async def steps_without_a_stop(session: Session, site: SiteRow, live: str, goes: str, day: str) -> list[Step]:
    """What is to be written where. Raises EditRefused where a finding of that day stops it, and as `plan_steps` does."""
    before, after = [await whole(session, site, name) for name in (live, goes)]

    def worked_out() -> list[Step]:
        _refuse_what_stops(site, before, after, day)
        return _steps(site, before, after)

    return await asyncio.to_thread(worked_out)


def _refuse_what_stops(site: SiteRow, before: SiteDocument, after: SiteDocument, day: str) -> None:
    found = stops(before, after, today=day)
    if found:
        first, more = found[0], f" So do {len(found) - 1} more." if len(found) > 1 else ""
        inside = f", in {after.menus[first.menu].name}" if first.menu is not None else ""
        at = f"sites/{site.key}/menus/{first.menu}" if first.menu is not None else f"sites/{site.key}"
        raise EditRefused(f"A finding stops it: {first.says}{inside}.{more}", where=at, remedy=first.fix)


async def what_goes_live(session: Session, site: SiteRow, part: ChangePartRow, live: str) -> str:
    """The name of the state, where `live` is live by then. Raises Clash where it cannot be told without settling something first."""
    found = await merged_with(session, part, live)
    if found.conflicts:
        told = ", ".join(one.key for one in found.conflicts[:3])
        raise Clash(
            f"What is live at {site.name} by then is not what this change set out from, and they do not agree on: {told}.",
            where=f"sites/{site.key}",
            remedy="Settle what both changed, then put it live.",
        )
    name = await states.keep_contents(session, found.contents)
    if name == live:
        raise Clash(f"There is nothing to put live: {site.name} shows all of it already.", where=f"sites/{site.key}")
    return name


async def plan_steps(session: Session, site: SiteRow, release: ReleaseRow) -> None:
    """What is to be written where. Raises EditRefused where nothing a visitor gets is another, or a place does not take its
    menu."""
    before, after = [await whole(session, site, name) for name in (release.before, release.target)]
    keep_steps(session, release, _steps(site, before, after))


def _steps(site: SiteRow, before: SiteDocument, after: SiteDocument) -> list[Step]:
    slots = slots_to_send(before, after)
    where = f"sites/{site.key}"
    for slot in slots:
        place = after.template.location(slot.location)
        if slot.menu is not None and place is not None:
            refuse_unfit(after.menus[slot.menu], place, after.template, f"{where}/menus/{slot.menu}")
    if not slots and before.template == after.template and known(before) == known(after):
        raise EditRefused(
            "None of the menus in the draft hangs anywhere on the site.", where=where,
            remedy="Hang one of them in a place first.",
        )  # fmt: skip
    found: list[Step] = []
    for slot in slots if site.connection != "fetch" else ():
        placed = placed_at(after, slot.location, slot.device, slot.menu)
        step = {
            "location": slot.location, "device": slot.device, "menu": slot.menu, "placed": placed.to_json(),
            "hash": content_hash(placed),
        }  # fmt: skip
        if site.connection == "observe":
            was = find_placement(before, slot.location, slot.device).menu
            step["placed_before"] = placed_at(before, slot.location, slot.device, was).to_json()
        found.append(step)
    return found


def placed_at(site: SiteDocument, location: str, device: Device, menu: str | None) -> PlacedMenu:
    place = site.template.location(location)
    document = site.menus[menu] if menu else menu_document(place.title if place else location)
    return placed_menu(location, device, document, site.pages, site.menus, site.known())


def keep_steps(session: Session, release: ReleaseRow, steps: Sequence[Step]) -> None:
    for position, step in enumerate(steps, 1):
        session.add(ReleaseStepRow(release_id=release.id, position=position, state="waiting", **step))


def known(document: SiteDocument) -> tuple[object, ...]:
    return document.facts, document.audiences, document.rules


async def whole(session: Session, site: SiteRow, state: str) -> SiteDocument:
    """The site as it is in that state, with its pages."""
    contents = await states.contents(session, state)
    version = contents.arrangement.template
    template = (await sites.templates(session, {(version.key, version.version)}))[version.key, version.version]
    shared = await shared_sets(session, contents.arrangement.sets)
    return site_of(facts_of(site), contents, template, shared, await sites.pages_of_site(session, site.id))


async def look(
    database: Database, person: Person, release_id: UUID
) -> tuple[ReleaseRow, list[ReleaseStepRow], SiteRow]:
    async with database.transaction() as session:
        release = await releases.release_by_id(session, release_id)
        site = await session.get(SiteRow, release.site_id) if release is not None else None
        if release is None or site is None:
            raise NotFound("There is no such release.", where=f"releases/{release_id}")
        require(person, "look", f"releases/{release_id}", site.key)
        return release, await releases.steps_of(session, release_id), site
