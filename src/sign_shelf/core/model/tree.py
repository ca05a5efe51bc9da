"""Operations on a tree of items. Each returns a new tree; ids stay with their items.

The client keeps the same operations for what must answer at once (frontend/src/outline/tree.ts); this module is
the rule that they follow.
"""

import operator
from collections.abc import Callable, Iterable, Iterator

from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.menu import AnyItem, Link, PageTarget, Parent, children, walk

Tree = tuple[AnyItem, ...]


def depth_of(items: Tree) -> int:
    """The number of levels; 0 for an empty tree."""
    return max((depth for depth, _ in walk(items)), default=0)


def count(items: Tree) -> int:
    return sum(1 for _ in walk(items))


def index_by_id(items: Tree) -> dict[str, AnyItem]:
    return {item.id: item for _, item in walk(items)}


def parents(items: Tree) -> dict[str, str | None]:
    """Each item's parent id; None at the top. In document order."""
    found: dict[str, str | None] = {item.id: None for item in items}
    ordered: dict[str, str | None] = {}
    for _, item in walk(items):
        ordered[item.id] = found[item.id]
        for child in children(item):
            found[child.id] = item.id
    return ordered


def numbers(items: Tree) -> dict[str, str]:
    """Entry numbers by id: "1", "1.2", "4.3.1"."""
    found: dict[str, str] = {}
    stack: list[tuple[str, Tree]] = [("", items)]
    while stack:
        prefix, siblings = stack.pop()
        for at, item in enumerate(siblings, start=1):
            found[item.id] = f"{prefix}{at}"
            stack.append((f"{prefix}{at}.", children(item)))
    return found


def targeted_pages(items: Tree) -> tuple[str, ...]:
    """The references that links lead to, each once, in document order."""
    found = (
        item.target.page for _, item in walk(items) if isinstance(item, Link) and isinstance(item.target, PageTarget)
    )
    return tuple(dict.fromkeys(found))


def with_children(item: AnyItem, items: Tree) -> AnyItem:
    if isinstance(item, Parent):
        same = len(item.items) == len(items) and all(map(operator.is_, item.items, items))
        return item if same else item.model_copy(update={"items": items})
    if items:
        raise EditRefused(
            f"A {item.kind} cannot hold other items.", where=item.id, remedy="Put them under a link or a heading."
        )
    return item


def insert(items: Tree, new: AnyItem, *, parent: str | None, at: int) -> Tree:
    """`new` as the `at`-th child of `parent` (None: the top). Raises EditRefused for unknown parents and taken ids."""
    known = index_by_id(items)
    for _, item in walk((new,)):
        if item.id in known:
            raise EditRefused(f'The menu already has an item "{item.id}".', where=item.id)
    return _on_siblings(items, parent, lambda siblings: (*siblings[:at], new, *siblings[at:]))


def remove(items: Tree, item_id: str) -> Tree:
    """The tree without the item and all below it."""
    _find(items, item_id)
    parent = parents(items)[item_id]
    return _on_siblings(items, parent, lambda siblings: tuple(item for item in siblings if item.id != item_id))


def move(items: Tree, item_id: str, *, parent: str | None, at: int) -> Tree:
    """The item, with all below it, as the `at`-th child of `parent`, counted after it was taken out."""
    moving = _find(items, item_id)
    if parent is not None and parent in index_by_id((moving,)):
        raise EditRefused(
            f'"{item_id}" cannot move under "{parent}": "{parent}" is inside "{item_id}".',
            where=item_id,
            remedy="Move the inner item out first.",
        )
    return insert(remove(items, item_id), moving, parent=parent, at=at)


def nest(items: Tree, item_id: str) -> Tree:
    """The item as the last child of the sibling before it."""
    _find(items, item_id)
    parent = parents(items)[item_id]
    siblings = items if parent is None else children(_find(items, parent))
    position = next(at for at, item in enumerate(siblings) if item.id == item_id)
    if position == 0:
        raise EditRefused("The first item of a level has no neighbour to go under.", where=item_id)
    before = siblings[position - 1]
    return move(items, item_id, parent=before.id, at=len(children(before)))


def unnest(items: Tree, item_id: str) -> Tree:
    """The item as the next sibling of its parent."""
    _find(items, item_id)
    above = parents(items)
    parent = above[item_id]
    if parent is None:
        raise EditRefused("The item is at the top already.", where=item_id)
    grandparent = above[parent]
    siblings = items if grandparent is None else children(_find(items, grandparent))
    position = next(at for at, item in enumerate(siblings) if item.id == parent)
    return move(items, item_id, parent=grandparent, at=position + 1)


def duplicate(items: Tree, item_id: str, *, new_ids: Iterator[str]) -> Tree:
    """A copy of the item and all below it, right after it, with ids taken from `new_ids`."""
    original = _find(items, item_id)
    parent = parents(items)[item_id]
    siblings = items if parent is None else children(_find(items, parent))
    position = next(at for at, item in enumerate(siblings) if item.id == item_id)
    return insert(items, rebuilt(original, lambda item: {"id": next(new_ids)}), parent=parent, at=position + 1)


def rebuilt(item: AnyItem, update: Callable[[AnyItem], dict[str, object]]) -> AnyItem:
    """The item and all below it with `update`'s fields set, parents asked before children."""
    fields = update(item)
    below = tuple(rebuilt(child, update) for child in children(item))
    if below:
        fields = fields | {"items": below}
    return item.model_copy(update=fields) if fields else item


def fresh_ids(taken: Iterable[str], stem: str = "item") -> Iterator[str]:
    """`stem`, `stem-2`, `stem-3`, … without those taken."""
    used = set(taken)
    number = 1
    while True:
        candidate = stem if number == 1 else f"{stem}-{number}"
        if candidate not in used:
            used.add(candidate)
            yield candidate
        number += 1


def _find(items: Tree, item_id: str) -> AnyItem:
    for _, item in walk(items):
        if item.id == item_id:
            return item
    raise EditRefused(f'The menu has no item "{item_id}".', where=item_id)


def _on_siblings(items: Tree, parent: str | None, change: Callable[[Tree], Tree]) -> Tree:
    if parent is None:
        return change(items)
    _find(items, parent)
    return tuple(_inside(item, parent, change) for item in items)


def _inside(item: AnyItem, parent: str, change: Callable[[Tree], Tree]) -> AnyItem:
    if item.id == parent:
        return with_children(item, change(children(item)))
    below = children(item)
    changed = tuple(_inside(child, parent, change) for child in below)
    return item if all(a is b for a, b in zip(below, changed, strict=True)) else with_children(item, changed)
