"""Whether the entries stand in the HTML that one gets without running scripts, and how its navigations are made."""

from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import replace

from sign_shelf.core.basics.address import normal
from sign_shelf.core.checks.check import Check, Code, SiteCheck, reads
from sign_shelf.core.checks.finding import Finding
from sign_shelf.core.checks.view import SiteView
from sign_shelf.core.crawled import LiveNavigation, LivePage
from sign_shelf.core.model.template import Location
from sign_shelf.core.visitors.reach import home_of
from sign_shelf.core.visitors.who_sees import walk_resolved

_UNSEEN = "search engines and programs that read aloud may never learn of it"
_PLAIN = "a plain navigation in the page's HTML, as [delivery](delivery.md) gives it"
PLACE = Code(
    "crawl-place",
    "warn",
    "no entry of a place is in the HTML of the pages that show it: the home page, of a section place pages of its sections",
    _UNSEEN,
    _PLAIN,
)
ENTRY = Code(
    "crawl-entry",
    "warn",
    "an entry is not in the HTML of the page that shows it (the home page, or one of its section), others of its place are",
    _UNSEEN,
    _PLAIN,
)
LANDMARK = Code(
    "nav-landmark", "note", "links of a page's header or drawer stand in no navigation landmark",
    "who listens to the page cannot jump there", "a `nav` around them",
)  # fmt: skip
NAME = Code(
    "nav-name", "note", "a page has several navigations, and one has no name, or that of another",
    "who listens to the page cannot tell them apart", "an `aria-label` of its own",
)  # fmt: skip
LIST = Code(
    "nav-list", "note", "links of a navigation stand in no list", "nobody is told how many there are", "`ul` and `li` around them"
)  # fmt: skip
CURRENT = Code(
    "nav-current", "note", "a navigation leads to the page that one is on, and does not mark it",
    "visitors cannot see where they are", '`aria-current="page"`',
)  # fmt: skip
OPENER = Code(
    "nav-opener", "warn", "what opens a level is no button, or does not say whether it is open",
    "it cannot be used by keyboard, or nobody is told what happened", "a `button` with `aria-expanded`",
)  # fmt: skip


def _in_html(view: SiteView) -> Iterator[Finding]:
    """By what anybody got on a page when it was read, on any device: one HTML is for all of them. What a section place shows
    differs by the page that one is on, and is looked for on pages of its sections."""
    for location in view.site.template.locations:
        shown_by = [page for page in view.live if (page.page is not None) == (location.shape == "section")]
        wanted: dict[tuple[str, str], str] = {}
        missing: dict[tuple[str, str], str] = {}
        for page in shown_by:
            there = frozenset(page.links)
            for key, address in _shown(view, location, page):
                wanted[key] = page.address
                if address not in there:
                    missing[key] = page.address
        if not missing:
            continue
        if len(missing) == len(wanted):
            pages = tuple(dict.fromkeys(missing.values()))
            more = f" and of {len(pages) - 1} more pages" if len(pages) > 1 else ""
            says = f"{location.title}: none of its {len(wanted)} entries is in the HTML of {pages[0]}{more}"
            yield PLACE.found(says, location=location.key, fix="Have the site put the navigation into its HTML.")
            continue
        lines = {(line.menu, line.item.id): line for menu in {menu for menu, _ in missing} for line in view.lines(menu)}
        for (menu, item), at in sorted(missing.items()):
            line = lines.get((menu, item))
            if line is not None:
                says = f"{view.called(line.item)} is not in the HTML of {at}"
                yield ENTRY.found(says, line=line, location=location.key, fix="Have the site put it into its HTML.")


def _shown(view: SiteView, location: Location, live: LivePage) -> Iterator[tuple[tuple[str, str], str]]:
    """Each entry that leads to an address and stands in the place on this page, by its menu and id, with the address."""
    home = home_of(view.site.pages)
    ref = live.page or (home.ref if home is not None else None)
    for device in location.devices:
        lens = replace(view.lens(device), at=live.at, page=ref)
        resolved = view.prepared.resolve(location.key, lens)
        for entry in walk_resolved(resolved.items):
            address = normal(entry.href, view.site.site.base) if entry.href is not None else None
            if resolved.source.menu is not None and address is not None and address.startswith(("http://", "https://")):
                yield (resolved.source.menu, entry.id), address.partition("#")[0]


def _made(view: SiteView) -> Iterator[Finding]:
    """A navigation that stands on several of the pages is told once."""
    seen: set[str] = set()
    for live in view.live:
        for one, finding in _made_on(live):
            if one.selector not in seen:
                yield finding
        seen |= {one.selector for one in live.navigations}


def _made_on(live: LivePage) -> Iterator[tuple[LiveNavigation, Finding]]:
    names = Counter(one.name for one in live.navigations if one.landmark)
    alike: dict[str, int] = defaultdict(int)
    for one in live.navigations:
        cause = f"navigation {one.selector}"
        called = f"The navigation {one.name or one.selector} of {live.address}"
        if not one.landmark:
            says = f"{one.links} links at {one.selector} of {live.address} stand in no navigation landmark"
            yield one, LANDMARK.found(says, cause=cause, fix="Put a nav around them.")
            continue
        alike[one.name] += 1
        if names.total() > 1 and (not one.name or alike[one.name] > 1):
            says = f"{called} has {'the name of another' if one.name else 'no name'}"
            yield one, NAME.found(says, cause=cause, fix="Give it an aria-label of its own.")
        if not one.lists:
            yield one, LIST.found(f"{called} has its links in no list", cause=cause, fix="Put ul and li around them.")
        if one.marks is False:
            says = f"{called} does not mark the page that one is on"
            yield one, CURRENT.found(says, cause=cause, fix="Set aria-current there.")
        if one.openers:
            says = (
                f"{called} opens levels by what is no button that says whether it is open: {', '.join(one.openers[:4])}"
            )
            yield one, OPENER.found(says, cause=cause, fix="Make each a button with aria-expanded.")


CHECKS: tuple[Check, ...] = (
    SiteCheck("crawlers", reads("trees", "arrangement", "inventory", "live"), (PLACE, ENTRY), _in_html),
    SiteCheck("crawlers", reads("live"), (LANDMARK, NAME, LIST, CURRENT, OPENER), _made),
)
