"""The cut of a section location: the part of a resolved menu that the visitor's page is in."""

from collections.abc import Iterator, Mapping

from sign_shelf.core.model.site import Page
from sign_shelf.core.model.template import Location
from sign_shelf.core.resolve.resolved import Resolved

UNDER = "under:"
"""Before a page's reference: that page and all below it."""


def lineage(ref: str | None, pages: Mapping[str, Page]) -> Iterator[str]:
    """The page and those that it stands under, nearest first; ends where they would go round."""
    seen: set[str] = set()
    while ref is not None and ref not in seen:
        seen.add(ref)
        yield ref
        page = pages.get(ref)
        ref = page.under if page else None


def shows_on(location: Location, ref: str | None, pages: Mapping[str, Page]) -> bool:
    """Whether the page is among those that the location shows on; no page named means all of them."""
    if not location.pages:
        return True
    above = set(lineage(ref, pages))
    return any(one.removeprefix(UNDER) in above if one.startswith(UNDER) else one == ref for one in location.pages)


def cut(items: tuple[Resolved, ...], location: Location) -> tuple[Resolved, ...]:
    """From the location's start level, below the entries that the page is in, at most its levels deep.

    Level 1 is the menu's top; empty where the page is not that deep in the menu.
    """
    entry = inside_entry(items, location)
    if location.start > 1 and entry is None:
        return ()
    return _shallow(entry.items if entry else items, location.levels)


def inside_entry(items: tuple[Resolved, ...], location: Location) -> Resolved | None:
    """The entry just above the start level that the page is in."""
    level, entry = items, None
    for _ in range(location.start - 1):
        entry = next((item for item in level if item.current != "none"), None)
        if entry is None:
            return None
        level = entry.items
    return entry


def _shallow(items: tuple[Resolved, ...], levels: int | None) -> tuple[Resolved, ...]:
    if levels is None:
        return items
    if levels == 0:
        return ()
    return tuple(item._replace(items=_shallow(item.items, levels - 1)) if item.items else item for item in items)
