"""Which placement counts for a location on a device, and by which path it was found."""

from collections.abc import Iterator
from typing import Literal

from sign_shelf.core.errors import ResolveRefused
from sign_shelf.core.model.menu import DEVICES, Device
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.template import Location
from sign_shelf.core.resolve.resolved import Source


def search_path(site: SiteDocument, location_key: str, device: Device) -> Iterator[tuple[str, Device]]:
    """Where a placement is looked for: the device, then wider ones, then the same in the stand-in; it always ends."""
    visited: set[str] = set()
    key: str | None = location_key
    while key is not None and key not in visited:
        visited.add(key)
        location = location_of(site, key)
        for wider in DEVICES[DEVICES.index(device) :]:
            yield key, wider
        key = location.stand_in


def find_placement(site: SiteDocument, location_key: str, device: Device) -> Source:
    """The placement that counts for a location on a device. Raises ResolveRefused for an unknown location."""
    placed = {(one.location, one.device): one.menu for one in site.placements}
    for key, wider in search_path(site, location_key, device):
        if (key, wider) in placed:
            menu = placed[key, wider]
            if menu is None:
                return Source("none", wider, key)
            kind: Literal["own", "inherited", "stand-in"] = "own" if wider == device else "inherited"
            return Source("stand-in" if key != location_key else kind, wider, key, menu)
    return Source("none")


def location_of(site: SiteDocument, key: str) -> Location:
    """Raises ResolveRefused for an unknown key, with those that there are."""
    location = site.template.location(key)
    if location is None:
        known = ", ".join(one.key for one in site.template.locations)
        raise ResolveRefused(f'The template has no location "{key}".', remedy=f"Its locations are {known}.")
    return location
