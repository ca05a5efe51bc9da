"""Input of a named format, or of whichever it looks like, as menu documents."""

import re
from collections.abc import Iterable
from typing import Literal, get_args

from sign_shelf.core.errors import InvalidDocument, Problem
from sign_shelf.core.formats.binding import NOWHERE, Binder
from sign_shelf.core.formats.csv import csv_to_menu
from sign_shelf.core.formats.html_reading import menus_of_html
from sign_shelf.core.formats.incoming import IncomingMenu
from sign_shelf.core.formats.opml import opml_to_menu
from sign_shelf.core.model.documents import parse_json, read_menu
from sign_shelf.core.model.site import Page
from sign_shelf.core.outline import parse_outline

Readable = Literal["json", "outline", "html", "opml", "csv"]
READABLE: tuple[Readable, ...] = get_args(Readable)

MAX_BYTES = 5 * 1024 * 1024
_CSV_HEADER = re.compile(r'^\ufeff?"?(?:path|number|level|kind|label|title|text|name|url|target)"?\s*,', re.IGNORECASE)


def looks_like(data: bytes) -> Readable:
    """The format that the first characters tell; an outline where nothing else is told."""
    start = data[:4_000].decode("utf-16" if data[:2] in {b"\xff\xfe", b"\xfe\xff"} else "utf-8", "replace").lstrip()
    start = start.removeprefix("\ufeff").lstrip()
    if re.match(r"<\?xml|<opml|<!DOCTYPE opml", start, re.IGNORECASE) and "<opml" in start.casefold():
        return "opml"
    if start.startswith("<") and not re.match(r"<[^<>\s]+>\s*(?:\{|$)", start.partition("\n")[0]):
        return "html"
    if re.match(r"<(?:nav|ul|ol|a|div|p|html|body|header|footer|li|meta|!)", start, re.IGNORECASE):
        return "html"
    if start.startswith("{") and not start.startswith("{menu"):
        return "json"
    return "csv" if _CSV_HEADER.match(start) else "outline"


def read_menus(
    data: bytes,
    format: Readable | None,
    *,
    language: str = "en",
    base: str = "",
    pages: Iterable[Page] = (),
    name: str | None = None,
) -> tuple[IncomingMenu, ...]:
    """The menus in `data`, several only where a page has several navigations. `format` None: whichever it looks like.

    Addresses of `pages` of the site at `base` become references. Raises a Refusal that says what, where and why.
    """
    checked_size(data)
    kind = format or looks_like(data)
    known = tuple(pages)
    if kind == "json":
        document = read_menu(parse_json(data, what="menu document"))
        return (IncomingMenu(document.name, None, document),)
    if kind == "html":
        found = menus_of_html(data, language=language, base=base, pages=known, name=name)
        if not found:
            says = "no list and no link was found in it"
            raise InvalidDocument([Problem(where="HTML", says=says)])
        return found
    binder = Binder(known, base or NOWHERE, language)
    if kind == "opml":
        return (opml_to_menu(data, binder=binder, name=name or "Menu"),)
    text = decoded(data)
    if kind == "csv":
        return (csv_to_menu(text, binder=binder, name=name or "Menu"),)
    document = parse_outline(text, language=language)
    return (IncomingMenu(document.name, None, document),)


def checked_size(data: bytes) -> None:
    if len(data) > MAX_BYTES:
        raise InvalidDocument([Problem(where="input", says=f"is larger than {MAX_BYTES // 1024 // 1024} MiB")])


def decoded(data: bytes) -> str:
    """Raises InvalidDocument where it is neither UTF-8 nor marked as UTF-16."""
    try:
        return data.decode("utf-16" if data[:2] in {b"\xff\xfe", b"\xfe\xff"} else "utf-8-sig")
    except UnicodeDecodeError as exc:
        line = data[: exc.start].count(b"\n") + 1
        column = exc.start - data.rfind(b"\n", 0, exc.start)
        says = "is not UTF-8; save the file as UTF-8"
        raise InvalidDocument([Problem(where=f"line {line}, column {column}", says=says)]) from exc
