"""A site's own adjustments of a shared menu that it follows, and taking them along when that moves on.

An adjustment is nothing but the difference between the shared menu as it was filled for the site and the menu that the site has: hidden,
relabelled, led elsewhere, put in, put in another order. Moving on is a three-way merge in which the site's own always holds.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from sign_shelf.core.compare import Conflict, Side, diff, merge
from sign_shelf.core.compare.edits import Edit
from sign_shelf.core.compare.met import Met, met
from sign_shelf.core.model.menu import MenuDocument, children, walk
from sign_shelf.core.model.tree import Tree, index_by_id, with_children
from sign_shelf.core.outline.called import title

_SHARED = "shared:"
_BOTH = frozenset({"edit-edit", "move-move", "add-add"})
"""Kinds of conflicts in which each side set something."""


def shared_key(key: str) -> str:
    """What sites call the shared menu of this key: `shared:legal`."""
    return f"{_SHARED}{key}"


@dataclass(frozen=True)
class Followed:
    """`left` are entries of the site's that the shared menu has no more: adjustments that no longer apply."""

    adjustments: tuple[Edit, ...]
    left: tuple[str, ...]


def followed(key: str, filled: MenuDocument, own: MenuDocument, *, language: str = "en") -> Followed:
    """`filled` is the shared menu of this key as it was filled for the site, `own` what the site has of it."""
    if own.items == filled.items:
        return Followed((), ())
    there = index_by_id(filled.items)
    left = tuple(
        item.id for _, item in walk(own.items) if item.id not in there and item.origin == f"{key}/{item.id}"
    )  # fmt: skip
    return Followed(tuple(diff(filled.items, own.items, language=language)), left)


@dataclass(frozen=True)
class Rolled:
    """The site's menu once the shared one has moved on. `does` leads there from what it has; `met` is where both changed the same, and
    the site's own holds; `left` are entries that the shared menu took out and that stay, since the site adjusted them."""

    menu: MenuDocument
    does: tuple[Edit, ...]
    met: tuple[Met, ...]
    left: tuple[str, ...]


def rolled(before: MenuDocument, own: MenuDocument, now: MenuDocument, *, language: str = "en") -> Rolled:
    """`before` and `now` are the shared menu as filled for the site, in the version that it follows and in the newest.

    Laws: without adjustments it is what is filled in now; where the shared menu did not move, nothing changes; what the site hid stays
    hidden, what it put in stays, and what it set of an entry stays as it set it.
    """
    name = now.name if own.name == before.name else own.name
    items = now.items if own.items == before.items else own.items
    conflicts: tuple[Conflict, ...] = ()
    if own.items != before.items and now.items != before.items:
        items, conflicts = _merged(before.items, own.items, now.items)
    menu = own.model_copy(update={"name": name, "items": items})
    titles = {item.id: title(item, language) for tree in (before.items, now.items, own.items) for _, item in walk(tree)}
    there = index_by_id(now.items)
    was = index_by_id(before.items)
    left = tuple(item.id for _, item in walk(items) if item.id not in there and item.id in was)
    both = tuple(met(one, titles) for one in conflicts if one.kind in _BOTH)
    return Rolled(menu, tuple(diff(own.items, items, language=language)), both, left)


def _merged(before: Tree, own: Tree, now: Tree) -> tuple[Tree, tuple[Conflict, ...]]:
    first = merge(before, own, now)
    choices: dict[str, Side] = {}
    result = first
    # What is settled one way may let another conflict come up.
    while fresh := [one.key for one in result.conflicts if one.key not in choices]:
        choices |= dict.fromkeys(fresh, "ours")
        result = merge(before, own, now, choices=choices)
    hidden = {item.id for _, item in walk(before)} - {item.id for _, item in walk(own)}
    return _without_hidden(result.items, hidden, index_by_id(own)), first.conflicts


def _without_hidden(items: Tree, hidden: set[str], own: Mapping[str, object]) -> Tree:
    """What the site hid stays hidden with whatever is new below it; what it kept of that takes its place."""
    found: Tree = ()
    for item in items:
        below = _without_hidden(children(item), hidden, own)
        if item.id in hidden:
            found += tuple(one for one in below if _kept(one, own))
        else:
            found += (with_children(item, below) if children(item) else item,)
    return found


def _kept(item: object, own: Mapping[str, object]) -> bool:
    return getattr(item, "id", None) in own
