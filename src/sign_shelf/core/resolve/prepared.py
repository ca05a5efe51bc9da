"""Resolving over a whole site: placement, fold-ins, the place's limits, the section's cut, the current page's marks."""

from collections.abc import Iterator

from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.model.href import Addresses
from sign_shelf.core.model.includes import Includes
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.template import FoldIn, Location
from sign_shelf.core.model.tree import Tree
from sign_shelf.core.resolve.compiled import Compiler, Level
from sign_shelf.core.resolve.lens import Lens
from sign_shelf.core.resolve.limits import lifted, within
from sign_shelf.core.resolve.placement import find_placement, location_of
from sign_shelf.core.resolve.resolved import Hidden, Resolved, ResolvedMenu, Source
from sign_shelf.core.resolve.section import cut, inside_entry, lineage, shows_on
from sign_shelf.core.resolve.tidy import marked, tidy_dividers, unmarked
from sign_shelf.core.resolve.visit import SiteRules, Visit, visit_of

_ABSENT = ResolvedMenu((), (), Source("none"))


class Prepared:
    """A site made ready for many visitors. It keeps what it has worked out and never changes what it says.

    The first visitor on a device in a language pays for reading the menus; later ones only for what depends on them.
    """

    def __init__(self, site: SiteDocument) -> None:
        self.site = site
        self.addresses = Addresses.of_site(site)
        self.clock = clock_of(site.site.zone)
        self.rules = SiteRules(site)
        self.includes = Includes(site.menus)
        self._levels: dict[tuple[str, Device, str], Level] = {}
        self._sources: dict[tuple[str, Device], Source] = {}

    def resolve(self, location_key: str, lens: Lens) -> ResolvedMenu:
        """The menu that a visitor gets in a location, with a reason for everything left out."""
        location = location_of(self.site, location_key)
        width = lens.width if lens.width is not None else self.site.template.width_of(lens.device)
        if lens.device not in location.devices or location.folds_into(lens.device, width):
            return _ABSENT
        if location.shape == "section":
            return self._section(location, lens)
        source = self.source(location_key, lens.device)
        own, found = self._menu(source.menu, lens)
        hidden = list(found)
        keeps = source.menu is None or self._keeps_within(source.menu, lens, location)
        items = list(own) if keeps else within(own, location, hidden)
        before: list[Resolved] = []
        after: list[Resolved] = []
        for other, fold in self._folds(location_key, lens.device, width, source):
            entries = self._folded(other, fold, location, lens, hidden)
            (before if fold.where == "before" else after).extend(entries)
        if before or after:
            items = tidy_dividers([*before, *items, *after], hidden)
        elif len(items) != len(own):
            items = tidy_dividers(items, hidden)
        return ResolvedMenu(self._marked(tuple(items), lens), tuple(hidden), source)

    def visit(self, lens: Lens) -> Visit:
        return visit_of(lens, self.clock, self.addresses.pages)

    def source(self, location_key: str, device: Device) -> Source:
        known = self._sources.get((location_key, device))
        if known is None:
            known = self._sources[location_key, device] = find_placement(self.site, location_key, device)
        return known

    def level(self, menu: str, lens: Lens) -> Level:
        key = (menu, lens.device, lens.language)
        if key not in self._levels:
            compiler = Compiler(self.site, self.addresses, self.rules, self.includes, lens.device, lens.language, ())
            self._levels[key] = compiler.level(self.site.menus[menu].items, (menu,))
        return self._levels[key]

    def _keeps_within(self, menu: str, lens: Lens, location: Location) -> bool:
        level = self.level(menu, lens)
        return level.depth <= location.depth and level.kinds <= set(location.kinds)

    def _menu(self, menu: str | None, lens: Lens) -> tuple[tuple[Resolved, ...], tuple[Hidden, ...]]:
        return self.level(menu, lens).visit(self.visit(lens)) if menu is not None else ((), ())

    def _marked(self, items: tuple[Resolved, ...], lens: Lens) -> tuple[Resolved, ...]:
        return marked(items, lens.page) if lens.page is not None else items

    def _folds(self, into: str, device: Device, width: int, source: Source) -> Iterator[tuple[Location, FoldIn]]:
        """What folds in here, in order. A location that stands in here already is not folded in as well."""
        found = [
            (fold.order, at, other, fold)
            for at, other in enumerate(self.site.template.locations)
            if (fold := other.folds_into(device, width)) and fold.into == into and source.location != other.key
        ]
        for _, _, other, fold in sorted(found, key=lambda one: one[:2]):
            yield other, fold

    def _folded(
        self, other: Location, fold: FoldIn, into: Location, lens: Lens, hidden: list[Hidden]
    ) -> list[Resolved]:
        """The other location's entries as they stand here: within its own limits first, then lifted into these."""
        found, out = self._menu(self.source(other.key, lens.device).menu, lens)
        hidden += out
        entries = within(found, other, hidden)
        if entries and fold.heading and "heading" in into.kinds and into.depth > 1:
            entries = [Resolved(f"{other.key}:heading", "heading", fold.heading, items=tuple(entries))]
        return within(lifted(entries, into, hidden), into, hidden)

    def _section(self, location: Location, lens: Lens) -> ResolvedMenu:
        """The part that the page is in of the menu that hangs here, or of the location that it is a section of.

        A page that the menu does not have is looked for under the nearest page above it that the menu has.
        """
        pages = self.addresses.pages
        if not shows_on(location, lens.page, pages):
            return ResolvedMenu((), (Hidden(location.key, "page", "does not show on this page"),), Source("none"))
        source = self.source(location.of or location.key, lens.device)
        whole, out = self._menu(source.menu, lens)
        hidden = list(out)
        for ref in lineage(lens.page, pages):
            here = marked(whole, ref)
            if here is not whole:
                if ref != lens.page:
                    here = unmarked(here, "page")
                entry = inside_entry(here, location)
                items = within(tidy_dividers(cut(here, location), []), location, hidden)
                return ResolvedMenu(_headed(tuple(items), location, entry), tuple(hidden), source)
        if location.start > 1:
            hidden.append(Hidden(location.key, "page", "the menu does not have this page"))
            return ResolvedMenu((), tuple(hidden[-1:]), source)
        items = within(cut(whole, location), location, hidden)
        return ResolvedMenu(_headed(tuple(items), location, None), tuple(hidden), source)


def _headed(items: tuple[Resolved, ...], location: Location, entry: Resolved | None) -> tuple[Resolved, ...]:
    """Under the section's title, where the template gives it one: a text, or the entry whose section it is."""
    if not items or location.heading is None:
        return items
    if location.heading is True:
        return (entry._replace(items=items),) if entry is not None else items
    return (Resolved(f"{location.key}:heading", "heading", location.heading, items=items),)


def resolve(site: SiteDocument, location_key: str, lens: Lens) -> ResolvedMenu:
    """The menu that one visitor gets in a location. Who asks for many keeps a `Prepared`."""
    return Prepared(site).resolve(location_key, lens)


def resolve_items(site: SiteDocument, items: Tree, lens: Lens) -> ResolvedMenu:
    """A tree that hangs nowhere yet, as the lens's visitor would get it."""
    prepared = Prepared(site)
    compiler = Compiler(site, prepared.addresses, prepared.rules, prepared.includes, lens.device, lens.language, items)
    found, hidden = compiler.level(items, ()).visit(prepared.visit(lens))
    return ResolvedMenu(marked(found, lens.page) if lens.page is not None else found, hidden, Source("none"))
