"""Tables as people have them: whatever stands between the cells, whatever the columns are called, or without a line that
names them. What a column is, is told by its head, else by what stands in it, and can be said by who knows."""

import csv
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from io import StringIO

from sign_shelf.core.basics.text import LANGUAGE_PATTERN
from sign_shelf.core.errors import InvalidDocument, Problem
from sign_shelf.core.model.menu import MAX_ITEMS

LEFT_OUT = ""
"""What a column is that nothing is read from."""

ROLES = ("path", "level", "kind", "label", "target", "settings", "menu", "told")
"""What a column can be, besides a label in a language (`label:nl`). Several labels are the levels of a menu, from the top;
what is only told beside them (where a menu hangs, what a page is called) is not read."""

_HEADS = {
    "path": {"path", "number", "no", "no.", "nr", "#", "level path"},
    "level": {"level", "depth", "indent"},
    "kind": {"kind"},
    "label": {"label", "title", "text", "name", "words", "link text", "menu item", "item", "entry", "caption", "page"},
    "target": {"target", "url", "uri", "href", "address", "link", "goes to", "leads to"},
    "settings": {"settings"},
    "menu": {"menu"},
    "told": {"place", "hangs in", "page title"},
}
_MAX_CELL = 20_000
_LOOKED_AT = 200
"""Rows that tell what a column is."""
_SAMPLES = 3
_ADDRESS = re.compile(r"^(?:https?://|//|www\.|mailto:|tel:|/|#[\w-]|@[\w-]|\?$)\S*$", re.IGNORECASE)
_NUMBER = re.compile(r"^\d+(?:\.\d+)*\.?$")


@dataclass(frozen=True)
class Column:
    head: str
    """What its first line calls it; empty where none does."""
    samples: tuple[str, ...]
    role: str


@dataclass(frozen=True)
class Table:
    """`sure` where the first line says what the columns are, in words that are known."""

    columns: tuple[Column, ...]
    headed: bool
    sure: bool
    rows: tuple[tuple[int, list[str]], ...]
    """The line that each ends on, counted from 1, and its cells; the line of heads is none of them."""


def is_address(cell: str) -> bool:
    return _ADDRESS.match(cell.strip()) is not None


def separator_of(text: str) -> str:
    """What stands between the cells: what divides most of the first lines, and divides them into the same number."""
    begun = (line[:2_000] for line in text.removeprefix("\ufeff").split("\n", 100)[:100])
    lines = [line for whole in begun for line in whole.split("\r") if line.strip()][:50]

    def worth(sign: str) -> tuple[float, int]:
        cells = [len(next(csv.reader([line], delimiter=sign), [])) for line in lines]
        usual = max(set(cells), key=cells.count, default=1)
        return (cells.count(usual) / max(len(cells), 1) if usual > 1 else 0.0, usual)

    return max((",", ";", "\t", "|"), key=worth)


def read_table(
    text: str,
    separator: str,
    *,
    roles: Sequence[str] | None = None,
    headed: bool | None = None,
    guess: bool = True,
) -> Table:
    """`roles` and `headed` are what somebody said; None: whatever it looks like, where `guess` also looks at what stands
    in columns whose heads are not known. Raises InvalidDocument for a NUL, broken quoting, cells or rows over the limits,
    and a table without anything."""
    rows = list(_records(text, separator))
    if not rows:
        raise InvalidDocument([Problem(where="line 1", says="the table is empty; it needs a header and rows")])
    if separator == "\t":
        _align(rows)
    width = max(len(cells) for _, cells in rows)
    first = rows[0][1]
    known = [head_role(cell) for cell in first]
    names = any(role in {"label", "target"} or role.startswith("label:") for role in known)
    if headed is None:
        headed = names or _names_columns(first, [cells for _, cells in rows[1:]])
    body = rows[1:] if headed else rows
    if headed and names:
        width = len(first)
    by_column = [
        [cells[at].strip() if at < len(cells) else "" for _, cells in body[:_LOOKED_AT]] for at in range(width)
    ]
    heads = _once(known) + [LEFT_OUT] * (width - len(known)) if headed else [LEFT_OUT] * width
    sure = (
        headed
        and names
        and all(
            # An address beside a target says the same again.
            heads[at] or not any(cells) or (at < len(known) and known[at] == "target")
            for at, cells in enumerate(by_column)
        )
    )
    if roles is None:
        roles = _guessed(by_column, heads) if guess and not sure else heads
    columns = tuple(
        Column(
            head=first[at].strip()[:80] if headed and at < len(first) else "",
            samples=tuple([cell[:80] for cell in cells if cell][:_SAMPLES]),
            role=roles[at] if at < len(roles) else LEFT_OUT,
        )
        for at, cells in enumerate(by_column)
    )
    return Table(columns, headed, sure, tuple(body))


