"""A place that was changed on the site itself: what differs taken over into a change, all or some of it, or put back as approved."""

from collections.abc import Collection
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from sign_shelf.core.compare.met import met
from sign_shelf.core.errors import Clash, EditRefused, NotFound
from sign_shelf.core.model.documents import content_hash, read_menu
from sign_shelf.core.model.menu import Device, menu_document, walk
from sign_shelf.core.outline.called import title
from sign_shelf.core.protocol.drift import drifted_between, taken_over
from sign_shelf.core.protocol.placed import placed_menu
from sign_shelf.core.resolve import find_placement
from sign_shelf.desk.committing import read_places
from sign_shelf.desk.edit import begin_menu
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import View, board, facts_of, site_row
from sign_shelf.desk.put_live import TASK, whole
from sign_shelf.desk.workplace import arrange, put_tree, to_edit
from sign_shelf.outside.endpoint import Slot, read_slot
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import changes, drift, ledger, menus, queue, requests, sites, states
from sign_shelf.store.database import Database
from sign_shelf.store.requests import RequestKey
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
    request_key: RequestKey,
    now: datetime,
    view: View = None,
) -> UUID | None:
    """What the place shows now is known from now on. "take over": it is the menu of the place in the change; "put back": a
    release sends what is live on the shelf, and its id is the answer."""
    where = f"sites/{site_key}/places/{location}/{device}"
    require(person, "edit" if then == "take over" else "put live", where, site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        if site.connection != "repository" and (site.connection != "endpoint" or site.endpoint is None):
            raise EditRefused("This site is not written to, so nothing can be read back from its places.", where=where)
        live = await whole(session, site, site.live_state)
        if live.template.location(location) is None:
            raise NotFound(f'The template has no location "{location}".', where=where)
    called = facts_of(site).places.get(location)
    there: Slot | None
    if site.connection == "repository":
        there = (await read_places(database, site, [(location, device)], fetcher.repositories))[location, device]
    else:
        assert site.endpoint is not None
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
                    author_id=person.id, at=now, parts=[site.id],
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
                await put_tree(session, at, menu, hash, now=now)
            return f"Took over what the site shows in {location} for {device}"

        answer = (await requests.once(session, person.id, request_key, act, at=now))["release"]
    return UUID(answer) if answer else None


async def adopt(
    database: Database,
    person: Person,
    site_key: str,
    *,
    location: str,
    device: Device,
    keys: Collection[str] | None,
    request_key: RequestKey,
    now: datetime,
    view: View = None,
    audience: str = "",
) -> UUID:
    """What the site was read to show in the place (to these visitors) is in the change from now on, beside what was edited there: all of it, or the edits
    of these keys. The change's id. Raises NotFound where nothing differs, Clash where the change edits the same otherwise."""
    where = f"sites/{site_key}/places/{location}/{device}"
    require(person, "edit", where, site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)

        async def act() -> dict[str, Any]:
            row = await drift.drift_of(session, site.id, location, device, audience)
            if row is None:
                raise NotFound(
                    "The site shows in this place what was verified.", where=where, remedy="Read it again to be sure."
                )
            drifted = drifted_between(read_menu(row.base), read_menu(row.there))
            unknown = set(keys or ()) - {edit.key for edit in drifted.edits}
            if unknown:
                raise NotFound("The site shows something else by now.", where=where, remedy="Look at it again.")
            at = await to_edit(session, person, site, view, now)
            found = await board(session, person, site_key, at.change.id)
            menu = find_placement(found.document(), location, device).menu
            if menu is None:
                items, _ = taken_over(drifted, (), keys)
                document = menu_document(location.capitalize(), items)
                menu, _ = await begin_menu(session, at, document.name, location, document, person, now)
                arrangement = await states.arrangement(session, (await states.state(session, at.part.head)).arrangement)
                await arrange(session, at, arrangement.hanging(arrangement.placed() | {(location, device): menu}))
            else:
                document = found.menus[menu].document
                verified = await whole(session, site, site.live_state)
                hung = find_placement(verified, location, device).menu
                live = verified.menus[hung].items if hung is not None else None
                items, conflicts = taken_over(drifted, document.items, keys, live)
                if conflicts:
                    titles = {
                        item.id: title(item) for tree in (document.items, drifted.there) for _, item in walk(tree)
                    }
                    told = ", ".join(dict.fromkeys(met(one, titles).title for one in conflicts[:5]))
                    raise Clash(
                        f"{at.change.title} edits the same otherwise: {told}.", where=where,
                        remedy="Take over the rest without these, or put back what was approved.",
                    )  # fmt: skip
                hash = await menus.keep_tree(session, document.with_items(items))
                await put_tree(session, at, menu, hash, now=now)
            count = len(keys) if keys is not None else len(drifted.edits)
            says = f"Took over {count} of {len(drifted.edits)} edits that the site shows in {location} for {device}"
            ledger.write(
                session, "drift", says, at=now, person_id=person.id, site_id=site.id, location=location, change=str(at.change.id)
            )  # fmt: skip
            return {"change": str(at.change.id)}

        return UUID((await requests.once(session, person.id, request_key, act, at=now))["change"])
