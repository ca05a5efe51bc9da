"""What a site loses with a page: entries, places and audiences that have it, and pages that only it leads to."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from sign_shelf.core.model.menu import DEVICES, Device, Link, Listing, PageTarget, walk
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.tree import numbers
from sign_shelf.core.outline.called import title
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.resolve.listing import led_to
from sign_shelf.core.visitors.reach import lacking, reach
from sign_shelf.core.visitors.who_sees import audiences_of, walk_resolved


@dataclass(frozen=True, slots=True)
class LeadsThere:
    """An entry; `lists` where it is a list that holds the page. `opens` and `closes` as written, of its own window."""

    menu: str
    item: str
    number: str
    label: str
    lists: bool
    opens: str | None
    closes: str | None


@dataclass(frozen=True, slots=True)
class HadBy:
    """Where visitors get an entry to the page now, and which of them."""

    location: str
    device: Device
    audiences: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Without:
    """`below` are pages whose parent it is; `cut_off` by device those that nobody gets to any more."""

    entries: tuple[LeadsThere, ...]
    had_by: tuple[HadBy, ...]
    below: tuple[str, ...]
    cut_off: Mapping[Device, tuple[str, ...]]


@dataclass(frozen=True, slots=True)
class Affected:
    """`windows`: from when and until when entries show that lead there, as written."""

    had_by: tuple[HadBy, ...]
    windows: tuple[tuple[str | None, str | None], ...]


def without(prepared: Prepared, ref: str, lens: Lens) -> Without:
    """At the lens's moment, in its language. Raises KeyError for a page that the site does not have."""
    page = prepared.addresses.pages[ref]
    below = tuple(one.ref for one in prepared.site.pages if one.under == ref)
    had_by = _had_by(prepared, [ref], lens)[ref]
    return Without(_entries(prepared, page, lens), had_by, below, _cut_off(prepared, page, lens))


def _entries(prepared: Prepared, page: Page, lens: Lens) -> tuple[LeadsThere, ...]:
    found = []
    language = lens.language
    for key, menu in prepared.site.menus.items():
        if key in prepared.site.archived:
            continue
        number = numbers(menu.items)
        for _, item in walk(menu.items):
            by_hand = isinstance(item, Link) and isinstance(item.target, PageTarget) and item.target.page == page.ref
            alone = menu.with_items((item,)) if isinstance(item, Listing) else None
            lists = alone is not None and page.ref in led_to(alone, prepared.addresses.pages, language)
            if by_hand or lists:
                named = bool(getattr(item, "label", None)) or lists
                label = title(item, language) if named else prepared.addresses.title(page.ref, language) or page.path
                found.append(LeadsThere(key, item.id, number[item.id], label, lists, item.from_, item.until))
    return tuple(found)


def _had_by(prepared: Prepared, refs: Collection[str], lens: Lens) -> dict[str, tuple[HadBy, ...]]:
    pages = prepared.addresses.pages
    by_path = {pages[ref].path: ref for ref in refs}
    found: dict[str, list[HadBy]] = {ref: [] for ref in refs}
    for location in prepared.site.template.locations:
        for device in location.devices:
            if prepared.source(location.key, device).menu is None:
                continue
            having: dict[str, list[str]] = {}
            for name, facts in audiences_of(prepared).items():
                on = Lens(device=device, language=lens.language, at=lens.at, facts=facts)
                shown = walk_resolved(prepared.resolve(location.key, on).items)
                had = {one.page or by_path.get((one.href or "").partition("#")[0]) for one in shown}
                for ref in found.keys() & had:
                    having.setdefault(ref, []).append(name)
            for ref, names in having.items():
                found[ref].append(HadBy(location.key, device, tuple(names)))
    return {ref: tuple(one) for ref, one in found.items()}


def affected(prepared: Prepared, refs: Collection[str], lens: Lens) -> dict[str, Affected]:
    """What of the site something that happened to these pages bears on: who gets to them, or would if they were there, and
    when entries that lead there begin and end. At the lens's moment, in its language; refs that are no pages are left out."""
    asked = {ref for ref in refs if ref in prepared.addresses.pages}
    there = tuple(
        one.model_copy(update={"state": "published", "ends": None}) if one.ref in asked else one
        for one in prepared.site.pages
    )
    as_if = Prepared(prepared.site.model_copy(update={"pages": there}))
    windows: dict[str, list[tuple[str | None, str | None]]] = {ref: [] for ref in asked}
    for key, menu in prepared.site.menus.items():
        for _, item in walk(menu.items) if key not in prepared.site.archived else ():
            if not isinstance(item, Link) or not isinstance(item.target, PageTarget) or item.target.page not in asked:
                continue
            if item.from_ or item.until:
                windows[item.target.page].append((item.from_, item.until))
    return {ref: Affected(had, tuple(windows[ref])) for ref, had in _had_by(as_if, asked, lens).items()}


def _cut_off(prepared: Prepared, page: Page, lens: Lens) -> dict[Device, tuple[str, ...]]:
    if page.state != "published":
        return {}
    gone = tuple(
        one if one.ref != page.ref else one.model_copy(update={"state": "gone"}) for one in prepared.site.pages
    )
    after = Prepared(prepared.site.model_copy(update={"pages": gone}))
    found: dict[Device, tuple[str, ...]] = {}
    for device in DEVICES[::-1]:
        on = Lens(device=device, language=lens.language, at=lens.at, facts=lens.facts)
        lost = tuple(ref for ref in lacking(reach(prepared, on), reach(after, on)) if ref != page.ref)
        if lost:
            found[device] = lost
    return found