def head_role(cell: str) -> str:
    """What a column with this head is; LEFT_OUT where the words are not known."""
    word = cell.strip().casefold()
    if language := re.fullmatch(r"label[:_ ](.+)", cell.strip(), re.IGNORECASE):
        return f"label:{language[1]}" if re.match(LANGUAGE_PATTERN, language[1]) else LEFT_OUT
    return next((role for role, heads in _HEADS.items() if word in heads), LEFT_OUT)


def _once(roles: Iterable[str]) -> list[str]:
    """The first column of each role has it; several can be told."""
    taken: set[str] = set()
    found = []
    for role in roles:
        found.append(LEFT_OUT if role in taken and role != "told" else role)
        taken.add(role)
    return found


def _names_columns(first: list[str], others: list[list[str]]) -> bool:
    """Whether the first line only names: it has no address, and a column below it has."""
    if not others or any(is_address(cell) or _NUMBER.match(cell.strip()) for cell in first):
        return False
    return any(is_address(cell) for cells in others[:_LOOKED_AT] for cell in cells)


def _guessed(columns: list[list[str]], heads: list[str]) -> list[str]:
    """What each column is by what stands in it, where its head does not tell."""
    roles = [*heads]
    filled = [[cell for cell in cells if cell] for cells in columns]

    def mostly(cells: list[str], like: re.Pattern[str]) -> bool:
        return len(cells) > 0 and sum(1 for cell in cells if like.match(cell)) >= 0.6 * len(cells)

    words = [False] * len(columns)
    for at, cells in enumerate(filled):
        if roles[at] or not cells:
            continue
        if mostly(cells, _ADDRESS):
            roles[at] = "" if "target" in roles else "target"
        elif mostly(cells, _NUMBER):
            whole = len(set(cells)) == len(cells)
            wanted = "path" if whole else "level"
            if wanted not in roles and (whole or max(map(len, cells)) == 1):
                roles[at] = wanted
        else:
            words[at] = True
    if "label" not in roles and True in words:
        roles[words.index(True)] = "label"
    if "label" in roles and "path" not in roles:
        first = last = roles.index("label")
        while first > 0 and words[first - 1] and _goes_on(columns[first - 1], columns[first]):
            first -= 1
            roles[first] = "label"
        while last + 1 < len(roles) and words[last + 1] and _goes_on(columns[last], columns[last + 1]):
            last += 1
            roles[last] = "label"
    return roles


def _goes_on(above: list[str], below: list[str]) -> bool:
    """Whether the second column holds what stands below the words of the first: hardly any row has words in both, or
    those of the first come again and again."""
    rows = list(zip(above, below, strict=False))
    both = [one for one, other in rows if one and other]
    if len(both) <= 0.2 * len(rows):
        return True
    return len(set(both)) <= 0.6 * len(both)


def _align(rows: list[tuple[int, list[str]]]) -> None:
    """Lists with tabs have the address right after the label, wherever that is indented to: it goes to a column of its
    own."""
    ends = [next((at for at in reversed(range(len(cells))) if cells[at].strip()), 0) for _, cells in rows]
    led = [at for at, (_, cells) in zip(ends, rows, strict=True) if at and is_address(cells[at])]
    if len(led) < 2 or (len(set(led)) == 1 and all(end <= led[0] for end in ends)):
        return
    last = max(ends)
    for end, (_, cells) in zip(ends, rows, strict=True):
        if is_address(cells[end]) and end:
            address = cells[end]
            labels = cells[:end]
            while labels and not labels[-1].strip():
                labels.pop()
            cells[:] = [*labels, *[""] * (last - len(labels)), address]


def _records(text: str, separator: str) -> Iterable[tuple[int, list[str]]]:
    if "\0" in text:
        raise InvalidDocument(
            [Problem(where=f"line {text[: text.index(chr(0))].count(chr(10)) + 1}", says="has a NUL")]
        )
    reader = csv.reader(StringIO(text.removeprefix("\ufeff"), newline=""), strict=True, delimiter=separator)
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
