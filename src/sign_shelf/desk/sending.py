"""Carrying out a release: sent place by place, read back, and what went out before a failure put back.

The job may be killed anywhere and taken up again. What it must not do twice is guarded on both sides: every step has one
idempotency key and one stored document, and a step that the site already shows is only verified. Whatever goes wrong ends
the release, for all to see; what may pass is tried again first.
"""

import traceback
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, cast
from uuid import UUID

import structlog
from pydantic import SecretStr

from sign_shelf.core.changes import life
from sign_shelf.core.changes.beginning import Kind
from sign_shelf.core.errors import Busy, NoAnswer, Refusal, SiteAway, SiteRefused
from sign_shelf.core.model.documents import content_hash, read
from sign_shelf.core.model.menu import Device, menu_document
from sign_shelf.core.protocol.placed import PlacedMenu, placed_menu
from sign_shelf.desk import asked_for, by_hand, committing
from sign_shelf.desk.finishing import finish, note_how_far
from sign_shelf.desk.give_back import came_back, what_comes_back
from sign_shelf.desk.move_on import move_on
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.desk.put_live import plan_steps, refuse_to_begin, what_goes_live
from sign_shelf.outside.endpoint import Slot, read_slot, write_slot
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import changes, drift, keys, ledger, releases, sites
from sign_shelf.store.database import Database, DatabaseAway, Session
from sign_shelf.store.tables import ChangeRow, ReleaseRow, ReleaseStepRow, SiteRow

log = structlog.get_logger()

MOST_TRIES = 6
Clock = Callable[[], datetime]


class TryLater(Busy):
    """What stood in the way may pass; the release waits to be taken up again."""


@dataclass(frozen=True)
class _Work:
    release: ReleaseRow
    site: SiteRow
    steps: list[ReleaseStepRow]


async def carry_out(database: Database, fetcher: Fetcher, release_id: UUID, clock: Clock) -> None:
    """Sends, reads back and verifies every step. Raises TryLater and DatabaseAway where the job is to be done again."""
    work = await _begin(database, release_id, clock)
    if work is None:
        return
    if work.release.state == "putting back":
        await _put_back(database, fetcher, work, work.release.says, clock)
        return
    if work.site.connection == "observe":
        await _by_hand(database, fetcher, work, clock)
        return
    try:
        if work.release.tries > MOST_TRIES:
            raise SiteRefused(f"It was begun {MOST_TRIES} times and never came to an end.")
        if work.site.connection == "fetch":
            await asked_for.let_it_ask(database, fetcher, work.site, work.release, clock())
        elif work.site.connection == "repository":
            await committing.commit(database, work.site, work.release, work.steps, fetcher.repositories, clock)
        else:
            for step in work.steps:
                if step.state != "verified":
                    await _carry_out_step(database, fetcher, work.site, step, clock)
    except DatabaseAway:
        raise
    except (SiteAway, NoAnswer, Busy) as away:
        if work.release.tries < MOST_TRIES:
            await _say(database, release_id, f"{away.says} It is tried again.")
            raise TryLater(str(away)) from away
        await _put_back(database, fetcher, work, str(away), clock)
    except Refusal as refusal:
        await _put_back(database, fetcher, work, str(refusal), clock)
    except Exception as exc:
        await _put_back(database, fetcher, work, f"Something went wrong here: {type(exc).__name__}.", clock)
        log.error("release_failed", release=str(release_id), says=ascii(exc), where=_where(exc))
    else:
        await _went_live(database, release_id, clock())


def _where(exc: Exception) -> str:
    """The last lines of ours that it came through."""
    frames = traceback.extract_tb(exc.__traceback__)[-3:]
    return " < ".join(f"{frame.name} {frame.lineno}" for frame in reversed(frames))


