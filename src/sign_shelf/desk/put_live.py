"""Putting a site's draft live: planned in one transaction, carried out by a job, verified by reading back.

The job may be killed anywhere and taken up again. What it must not do twice is guarded on both sides: every step has
one idempotency key and one stored document, and a step that the site already shows is only verified.
"""

from dataclasses import dataclass
from datetime import datetime
from html import unescape
from typing import Any, cast
from uuid import UUID
from zoneinfo import ZoneInfo

import structlog

from sign_shelf.core.documents import content_hash, read
from sign_shelf.core.errors import Busy, Clash, EditRefused, NotFound, Refusal, SiteRefused
from sign_shelf.core.menu import Device, menu_document
from sign_shelf.core.placed import PlacedMenu, placed_menu
from sign_shelf.core.resolve import Lens, Prepared, find_placement
from sign_shelf.core.site import SiteDocument
from sign_shelf.desk.hang import refuse_unfit
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import Board, board, unknown_site
from sign_shelf.outside.endpoint import Slot, read_slot, write_slot
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import changes, keys, ledger, live, queue, releases, requests, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ChangeRow, MenuRow, ReleaseRow, ReleaseStepRow, SiteRow

log = structlog.get_logger()

TASK = "put_live"
MOST_TRIES = 6


async def ask(database: Database, person: Person, site_key: str, *, request_key: str, now: datetime) -> UUID:
    """Plans a release of the site's draft and defers its job. The release's id; the same for the same key."""
    require(person, "put live", f"sites/{site_key}")
    async with database.transaction() as session:
        site = await sites.site_by_key(session, site_key, lock=True)
        if site is None:
            raise unknown_site(site_key)

        async def act() -> dict[str, Any]:
            release = await _plan(session, person, await board(session, site_key), now)
            await queue.defer(session, TASK, lock=f"site:{site.id}", subject=str(release.id))
            return {"release": str(release.id)}

        answer = await requests.once(session, person.id, request_key, {"put live": site_key}, act, at=now)
        return UUID(answer["release"])


async def _plan(session: Session, person: Person, found: Board, now: datetime) -> ReleaseRow:
    site = found.site
    where = f"sites/{site.key}"
    draft = await changes.draft_of_site(session, site.id, lock=True)
    if draft is None:
        raise Clash("There is nothing to put live: the site has no draft.", where=where)
    if site.connection not in {"endpoint", "fetch"} or (site.connection == "endpoint" and not site.endpoint):
        raise EditRefused(
            "This site can only be looked at: it does not speak the site protocol.", where=where,
            remedy="Set up its menu endpoint (docs/site-protocol.md), then take it in again.",
        )  # fmt: skip
    if site.connection == "endpoint" and not await keys.has_key(session, site.id, "signing"):
        raise EditRefused("The site's signing key is missing.", where=where, remedy="Enter it on the site's page.")
    pages = await sites.pages_of_site(session, site.id)
    wanted = found.document(pages)
    before = await live.live_document(session, site.id)
    release = ReleaseRow(
        change_id=draft.id,
        site_id=site.id,
        state="waiting",
        asked_by=person.id,
        asked_at=now,
        document=wanted.to_json(),
    )
    session.add(release)
    await session.flush()
    in_draft = {row.menu_id for row in await changes.menus_in_change(session, draft.id)}
    slots = _slots_to_send(found, wanted, before, in_draft)
    for location, _, key in slots:
        place = found.template.location(location)
        if key and place:
            refuse_unfit(found.menus[key].document, place, found.template, f"{where}/menus/{key}")
    if site.connection == "endpoint":
        for position, (location, device, key) in enumerate(slots, 1):
            menu = found.menus[key] if key else None
            place = found.template.location(location)
            document = menu.document if menu else menu_document(place.title if place else location)
            placed = placed_menu(location, device, document, pages)
            session.add(
                ReleaseStepRow(
                    release_id=release.id,
                    position=position,
                    location=location,
                    device=device,
                    menu_id=menu.row.id if menu else None,
                    revision_id=menu.head.id if menu else None,
                    placed=placed.to_json(),
                    hash=content_hash(placed),
                    state="waiting",
                )
            )
    if not slots and not _design_differs(wanted, before):
        raise EditRefused(
            "None of the menus in the draft hangs anywhere on the site.", where=where,
            remedy="Hang one of them in a place first.",
        )  # fmt: skip
    draft.state = "scheduled"
    session.add(draft)
    ledger.write(session, "put live", f"Asked to put {draft.title} live", at=now, person_id=person.id, site_id=site.id,
                 release=str(release.id))  # fmt: skip
    return release


