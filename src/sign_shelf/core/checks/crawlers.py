"""Whether the entries stand in the HTML that one gets without running scripts, and how its navigations are made."""

from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import replace

from sign_shelf.core.basics.address import normal
from sign_shelf.core.checks.check import Check, Code, SiteCheck, reads
from sign_shelf.core.checks.finding import Finding
from sign_shelf.core.checks.view import SiteView
from sign_shelf.core.visitors.reach import home_of
from sign_shelf.core.visitors.who_sees import walk_resolved

_UNSEEN = "search engines and programs that read aloud may never learn of it"
_PLAIN = "a plain navigation in the page's HTML, as [delivery](delivery.md) gives it"
PLACE = Code("crawl-place", "warn", "no entry of a place is in the HTML of the site's home page", _UNSEEN, _PLAIN)
ENTRY = Code(
    "crawl-entry",
    "warn",
    "an entry is not in the HTML of the site's home page, others of its place are",
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
    """By what anybody got on the home page when it was read, on any device: one HTML is for all of them."""
    if view.live is None:
        return
    base = view.site.site.base
    there = frozenset(view.live.links)
    home = home_of(view.site.pages)
    for location in view.site.template.locations:
        if location.shape == "section":
            continue
        wanted: dict[tuple[str, str], str] = {}
        for device in location.devices:
            source = view.prepared.source(location.key, device).menu
            lens = replace(view.lens(device), at=view.live.at, page=home.ref if home is not None else None)
            for entry in walk_resolved(view.prepared.resolve(location.key, lens).items):
                address = normal(entry.href, base) if entry.href is not None else None
                if source is not None and address is not None and address.startswith(("http://", "https://")):
                    wanted[source, entry.id] = address.partition("#")[0]
        missing = {key for key, address in wanted.items() if address not in there}
        if not missing:
            continue
        if len(missing) == len(wanted):
            says = f"{location.title}: none of its {len(wanted)} entries is in the HTML of {view.live.address}"
            yield PLACE.found(says, location=location.key, fix="Have the site put the navigation into its HTML.")
            continue
        lines = {(line.menu, line.item.id): line for menu in {menu for menu, _ in missing} for line in view.lines(menu)}
        for menu, item in sorted(missing):
            line = lines.get((menu, item))
            if line is not None:
                says = f"{view.called(line.item)} is not in the HTML of {view.live.address}"
                yield ENTRY.found(says, line=line, location=location.key, fix="Have the site put it into its HTML.")


def _made(view: SiteView) -> Iterator[Finding]:
    if view.live is None:
        return
    live = view.live
    names = Counter(one.name for one in live.navigations if one.landmark)
    alike: dict[str, int] = defaultdict(int)
    for one in live.navigations:
        cause = f"navigation {one.selector}"
        called = f"The navigation {one.name or one.selector} of {live.address}"
        if not one.landmark:
            says = f"{one.links} links at {one.selector} of {live.address} stand in no navigation landmark"
            yield LANDMARK.found(says, cause=cause, fix="Put a nav around them.")
            continue
        alike[one.name] += 1
        if names.total() > 1 and (not one.name or alike[one.name] > 1):
            says = f"{called} has {'the name of another' if one.name else 'no name'}"
            yield NAME.found(says, cause=cause, fix="Give it an aria-label of its own.")
        if not one.lists:
            yield LIST.found(f"{called} has its links in no list", cause=cause, fix="Put ul and li around them.")
        if one.marks is False:
            yield CURRENT.found(
                f"{called} does not mark the page that one is on", cause=cause, fix="Set aria-current there."
            )
        if one.openers:
            says = (
                f"{called} opens levels by what is no button that says whether it is open: {', '.join(one.openers[:4])}"
            )
            yield OPENER.found(says, cause=cause, fix="Make each a button with aria-expanded.")


CHECKS: tuple[Check, ...] = (
    SiteCheck("crawlers", reads("trees", "arrangement", "inventory", "live"), (PLACE, ENTRY), _in_html),
    SiteCheck("crawlers", reads("live"), (LANDMARK, NAME, LIST, CURRENT, OPENER), _made),
)
