"""What one visitor gets in one location: the single function behind preview, checks and delivery.

The steps are those of docs/words.md. Rules (`when`) are not evaluated yet: an item with a rule fails closed, it is
hidden and says so.
"""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from sign_shelf.core.address import joined
from sign_shelf.core.errors import ResolveRefused
from sign_shelf.core.href import Addresses
from sign_shelf.core.listing import listed_pages
from sign_shelf.core.menu import (
    DEVICES,
    AnyItem,
    Device,
    Divider,
    Heading,
    Include,
    Link,
    LinkTarget,
    Listing,
    Opener,
    PageTarget,
    Parent,
    PendingTarget,
    UrlTarget,
    children,
)
from sign_shelf.core.resolved import Because, Current, Hidden, Resolved, ResolvedMenu, Source
from sign_shelf.core.section import cut, lineage, shows_on
from sign_shelf.core.site import Page, SiteDocument
from sign_shelf.core.template import Location
from sign_shelf.core.tree import Tree, targeted_pages


@dataclass(frozen=True, kw_only=True)
class Lens:
    """The point of view. `at` is a wall-clock time of the site, to the minute; `page` a reference."""

    device: Device
    language: str
    at: str
    page: str | None = None
    facts: Mapping[str, object] = field(default_factory=dict)


def find_placement(site: SiteDocument, location_key: str, device: Device) -> Source:
    """The placement that counts for a location on a device. Raises ResolveRefused for an unknown location."""
    placed = {(one.location, one.device): one.menu for one in site.placements}
    visited: set[str] = set()
    key: str | None = location_key
    while key is not None and key not in visited:
        visited.add(key)
        location = _location(site, key)
        for wider in DEVICES[DEVICES.index(device) :]:
            if (key, wider) in placed:
                menu = placed[key, wider]
                if menu is None:
                    return Source("none", wider, key)
                kind: Literal["own", "inherited", "stand-in"] = "own" if wider == device else "inherited"
                return Source("stand-in" if key != location_key else kind, wider, key, menu)
        key = location.stand_in
    return Source("none")


def resolve(site: SiteDocument, location_key: str, lens: Lens) -> ResolvedMenu:
    """The menu that a visitor gets in a location, with a reason for everything left out."""
    location = _location(site, location_key)
    visit = _Visit(site, lens)
    if lens.device not in location.devices or any(lens.device in fold.on for fold in location.fold):
        return ResolvedMenu((), (), Source("none"))
    if location.shape == "section":
        return _section(site, location, lens)
    source = find_placement(site, location_key, lens.device)
    own = visit.menu(source.menu)
    before: list[Resolved] = []
    after: list[Resolved] = []
    for other in site.template.locations:
        for fold in other.fold:
            # A location that stands in here already is not folded in as well.
            if fold.into == location_key and lens.device in fold.on and source.location != other.key:
                folded = visit.menu(find_placement(site, other.key, lens.device).menu)
                if folded and fold.heading:
                    folded = [Resolved(f"{other.key}:heading", "heading", fold.heading, items=tuple(folded))]
                (before if fold.where == "before" else after).extend(folded)
    return ResolvedMenu(tuple(_tidy_dividers([*before, *own, *after], [])), tuple(visit.hidden), source)


def _section(site: SiteDocument, location: Location, lens: Lens) -> ResolvedMenu:
    """The part that the page is in of the menu that hangs here, or of the location that it is a section of.

    A page that the menu does not have is looked for under the nearest page above it that the menu has.
    """
    pages = {page.ref: page for page in site.pages}
    if not shows_on(location, lens.page, pages):
        return ResolvedMenu((), (Hidden(location.key, "page", "does not show on this page"),), Source("none"))
    source = find_placement(site, location.of or location.key, lens.device)
    for ref in lineage(lens.page, pages):
        visit = _Visit(site, replace(lens, page=ref))
        whole = tuple(visit.menu(source.menu))
        if any(item.current != "none" for item in whole):
            items = tuple(_tidy_dividers(cut(whole, location), []))
            return ResolvedMenu(items if ref == lens.page else _unmarked(items, "page"), tuple(visit.hidden), source)
    if location.start > 1:
        return ResolvedMenu((), (Hidden(location.key, "page", "the menu does not have this page"),), source)
    visit = _Visit(site, lens)
    return ResolvedMenu(cut(tuple(visit.menu(source.menu)), location), tuple(visit.hidden), source)


