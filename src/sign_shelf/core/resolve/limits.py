"""A place's limits: how deep its entries stand and which kinds it takes."""

from collections.abc import Iterable, Sequence

from sign_shelf.core.model.template import Location
from sign_shelf.core.resolve.resolved import Hidden, Resolved


def depth_of(items: Sequence[Resolved]) -> int:
    return 1 + max(depth_of(item.items) for item in items) if items else 0


def kinds_of(items: Sequence[Resolved]) -> frozenset[str]:
    """Those that a place must take; what a listing made comes with the listing."""
    found = {item.kind for item in items if not item.listed}
    return frozenset(found).union(*(kinds_of(item.items) for item in items if item.items))


def within(items: Iterable[Resolved], location: Location, hidden: list[Hidden]) -> list[Resolved]:
    """Without what the place does not take: kinds that it refuses, with all below them, and levels beyond its depth."""
    return _level(items, location, 1, hidden)


def _level(items: Iterable[Resolved], location: Location, level: int, hidden: list[Hidden]) -> list[Resolved]:
    kept = []
    for item in items:
        if level > location.depth:
            _hide(item, hidden, f"{location.title} shows {_levels(location.depth)}")
        elif not item.listed and item.kind not in location.kinds:
            _hide(item, hidden, f"{location.title} takes no {item.kind}")
        elif item.items:
            below = tuple(_level(item.items, location, level + 1, hidden))
            if below or item.kind != "heading":
                same = len(below) == len(item.items) and all(a is b for a, b in zip(below, item.items, strict=True))
                kept.append(item if same else item._replace(items=below))
            else:
                hidden.append(Hidden(item.id, "empty", "nothing below it is visible"))
        else:
            kept.append(item)
    return kept


def lifted(items: Iterable[Resolved], location: Location, hidden: list[Hidden], level: int = 1) -> list[Resolved]:
    """What stands deeper than the place shows comes up, right after the entry that it stood under: none is lost.

    A heading where the place takes none goes, and what it held stands in its stead.
    """
    found: list[Resolved] = []
    for item in items:
        if item.kind == "heading" and "heading" not in location.kinds:
            hidden.append(Hidden(item.id, "place", f"{location.title} takes no heading"))
            found.extend(lifted(item.items, location, hidden, level))
        elif not item.items:
            found.append(item)
        elif level >= location.depth:
            found.append(item._replace(items=()))
            found.extend(lifted(item.items, location, hidden, level))
        else:
            found.append(item._replace(items=tuple(lifted(item.items, location, hidden, level + 1))))
    return found


def _levels(count: int) -> str:
    return "one level" if count == 1 else f"{count} levels"


def _hide(item: Resolved, hidden: list[Hidden], detail: str) -> None:
    hidden.append(Hidden(item.id, "place", detail))
    says = f"because {item.label or item.kind} is hidden"
    stack = list(item.items)
    while stack:
        below = stack.pop(0)
        hidden.append(Hidden(below.id, "parent", says))
        stack[:0] = below.items
