"""Which pages can be got to from the home page, in how many choices, and which one device cannot reach.

A choice is opening a level, opening a drawer, or following an entry. Levels that stand open (footer columns, side panels,
section blocks, lines) need no opening. Shortest paths by Dijkstra's algorithm.
"""

import heapq
from collections.abc import Iterator
from dataclasses import dataclass

from sign_shelf.core.model.site import Page
from sign_shelf.core.model.template import Location, Shape
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.resolve.resolved import Resolved

_STAND_OPEN: frozenset[Shape] = frozenset({"columns", "side", "section", "line"})


@dataclass(frozen=True, slots=True)
class Choice:
    location: str
    item: str


@dataclass(frozen=True, slots=True)
class Reached:
    """`steps` None: by no menu. `via` are the entries followed from the home page on."""

    ref: str
    steps: int | None
    via: tuple[Choice, ...] = ()


def home_of(pages: tuple[Page, ...]) -> Page | None:
    """The page at the site's root, else the first one."""
    return next((page for page in pages if page.path in {"/", ""}), pages[0] if pages else None)


def reach(prepared: Prepared, lens: Lens) -> list[Reached]:
    """Every published page of the inventory, in its order. `lens.page` is not looked at."""
    site = prepared.site
    home = home_of(site.pages)
    if home is None:
        return []
    everywhere = [
        edge
        for location in site.template.locations
        if location.shape != "section"
        for edge in _edges(location, prepared.resolve(location.key, _on(lens, None)).items)
    ]
    sections = [location for location in site.template.locations if location.shape == "section"]
    best: dict[str, int] = {home.ref: 0}
    came: dict[str, tuple[str, Choice]] = {}
    waiting = [(0, home.ref)]
    done: set[str] = set()
    while waiting:
        steps, ref = heapq.heappop(waiting)
        if ref in done:
            continue
        done.add(ref)
        # Menus that hang on every page lead nowhere sooner from a later page than from home.
        edges = list(everywhere) if ref == home.ref else []
        for location in sections:
            edges += _edges(location, prepared.resolve(location.key, _on(lens, ref)).items)
        for cost, target, choice in edges:
            if steps + cost < best.get(target, 1 << 30):
                best[target] = steps + cost
                came[target] = (ref, choice)
                heapq.heappush(waiting, (steps + cost, target))
    return [
        Reached(page.ref, best.get(page.ref), _path(page.ref, came)) for page in site.pages if page.state == "published"
    ]


def _on(lens: Lens, page: str | None) -> Lens:
    return Lens(device=lens.device, language=lens.language, at=lens.at, page=page, width=lens.width, facts=lens.facts)


def _edges(location: Location, items: tuple[Resolved, ...]) -> Iterator[tuple[int, str, Choice]]:
    stands_open = location.shape in _STAND_OPEN and not location.look.folded
    first = 2 if location.shape == "drawer" else 1
    stack = [(first, item) for item in items]
    while stack:
        cost, item = stack.pop()
        if item.page is not None:
            yield cost, item.page, Choice(location.key, item.id)
        stack.extend((cost if stands_open else cost + 1, below) for below in item.items)


def _path(ref: str, came: dict[str, tuple[str, Choice]]) -> tuple[Choice, ...]:
    found: list[Choice] = []
    while ref in came:
        ref, choice = came[ref]
        found.append(choice)
    return tuple(reversed(found))


def lacking(one: list[Reached], other: list[Reached]) -> list[str]:
    """Pages that the first reaches and the second does not."""
    reached = {page.ref for page in other if page.steps is not None}
    return [page.ref for page in one if page.steps is not None and page.ref not in reached]
