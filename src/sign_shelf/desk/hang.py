"""Hanging a menu in a place of a site, for a device. It shows on the site once the draft is put live."""

from datetime import datetime

from sign_shelf.core.errors import EditRefused, NotFound
from sign_shelf.core.menu import Device, walk
from sign_shelf.core.tree import depth_of
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import board
from sign_shelf.store import changes, ledger, sites
from sign_shelf.store.database import Database


async def hang(
    database: Database, person: Person, site_key: str, *, location: str, device: Device, menu_key: str, now: datetime
) -> None:
    """Raises NotFound for an unknown place or menu, EditRefused where the place does not take the menu."""
    where = f"sites/{site_key}/places/{location}/{device}"
    require(person, "hang", where)
    async with database.transaction() as session:
        found = await board(session, site_key)
        place = found.template.location(location)
        if place is None:
            raise NotFound(f'The template has no location "{location}".', where=where)
        menu = found.menus.get(menu_key)
        if menu is None:
            raise NotFound(f'{found.site.name} has no menu "{menu_key}".', where=where)
        if device not in place.devices:
            raise EditRefused(
                f"{place.title} does not exist on a {device}.", where=where,
                remedy=f"It exists on {', '.join(place.devices)}.",
            )  # fmt: skip
        depth = depth_of(menu.document.items)
        if depth > place.depth:
            fits = [one.title for one in found.template.locations if one.depth >= depth]
            raise EditRefused(
                f"{menu.document.name} has {depth} levels, {place.title} takes {place.depth}.", where=where,
                remedy=f"These places would take it: {', '.join(fits)}." if fits else "Un-nest its lowest level first.",
            )  # fmt: skip
        refused = next((item for _, item in walk(menu.document.items) if item.kind not in place.kinds), None)
        if refused is not None:
            raise EditRefused(
                f"{place.title} takes no {refused.kind}, and {menu.document.name} has one ({refused.id}).", where=where,
                remedy=f"It takes {', '.join(place.kinds)}.",
            )  # fmt: skip
        await sites.place(session, found.site.id, location, device, menu.row.id)
        draft = await changes.open_draft(session, found.site.id, person.id, f"Draft of {now:%-d %B}", now)
        assert menu.head.id is not None
        await changes.put_in_change(session, draft.id, menu.row.id, menu.row.live_revision_id, menu.head.id)
        says = f"Hung {menu.document.name} in {place.title} for {device}"
        ledger.write(session, "hang", says, at=now, person_id=person.id, site_id=found.site.id, location=location)
