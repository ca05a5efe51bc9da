"""A site made ready for checks: what several of them ask for is worked out once."""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property

from sign_shelf.core.crawled import LivePage
from sign_shelf.core.fit import FontSet
from sign_shelf.core.links import LinkFinding
from sign_shelf.core.model.facts import Visitor
from sign_shelf.core.model.href import Addresses
from sign_shelf.core.model.menu import AnyItem, Device, Include, Link, MenuDocument, PageTarget, UrlTarget, children
from sign_shelf.core.model.site import Page, SiteDocument
from sign_shelf.core.model.template import Location
from sign_shelf.core.model.tree import numbers
from sign_shelf.core.outline.called import title
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.sharing import Filled

NOON = "T12:00"
"""A day is looked at in its middle: no clock skips that."""


@dataclass(frozen=True, slots=True, eq=False)
class Line:
    """An item as it stands in its menu; `above` is the line that it stands below."""

    menu: str
    item: AnyItem
    number: str
    depth: int
    above: "Line | None"


@dataclass(frozen=True)
class SharedSeen:
    """A shared menu that the site follows: as it was filled when the site took it, and as it would be filled now."""

    name: str
    current: bool
    before: MenuDocument
    now: Filled


@dataclass(frozen=True)
class PlaceDrifted:
    """A place that was read to show something else than was verified there: by which edits, in sentences."""

    location: str
    device: Device
    says: tuple[str, ...]


@dataclass(frozen=True)
class SiteView:
    """`today` is a day on the site's own calendar, such as 2027-02-12. `links` has what was found of addresses, as far as
    they were asked, by the absolute address. Without `fonts` nothing is measured.
    `live` has the site's home page as crawlers get it, and after it pages that show its section places, read since what is
    looked at is live; nothing where that is not known. `shared` are the shared menus that it follows, by the menu's key; `drifted` its
    places that show something else than was verified."""

    prepared: Prepared
    today: str
    links: Mapping[str, LinkFinding] = field(default_factory=dict)
    fonts: FontSet | None = None
    live: tuple[LivePage, ...] = ()
    shared: Mapping[str, SharedSeen] = field(default_factory=dict)
    drifted: tuple[PlaceDrifted, ...] = ()

    @cached_property
    def pages(self) -> Mapping[str, Page]:
        return {page.ref: page for page in self.site.pages}

    @cached_property
    def published(self) -> tuple[Page, ...]:
        return tuple(page for page in self.site.pages if page.state == "published")

    @cached_property
    def overlays(self) -> Mapping[str, int]:
        """On how many published pages each overlay is."""
        found: dict[str, int] = defaultdict(int)
        for page in self.published:
            for overlay in set(page.overlays):
                found[overlay] += 1
        return found

    @property
    def site(self) -> SiteDocument:
        return self.prepared.site

    @cached_property
    def addresses(self) -> Addresses:
        return self.prepared.addresses

    @property
    def language(self) -> str:
        """The site's first."""
        return self.site.site.languages[0]

    @cached_property
    def menus(self) -> tuple[str, ...]:
        """Those that are at work: not put away."""
        return tuple(key for key in self.site.menus if key not in self.site.archived)

    @cached_property
    def _lines(self) -> dict[str, tuple[Line, ...]]:
        return {}

    def lines(self, menu: str) -> tuple[Line, ...]:
        """Every item of the menu as it is written, parents before what stands below them."""
        if menu not in self._lines:
            self._lines[menu] = tuple(_lines(menu, self.site.menus[menu]))
        return self._lines[menu]

    @cached_property
    def hung(self) -> Mapping[str, tuple[tuple[Location, Device], ...]]:
        """Where each menu hangs, by its key."""
        found: dict[str, list[tuple[Location, Device]]] = {key: [] for key in self.site.menus}
        for location in self.site.template.locations:
            for device in location.devices:
                menu = self.prepared.source(location.key, device).menu
                if menu is not None:
                    found[menu].append((location, device))
        return {key: tuple(where) for key, where in found.items()}

    def places(self, menu: str) -> tuple[Location, ...]:
        """The places where visitors get the menu, each once."""
        return tuple({location.key: location for location, _ in self.hung[menu]}.values())

    @cached_property
    def included(self) -> frozenset[str]:
        """Menus that another one includes."""
        return frozenset(
            line.item.menu for key in self.menus for line in self.lines(key) if isinstance(line.item, Include)
        )

    def lens(self, device: Device, language: str | None = None, facts: Visitor | None = None) -> Lens:
        """Today, in the site's first language and of whom nothing is known where nothing else is given."""
        return Lens(device=device, language=language or self.language, at=self.today + NOON, facts=facts or {})

    def destination(self, item: AnyItem) -> str | None:
        """What tells whether two entries lead to the same: a page's reference, or the absolute address."""
        match item:
            case Link(target=PageTarget(page=ref, part=part)):
                return f"@{ref}" + (f"#{part}" if part else "")
            case Link(target=UrlTarget(url=url)) if url != "#":
                return url
            case _:
                return None

    def called(self, item: AnyItem, language: str | None = None) -> str:
        """The label that visitors read, or what people call it."""
        language = language or self.language
        own = getattr(item, "label", None)
        if not own and isinstance(item, Link) and isinstance(item.target, PageTarget):
            return self.addresses.title(item.target.page, language) or title(item, language)
        return title(item, language)


def _lines(key: str, menu: MenuDocument) -> Iterator[Line]:
    number = numbers(menu.items)
    stack: list[tuple[AnyItem, int, Line | None]] = [(item, 1, None) for item in reversed(menu.items)]
    while stack:
        item, depth, above = stack.pop()
        line = Line(key, item, number[item.id], depth, above)
        yield line
        stack.extend((below, depth + 1, line) for below in reversed(children(item)))