async def _begin(database: Database, release_id: UUID, clock: Clock) -> _Work | None:
    """Taken up. One whose site moved on while it waited is planned anew on what is live now."""
    try:
        async with database.transaction() as session:
            if (
                await releases.release_by_id(session, release_id) is None
                or (found := await _open(session, release_id)) is None
            ):
                return None
            release, site = found
            if release.state == "waiting":
                # What was asked for waits its turn, and a freeze may have begun meanwhile.
                await refuse_to_begin(
                    session, site, cast(Kind, release.kind), clock(), moment=await _moment(session, release)
                )
            if release.state == "waiting" and release.before != site.live_state:
                part = await changes.part_of(session, release.change_id, site.id, lock=True)
                assert part is not None
                change = await changes.change_by_id(session, release.change_id)
                assert change is not None
                await releases.forget_steps(session, release_id)
                release.before = site.live_state
                if release.kind == "put live":
                    release.target = await what_goes_live(session, site, part, site.live_state)
                else:
                    release.target = await what_comes_back(session, site, change, site.live_state, {})
                await plan_steps(session, site, release)
            if release.state not in {"putting back", releases.BY_HAND}:
                release.state = "sending"
            release.tries += 1
            session.add(release)
            await session.flush()
            return _Work(release, site, await releases.steps_of(session, release_id))
    except Busy:
        raise
    except Refusal as refusal:
        # Planned anew, it cannot go: whatever the reason, it ends with it.
        await _failed(database, release_id, " ".join(filter(None, (refusal.says, refusal.remedy))), clock())
        return None


async def _moment(session: Session, release: ReleaseRow) -> datetime | None:
    """When it was to begin by itself; None where a person asked for it before."""
    part = await changes.part_of(session, release.change_id, release.site_id)
    moment = None if part is None else part.goes_at if release.kind == "put live" else part.ends_at
    return moment if moment is not None and moment <= release.asked_at else None


async def _carry_out_step(
    database: Database, fetcher: Fetcher, site: SiteRow, step: ReleaseStepRow, clock: Clock
) -> None:
    assert site.endpoint is not None
    device = cast(Device, step.device)
    placed = read(PlacedMenu, step.placed)
    there = await read_slot(fetcher, site.endpoint, step.location, device, called=_called(site, step.location))
    if there is None or content_hash(there.placed) != step.hash:
        etag = await _may_write(database, site, step, there)
        before = step.placed_before if step.sends else there.placed.to_json() if there else None
        await _note(database, step, state="sent", etag_before=etag, sends=step.sends + 1, placed_before=before)
        step.state, step.placed_before = "sent", before
        await _write(database, fetcher, site, placed, etag=etag, key=str(step.id), clock=clock)
        there = await read_slot(fetcher, site.endpoint, step.location, device, called=_called(site, step.location))
    if there is None or content_hash(there.placed) != step.hash:
        raise SiteRefused(
            f"Read back, {step.location} for {step.device} does not show what was sent.",
            remedy="Look at the site, then put the draft live again.",
        )
    async with database.transaction() as session:
        await sites.saw_live(
            session, site.id, step.location, step.device, hash=step.hash, etag=there.etag, at=clock()
        )  # fmt: skip
    await _note(database, step, state="verified", etag_after=there.etag)
    step.state = "verified"


def _called(site: SiteRow, location: str) -> str | None:
    """The site's own name for the location, where it has one."""
    return facts_of(site).places.get(location)


async def _write(
    database: Database, fetcher: Fetcher, site: SiteRow, placed: PlacedMenu, *, etag: str | None, key: str, clock: Clock
) -> None:
    """Signed with the keys that count at this very moment, and dated so."""
    assert site.endpoint is not None
    async with database.transaction() as session:
        signing: list[SecretStr] = [
            one.secret for one in await keys.keys_of(session, database.seals, site.id, ["signing"], clock())
        ]
    await write_slot(
        fetcher, site.endpoint, placed, secrets=signing, etag=etag, idempotency_key=key, at=clock(),
        called=_called(site, placed.location),
    )  # fmt: skip


async def _may_write(database: Database, site: SiteRow, step: ReleaseStepRow, there: Slot | None) -> str | None:
    """The entity tag to write on. Raises SiteRefused where somebody changed the place on the site itself.

    What the site shows is known where it is what was last seen there, or anything that we ever sent to the place: a write
    whose answer was lost has been applied all the same.
    """
    if step.sends > 0:
        # Taken up again: the same request as before, so that the site can tell that it is the same.
        return step.etag_before
    if there is None:
        return None
    async with database.transaction() as session:
        known = {(slot.location, slot.device): slot for slot in await sites.live_slots(session, [site.id])}
        ours = await releases.sent_to(session, site.id, step.location, step.device)
    slot = known.get((step.location, step.device))
    shows = content_hash(there.placed)
    if shows in ours or (slot is not None and (slot.etag == there.etag or slot.hash == shows)):
        return there.etag
    raise SiteRefused(
        f"{step.location} for {step.device} was changed on the site itself since it was last read.",
        remedy="Read the place again: take over what the site shows into a change, or put back what was approved.",
    )


