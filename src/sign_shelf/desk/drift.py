"""A place that was changed on the site itself: read again, and either taken over into a change or put back as approved."""

from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from sign_shelf.core.errors import EditRefused, NotFound
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.menu import Device, menu_document
from sign_shelf.core.protocol.placed import placed_menu
from sign_shelf.core.resolve import find_placement
from sign_shelf.desk.edit import begin_menu
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import View, board, facts_of, site_row
from sign_shelf.desk.put_live import TASK, whole
from sign_shelf.desk.workplace import arrange, put_tree, to_edit
from sign_shelf.outside.endpoint import Slot, read_slot
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import changes, ledger, menus, queue, requests, sites, states
from sign_shelf.store.database import Database
from sign_shelf.store.tables import ReleaseRow, ReleaseStepRow

Then = Literal["take over", "put back"]


async def read_again(
    database: Database,
    fetcher: Fetcher,
    person: Person,
    site_key: str,
    *,
    location: str,
    device: Device,
    then: Then,
    request_key: str,
    now: datetime,
    view: View = None,
) -> UUID | None:
    """What the place shows now is known from now on. "take over": it is the menu of the place in the change; "put back": a
    release sends what is live on the shelf, and its id is the answer."""
    where = f"sites/{site_key}/places/{location}/{device}"
    require(person, "edit" if then == "take over" else "put live", where, site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        if site.connection != "endpoint" or site.endpoint is None:
            raise EditRefused("This site is not written to, so nothing can be read back from its places.", where=where)
        live = await whole(session, site, site.live_state)
        if live.template.location(location) is None:
            raise NotFound(f'The template has no location "{location}".', where=where)
    called = facts_of(site).places.get(location)
    there = await read_slot(fetcher, site.endpoint, location, device, called=called)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)

        async def act() -> dict[str, Any]:
            if there is not None:
                await sites.saw_live(
                    session, site.id, location, device, hash=content_hash(there.placed), etag=there.etag, at=now
                )
            if then == "put back":
                menu = find_placement(live, location, device).menu
                document = live.menus[menu] if menu else menu_document(location)
                placed = placed_menu(location, device, document, live.pages, live.menus, live.known())
                change = await changes.begin(
                    session, title=f"Put back {location} for {device}", why="It was changed on the site itself.",
                    author_id=person.id, at=now, parts=[(site.id, site.live_state)],
                )  # fmt: skip
                change.state = "going live"
                session.add(change)
                release = ReleaseRow(
                    change_id=change.id, site_id=site.id, state="waiting", asked_by=person.id, asked_at=now,
                    before=site.live_state, target=site.live_state,
                )  # fmt: skip
                session.add(release)
                await session.flush()
                session.add(
                    ReleaseStepRow(
                        release_id=release.id, position=1, location=location, device=device, menu=menu,
                        placed=placed.to_json(), hash=content_hash(placed), state="waiting",
                    )
                )  # fmt: skip
                await queue.defer(session, TASK, lock=f"site:{site.id}", subject=str(release.id))
                says, answer = f"Puts back what is live in {location} for {device}", str(release.id)
            else:
                says, answer = await _take_over(there), None
            ledger.write(session, "drift", says, at=now, person_id=person.id, site_id=site.id, location=location)
            return {"release": answer}

        async def _take_over(there: Slot | None) -> str:
            if there is None:
                raise NotFound("The site shows nothing in this place that could be taken over.", where=where)
            at = await to_edit(session, person, site, view, now)
            found = await board(session, person, site_key, at.change.id)
            menu = find_placement(found.document(), location, device).menu
            if menu is None:
                menu, _ = await begin_menu(
                    session, at, there.placed.menu.name, location, there.placed.menu, person, now
                )
                arrangement = await states.arrangement(session, (await states.state(session, at.part.head)).arrangement)
                await arrange(session, at, arrangement.hanging(arrangement.placed() | {(location, device): menu}))
            else:
                # Its entries; what it is called on the shelf is the shelf's.
                entries = found.menus[menu].document.with_items(there.placed.menu.items)
                hash = await menus.keep_tree(session, entries)
                await put_tree(session, at, menu, hash, author_id=person.id, now=now)
            return f"Took over what the site shows in {location} for {device}"

        asked = {"read again": location, "device": device, "site": site_key, "then": then}
        answer = (await requests.once(session, person.id, request_key, asked, act, at=now))["release"]
    return UUID(answer) if answer else None
