"""What is told of a menu at a glance: how much there is in it, and its miniature."""

from typing import Literal

from sign_shelf.core.model.menu import (
    AnyItem,
    Divider,
    Heading,
    Labelled,
    Link,
    Listing,
    MenuDocument,
    Model,
    PendingTarget,
    children,
    walk,
)
from sign_shelf.core.model.tree import Tree
from sign_shelf.core.outline.writing import target_text

TOP = 12
BELOW = 4
"""Entries of the first level, and below each of them, that a miniature has: two levels for a small plate."""

BarKind = Literal["plain", "button", "pending", "divider", "heading"]


class Bar(Model):
    """One entry of a miniature: what it is, and how many characters its label has in each language; under "" where none
    counts."""

    id: str
    kind: BarKind
    chars: dict[str, int]
    items: tuple["Bar", ...] = ()

    def long(self, language: str) -> int:
        """In the language; in the first there is where it has none."""
        found = self.chars.get(language)
        return found if found is not None else next(iter(self.chars.values()))


class Summary(Model):
    """`lists` says whether pages put themselves into the menu."""

    items: int
    depth: int
    pending: int
    lists: bool
    bars: tuple[Bar, ...]


def summary_of(document: MenuDocument) -> Summary:
    items = depth = pending = 0
    lists = False
    for level, item in walk(document.items):
        items += 1
        depth = max(depth, level)
        pending += _leads_nowhere(item)
        lists = lists or isinstance(item, Listing)
    return Summary(items=items, depth=depth, pending=pending, lists=lists, bars=_bars(document.items, TOP))


def _leads_nowhere(item: AnyItem) -> bool:
    return isinstance(item, Link) and isinstance(item.target, PendingTarget)


def _bars(items: Tree, most: int) -> tuple[Bar, ...]:
    return tuple(
        Bar(id=item.id, kind=_kind(item), chars=_chars(item), items=_bars(children(item), BELOW) if most == TOP else ())
        for item in items[:most]
    )


def _kind(item: AnyItem) -> BarKind:
    if isinstance(item, Divider):
        return "divider"
    if _leads_nowhere(item):
        return "pending"
    if isinstance(item, Labelled) and item.look.emphasis == "button":
        return "button"
    return "heading" if isinstance(item, Heading) else "plain"


def _chars(item: AnyItem) -> dict[str, int]:
    if isinstance(item, Labelled) and item.label:
        return {language: len(words) for language, words in item.label.items()}
    return {"": len(target_text(item.target)) if isinstance(item, Link) else 6}
