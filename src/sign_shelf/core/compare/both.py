"""Both of two versions that do not agree: ours stands, and theirs beside it, as an entry of its own."""

from collections.abc import Iterable, Mapping
from typing import Literal

from sign_shelf.core.compare.merge import Conflict, Side
from sign_shelf.core.model.copying import copy_items
from sign_shelf.core.model.menu import children
from sign_shelf.core.model.tree import Tree, index_by_id, insert, parents, remove

Choice = Literal["ours", "theirs", "both"]
KEPT_BOTH = frozenset({"edit-edit", "add-add"})
"""Kinds of conflicts of which both can stand: what was removed or moved is in one place or none."""


def sides(choices: Mapping[str, Choice]) -> dict[str, Side]:
    """What a merge is told: where both stand, ours does in its place."""
    return {key: "ours" if one == "both" else one for key, one in choices.items()}


def beside(tree: Tree, theirs: Tree, conflicts: Iterable[Conflict], choices: Mapping[str, Choice]) -> Tree:
    """The merged tree with a copy of their version after each entry of which both were chosen, without what is below it: that is
    merged. Each is copied once, however many of its conflicts were chosen so."""
    wanted = dict.fromkeys(
        one.id for one in conflicts
        if one.kind in KEPT_BOTH and "both" in {choices.get(one.key), choices.get(one.id)}
    )  # fmt: skip
    known = index_by_id(theirs)
    for id in wanted:
        if id not in known or id not in index_by_id(tree):
            continue
        alone = theirs
        for child in children(known[id]):
            alone = remove(alone, child.id)
        (copied,), _ = copy_items((index_by_id(alone)[id],), origin="", taken=index_by_id(tree))
        parent = parents(tree)[id]
        siblings = tree if parent is None else children(index_by_id(tree)[parent])
        tree = insert(tree, copied, parent=parent, at=[one.id for one in siblings].index(id) + 1)
    return tree
