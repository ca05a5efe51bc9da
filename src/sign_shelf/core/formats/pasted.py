"""What people paste and bring as files: every format, and lists and tables however they have them. What cannot be read is
told by line, and the rest comes in."""

from collections.abc import Iterable, Sequence

from sign_shelf.core.errors import InvalidDocument, Problem
from sign_shelf.core.formats.binding import NOWHERE, Binder
from sign_shelf.core.formats.csv import menus_of_table
from sign_shelf.core.formats.incoming import IncomingMenu
from sign_shelf.core.formats.lists import as_outline
from sign_shelf.core.formats.reading import Readable, checked_size, decoded, looks_like, read_menus
from sign_shelf.core.formats.table import head_role, is_address, read_table, separator_of
from sign_shelf.core.model.menu import AnyItem, Link, UrlTarget
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.tree import rebuilt
from sign_shelf.core.outline.parsing import read_lines
from sign_shelf.core.outline.writing import NO_NAME

_TOLD_BY = 1_000
_SIGNS = (";", ",", "|")
_SPREADSHEET = b"PK\x03\x04"


def read_pasted(
    data: bytes,
    format: Readable | None,
    *,
    language: str = "en",
    base: str = "",
    pages: Iterable[Page] = (),
    name: str | None = None,
    columns: Sequence[str] | None = None,
    headed: bool | None = None,
) -> tuple[IncomingMenu, ...]:
    """As `read_menus`. `columns` says what each column of a table is (see `table.ROLES`), `headed` whether its first line
    names them; None: whatever it looks like."""
    checked_size(data)
    if data.startswith(_SPREADSHEET):
        says = "is a spreadsheet's own file; copy its cells and paste them, or save it as CSV"
        raise InvalidDocument([Problem(where="input", says=says)])
    kind = format or looks_like(data)
    known = tuple(pages)
    if kind in {"json", "html", "opml"}:
        return read_menus(data, kind, language=language, base=base, pages=known, name=name)
    binder = Binder(known, base or NOWHERE, language)
    text, notes = _text(data)
    separator = None
    if kind == "csv" or columns is not None:
        separator = separator_of(text)
    elif format is None:
        separator = _separator_of_lines(text)
    if separator is not None:
        table = read_table(text, separator, roles=columns, headed=headed)
        menus = menus_of_table(table, binder=binder, name=name or "Menu")
        return tuple(IncomingMenu(one.title, None, one.document, (*notes, *one.notes), table) for one in menus)
    document = read_lines(text if format == "outline" else as_outline(text), language=language, notes=notes)

    def bound(item: AnyItem) -> dict[str, object]:
        if not isinstance(item, Link) or not isinstance(item.target, UrlTarget) or "{" in item.target.url:
            return {}
        page = binder.page(item.target.url)
        return {"target": page} if page else {}

    items = tuple(rebuilt(item, bound) for item in document.items)
    called = name if name and document.name == NO_NAME else document.name
    return (IncomingMenu(called, None, document.with_items(items), tuple(notes)),)


def _separator_of_lines(text: str) -> str | None:
    """What stands between the cells where the lines are a table without anybody saying so; None where they are no table.

    Cells with tabs between them are; cells with semicolons, commas or bars are where nearly every line has as many, and an
    address stands in them or more than two cells.
    """
    # The first lines tell, and their beginnings.
    lines = [line[:_TOLD_BY] for line in text.split("\n", _TOLD_BY)[:_TOLD_BY] if line.strip()]
    if not lines:
        return None
    for sign in ("\t", *_SIGNS):
        if sum(1 for cell in lines[0].split(sign) if head_role(cell.strip(' "'))) > 1:
            return sign
    if any("->" in line or "{" in line for line in lines):
        return None  # An outline, whatever else stands in it.
    tabbed = [line for line in lines if "\t" in line.strip()]
    if tabbed and (len(tabbed) >= 0.5 * len(lines) or any(is_address(line.rpartition("\t")[2]) for line in tabbed)):
        return "\t"
    for sign in _SIGNS:
        counts = [line.count(sign) for line in lines]
        usual = max(set(counts), key=counts.count, default=0)
        if len(lines) < 2 or not usual or counts.count(usual) < 0.9 * len(lines):
            continue
        cells = [cell.strip(' "') for line in lines for cell in line.split(sign)]
        if any(is_address(cell) for cell in cells) or (usual > 1 and sign != ","):
            return sign
    return None


def _text(data: bytes) -> tuple[str, list[Problem]]:
    try:
        return decoded(data), []
    except InvalidDocument:
        # What spreadsheets of western Europe save where nobody asks them for more.
        says = "is not UTF-8; it was read as Windows-1252: look at the letters beyond a to z"
        return data.decode("cp1252", "replace"), [Problem(where="the whole", says=says)]