async def _put_back(database: Database, fetcher: Fetcher, work: _Work, why: str, clock: Clock) -> None:
    """Everything that went out shows again what it showed before, or is told by its place; then the release has failed."""
    # A commit has all places or none: where it failed, nothing went out.
    sent = work.steps if work.site.connection == "endpoint" else ()
    out = [step for step in sent if step.state in {"sent", "verified"}]
    if out:
        await _say(database, work.release.id, why, state="putting back")
    left: list[str] = []
    for step in reversed(out):
        try:
            await _put_back_step(database, fetcher, work.site, step, clock)
        except DatabaseAway:
            raise
        except (SiteAway, NoAnswer, Busy) as away:
            if work.release.tries < 2 * MOST_TRIES:
                raise TryLater(str(away)) from away
            left.append(await _left(database, step, str(away)))
        except Refusal as refusal:
            left.append(await _left(database, step, str(refusal)))
    back = len(out) - len(left)
    told = [why]
    if back:
        told.append(
            f"{back} place{'s' if back > 1 else ''} that had changed show{'' if back > 1 else 's'} again what was live before."
        )
    if left:
        told.append(f"{'; '.join(left)}: not put back, look at the site.")
    await _failed(database, work.release.id, " ".join(told), clock())
    if work.site.connection == "fetch":
        await asked_for.ping(database, fetcher, work.site, f"{work.release.id.hex}back", clock())


async def _put_back_step(
    database: Database, fetcher: Fetcher, site: SiteRow, step: ReleaseStepRow, clock: Clock
) -> None:
    assert site.endpoint is not None
    device = cast(Device, step.device)
    there = await read_slot(fetcher, site.endpoint, step.location, device, called=_called(site, step.location))
    if there is not None and content_hash(there.placed) == step.hash:
        before = (
            read(PlacedMenu, step.placed_before)
            if step.placed_before is not None
            else placed_menu(step.location, device, menu_document(step.location), ())
        )
        await _write(database, fetcher, site, before, etag=there.etag, key=f"{step.id}-back", clock=clock)
        there = await read_slot(fetcher, site.endpoint, step.location, device, called=_called(site, step.location))
        if there is None or content_hash(there.placed) != content_hash(before):
            raise SiteRefused("read back, it does not show what was put back")
    if there is not None:
        async with database.transaction() as session:
            await sites.saw_live(
                session, site.id, step.location, step.device, hash=content_hash(there.placed), etag=there.etag,
                at=clock(),
            )  # fmt: skip
    await _note(database, step, state="put back")
    step.state = "put back"


async def _left(database: Database, step: ReleaseStepRow, says: str) -> str:
    await _note(database, step, state="left", says=says)
    return f"{step.location} for {step.device}"


async def _by_hand(database: Database, fetcher: Fetcher, work: _Work, clock: Clock) -> None:
    """For a site that we can only look at: live once it shows everything; until then a person carries it out."""
    try:
        left = await by_hand.verify(database, fetcher, work.site, work.release, work.steps, clock())
    except DatabaseAway:
        raise
    except Exception as exc:
        # It waits for its person all the same, and is not begun again and again.
        left = f"Something went wrong here when it was looked at: {type(exc).__name__}."
        log.error("not_looked_at", release=str(work.release.id), says=ascii(exc), where=_where(exc))
    if left is None:
        await _went_live(database, work.release.id, clock())
    else:
        await _say(database, work.release.id, left, state=releases.BY_HAND)


async def give_up(database: Database, person: Person, release_id: UUID, now: datetime) -> None:
    """What a person was to carry out on the site is not; what they did there already is drift."""
    await by_hand.may_give_up(database, person, release_id, now)
    await _failed(database, release_id, f"Given up by {person.name}.", now)


