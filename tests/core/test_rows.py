"""Tables and outlines of other programs, row by row: what is taken, what is mended, what is told."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.errors import EditRefused, InvalidDocument
from sign_shelf.core.formats import Readable, read_menus
from sign_shelf.core.formats.binding import NOWHERE, Binder
from sign_shelf.core.formats.csv import csv_to_menu, menu_to_csv
from sign_shelf.core.formats.reading import looks_like
from sign_shelf.core.formats.rows import Row, items_of
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import menu_document
from sign_shelf.core.model.site import Page
from sign_shelf.core.outline import format_outline, parse_outline

PAGES = [read(Page, {"ref": "fares", "path": "/fares/"}), read(Page, {"ref": "home", "path": "/"})]


def binder() -> Binder:
    return Binder(PAGES, "https://site.example/", "en")


def table(text: str) -> tuple[str, list[str]]:
    menu = csv_to_menu(text, binder=binder())
    return format_outline(menu.document), [f"{note.where}: {note.says}" for note in menu.notes]


@pytest.mark.parametrize(
    ("text", "outline", "notes"),
    [
        ("label,target\nFares,https://site.example/fares/\n", "Fares -> @fares\n", []),
        ("label,target\nFares,/fares/#groups\n", "Fares -> @fares#groups\n", []),
        ("label,target\nFares,@fares\nAll,*route by title\nAsk,!form\nx,+ legal\n",
         "Fares -> @fares\nAll -> *route by title\nAsk -> !form\n+ legal\n", []),
        ("label,target\nWrite,mailto:a@b.example\nCall,tel:112\nTop,#top\n",
         "Write -> mailto:a@b.example\nCall -> tel:112\nTop -> #top\n", []),
        ("kind,label\nheading,Head\ndivider,\nlink,Soon\n", "Head:\n---\nSoon -> ?\n", []),
        ("kind,label\nwidget,Head\n", "Head -> ?\n", ['line 2: there is no kind "widget"; read as what it holds']),
        ("path,label\n1,A\n1.1,B\n1.1.1,C\n2,D\n", "A:\n  B:\n    C -> ?\nD -> ?\n", []),
        ("path,label\n1.,A\n1.1.,B\n", "A:\n  B -> ?\n", []),
        ("level,label\n0,A\n1,B\n2,C\n9,D\n1,E\n", "A:\n  B:\n    C:\n      D -> ?\nE -> ?\n", None),
        ("label,label:nl,label_cy,target\nFares,Tarieven,Prisiau,/f\n",
         'Fares -> /f {cy "Prisiau"; nl "Tarieven"}\n', []),
        ("label,settings,target\nBook,button l; new tab,/b\n", "Book -> /b {button l; new tab}\n", []),
        ("label,settings,target\nBook,buton,/b\n", "Book -> ? {note was not understood: /b}\n", None),
        ("label,target\n\nA,/a\n ,\n,\nB,/b\n", "A -> /a\nB -> /b\n", []),
        ("label,target\nA,/a,surplus\n", "A -> /a\n", ["line 2: has more cells than the header; the rest is left out"]),
        ("path,kind,label\n1,divider,\n1.1,link,A\n", "---\nA -> ?\n", ["line 2: a divider cannot hold what stands below it"]),
        ("path,label,target\n1,A,/a\n1,B,/b\n", "A -> /a\nB -> /b\n", []),
        ("number,title,address\n1,A,/a\n", "A -> /a\n", []),
        ("label;target\n", None, None),
    ],
)  # fmt: skip
def test_tables(text: str, outline: str | None, notes: list[str] | None) -> None:
    if outline is None:
        with pytest.raises(InvalidDocument, match="no column is named label or target"):
            table(text)
        return
    found, told = table(text)
    if text.startswith("level"):
        assert found.splitlines()[1].strip().startswith("B"), found
    else:
        assert found == outline
    if notes is not None:
        assert told == notes


@given(st.lists(st.sampled_from(["=SUM(A1)", "+1", "-x", "@home", "'=x", "''-y", "plain", "\u00a0é", "a,b", 'q"q'])))
def test_labels_that_a_spreadsheet_would_run_are_guarded_and_come_back(labels: list[str]) -> None:
    lines = "".join(f'"{label.replace(chr(34), chr(92) + chr(34))}" -> /x\n' for label in labels)
    document = parse_outline(lines)
    text = menu_to_csv(document)
    assert not any(
        cell[:1] in "=+-@" for line in text.splitlines()[1:] for cell in [line.split(",")[2].strip('"')] if cell
    )
    if labels:
        assert csv_to_menu(text, binder=binder()).document.items == document.items


@pytest.mark.parametrize(
    ("data", "format"),
    [
        (b'{"format": "sign-shelf/menu"}', "json"),
        (b'{menu "Header"}\nA -> /a', "outline"),
        (b'\xef\xbb\xbf<?xml version="1.0"?>\n<opml/>', "opml"),
        (b"<opml version='2.0'>", "opml"),
        (b"<!doctype html><p>", "html"),
        (b"  <ul><li>x", "html"),
        (b"<meta charset='utf-8'><a href=x>", "html"),
        (b"path,label\n", "csv"),
        (b'"label","url"\n', "csv"),
        (b"Name, Alice -> /a", "csv"),
        (b"- One\n- Two", "outline"),
        (b"", "outline"),
        ("<opml/>".encode("utf-16"), "opml"),
    ],
)
def test_formats_are_told_by_their_first_characters(data: bytes, format: Readable) -> None:
    assert looks_like(data) == format


def test_rows_without_end_are_refused() -> None:
    deep = Row("1", label="x")
    for _ in range(30):
        deep = Row("1", label="x", below=[deep])
    with pytest.raises(EditRefused, match="25 levels deep"):
        items_of([deep], binder=binder())
    with pytest.raises(EditRefused, match="at most 20000 items"):
        items_of([Row("n", label="x")] * 20_001, binder=binder())


@pytest.mark.parametrize(
    ("html", "outline"),
    [
        ("<nav><a href='/fares'>Fares</a></nav>", "Fares -> @fares\n"),
        ("<nav><ul><li><a href='https://site.example/fares/#x'>F</a></ul></nav>", "F -> @fares#x\n"),
        ("<nav><a href='index.html'>Home</a></nav>", "Home -> @home\n"),
        ("<nav><a href='#'>Soon</a></nav>", "Soon -> ? {note the site has no address here}\n"),
        ("<nav><a href='MAILTO:a@b.example?subject=x'>M</a></nav>", "M -> mailto:a@b.example\n"),
        (
            "<nav><a href='/x' target=_blank rel='NOFOLLOW external'>X</a></nav>",
            "X -> /x {new tab; rel nofollow, external}\n",
        ),
        ("<nav><a href='/x' data-settings='buton'>X</a></nav>", "X -> /x\n"),
        ("<nav><a href='/x' data-goal='@@'>X</a></nav>", "X -> /x\n"),
        (
            "<nav><button aria-haspopup=dialog aria-controls=ask>Ask</button><a href=/x>X</a></nav>",
            "Ask -> !ask\nX -> /x\n",
        ),
        ("<ul><li>Plain<ul><li><a href=/x>X</a></ul></ul>", "Plain:\n  X -> /x\n"),
        ("<ul><li><a href=/x><img alt='Boat' src=b></a></ul>", "Boat -> /x\n"),
    ],
)
def test_html_of_other_hands(html: str, outline: str) -> None:
    (menu, *_) = read_menus(html.encode(), "html", base="https://site.example/", pages=PAGES)
    assert format_outline(menu_document("Menu", menu.document.items)) == outline


def test_settings_that_are_not_understood_are_told_by_the_entrys_number() -> None:
    html = "<nav><ul><li><a href=/a>A</a><ul><li><a href=/b data-settings='buton'>B</a></ul></ul></nav>"
    (menu,) = read_menus(html.encode(), "html")
    assert [(note.where, note.says[:32]) for note in menu.notes] == [("1.1", "its settings are not understood:")]
    assert NOWHERE.startswith("https://")
