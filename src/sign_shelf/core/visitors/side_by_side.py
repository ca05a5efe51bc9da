"""The same place on every device: which entries each gets, which are the same, and what one lacks."""

from dataclasses import dataclass

from sign_shelf.core.model.menu import DEVICES, Device, walk
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.template import Location
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.resolve.placement import location_of
from sign_shelf.core.resolve.resolved import Resolved, Source


@dataclass(frozen=True, slots=True)
class Entry:
    """`same` names what the entry is, whichever menu it came from: entries with equal names are joined."""

    id: str
    label: str
    level: int
    same: str


@dataclass(frozen=True, slots=True)
class DeviceColumn:
    device: Device
    location: str | None
    title: str | None
    how: str
    """In words: what the device gets, and why."""
    entries: tuple[Entry, ...]
    lacks: tuple[str, ...]
    """Labels of what another device gets here and this one does not."""


def side_by_side(prepared: Prepared, location_key: str, lens: Lens) -> list[DeviceColumn]:
    """Widest device first. `lens.device` is not looked at."""
    site = prepared.site
    roots = _roots(site)
    known: dict[str, str] = {}
    columns = []
    for device in DEVICES[::-1]:
        place, how = _instead(site, location_key, device)
        entries: tuple[Entry, ...] = ()
        if place is not None:
            seen = Lens(device=device, language=lens.language, at=lens.at, page=lens.page, facts=lens.facts)
            got = prepared.resolve(place.key, seen)
            entries = tuple(_flat(got.items, got.source.menu, roots, known, 1))
            how = how or _said(got.source)
        columns.append((device, place, how, entries))
    every = {entry.same: entry.label for *_, entries in columns for entry in entries}
    found = []
    for device, place, how, entries in columns:
        has = {entry.same for entry in entries}
        lacks = tuple(label for same, label in every.items() if same not in has)
        found.append(
            DeviceColumn(device, place.key if place else None, place.title if place else None, how, entries, lacks)
        )
    return found


def _instead(site: SiteDocument, key: str, device: Device) -> tuple[Location | None, str]:
    """The place that serves the device: the location itself, what it folds into, or what it stands in for."""
    template = site.template
    location = location_of(site, key)
    fold = location.folds_into(device, template.width_of(device))
    if fold:
        return template.location(fold.into), f"folded into {fold.into}"
    if device in location.devices:
        return location, ""
    for other in template.locations:
        if other.stand_in == key and device in other.devices:
            return other, ""
    return None, f"not on a {device}"


def _said(source: Source) -> str:
    match source.placement:
        case "own":
            return "its own menu"
        case "inherited":
            return f"as on {source.device}"
        case "stand-in":
            return f"gets what hangs in {source.location}"
        case "none":
            return "nothing hangs here"


def _roots(site: SiteDocument) -> dict[tuple[str, str], str]:
    """The item that the first of a line of copies was made of. A copy is the same as what it was copied from."""
    origins = {
        (key, item.id): (key, item.origin.rpartition("/")) if item.origin else None
        for key, menu in site.menus.items()
        for _, item in walk(menu.items)
    }
    named: dict[tuple[str, str], str] = {}
    for at in origins:
        here, seen = at, {at}
        while (origin := origins.get(here)) is not None:
            menu, (before, _, item) = origin
            here = (before or menu, item)
            if here in seen:
                break
            seen.add(here)
        named[at] = f"{here[0]}/{here[1]}"
    return named


def _flat(
    items: tuple[Resolved, ...],
    menu: str | None,
    roots: dict[tuple[str, str], str],
    known: dict[str, str],
    level: int,
) -> list[Entry]:
    """An entry is the same as its line of copies; else as what leads to the same address, or says the same."""
    found = []
    for item in items:
        if item.kind != "divider":
            says = item.href or f"says {item.label.casefold()}"
            root = roots.get((menu or "", item.id), item.id)
            same = known.setdefault(root, known.get(says, says))
            known.setdefault(says, same)
            found.append(Entry(item.id, item.label, level, same))
            found += _flat(item.items, menu, roots, known, level + 1)
    return found
