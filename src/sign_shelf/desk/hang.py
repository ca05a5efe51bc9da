"""What hangs where: hanging, taking down, none on purpose, a device's own copy. It shows once the change is live."""

from datetime import datetime

from sign_shelf.core.basics.ids import slug
from sign_shelf.core.errors import EditRefused, NotFound
from sign_shelf.core.model.copying import copied_from, copy_items
from sign_shelf.core.model.menu import Device, MenuDocument, walk
from sign_shelf.core.model.template import Location, Template
from sign_shelf.core.model.tree import depth_of
from sign_shelf.core.resolve import find_placement
from sign_shelf.desk.edit import begin_menu
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import Board, View, board, facts_of, menu_on_shelf, site_row
from sign_shelf.desk.workplace import Workplace, arrange, to_edit
from sign_shelf.store import ledger, states
from sign_shelf.store.database import Database, Session


async def hang(
    database: Database,
    person: Person,
    site_key: str,
    *,
    view: View = None,
    location: str,
    device: Device,
    menu_key: str | None,
    now: datetime,
) -> None:
    """Hangs a menu; None hangs none on purpose. Raises NotFound for an unknown place or menu, EditRefused where the
    place does not take the menu."""
    where = f"sites/{site_key}/places/{location}/{device}"
    require(person, "hang", where, site_key)
    async with database.transaction() as session:
        at, found = await _begin(session, person, site_key, view, now)
        place = _place(found, location, device, where)
        says = f"Left {place.title} empty for {device}, on purpose"
        if menu_key is not None:
            menu = menu_on_shelf(found, menu_key)
            _refuse_unknown(found, place, device, where)
            refuse_unfit(menu.document, place, found.template, where)
            says = f"Hung {menu.document.name} in {place.title} for {device}"
        await _hang(session, at, location, device, menu_key)
        ledger.write(session, "hang", says, at=now, person_id=person.id, site_id=at.site.id, location=location,
                     change=str(at.change.id))  # fmt: skip


def _refuse_unknown(found: Board, place: Location, device: Device, where: str) -> None:
    """A place that the site says it does not have: nothing could be sent there."""
    facts = facts_of(found.site)
    has, called = facts.can.places, facts.called(place.key)
    if found.site.connection == "endpoint" and has is not None and device not in has.get(called, ()):
        on = f" for {device}" if called in has else ""
        raise EditRefused(
            f"{found.site.name} says that it has no {place.title}{on}.", where=where,
            remedy=f"Its places are {', '.join(sorted(has))}. Say in its settings which of them this is, or ask it again.",
        )  # fmt: skip


async def take_down(
    database: Database,
    person: Person,
    site_key: str,
    *,
    view: View = None,
    location: str,
    device: Device,
    now: datetime,
) -> None:
    """The place no longer has a menu of its own. Taking down nothing is no error."""
    where = f"sites/{site_key}/places/{location}/{device}"
    require(person, "hang", where, site_key)
    async with database.transaction() as session:
        found = await board(session, person, site_key, view)
        place = _place(found, location, device, where)
        if (location, device) not in found.arrangement.placed():
            return
        at, found = await _begin(session, person, site_key, view, now)
        placed = found.arrangement.placed()
        placed.pop((location, device), None)
        await arrange(session, at, found.arrangement.hanging(placed))
        says = f"Took down what hung in {place.title} for {device}"
        ledger.write(session, "take down", says, at=now, person_id=person.id, site_id=at.site.id, location=location,
                     change=str(at.change.id))  # fmt: skip


async def give_own(
    database: Database,
    person: Person,
    site_key: str,
    *,
    view: View = None,
    location: str,
    device: Device,
    now: datetime,
) -> str:
    """A menu of the device's own, as a copy of what it inherits. The new menu's key."""
    where = f"sites/{site_key}/places/{location}/{device}"
    require(person, "hang", where, site_key)
    async with database.transaction() as session:
        at, found = await _begin(session, person, site_key, view, now)
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
        items, _ = copy_items(before.document.items, origin=copied_from(source.menu), taken=())
        document = before.document.model_copy(update={"name": name, "items": items})
        refuse_unfit(document, place, found.template, where)
        key, _ = await begin_menu(session, at, name, slug(f"{source.menu}-{device}"), document, person, now)
        await _hang(session, at, location, device, key)
        says = f"Gave {place.title} its own menu for {device}, a copy of {before.document.name}"
        ledger.write(session, "hang", says, at=now, person_id=person.id, site_id=at.site.id, location=location,
                     change=str(at.change.id))  # fmt: skip
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


async def _begin(session: Session, person: Person, site_key: str, view: View, now: datetime) -> tuple[Workplace, Board]:
    at = await to_edit(session, person, await site_row(session, person, site_key), view, now)
    return at, await board(session, person, site_key, at.change.id)


async def _hang(session: Session, at: Workplace, location: str, device: Device, menu: str | None) -> None:
    arrangement = await states.arrangement(session, (await states.state(session, at.part.head)).arrangement)
    await arrange(session, at, arrangement.hanging(arrangement.placed() | {(location, device): menu}))


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
