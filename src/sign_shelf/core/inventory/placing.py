"""Where in the menus a new page probably belongs: by its address, and by where the pages beside it stand."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from sign_shelf.core.inventory.naming import directory
from sign_shelf.core.model.menu import AnyItem, Link, MenuDocument, PageTarget, children
from sign_shelf.core.model.site import Page


@dataclass(frozen=True)
class Placing:
    """Below the item `parent` (None: at the top), as the one of number `at` from 0. `because` is a reason for people."""

    menu: str
    parent: str | None
    at: int
    because: str


@dataclass(frozen=True)
class _Group:
    menu: str
    parent: AnyItem | None
    members: tuple[AnyItem, ...]


def placing(page: Page, pages: Mapping[str, Page], menus: Mapping[str, MenuDocument]) -> Placing | None:
    """Among these menus, the likeliest first. None where neither address nor neighbours speak for a place, and where an entry
    leads to the page already."""
    groups = [one for key, menu in menus.items() for one in _groups(key, menu)]
    if any(_leads(item) == page.ref for group in groups for item in group.members):
        return None
    best: tuple[int, int, Placing] | None = None
    for order, group in enumerate(groups):
        beside = [item for item in group.members if _are_siblings(page, pages.get(_leads(item) or ""))]
        below = group.parent is not None and page.under is not None and _leads(group.parent) == page.under
        strength = 2 * len(beside) + 3 * below
        # One neighbour among many tells little of where this one belongs.
        if not below and (not beside or len(beside) * 2 < len(group.members)):
            continue
        at = group.members.index(beside[-1]) + 1 if beside else len(group.members)
        found = Placing(
            group.menu, group.parent.id if group.parent else None, at, _because(page, pages, below, len(beside))
        )
        if best is None or (strength, -order) > best[:2]:
            best = (strength, -order, found)
    return best[2] if best is not None else None


def _because(page: Page, pages: Mapping[str, Page], below: bool, beside: int) -> str:
    folder = directory(page.path).rpartition("/")[0] or "/"
    neighbours = f"{beside} of the pages beside it {'stands' if beside == 1 else 'stand'} there"
    if below and page.under is not None:
        above = pages[page.under].path
        return f"its address is under {above}" + (f", and {neighbours}" if beside else "")
    return f"{neighbours} ({folder if folder != '/' else 'at the top of the site'})"


def _are_siblings(page: Page, other: Page | None) -> bool:
    """In one directory; at the top of a site only where neither has anything above it."""
    if other is None or other.state != "published" or other.path == "/":
        return False
    mine, theirs = (directory(one.path).rpartition("/")[0] for one in (page, other))
    return mine == theirs


def _leads(item: AnyItem | None) -> str | None:
    return item.target.page if isinstance(item, Link) and isinstance(item.target, PageTarget) else None


def _groups(key: str, menu: MenuDocument) -> Iterable[_Group]:
    stack: list[tuple[AnyItem | None, tuple[AnyItem, ...]]] = [(None, menu.items)]
    while stack:
        parent, members = stack.pop()
        if members or (parent is not None and _leads(parent) is not None):
            yield _Group(key, parent, members)
        stack.extend((item, children(item)) for item in reversed(members))


def top_level(pages: Iterable[Page]) -> list[Page]:
    """Those that have no page above them, are there for visitors, and are not asked to be left out."""
    return [page for page in pages if page.under is None and page.state == "published" and not page.noindex]
