"""A menu before and after a change, entry beside entry: what stayed, came, went, moved and was edited."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from sign_shelf.core.compare.diff import diff
from sign_shelf.core.model.menu import walk
from sign_shelf.core.model.tree import Tree, numbers
from sign_shelf.core.outline.called import title

What = Literal["kept", "added", "removed", "moved", "edited"]
"""One that moved and was edited is told as moved, with `edited` beside it."""


@dataclass(frozen=True, slots=True)
class RailLine:
    id: str
    number: str
    level: int
    """From 1."""
    label: str
    what: What
    edited: bool


@dataclass(frozen=True, slots=True)
class Rails:
    """In document order each. What is in both has the same id there."""

    before: tuple[RailLine, ...]
    after: tuple[RailLine, ...]


def rails(before: Tree, after: Tree, language: str) -> Rails:
    """Labels in the language, or the first that there is."""
    ops: dict[str, set[str]] = {}
    for edit in diff(before, after, language=language):
        if edit.id is not None:
            ops.setdefault(edit.id, set()).add(edit.op)
    was, now = ({item.id for _, item in walk(items)} for items in (before, after))
    return Rails(
        before=tuple(_lines(before, ops, now, "removed", language)), after=tuple(_lines(after, ops, was, "added", language))
    )  # fmt: skip


def _lines(items: Tree, ops: dict[str, set[str]], others: set[str], alone: What, language: str) -> Iterable[RailLine]:
    number = numbers(items)
    for level, item in walk(items):
        mine = ops.get(item.id, set())
        edited = bool(mine & {"relabel", "retarget", "set"})
        what: What = "kept"
        if item.id not in others:
            what = alone
        elif mine & {"move", "reorder"}:
            what = "moved"
        elif edited:
            what = "edited"
        yield RailLine(item.id, number[item.id], level, title(item, language), what, edited and item.id in others)
