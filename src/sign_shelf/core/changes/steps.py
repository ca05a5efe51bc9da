"""Which places a release writes: the difference between what is live and what is to be, place by place and device by
device."""

from dataclasses import dataclass

from sign_shelf.core.model.asked import asked_for
from sign_shelf.core.model.facts import FactSet
from sign_shelf.core.model.includes import all_included
from sign_shelf.core.model.menu import Device, MenuDocument
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.resolve import find_placement


@dataclass(frozen=True, kw_only=True)
class Slot:
    """`menu` None: the place is emptied."""

    location: str
    device: Device
    menu: str | None


def slots_to_send(before: SiteDocument, after: SiteDocument) -> tuple[Slot, ...]:
    """Slots that hold a menu of their own before or after, and that get another one, one that was edited, or one whose
    named rules or facts were."""
    hung = [(one.location, one.device) for one in after.placements]
    was = [(one.location, one.device) for one in before.placements]
    slots = []
    for location, device in dict.fromkeys([*hung, *was]):
        if after.template.location(location) is None:
            continue
        menu = find_placement(after, location, device).menu
        fresh = menu is not None and (location, device) not in was
        if fresh or _document(after, menu) != _document(before, _lived(before, location, device)):
            slots.append(Slot(location=location, device=device, menu=menu))
    return tuple(slots)


def _lived(before: SiteDocument, location: str, device: Device) -> str | None:
    return find_placement(before, location, device).menu if before.template.location(location) else None


def _document(site: SiteDocument, menu: str | None) -> tuple[MenuDocument, dict[str, MenuDocument], FactSet] | None:
    """What the site is sent for it: the menu, those that it includes, and what their rules ask for."""
    if menu is None:
        return None
    within = all_included(site.menus[menu].items, site.menus)
    return site.menus[menu], within, asked_for((site.menus[menu], *within.values()), site.known())
