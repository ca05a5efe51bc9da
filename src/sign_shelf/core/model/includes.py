"""Menus within menus: which of them lead back to themselves, and how many items they come to."""

from collections.abc import Iterable, Mapping

from sign_shelf.core.model.menu import Include, MenuDocument, walk
from sign_shelf.core.model.tree import Tree, count

MOST_ITEMS = 20_000
"""Items of a menu together with all that it includes. Menus that include another twice, and so on, double each time."""


class Includes:
    """Over the menus of a site by key. Menus that are not there include nothing."""

    def __init__(self, menus: Mapping[str, MenuDocument]) -> None:
        self._menus = menus
        self._included: dict[str, tuple[str, ...]] = {}
        self._sizes: dict[str, int] = {}
        self._loops: dict[str, tuple[str, ...] | None] = {}

    def of(self, key: str) -> tuple[str, ...]:
        """The keys that the menu's items name, in document order."""
        if key not in self._included:
            menu = self._menus.get(key)
            self._included[key] = included(menu.items) if menu is not None else ()
        return self._included[key]

    def loop(self, key: str) -> tuple[str, ...] | None:
        """The way from the menu back to itself, it at both ends; None where there is none."""
        if key not in self._loops:
            self._loops[key] = self._way_back(key)
        return self._loops[key]

    def _way_back(self, key: str) -> tuple[str, ...] | None:
        path, stack, known = [key], [iter(self.of(key))], {key}
        while stack:
            step = next(stack[-1], None)
            if step is None:
                stack.pop()
                path.pop()
            elif step == key:
                return (*path, key)
            elif step not in known:
                known.add(step)
                path.append(step)
                stack.append(iter(self.of(step)))
        return None

    def size(self, key: str) -> int:
        """The menu's items with those of all that it includes, up to just above MOST_ITEMS; a menu within itself counts
        none."""
        self._measure(key)
        return self._sizes[key]

    def size_of(self, items: Tree) -> int:
        """The same of items that are none of the site's menus."""
        return _counted(items, (self.size(key) for key in included(items)))

    def refusal(self, key: str, root: str | Tree) -> str | None:
        """Why the menu shows nothing where it is included, in the menu `root` or in these items; None where it shows."""
        if key not in self._menus:
            return f'there is no menu "{key}"'
        if self.loop(key):
            return f'"{key}" includes itself'
        if (self.size(root) if isinstance(root, str) else self.size_of(root)) > MOST_ITEMS:
            return f"the menu and what it includes are over {MOST_ITEMS} entries"
        return None

    def items(self, key: str, root: str) -> Tree:
        """What shows in the menu's place where it is included in the menu `root`."""
        return () if self.refusal(key, root) else self._menus[key].items

    def _measure(self, key: str) -> None:
        stack: list[tuple[str, bool]] = [(key, False)]
        begun: set[str] = set()
        while stack:
            step, ready = stack.pop()
            if ready:
                menu = self._menus.get(step)
                below = (self._sizes.get(one, 0) for one in self.of(step))
                self._sizes[step] = _counted(menu.items, below) if menu is not None else 0
            elif step not in self._sizes and step not in begun:
                begun.add(step)
                stack += [(step, True), *((one, False) for one in self.of(step))]


def all_included(items: Tree, menus: Mapping[str, MenuDocument]) -> dict[str, MenuDocument]:
    """The menus that these items include, and those that they include in turn."""
    found: dict[str, MenuDocument] = {}
    waiting = list(included(items))
    while waiting:
        key = waiting.pop()
        if key in menus and key not in found:
            found[key] = menus[key]
            waiting += included(menus[key].items)
    return found


def included(items: Tree) -> tuple[str, ...]:
    return tuple(item.menu for _, item in walk(items) if isinstance(item, Include))


def _counted(items: Tree, below: Iterable[int]) -> int:
    return min(count(items) + sum(below), MOST_ITEMS + 1)