def _slots_to_send(
    found: Board, wanted: SiteDocument, before: SiteDocument | None, in_draft: set[UUID]
) -> list[tuple[str, Device, str | None]]:
    """Places whose menu is in the draft, or that get another menu than they have live; None: the place is emptied."""
    hung = [(one.location, one.device) for one in wanted.placements]
    was = [(one.location, one.device) for one in before.placements] if before else []
    slots = []
    for location, device in dict.fromkeys([*hung, *was]):
        if found.template.location(location) is None:
            continue
        key = find_placement(wanted, location, device).menu
        lived = before is not None and before.template.location(location) is not None
        earlier = find_placement(before, location, device).menu if before and lived else None
        edited = key is not None and found.menus[key].row.id in in_draft
        if (edited and (location, device) in hung) or (before is not None and key != earlier):
            slots.append((location, device, key))
    return slots


def _design_differs(wanted: SiteDocument, before: SiteDocument | None) -> bool:
    return before is not None and before.template != wanted.template


@dataclass(frozen=True)
class _Work:
    site: SiteRow
    steps: list[ReleaseStepRow]
    document: SiteDocument | None
    tries: int


async def carry_out(database: Database, fetcher: Fetcher, release_id: UUID, now: datetime) -> None:
    """Sends, reads back and verifies every step. Whatever goes wrong ends the release as failed, for all to see; only a
    database that is away leaves it to be taken up again, as DatabaseAway."""
    work = await _begin(database, release_id)
    if work is None:
        return
    try:
        if work.tries > MOST_TRIES:
            raise SiteRefused(f"It was begun {MOST_TRIES} times and never came to an end.")
        if work.site.connection == "fetch":
            await _let_it_ask(database, fetcher, work, now)
        else:
            for step in work.steps:
                if step.state != "verified":
                    await _carry_out_step(database, fetcher, work.site, step, now)
    except Busy:
        raise
    except Refusal as refusal:
        await _failed(database, release_id, str(refusal), now)
    except Exception as exc:
        log.error("release_failed", release=str(release_id), exc_info=exc)
        await _failed(database, release_id, f"Something went wrong here: {type(exc).__name__}.", now)
    else:
        await _went_live(database, release_id, now)


async def _begin(database: Database, release_id: UUID) -> _Work | None:
    async with database.transaction() as session:
        release = await releases.release_by_id(session, release_id, lock=True)
        if release is None or release.state in {"live", "failed"}:
            return None
        release.state = "sending"
        release.tries += 1
        session.add(release)
        site = await session.get(SiteRow, release.site_id)
        assert site is not None
        document = read(SiteDocument, release.document) if release.document else None
        return _Work(site, await releases.steps_of(session, release_id), document, release.tries)


async def _carry_out_step(
    database: Database, fetcher: Fetcher, site: SiteRow, step: ReleaseStepRow, now: datetime
) -> None:
    assert site.endpoint is not None
    device = cast(Device, step.device)
    placed = read(PlacedMenu, step.placed)
    there = await read_slot(fetcher, site.endpoint, step.location, device)
    if there is None or content_hash(there.placed) != step.hash:
        etag = await _may_write(database, site, step, there)
        await _note(database, step, state="sent", etag_before=etag, sends=step.sends + 1)
        async with database.transaction() as session:
            signing = await keys.keys_of(session, database.seals, site.id, ["signing"], now)
        await write_slot(
            fetcher, site.endpoint, placed, secrets=[one.secret for one in signing], etag=etag,
            idempotency_key=str(step.id), at=now,
        )  # fmt: skip
        there = await read_slot(fetcher, site.endpoint, step.location, device)
    if there is None or content_hash(there.placed) != step.hash:
        raise SiteRefused(
            f"Read back, {step.location} for {step.device} does not show what was sent.",
            remedy="Look at the site, then put the draft live again.",
        )
    async with database.transaction() as session:
        await sites.saw_live(session, site.id, step.location, step.device, hash=step.hash, etag=there.etag, at=now)
        row = await session.get(ReleaseStepRow, step.id)
        assert row is not None
        row.state, row.etag_after = "verified", there.etag
        session.add(row)


async def _may_write(database: Database, site: SiteRow, step: ReleaseStepRow, there: Slot | None) -> str | None:
    """The entity tag to write on. Raises SiteRefused where somebody changed the place on the site itself."""
    if step.sends > 0:
        # Taken up again: the same request as before, so that the site can tell that it is the same.
        return step.etag_before
    async with database.transaction() as session:
        known = {(slot.location, slot.device): slot for slot in await sites.live_slots(session, [site.id])}
    slot = known.get((step.location, step.device))
    if there is not None and (slot is None or slot.etag != there.etag):
        raise SiteRefused(
            f"{step.location} for {step.device} was changed on the site itself since it was last read.",
            remedy="Look at what the live site shows before anything is sent over it.",
        )
    return there.etag if there else None


