"""A menu as a table (RFC 4180): one row an entry, `path` is its number ("1", "1.2"), which says where it nests.

Columns: path, kind, label, `label:nl` for further languages, target, settings. Reading takes them in any order and by
other usual names; a path may also be the labels above the entry and its own, joined by " / " or " > ".
"""

import csv
import re
from collections.abc import Iterable
from io import StringIO

from sign_shelf.core.basics.text import LANGUAGE_PATTERN
from sign_shelf.core.errors import InvalidDocument, Problem
from sign_shelf.core.formats.binding import Binder
from sign_shelf.core.formats.incoming import IncomingMenu
from sign_shelf.core.formats.rows import Row, items_of, row_of
from sign_shelf.core.model.menu import MAX_DEPTH, MAX_ITEMS, Labelled, MenuDocument, menu_document, walk
from sign_shelf.core.model.tree import numbers

_COLUMNS = {
    "path": {"path", "number", "no", "level path"},
    "level": {"level", "depth"},
    "kind": {"kind"},
    "label": {"label", "title", "text", "name", "words"},
    "target": {"target", "url", "href", "address", "link"},
    "settings": {"settings"},
}
_MAX_CELL = 20_000
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
    rows = list(_records(text))
    if not rows:
        raise InvalidDocument([Problem(where="line 1", says="the table is empty; it needs a header and rows")])
    (first_line, header), *body = rows
    columns, notes = _header(header, first_line)
    tops: list[Row] = []
    by_path: dict[tuple[str, ...], Row] = {}
    above: list[Row] = []
    for line, cells in body:
        row, path, level = _row(cells, columns, len(header), line, notes)
        if row is None:
            continue
        if path:
            parent = by_path.get(path[:-1])
            if parent is None and len(path) > 1:
                notes.append(Problem(where=row.where, says=f"nothing stands at {'.'.join(path[:-1])}; put at the top"))
            (parent.below if parent else tops).append(row)
            by_path.setdefault(path, row)
        else:
            del above[max(level - 1, 0) :]
            (above[-1].below if above else tops).append(row)
            above.append(row)
    items, more = items_of(tops, binder=binder)
    return IncomingMenu(name, None, menu_document(name, items), (*notes, *more))


def _records(text: str) -> Iterable[tuple[int, list[str]]]:
    if "\0" in text:
        raise InvalidDocument(
            [Problem(where=f"line {text[: text.index(chr(0))].count(chr(10)) + 1}", says="has a NUL")]
        )
    reader = csv.reader(StringIO(text.removeprefix("\ufeff"), newline=""), strict=True)
    count = 0
    try:
        for cells in reader:
            if any(len(cell) > _MAX_CELL for cell in cells):
                says = f"a cell has more than {_MAX_CELL} characters"
                raise InvalidDocument([Problem(where=f"line {reader.line_num}", says=says)])
            if any(cell.strip() for cell in cells):
                count += 1
                if count > MAX_ITEMS + 1:
                    says = f"a menu has at most {MAX_ITEMS} items"
                    raise InvalidDocument([Problem(where=f"line {reader.line_num}", says=says)])
                yield reader.line_num, cells
    except csv.Error as exc:
        says = f"a cell has more than {_MAX_CELL} characters" if "field limit" in str(exc) else f"is no CSV: {exc}"
        raise InvalidDocument([Problem(where=f"line {max(reader.line_num, 1)}", says=says)]) from exc


def _header(header: list[str], line: int) -> tuple[dict[str, int], list[Problem]]:
    columns: dict[str, int] = {}
    notes: list[Problem] = []
    for at, cell in enumerate(header):
        word = cell.strip().casefold()
        known = next((name for name, names in _COLUMNS.items() if word in names), None)
        language = re.fullmatch(r"label[:_ ](.+)", cell.strip())
        if known and known not in columns:
            columns[known] = at
        elif language and re.match(LANGUAGE_PATTERN, language[1]):
            columns[f"label:{language[1]}"] = at
        elif word:
            notes.append(Problem(where=f"column {at + 1}", says=f'"{cell.strip()[:40]}" is not understood; left out'))
    if not any(name == "target" or name.startswith("label") for name in columns):
        says = (
            "no column is named label or target; the first line names the columns: path, kind, label, target, settings"
        )
        raise InvalidDocument([Problem(where=f"line {line}", says=says)])
    return columns, notes


def _row(
    cells: list[str], columns: dict[str, int], width: int, line: int, notes: list[Problem]
) -> tuple[Row | None, tuple[str, ...], int]:
    def cell(name: str) -> str:
        at = columns.get(name)
        return cells[at] if at is not None and at < len(cells) else ""

    where = f"line {line}"
    if any(extra.strip() for extra in cells[width:]):
        notes.append(Problem(where=where, says="has more cells than the header; the rest is left out"))
    path = cell("path").strip()
    numbered = re.fullmatch(r"\d+(\.\d+)*\.?", path) is not None
    steps = tuple(path.rstrip(".").split(".")) if numbered else tuple(re.split(r"\s+[/>]\s+", path)) if path else ()
    if len(steps) > MAX_DEPTH:
        says = f"{len(steps)} levels deep; a menu has at most {MAX_DEPTH} levels"
        raise InvalidDocument([Problem(where=where, says=says)])
    label = _unguarded(cell("label"))
    labels = {
        name.removeprefix("label:"): words
        for name in columns
        if name.startswith("label:") and (words := _unguarded(cell(name)))
    }
    if not label and not labels and steps and not numbered:
        label = steps[-1]
    level = cell("level").strip()
    row = Row(where, cell("kind").strip(), label, labels, cell("target").strip(), cell("settings").strip())
    if not (row.kind or row.label or row.labels or row.goal):
        notes.append(Problem(where=where, says="has neither label nor target; left out"))
        return None, (), 1
    return row, steps, int(level) if re.fullmatch(r"\d{1,2}", level) else 1
