"""A tree laid flat: each item's own fields apart from where it stands."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from pydantic import BaseModel

from sign_shelf.core.model.menu import AnyItem, children
from sign_shelf.core.model.tree import Tree, with_children

TOP: Final = ""
"""Stands for the root wherever a parent is named; no item has an empty id."""


@dataclass(frozen=True)
class Flat:
    """`items` in document order, still with their children; `parent`, `position` among siblings and `order` by id."""

    items: Mapping[str, AnyItem]
    parent: Mapping[str, str]
    position: Mapping[str, int]
    order: Mapping[str, tuple[str, ...]]


def flatten(items: Tree) -> Flat:
    by_id: dict[str, AnyItem] = {}
    parent: dict[str, str] = {}
    position: dict[str, int] = {}
    order: dict[str, tuple[str, ...]] = {}
    waiting: list[AnyItem] = []
    above, siblings = TOP, items
    while True:
        order[above] = tuple([item.id for item in siblings])
        for at, item in enumerate(siblings):
            parent[item.id] = above
            position[item.id] = at
        waiting.extend(siblings[::-1])
        if not waiting:
            return Flat(by_id, parent, position, order)
        item = waiting.pop()
        above, siblings = item.id, children(item)
        by_id[above] = item


_APART = frozenset({"id", "items"})


def own_fields(item: AnyItem) -> dict[str, object]:
    """The item's fields without its id and children, by Python name, defaults included."""
    return {name: getattr(item, name) for name in type(item).model_fields if name not in _APART}


def same_fields(one: BaseModel, other: BaseModel) -> bool:
    """Whether two items' own fields are equal, or all of two targets': in a third of the time that `==` of models takes."""
    if one is other:
        return True
    theirs = other.__dict__
    return type(one) is type(other) and all(
        value is theirs[name] or value == theirs[name] for name, value in one.__dict__.items() if name not in _APART
    )


def build(items: Mapping[str, AnyItem], order: Mapping[str, tuple[str, ...]]) -> Tree:
    """The tree in which `order` lists the children of each id, beginning at TOP."""

    def below(parent: str) -> Tree:
        return tuple(with_children(items[item_id], below(item_id)) for item_id in order.get(parent, ()))

    return below(TOP)
