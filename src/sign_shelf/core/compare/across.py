"""Menus of several sites side by side: which of their entries are the same, by what they say and where they lead, and what each lacks."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import count

from sign_shelf.core.compare.matching import match_by_content
from sign_shelf.core.model.menu import AnyItem, Divider, Labelled, Link, PageTarget, UrlTarget, children
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.tree import Tree, numbers, rebuilt
from sign_shelf.core.outline.called import title
from sign_shelf.core.outline.writing import target_text

LEAST_SURE = 0.54
"""Pairs below it stand apart: between sites, that two entries stand alike says little of their being the same."""


@dataclass(frozen=True)
class Shown:
    """A menu as it is compared: of a site with these pages, in its first language."""

    items: Tree
    pages: tuple[Page, ...]
    language: str


@dataclass(frozen=True)
class Cell:
    """`sure` from 0 to 1: how sure it is that it is what the row is about."""

    item: str
    number: str
    label: str
    leads_to: str
    sure: float


@dataclass(frozen=True)
class Row:
    """`cells` in the order of the menus; None where one has no such entry."""

    level: int
    cells: tuple[Cell | None, ...]

    @property
    def has(self) -> int:
        return sum(cell is not None for cell in self.cells)

    def lacking(self) -> tuple[int, ...]:
        """The menus that lack what most of them have."""
        if self.has * 2 <= len(self.cells):
            return ()
        return tuple(at for at, cell in enumerate(self.cells) if cell is None)


@dataclass
class _Node:
    name: str
    item: AnyItem
    cells: list[Cell | None]
    below: "list[_Node]" = field(default_factory=list)


def across(menus: Sequence[Shown]) -> list[Row]:
    """A row for each entry that any of them has: in the order of the first menu, what others have beside it where they have it.
    Dividers are left out."""
    top: list[_Node] = []
    names = (f"n{at}" for at in count())
    for at, menu in enumerate(menus):
        tree = comparable(menu)
        number = numbers(menu.items)
        matches = match_by_content(tuple(_tree(top)), tree) if top else {}
        known = {node.name: node for node in _all(top)}
        found = {
            theirs: (known[match.id], match.confidence) for theirs, match in matches.items() if match.confidence >= LEAST_SURE
        }  # fmt: skip
        originals = {item.id: item for item in _walked(menu.items)}

        def place(
            items: Tree, within: list[_Node], at: int = at, found: dict[str, tuple[_Node, float]] = found,
            number: dict[str, str] = number, originals: dict[str, AnyItem] = originals, language: str = menu.language,
        ) -> None:  # fmt: skip
            last: _Node | None = None
            for item in items:
                if isinstance(item, Divider):
                    continue
                node, sure = found.get(item.id, (None, 1.0))
                if node is None:
                    node = _Node(next(names), item, [None] * len(menus))
                    behind = within.index(last) + 1 if last is not None and last in within else len(within)
                    within.insert(behind, node)
                node.cells[at] = Cell(
                    item.id, number[item.id], title(originals[item.id], language), _goal(item), round(sure, 3)
                )
                last = node
                place(children(item), node.below)

        place(tree, top)
    return [Row(level, tuple(node.cells)) for level, node in _levels(top, 1)]


def comparable(menu: Shown) -> Tree:
    """With addresses in place of pages, whose references mean nothing elsewhere."""
    paths = {page.ref: page for page in menu.pages}

    def plain(item: AnyItem) -> dict[str, object]:
        if not (isinstance(item, Link) and isinstance(item.target, PageTarget)):
            return {}
        page = paths.get(item.target.page)
        path = page.path if page is not None else f"/{item.target.page}"
        words = item.label or (dict(page.title) if page is not None and page.title else {menu.language: path})
        return {"target": UrlTarget(url=path), "label": words}

    return tuple(rebuilt(item, plain) for item in menu.items)


def _goal(item: AnyItem) -> str:
    return target_text(item.target) if isinstance(item, Link) else "" if isinstance(item, Labelled) else item.kind


def _walked(items: Tree) -> Iterator[AnyItem]:
    for item in items:
        yield item
        yield from _walked(children(item))


def _tree(nodes: Iterable[_Node]) -> Iterator[AnyItem]:
    for node in nodes:
        below = tuple(_tree(node.below))
        held = {"items": below} if hasattr(node.item, "items") else {}
        yield node.item.model_copy(update={"id": node.name} | held)


def _all(nodes: Iterable[_Node]) -> Iterator[_Node]:
    for node in nodes:
        yield node
        yield from _all(node.below)


def _levels(nodes: Iterable[_Node], level: int) -> Iterator[tuple[int, _Node]]:
    for node in nodes:
        yield level, node
        yield from _levels(node.below, level + 1)