async def _note(database: Database, step: ReleaseStepRow, **fields: Any) -> None:
    async with database.transaction() as session:
        row = await session.get(ReleaseStepRow, step.id)
        assert row is not None
        for name, value in fields.items():
            setattr(row, name, value)
        session.add(row)


async def _say(database: Database, release_id: UUID, says: str, *, state: str | None = None) -> None:
    async with database.transaction() as session:
        found = await _open(session, release_id)
        if found is None:
            return
        release, _ = found
        release.says, release.state = says, state or release.state
        session.add(release)


async def _open(session: Session, release_id: UUID) -> tuple[ReleaseRow, SiteRow] | None:
    """The release and its site, locked; None where it is over: nothing that was under way meanwhile changes what it ended as."""
    release = await releases.release_by_id(session, release_id)
    assert release is not None
    site = await sites.site_by_id(session, release.site_id, lock=True)
    release = await releases.release_by_id(session, release_id, lock=True)
    assert release is not None
    return None if release.state in releases.OVER else (release, site)


async def _went_live(database: Database, release_id: UUID, now: datetime) -> None:
    """The state is live, the change's part is over, and every other change of the site moves on with it."""
    async with database.transaction() as session:
        found = await _open(session, release_id)
        if found is None:
            return
        release, site = found
        steps = await releases.steps_of(session, release_id)
        told = _how_it_went(site, steps)
        release.state, release.finished_at, release.says = "live", now, told
        site.live_state, site.live_since, site.trying_state = release.target, now, None
        session.add(site)
        # What differed before is no longer told, but looked for again; not at once, as all that was sent was just read back.
        await drift.forget(session, site.id)
        await drift.read_soon(session, site.id, now + timedelta(minutes=1))
        part = await changes.part_of(session, release.change_id, site.id, lock=True)
        change = await changes.change_by_id(session, release.change_id)
        assert part is not None
        assert change is not None
        session.add(release)
        if release.kind == "put live":
            says = f"{change.title} is live and verified"
            part.live_at, part.says, part.foretold = now, "", ""
            session.add(part)
        else:
            says = await came_back(session, site, change, part, release.kind, now)
        await session.flush()
        await note_how_far(session, change, now)
        await _move_on(session, site, now)
        ledger.write(session, "live", f"{says}: {told}", at=now,
                     person_id=release.asked_by, site_id=site.id, release=str(release_id), change=str(change.id))  # fmt: skip
    await finish(database, change.id, now)


def _how_it_went(site: SiteRow, steps: Sequence[ReleaseStepRow]) -> str:
    match site.connection:
        case "fetch":
            return "the site asked and shows it"
        case "repository":
            return f"{by_hand.places(steps)} committed and read back"
        case "observe":
            return by_hand.how_it_went(steps)
        case _:
            return f"{by_hand.places(steps)} sent and read back"


async def _move_on(session: Session, site: SiteRow, now: datetime) -> None:
    """Changes that set out from what was live before set out from what is live now."""
    for change, part in await changes.open_parts(session, site.id, life.OPEN):
        await move_on(session, site, change, part, now)


async def _failed(database: Database, release_id: UUID, says: str, now: datetime) -> None:
    """The release is over; its edits stay where they are, in their change, which can be worked in again."""
    async with database.transaction() as session:
        found = await _open(session, release_id)
        if found is None:
            return
        release, site = found
        release.state, release.finished_at, release.says = "failed", now, says
        site.trying_state = None
        session.add(site)
        session.add(release)
        change = await session.get(ChangeRow, release.change_id)
        assert change is not None
        if change.state == "going live":
            change.state = life.step("going live", "fail", title=change.title, where=f"changes/{change.id}").to
            session.add(change)
        part = await changes.part_of(session, change.id, site.id, lock=True)
        moment = None if part is None else part.goes_at if release.kind == "put live" else part.ends_at
        if part is not None and moment is not None and moment <= now:
            # Its moment has come and gone: what is tried again is tried by a person.
            part.says = says
            session.add(part)
        ledger.write(session, "release failed", says, at=now, person_id=release.asked_by, site_id=release.site_id,
                     release=str(release_id), change=str(change.id))  # fmt: skip
