"""Items as rows: what CSV and OPML share. A row has a kind, a label, a goal and settings in the outline's notation."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from sign_shelf.core.basics.ids import ReadableIds
from sign_shelf.core.errors import EditRefused, OutlineRefused, Problem
from sign_shelf.core.formats.binding import Binder
from sign_shelf.core.model.menu import MAX_DEPTH, MAX_ITEMS, AnyItem, Labelled, Parent
from sign_shelf.core.model.template import ITEM_KINDS
from sign_shelf.core.model.tree import Tree
from sign_shelf.core.outline import goal_text, parse_item, settings_text

_OWN_NOTATION = re.compile(r"^(?:[@?!*+<]|tel:|mailto:|#[^\s#]+$)")


@dataclass
class Row:
    """`goal` is in the outline's notation, or a plain address. `where` names the row in the input."""

    where: str
    kind: str = ""
    label: str = ""
    labels: Mapping[str, str] = field(default_factory=dict)
    goal: str = ""
    settings: str = ""
    below: list["Row"] = field(default_factory=list)


def row_of(item: AnyItem, language: str, *, apart: bool) -> Row:
    """The item without what is below it. `apart`: labels in further languages by themselves, not among the settings."""
    labels = dict(item.label) if isinstance(item, Labelled) else {}
    own = labels.pop(language, "")
    return Row(
        where=item.id,
        kind=item.kind,
        label=own,
        labels=labels if apart else {},
        goal=goal_text(item),
        settings=settings_text(item, language, without=frozenset(labels) if apart else frozenset()),
    )


def items_of(rows: list[Row], *, binder: Binder) -> tuple[Tree, tuple[Problem, ...]]:
    """The tree that the rows make, and what in them was not understood.

    A row that cannot be an item becomes a pending link that keeps its words, and is noted. Raises EditRefused for too
    many rows or levels.
    """
    building = _Building(binder)
    return building.level(rows, 1), tuple(building.notes)


class _Building:
    def __init__(self, binder: Binder) -> None:
        self.binder = binder
        self.ids = ReadableIds()
        self.notes: list[Problem] = []
        self.count = 0

    def level(self, rows: list[Row], depth: int) -> Tree:
        if depth > MAX_DEPTH and rows:
            raise EditRefused(f"{depth} levels deep; a menu has at most {MAX_DEPTH} levels", where=rows[0].where)
        found: list[AnyItem] = []
        for row in rows:
            self.count += 1
            if self.count > MAX_ITEMS:
                raise EditRefused(f"A menu has at most {MAX_ITEMS} items.", where=row.where)
            item = self._item(row)
            below = self.level(row.below, depth + 1)
            if below and not isinstance(item, Parent):
                self.notes.append(Problem(where=row.where, says=f"a {item.kind} cannot hold what stands below it"))
                found += [item, *below]
            else:
                found.append(item.model_copy(update={"items": below}) if below else item)
        return tuple(found)

    def _item(self, row: Row) -> AnyItem:
        kind = self._kind(row)
        goal = self._goal(row, kind)
        try:
            item_id = self.ids.take(row.label or next(iter(row.labels.values()), ""), otherwise=kind)
            return parse_item(
                kind, label=row.label, labels=row.labels, goal=goal, settings=row.settings,
                language=self.binder.language, item_id=item_id,
            )  # fmt: skip
        except OutlineRefused as exc:
            self.notes.append(Problem(where=row.where, says=exc.says.removeprefix("target.url: ")))
            words = row.label[:500].strip() or row.goal[:100] or kind
            return self._pending(words, f"was not understood: {row.goal[:200]}" if row.goal else "was not understood")

    def _pending(self, words: str, note: str) -> AnyItem:
        plain = re.sub(r"[\x00-\x1f\x7f-\x9f\u2028-\u202e\u2066-\u2069]", " ", words).strip() or "?"
        said = re.sub(r'["\\;{}\x00-\x1f\x7f-\x9f\u2028-\u202e\u2066-\u2069]', " ", note)
        item_id = self.ids.take(plain, otherwise="link")
        return parse_item(
            "link", label=plain, goal="?", settings=f"note {said}", language=self.binder.language, item_id=item_id
        )

    def _kind(self, row: Row) -> str:
        if row.kind in ITEM_KINDS:
            return row.kind
        if row.kind:
            self.notes.append(
                Problem(where=row.where, says=f'there is no kind "{row.kind[:40]}"; read as what it holds')
            )
        if row.goal.startswith("+"):
            return "include"
        if row.goal.startswith("*"):
            return "listing"
        if row.goal.startswith("!"):
            return "opener"
        if row.goal:
            return "link"
        if row.label.strip("- ") == "" and row.label.startswith("---"):
            return "divider"
        return "heading" if row.below else "link"

    def _goal(self, row: Row, kind: str) -> str:
        goal = row.goal.strip()
        if kind == "include":
            return goal.removeprefix("+").strip()
        if kind not in {"link", "opener", "listing"} or (goal and _OWN_NOTATION.match(goal)):
            return goal
        if not goal:
            return "?"
        if kind == "link" and goal.lower().startswith("www."):
            goal = f"https://{goal}"
        target = self.binder.target(goal) if kind == "link" and re.match(r"^(?:https?:|/)", goal) else {}
        page, part = target.get("page"), target.get("part")
        return f"@{page}#{part}" if page and part else f"@{page}" if page else goal