async def _let_it_ask(database: Database, fetcher: Fetcher, work: _Work, now: datetime) -> None:
    """For a site that asks us: what it is to get is there from now on, and its home page must show it. Where it does
    not, what was there before is there again."""
    site, document = work.site, work.document
    assert document is not None
    async with database.transaction() as session:
        before = await live.live_document(session, site.id)
        await live.keep_live(session, site.id, document, now)
    try:
        await _verify_shown(fetcher, document, now)
    except Exception:
        async with database.transaction() as session:
            if before is not None:
                await live.keep_live(session, site.id, before, now)
        raise


async def _verify_shown(fetcher: Fetcher, document: SiteDocument, now: datetime) -> None:
    """Every label that a visitor with a wide screen gets at the top of a place stands on the site's home page."""
    answer = await fetcher.get(document.site.base)
    if answer.status != 200:
        raise SiteRefused(f"The site's home page is answered with {answer.status}.", where=document.site.base)
    shown = unescape(answer.body.decode("utf-8", "replace"))
    at = now.astimezone(ZoneInfo(document.site.zone)).strftime("%Y-%m-%dT%H:%M")
    lens = Lens(device="desktop", language=document.site.languages[0], at=at)
    prepared = Prepared(document)
    for location in document.template.locations:
        if location.readable and location.shape != "section":
            for item in prepared.resolve(location.key, lens).items:
                if item.label not in shown:
                    raise SiteRefused(
                        f'The home page does not show "{item.label}" of {location.title}.', where=document.site.base,
                        remedy="Look whether the site asks for its menus, then put the draft live again.",
                    )  # fmt: skip


async def _note(database: Database, step: ReleaseStepRow, **fields: Any) -> None:
    async with database.transaction() as session:
        row = await session.get(ReleaseStepRow, step.id)
        assert row is not None
        for name, value in fields.items():
            setattr(row, name, value)
        session.add(row)


async def _went_live(database: Database, release_id: UUID, now: datetime) -> None:
    async with database.transaction() as session:
        release = await releases.release_by_id(session, release_id, lock=True)
        assert release is not None
        if release.state == "live":
            return
        change = await session.get(ChangeRow, release.change_id)
        assert change is not None
        steps = await releases.steps_of(session, release_id)
        site = await session.get(SiteRow, release.site_id)
        assert site is not None
        asks = site.connection == "fetch"
        told = "the site asked and shows it" if asks else f"{len(steps)} places sent and read back"
        release.state, release.finished_at, release.says = "live", now, told
        change.state, change.live_at = "live", now
        sent = {step.menu_id: step.revision_id for step in steps if step.menu_id is not None}
        if asks:
            sent = {row.menu_id: row.head_revision_id for row in await changes.menus_in_change(session, change.id)}
        for menu_id, revision_id in sent.items():
            menu = await session.get(MenuRow, menu_id)
            assert menu is not None
            menu.live_revision_id = revision_id
            session.add(menu)
        if release.document is not None and not asks:
            await live.keep_live(session, release.site_id, read(SiteDocument, release.document), now)
        session.add(release)
        session.add(change)
        ledger.write(session, "live", f"{change.title} is live and verified: {release.says}", at=now,
                     person_id=release.asked_by, site_id=release.site_id, release=str(release_id))  # fmt: skip


async def _failed(database: Database, release_id: UUID, says: str, now: datetime) -> None:
    """The release is over; its edits go back into the site's draft, so that nothing is lost."""
    async with database.transaction() as session:
        release = await releases.release_by_id(session, release_id, lock=True)
        assert release is not None
        release.state, release.finished_at, release.says = "failed", now, says
        session.add(release)
        change = await session.get(ChangeRow, release.change_id)
        assert change is not None
        newer = await changes.draft_of_site(session, release.site_id, lock=True)
        if newer is None:
            change.state = "draft"
        else:
            change.state = "withdrawn"
            for row in await changes.menus_in_change(session, change.id):
                kept = {one.menu_id for one in await changes.menus_in_change(session, newer.id)}
                if row.menu_id not in kept:
                    await changes.put_in_change(
                        session, newer.id, row.menu_id, row.base_revision_id, row.head_revision_id
                    )
        session.add(change)
        ledger.write(session, "release failed", says, at=now, person_id=release.asked_by, site_id=release.site_id,
                     release=str(release_id))  # fmt: skip


async def look(database: Database, release_id: UUID) -> tuple[ReleaseRow, list[ReleaseStepRow], SiteRow]:
    async with database.transaction() as session:
        release = await releases.release_by_id(session, release_id)
        if release is None:
            raise NotFound("There is no such release.", where=f"releases/{release_id}")
        site = await session.get(SiteRow, release.site_id)
        assert site is not None
        return release, await releases.steps_of(session, release_id), site
