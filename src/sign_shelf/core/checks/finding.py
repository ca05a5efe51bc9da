"""What a check finds, and what it is given to look at."""

import hashlib
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

import rfc8785

from sign_shelf.core.links import LinkFinding
from sign_shelf.core.model.includes import Includes
from sign_shelf.core.model.menu import Device, MenuDocument, Model
from sign_shelf.core.model.site import Page, SiteDocument
from sign_shelf.core.model.template import Location
from sign_shelf.core.model.tree import numbers
from sign_shelf.core.resolve import find_placement

Severity = Literal["stop", "warn", "note"]


class Finding(Model):
    """One problem at one exact place. Keys that do not apply are absent."""

    code: str
    severity: Severity
    menu: str
    item: str | None = None
    number: str | None = None
    """The item's entry number, as people speak of it."""
    location: str | None = None
    language: str | None = None
    says: str
    fix: str | None = None
    """What would mend it, in words."""
    cause: str | None = None
    """What it comes of, where that may be the cause of others as well: `address https://…`."""

    def fingerprint(self) -> str:
        """The same for the same finding however its menu is rearranged: by code, cause and place, as SHA-256."""
        parts = [self.code, self.cause, self.menu, self.item, self.location, self.language]
        return hashlib.sha256(rfc8785.dumps(parts)).hexdigest()


@dataclass(frozen=True)
class View:
    """One menu of a site, prepared for checks: its pages by reference, and the places where visitors get it."""

    site: SiteDocument
    key: str
    document: MenuDocument
    pages: dict[str, Page]
    overlays: frozenset[str]
    places: tuple[Location, ...]
    numbers: dict[str, str]
    includes: Includes
    today: str
    links: Mapping[str, LinkFinding]
    """What was found of addresses, as far as they were asked, by the absolute address."""

    def found(
        self, code: str, severity: Severity, says: str, *, item: str | None = None, **more: str | None
    ) -> Finding:
        number = self.numbers.get(item) if item else None
        return Finding(code=code, severity=severity, menu=self.key, item=item, number=number, says=says, **more)


Check = Callable[[View], Iterator[Finding]]


def view_of(site: SiteDocument, key: str, *, today: str, links: Mapping[str, LinkFinding] | None = None) -> View:
    """`today` is a day on the site's own calendar, such as 2027-02-12."""
    document = site.menus[key]
    return View(
        site=site,
        key=key,
        document=document,
        pages={page.ref: page for page in site.pages},
        overlays=frozenset(overlay for page in site.pages for overlay in page.overlays),
        places=tuple(
            location
            for location in site.template.locations
            if any(_hangs(site, location, device, key) for device in location.devices)
        ),
        numbers=numbers(document.items),
        includes=Includes(site.menus),
        today=today,
        links=links or {},
    )


def _hangs(site: SiteDocument, location: Location, device: Device, key: str) -> bool:
    return find_placement(site, location.key, device).menu == key
