"""What hangs where: hanging, taking down, none on purpose, a device's own copy. It shows once the draft is put live."""

from datetime import datetime

from sign_shelf.core.copying import copy_items
from sign_shelf.core.errors import EditRefused, NotFound
from sign_shelf.core.ids import slug
from sign_shelf.core.menu import Device, MenuDocument, walk
from sign_shelf.core.resolve import find_placement
from sign_shelf.core.template import Location, Template
from sign_shelf.core.tree import depth_of
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import Board, board, menu_on_shelf, site_row
from sign_shelf.store import changes, ledger, menus, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ChangeRow, MenuRow


async def hang(
    database: Database,
    person: Person,
    site_key: str,
    *,
    location: str,
    device: Device,
    menu_key: str | None,
    now: datetime,
) -> None:
    """Hangs a menu; None hangs none on purpose. Raises NotFound for an unknown place or menu, EditRefused where the
    place does not take the menu."""
    where = f"sites/{site_key}/places/{location}/{device}"
    require(person, "hang", where)
    async with database.transaction() as session:
        found = await _board(session, site_key)
        place = _place(found, location, device, where)
        if menu_key is None:
            await sites.place(session, found.site.id, location, device, None)
            await _draft(session, found, person, now)
            says = f"Left {place.title} empty for {device}, on purpose"
        else:
            menu = menu_on_shelf(found, menu_key)
            refuse_unfit(menu.document, place, found.template, where)
            await sites.place(session, found.site.id, location, device, menu.row.id)
            draft = await _draft(session, found, person, now)
            assert menu.head.id is not None
            await changes.put_in_change(session, draft.id, menu.row.id, menu.row.live_revision_id, menu.head.id)
            says = f"Hung {menu.document.name} in {place.title} for {device}"
        ledger.write(session, "hang", says, at=now, person_id=person.id, site_id=found.site.id, location=location)


async def take_down(
    database: Database, person: Person, site_key: str, *, location: str, device: Device, now: datetime
) -> None:
    """The place no longer has a menu of its own. Taking down nothing is no error."""
    where = f"sites/{site_key}/places/{location}/{device}"
    require(person, "hang", where)
    async with database.transaction() as session:
        found = await _board(session, site_key)
        place = _place(found, location, device, where)
        if not await sites.take_down(session, found.site.id, location, device):
            return
        await _draft(session, found, person, now)
        says = f"Took down what hung in {place.title} for {device}"
        ledger.write(session, "take down", says, at=now, person_id=person.id, site_id=found.site.id, location=location)


async def give_own(
    database: Database, person: Person, site_key: str, *, location: str, device: Device, now: datetime
) -> str:
    """A menu of the device's own, as a copy of what it inherits. The new menu's key."""
    where = f"sites/{site_key}/places/{location}/{device}"
    require(person, "hang", where)
    async with database.transaction() as session:
        found = await _board(session, site_key)
        place = _place(found, location, device, where)
        source = find_placement(found.document(), location, device)
        if source.menu is None:
            raise EditRefused(
                f"{place.title} gets no menu on a {device} that could be copied.", where=where,
                remedy="Hang a menu there instead.",
            )  # fmt: skip
        if source.placement == "own":
            raise EditRefused(f"{place.title} has a menu of its own on a {device} already.", where=where)
        before = menu_on_shelf(found, source.menu)
        name = f"{before.document.name} ({device})"
        items, _ = copy_items(before.document.items, origin=f"{source.menu}/", taken=())
        document = before.document.model_copy(update={"name": name, "items": items})
        refuse_unfit(document, place, found.template, where)
        key = _free_key(slug(f"{source.menu}-{device}"), set(found.menus))
        row = MenuRow(site_id=found.site.id, key=key, created_at=now)
        session.add(row)
        await session.flush()
        draft = await _draft(session, found, person, now)
        revision = await menus.add_revision(session, row, document, author_id=person.id, change_id=draft.id, at=now)
        assert revision.id is not None
        await changes.put_in_change(session, draft.id, row.id, None, revision.id)
        await sites.place(session, found.site.id, location, device, row.id)
        says = f"Gave {place.title} its own menu for {device}, a copy of {before.document.name}"
        ledger.write(session, "hang", says, at=now, person_id=person.id, site_id=found.site.id, location=location)
        return key


def refuse_unfit(document: MenuDocument, place: Location, template: Template, where: str) -> None:
    """Raises EditRefused where the place does not take the menu: too deep, or of a kind that it does not have."""
    depth = depth_of(document.items)
    if depth > place.depth:
        fits = [one.title for one in template.locations if one.depth >= depth]
        raise EditRefused(
            f"{document.name} has {depth} levels, {place.title} takes {place.depth}.", where=where,
            remedy=f"These places would take it: {', '.join(fits)}." if fits else "Un-nest its lowest level first.",
        )  # fmt: skip
    refused = next((item for _, item in walk(document.items) if item.kind not in place.kinds), None)
    if refused is not None:
        raise EditRefused(
            f"{place.title} takes no {refused.kind}, and {document.name} has one ({refused.id}).", where=where,
            remedy=f"It takes {', '.join(place.kinds)}.",
        )  # fmt: skip


async def _board(session: Session, site_key: str) -> Board:
    await site_row(session, site_key, lock=True)
    return await board(session, site_key)


def _place(found: Board, location: str, device: Device, where: str) -> Location:
    place = found.template.location(location)
    if place is None:
        raise NotFound(f'The template has no location "{location}".', where=where)
    if device not in place.devices:
        raise EditRefused(
            f"{place.title} does not exist on a {device}.", where=where,
            remedy=f"It exists on {', '.join(place.devices)}.",
        )  # fmt: skip
    return place


async def _draft(session: Session, found: Board, person: Person, now: datetime) -> ChangeRow:
    return await changes.open_draft(session, found.site.id, person.id, f"Draft of {now:%-d %B}", now)


def _free_key(key: str, taken: set[str]) -> str:
    numbered = (key if number == 1 else f"{key}-{number}" for number in range(1, 1_000))
    return next(one for one in numbered if one not in taken)