def _unmarked(items: tuple[Resolved, ...], mark: Current) -> tuple[Resolved, ...]:
    """What was marked as the page itself becomes a branch that the page is in."""
    return tuple(
        replace(item, current="branch" if item.current == mark else item.current, items=_unmarked(item.items, mark))
        for item in items
    )


def resolve_items(site: SiteDocument, items: Tree, lens: Lens) -> ResolvedMenu:
    """A tree that hangs nowhere yet, as the lens's visitor would get it."""
    visit = _Visit(site, lens, items)
    found = visit.level(items, ())
    return ResolvedMenu(tuple(found), tuple(visit.hidden), Source("none"))


def _location(site: SiteDocument, key: str) -> Location:
    location = site.template.location(key)
    if location is None:
        known = ", ".join(one.key for one in site.template.locations)
        raise ResolveRefused(f'The template has no location "{key}".', remedy=f"Its locations are {known}.")
    return location


class _Visit:
    """One resolving: the prepared inventory, and what was hidden on the way."""

    def __init__(self, site: SiteDocument, lens: Lens, loose: Tree = ()) -> None:
        self.site = site
        self.loose = loose
        self.hand_placed: dict[str, frozenset[str]] = {}
        self.lens = lens
        self.addresses = Addresses.of_site(site)
        self.pages = self.addresses.pages
        self.hidden: list[Hidden] = []
        self.languages = list(dict.fromkeys([lens.language, lens.language.split("-")[0], *site.site.languages]))

    def menu(self, key: str | None) -> list[Resolved]:
        return self.level(self.site.menus[key].items, (key,)) if key is not None else []

    def level(self, items: Tree, inside: tuple[str, ...], prefix: str = "") -> list[Resolved]:
        found: list[Resolved] = []
        for item in items:
            reason = self._reason(item)
            if reason:
                self._hide(item, *reason, prefix)
            elif isinstance(item, Include):
                found += self._include(item, inside, prefix)
            elif isinstance(item, Listing):
                found += self._listing(item, inside, prefix)
            else:
                shown = self._shown(item, inside, prefix)
                found += [shown] if shown else []
        return _tidy_dividers(found, self.hidden)

    def _hide(self, item: AnyItem, because: Because, detail: str, prefix: str) -> None:
        self.hidden.append(Hidden(prefix + item.id, because, detail))
        stack = list(children(item))
        while stack:
            below = stack.pop(0)
            self.hidden.append(Hidden(prefix + below.id, "parent", f"because {item.id} is hidden"))
            stack[:0] = children(below)

    def _reason(self, item: AnyItem) -> tuple[Because, str] | None:
        at = self.lens.at
        if item.from_ and at < item.from_:
            return "window", f"starts {item.from_}"
        if item.until and at >= item.until:
            return "window", f"ended {item.until}"
        if item.devices and self.lens.device not in item.devices:
            return "device", f"only on {', '.join(item.devices)}"
        if isinstance(item, Link | Heading | Opener) and not self._label(item):
            return "language", f"no label in {self.lens.language}"
        if item.when:
            return "rule", "has a rule, and rules are not read yet: hidden from everybody"
        if isinstance(item, Link):
            return self._target_reason(item.target)
        return None

    def _target_reason(self, target: LinkTarget) -> tuple[Because, str] | None:
        match target:
            case PageTarget(page=ref):
                page = self.pages.get(ref)
                if page is None:
                    return "page", f"there is no page @{ref}"
                return ("page", f"the page is {page.state}") if page.state != "published" else None
            case PendingTarget():
                return "page", "leads nowhere yet"
            case UrlTarget(url=url):
                if "{" not in url:
                    return None
                missing = [name for name in re.findall(r"\{([^{}]*)\}", url) if name not in self.lens.facts]
                return ("rule", f"needs {missing[0]}, which this visitor does not supply") if missing else None
            case _:
                return None

    def _label(self, item: Link | Heading | Opener | Listing) -> str:
        for language in self.languages:
            if language in item.label:
                return item.label[language]
        if isinstance(item, Link) and isinstance(item.target, PageTarget) and not item.label:
            page = self.pages.get(item.target.page)
            return self._page_title(page) if page else f"@{item.target.page}"
        return ""

    def _page_title(self, page: Page) -> str:
        return next((page.title[tag] for tag in self.languages if tag in page.title), page.path)

    def _shown(self, item: AnyItem, inside: tuple[str, ...], prefix: str) -> Resolved | None:
        item_id = prefix + item.id
        if isinstance(item, Divider):
            return Resolved(item_id, "divider")
        assert isinstance(item, Parent)
        below = tuple(self.level(item.items, inside, prefix))
        branch: Current = "branch" if any(child.current != "none" for child in below) else "none"
        match item:
            case Heading():
                if not below:
                    self.hidden.append(Hidden(item_id, "empty", "nothing below it is visible"))
                    return None
                return Resolved(item_id, "heading", self._label(item), look=item.look, current=branch, items=below)
            case Opener(target=target):
                label = self._label(item)
                return Resolved(
                    item_id, "opener", label, overlay=target.overlay, look=item.look, current=branch, items=below
                )
            case Link(target=target):
                here = isinstance(target, PageTarget) and target.page == self.lens.page and target.part is None
                return Resolved(
                    item_id,
                    "link",
                    self._label(item),
                    href=self._href(target),
                    new_tab=item.new_tab,
                    rel=item.rel,
                    look=item.look,
                    current="page" if here else branch,
                    items=below,
                )

    def _href(self, target: LinkTarget) -> str | None:
        if isinstance(target, UrlTarget) and "{" in target.url:
            return re.sub(r"\{([^{}]*)\}", lambda name: str(self.lens.facts[name[1]]), target.url)
        return self.addresses.href(target)

    def _include(self, item: Include, inside: tuple[str, ...], prefix: str) -> list[Resolved]:
        menu = self.site.menus.get(item.menu)
        if menu is None:
            self.hidden.append(Hidden(prefix + item.id, "empty", f'there is no menu "{item.menu}"'))
            return []
        if item.menu in inside:
            self.hidden.append(Hidden(prefix + item.id, "empty", f'"{item.menu}" includes itself'))
            return []
        return self.level(menu.items, (*inside, item.menu), f"{prefix}{item.id}/")

    def _by_hand(self, inside: tuple[str, ...]) -> frozenset[str]:
        """The pages that links of the menu being read lead to, whoever may see those links."""
        key = inside[-1] if inside else ""
        if key not in self.hand_placed:
            items = self.site.menus[key].items if key else self.loose
            self.hand_placed[key] = frozenset(targeted_pages(items))
        return self.hand_placed[key]

    def _listing(self, item: Listing, inside: tuple[str, ...], prefix: str) -> list[Resolved]:
        by_hand = self._by_hand(inside) if item.list.rest else frozenset()
        entries = [
            Resolved(
                f"{prefix}{item.id}:{page.ref}",
                "link",
                self._page_title(page),
                href=joined(self.site.site.base, page.path),
                current="page" if page.ref == self.lens.page else "none",
            )
            for page in listed_pages(self.pages, item.list, by_hand=by_hand, title=self._page_title)
        ]
        label = self._label(item)
        if not entries:
            self.hidden.append(Hidden(prefix + item.id, "empty", "no page answers its list"))
            return []
        if not label:
            return entries
        branch: Current = "branch" if any(entry.current != "none" for entry in entries) else "none"
        return [Resolved(prefix + item.id, "heading", label, look=item.look, current=branch, items=tuple(entries))]


def _tidy_dividers(items: Iterable[Resolved], hidden: list[Hidden]) -> list[Resolved]:
    """Without dividers at the start, at the end or doubled."""
    kept: list[Resolved] = []
    for item in items:
        if item.kind == "divider" and (not kept or kept[-1].kind == "divider"):
            hidden.append(Hidden(item.id, "tidy", "a divider with nothing before it"))
        else:
            kept.append(item)
    if kept and kept[-1].kind == "divider":
        hidden.append(Hidden(kept.pop().id, "tidy", "a divider with nothing after it"))
    return kept
