"""Sites read as they are live, on a rhythm: where they show something else than was verified, and what that is in sentences.

A site that does not answer is not drift: then nothing is known anew, and it says why.
"""

import asyncio
from collections.abc import Awaitable, Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import cast
from uuid import UUID

from sign_shelf.core.errors import SiteRefused, SourceRefused
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.menu import Device, MenuDocument, menu_document
from sign_shelf.core.protocol.drift import LIKE_ENOUGH, Drifted, page_drift, place_drift
from sign_shelf.core.protocol.on_the_page import OnThePage, on_the_page
from sign_shelf.core.resolve import Prepared, find_placement
from sign_shelf.desk import as_visitors, by_hand
from sign_shelf.desk.committing import read_places
from sign_shelf.desk.portfolio import boards
from sign_shelf.desk.ready import ready
from sign_shelf.outside.apart import apart
from sign_shelf.outside.endpoint import Slot, read_slot
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import drift, releases, sites
from sign_shelf.store.database import Database
from sign_shelf.store.tables import DriftRow, LiveSlotRow, SiteRow

AT_ONCE = 4
"""Places of one site that are read at once."""
Place = tuple[str, str, str]
"""Location, device, audience."""


@dataclass(frozen=True, kw_only=True)
class Read:
    """What differs in a place. `surely`: it was found where it is known to be, and not by likeness."""

    drifted: Drifted | None
    surely: bool


async def read_live(database: Database, fetcher: Fetcher, site_id: UUID, now: datetime) -> None:
    async with database.transaction() as session:
        site = await sites.site_by_id(session, site_id)
        waits = await releases.last_waiting(session, site_id)
        if waits is not None and waits.state == releases.BY_HAND:
            # What a person is still at is no drift; whether it is done is looked at in the same rhythm.
            await by_hand.look_at(session, waits.id)
            await drift.put_off(session, site_id, now)
            return
        (board,) = await boards(session, None, [site], "live")
        seen = await sites.live_slots(session, [site_id])
        whole = await ready(session, board)
    state = site.live_state
    try:
        if site.connection == "repository":
            there = await read_places(
                database, site, [(row.location, row.device) for row in seen], fetcher.repositories
            )

            async def committed(location: str, device: Device) -> Slot | None:
                return there[location, device]

            found, places = await _places(committed, site, seen, whole, now)
        elif site.connection == "endpoint" and (endpoint := site.endpoint) is not None:
            called = whole.site.site.places

            async def sent(location: str, device: Device) -> Slot | None:
                return await read_slot(fetcher, endpoint, location, device, called=called.get(location))

            found, places = await _places(sent, site, seen, whole, now)
        else:
            found, places = await _page(database, fetcher, site, whole, now)
    except (SourceRefused, SiteRefused) as away:
        async with database.transaction() as session:
            await drift.was_away(session, site_id, away.says, now)
        return
    async with database.transaction() as session:
        site = await sites.site_by_id(session, site_id, lock=True)
        if site.live_state != state or await releases.last_waiting(session, site_id) is not None:
            # Something else went live meanwhile: what was read was perhaps half of it.
            await drift.read_soon(session, site_id, now)
            return
        await drift.was_read(session, site_id, state, found, places, now)


async def _places(
    there_is: Callable[[str, Device], Awaitable[Slot | None]],
    site: SiteRow,
    seen: Sequence[LiveSlotRow],
    whole: Prepared,
    now: datetime,
) -> tuple[dict[Place, DriftRow], int]:
    """Each place in which the site was seen to show something, over the site protocol or in its repository."""
    document = whole.site
    room = asyncio.Semaphore(AT_ONCE)

    async def one(last: LiveSlotRow) -> DriftRow | None:
        location, device = last.location, cast(Device, last.device)
        if document.template.location(location) is None:
            return None
        async with room:
            slot = await there_is(location, device)
        if slot is not None and content_hash(slot.placed) == last.hash:
            return None
        menu = find_placement(document, location, device).menu
        base = document.menus[menu].items if menu is not None else ()
        there = slot.placed.menu.items if slot is not None else ()
        return _row(site.id, (location, device, ""), place_drift(base, there, document.site.languages[0]), slot, now)

    told = await asyncio.gather(*map(one, seen))
    return {(row.location, row.device, ""): row for row in told if row is not None}, len(told)


async def _page(
    database: Database, fetcher: Fetcher, site: SiteRow, whole: Prepared, now: datetime
) -> tuple[dict[Place, DriftRow], int]:
    found = await as_read(database, fetcher, site, whole, now)
    rows = {place: _row(site.id, place, read.drifted, None, now) for place, read in found.items()}
    return {place: row for place, row in rows.items() if row is not None}, len(found)


async def as_read(
    database: Database, fetcher: Fetcher, site: SiteRow, whole: Prepared, now: datetime
) -> dict[Place, Read]:
    """The home page as its visitors get it: each place that its HTML has from the start, with what differs there. Raises SourceRefused
    and SiteRefused."""
    document = whole.site
    came = await as_visitors.visits(fetcher, document, await as_visitors.our_word(database, site, document, now), now)
    read: dict[bytes, OnThePage[MenuDocument]] = {}
    for visit in came:
        if visit.page.body not in read:
            read[visit.page.body] = await apart(
                site.base, on_the_page, visit.page.body, document.pages, language=document.site.languages[0],
                base=visit.page.url, seen_at=document.site.seen_at,
            )  # fmt: skip
    menus = [(visit, read[visit.page.body]) for visit in came]
    return await asyncio.to_thread(_compared, whole, menus, came[0].page.url, now)


def _compared(
    whole: Prepared, came: Sequence[tuple[as_visitors.Visit, OnThePage[MenuDocument]]], base: str, now: datetime
) -> dict[Place, Read]:
    document = whole.site
    found: dict[Place, Read] = {}
    for place in as_visitors.shown(whole, came, now):
        if not place.given.items:
            continue
        hung = find_placement(document, place.location, place.device).menu
        drifted = page_drift(
            place.given, place.found, document.pages, language=document.site.languages[0], base=base,
            menu=document.menus[hung].items if hung is not None else (), surely=place.surely,
        )  # fmt: skip
        if drifted is not None and not place.certain and drifted.sure < LIKE_ENOUGH:
            # The page may well make it for this device once scripts run.
            continue
        usual = found.get((place.location, place.device, ""))
        if place.audience and drifted and usual and usual.drifted and _told(drifted) <= _told(usual.drifted):
            drifted = None
        found[place.location, place.device, place.audience] = Read(drifted=drifted, surely=place.surely)
    return found


def _told(drifted: Drifted) -> set[str]:
    return {edit.key for edit in drifted.edits}


def _row(site_id: UUID, place: Place, drifted: Drifted | None, slot: Slot | None, now: datetime) -> DriftRow | None:
    if drifted is None:
        return None
    return DriftRow(
        site_id=site_id, location=place[0], device=place[1], audience=place[2],
        edits=[{"key": edit.key, "says": edit.says} for edit in drifted.edits],
        base=menu_document("verified", drifted.base).to_json(), there=menu_document("there", drifted.there).to_json(), sure=drifted.sure, etag=slot.etag if slot is not None else None,
        edited_by=slot.edited_by if slot is not None else None, edited_at=slot.edited_at if slot is not None else None, since=now,
    )  # fmt: skip
