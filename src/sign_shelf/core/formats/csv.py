"""A menu as a table (RFC 4180): one row an entry, `path` is its number ("1", "1.2"), which says where it nests.

Columns: path, kind, label, `label:nl` for further languages, target, settings. Reading takes them in any order and by
other usual names; a path may also be the labels above the entry and its own, joined by " / " or " > ".
"""

import csv
import re
from dataclasses import dataclass, field
from io import StringIO

from sign_shelf.core.errors import InvalidDocument, Problem
from sign_shelf.core.formats.binding import Binder
from sign_shelf.core.formats.html_tree import tidy_words
from sign_shelf.core.formats.incoming import IncomingMenu
from sign_shelf.core.formats.rows import Row, items_of, row_of
from sign_shelf.core.formats.table import LEFT_OUT, Column, Table, head_role, read_table
from sign_shelf.core.model.menu import MAX_DEPTH, Labelled, MenuDocument, menu_document, walk
from sign_shelf.core.model.tree import numbers

#: Spreadsheets run cells that begin so as formulas; an apostrophe before them keeps them text there.
_FORMULA = re.compile(r"^'*[=+\-@\t\r]")
_GUARDED = re.compile(r"^'+[=+\-@\t\r]")


def menu_to_csv(document: MenuDocument, *, language: str = "en") -> str:
    """The table, lines ending in CR LF as the RFC has it."""
    number = numbers(document.items)
    tags = sorted(
        {tag for _, item in walk(document.items) if isinstance(item, Labelled) for tag in item.label if tag != language}
    )
    out = StringIO()
    writer = csv.writer(out)
    writer.writerow(["path", "kind", "label", *(f"label:{tag}" for tag in tags), "target", "settings"])
    for _, item in walk(document.items):
        row = row_of(item, language, apart=True)
        labels = [guarded(row.label), *(guarded(row.labels.get(tag, "")) for tag in tags)]
        writer.writerow([number[item.id], row.kind, *labels, row.goal, row.settings])
    return out.getvalue()


def guarded(text: str) -> str:
    return f"'{text}" if _FORMULA.match(text) else text


def _unguarded(text: str) -> str:
    return text[1:] if _GUARDED.match(text) else text


def csv_to_menu(text: str, *, binder: Binder, name: str = "Menu") -> IncomingMenu:
    """Raises InvalidDocument for a table without a header that it knows, rows over the limits, or broken quoting."""
    table = read_table(text, ",", headed=True, guess=False)
    if not any(column.role == "target" or column.role.startswith("label") for column in table.columns):
        says = (
            "no column is named label or target; the first line names the columns: path, kind, label, target, settings"
        )
        raise InvalidDocument([Problem(where="line 1", says=says)])
    unknown = [
        Problem(where=f"column {at}", says=f'"{column.head[:40]}" is not understood; left out')
        for at, column in enumerate(table.columns, start=1)
        if column.role == LEFT_OUT and column.head and head_role(column.head) != "target"
    ]
    (menu,) = menus_of_table(table, binder=binder, name=name, by_menu=False)
    return IncomingMenu(menu.title, None, menu.document, (*unknown, *menu.notes))


def menus_of_table(table: Table, *, binder: Binder, name: str = "Menu", by_menu: bool = True) -> list[IncomingMenu]:
    """One menu, or one for each name in the column of menus. Raises InvalidDocument for too many levels, EditRefused for
    too many rows."""
    at = next((at for at, column in enumerate(table.columns) if column.role == "menu"), None) if by_menu else None
    heaps: dict[str, list[tuple[int, list[str]]]] = {}
    for line, cells in table.rows:
        called = tidy_words(_unguarded(cells[at]))[:200] if at is not None and at < len(cells) else ""
        heaps.setdefault(called or (next(reversed(heaps), name)), []).append((line, cells))
    found = []
    for called, rows in heaps.items():
        nest = _Nest(table.columns)
        for line, cells in rows:
            nest.take(line, cells)
        items, more = items_of(nest.tops, binder=binder)
        found.append(IncomingMenu(called, None, menu_document(called, items), (*nest.notes, *more), table))
    return found


@dataclass
class _Nest:
    """Rows find what they stand below: by their path, by their level, or by the column that their label stands in."""

    columns: tuple[Column, ...]
    tops: list[Row] = field(default_factory=list)
    notes: list[Problem] = field(default_factory=list)
    by_path: dict[tuple[str, ...], Row] = field(default_factory=dict)
    above: list[Row] = field(default_factory=list)

    def take(self, line: int, cells: list[str]) -> None:
        where = f"line {line}"
        if any(extra.strip() for extra in cells[len(self.columns) :]):
            self.notes.append(Problem(where=where, says="has more cells than the header; the rest is left out"))

        def of(role: str) -> list[str]:
            return [
                cells[at] if at < len(cells) else "" for at, column in enumerate(self.columns) if column.role == role
            ]

        def one(role: str) -> str:
            return next(iter(of(role)), "")

        path = one("path").strip()
        numbered = re.fullmatch(r"\d+(\.\d+)*\.?", path) is not None
        steps = tuple(path.rstrip(".").split(".")) if numbered else tuple(re.split(r"\s+[/>]\s+", path)) if path else ()
        levels = [_unguarded(cell) for cell in of("label")]
        deepest = next((at for at in reversed(range(len(levels))) if levels[at].strip()), 0)
        if max(len(steps), deepest + 1) > MAX_DEPTH:
            says = f"{max(len(steps), deepest + 1)} levels deep; a menu has at most {MAX_DEPTH} levels"
            raise InvalidDocument([Problem(where=where, says=says)])
        label = levels[deepest] if levels else ""
        labels = {
            column.role.removeprefix("label:"): words
            for at, column in enumerate(self.columns)
            if column.role.startswith("label:") and at < len(cells) and (words := _unguarded(cells[at]))
        }
        if not label and not labels and steps and not numbered:
            label = steps[-1]
        row = Row(where, one("kind").strip(), label, labels, _unguarded(one("target").strip()), one("settings").strip())
        if not (row.kind or row.label or row.labels or row.goal):
            self.notes.append(Problem(where=where, says="has neither label nor target; left out"))
        elif steps:
            self._by_path(row, steps)
        elif len(levels) > 1:
            self._by_column(row, [words.strip() for words in levels[:deepest]])
        else:
            level = one("level").strip()
            self._at_level(row, int(level) if re.fullmatch(r"\d{1,2}", level) else 1)

    def _by_path(self, row: Row, steps: tuple[str, ...]) -> None:
        parent = self.by_path.get(steps[:-1])
        if parent is None and len(steps) > 1:
            self.notes.append(
                Problem(where=row.where, says=f"nothing stands at {'.'.join(steps[:-1])}; put at the top")
            )
        (parent.below if parent else self.tops).append(row)
        self.by_path.setdefault(steps, row)

    def _by_column(self, row: Row, before: list[str]) -> None:
        """An empty cell stands for what the rows above have there; other words than theirs begin a heading."""
        for at, words in enumerate(before):
            if not words or (at < len(self.above) and self.above[at].label.strip().casefold() == words.casefold()):
                continue
            self._at_level(Row(row.where, label=words), at + 1)
        self._at_level(row, len(before) + 1)

    def _at_level(self, row: Row, level: int) -> None:
        del self.above[max(level - 1, 0) :]
        (self.above[-1].below if self.above else self.tops).append(row)
        self.above.append(row)
