"""What people paste and bring as files: lists and tables however they have them, told by line, and the rest comes in."""

import csv

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from sign_shelf.core.errors import InvalidDocument, Refusal
from sign_shelf.core.formats import IncomingMenu, read_pasted
from sign_shelf.core.formats.titles import match_titles, plain_title
from sign_shelf.core.formats.whole_site import site_to_csv, site_to_print
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import MAX_DEPTH, walk
from sign_shelf.core.model.site import Page, SiteDocument
from sign_shelf.core.outline import format_outline, parse_outline
from tests.documents import documents

PAGES = [
    read(Page, {"ref": ref, "path": path, "title": {"en": title}})
    for ref, path, title in [
        ("home", "/", "Home"), ("times", "/timetable", "Timetable"), ("fares", "/fares", "Fares & passes"),
        ("cafe", "/cafe", "Café on board"), ("team", "/team", "Our team"), ("old", "/old", "Contact"),
        ("new", "/new", "Contact"),
    ]
]  # fmt: skip


def pasted(text: str | bytes, **more: object) -> tuple[IncomingMenu, ...]:
    data = text if isinstance(text, bytes) else text.encode()
    return read_pasted(data, None, base="https://b.example/", pages=PAGES, **more)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("text", "outline"),
    [
        # Tabs between label and address, and before what stands below.
        ("Home\t/\n\tTimes\t/timetable\n\t\tLate\t/late\nAbout\t/about\n",
         "Home -> @home\n  Times -> @times\n    Late -> /late\nAbout -> /about\n"),
        ("Home\t\t/\nServices\n\tFares\t/fares\n", "Home -> @home\nServices:\n  Fares -> @fares\n"),
        # A spreadsheet's columns, one a level, as they are copied.
        ("Visit\t\t/visit\n\tTimes\t/timetable\n\tHours\t/hours\nAbout\t\t/about\n",
         "Visit -> /visit\n  Times -> @times\n  Hours -> /hours\nAbout -> /about\n"),
        ("Section,Page,URL\nVisit,Times,/timetable\nVisit,Hours,/hours\nAbout,Team,/team\nAbout,Jobs,/jobs\n",
         "Visit:\n  Times -> @times\n  Hours -> /hours\nAbout:\n  Team -> @team\n  Jobs -> /jobs\n"),
        # Semicolons, and heads of any words.
        ("Titel;Ziel;Notiz\nStart;https://b.example/;x\nBoote;www.boats.example/;y\n",
         "Start -> @home\nBoote -> https://www.boats.example/\n"),
        ("label;target\n;\nHome;/\n", "Home -> @home\n"),
        # Source on one line.
        ('<ul><li><a href="/timetable">Times</a><ul><li><a href=/x>X</a></li></ul></li></ul>',
         "Times -> @times\n  X -> /x\n"),
        # Numbered lists: the number says the level.
        ("1. Home\n1.1 Times\n1.1.1. Late\n1.2 Fares\n2. About us\n",
         "Home:\n  Times:\n    Late -> ?\n  Fares -> ?\nAbout us -> ?\n"),
        ("1) Home\n2) 24 hours\n", "Home -> ?\n24 hours -> ?\n"),
        ("a) Home\nb) Fares\n", "Home -> ?\nFares -> ?\n"),
        ("1. Home\n3.1.2 Odd\n", "Home -> ?\n3.1.2 Odd -> ?\n"),
        # Addresses behind the words, and words in brackets before one.
        ("- [Fares](/fares)\n  - Boats: https://boats.example/x\n☐ Crew — https://c.example\n",
         "Fares -> @fares\n  Boats -> https://boats.example/x\nCrew -> https://c.example\n"),
        # An outline is what it was.
        ('{menu "Top"}\nHome -> @home {button l}\nMore:\n  Times -> /timetable {new tab}\n',
         '{menu "Top"}\nHome -> @home {button l}\nMore:\n  Times -> @times {new tab}\n'),
        ("Home, sweet home\nAbout, us\n", "Home, sweet home -> ?\nAbout, us -> ?\n"),
    ],
)  # fmt: skip
def test_lists_and_tables_come_in_as_they_are_meant(text: str, outline: str) -> None:
    (menu,) = pasted(text)
    assert format_outline(menu.document) == outline


def test_what_is_wrong_is_told_by_its_line_and_the_rest_comes_in() -> None:
    (menu,) = pasted(
        'Home -> /\nBad {colour red}\n---\n  under it\nLink -> javascript:alert(1)\n"open\n\u202eturned -> /t\n'
        + "\n".join(" " * at + f"L{at} -> /l{at}" for at in range(MAX_DEPTH + 1))
    )
    told = {note.where: note.says for note in menu.notes}
    assert "colour red" in told["line 2"]
    assert "divider" in told["line 4"]
    assert "javascript" in told["line 5"]
    assert "quote is not closed" in told["line 6"]
    assert "U+202E" in told["line 7"]
    assert "levels" in told[f"line {8 + MAX_DEPTH}"]
    outline = format_outline(menu.document)
    assert "Home -> @home\n" in outline
    assert "Link -> ? {note was not understood: javascript:alert(1)}\n" in outline
    assert "turned -> /t\n" in outline
    assert f"L{MAX_DEPTH} -> /l{MAX_DEPTH}\n" in outline


@pytest.mark.parametrize("format", ["outline", None])
@pytest.mark.parametrize(
    ("text", "outline"),
    [
        ("A\tb {colour red}\n", '"A b {colour red}" -> ? {note was not understood}\n'),
        ("Home\t-> /\nFares\t\t-> /fares\n", "Home -> @home\nFares -> @fares\n"),
        ("\u200b -> javascript:x\n", "? -> ? {note was not understood: javascript:x}\n"),
        ("A -> ? {due nope; from nope; until nope}\n", 'A -> ? {note "was not understood: ? {due nope; from nope; until nope}"}\n'),
        ('{menu "' + "x" * 501 + '"}\nA -> /a\n', None),
    ],
)  # fmt: skip
def test_a_line_that_is_no_item_in_any_way_is_mended_once(text: str, outline: str | None, format: str | None) -> None:
    (menu,) = read_pasted(text.encode(), format, pages=PAGES, base="https://b.example/")  # type: ignore[arg-type]
    assert menu.notes or "->" in text
    if outline is not None:
        assert format_outline(menu.document) == outline
    else:
        assert "menu's name: string should have at most 500" in menu.notes[0].says


@given(documents)
def test_what_an_outline_says_is_pasted_as_it_is(document: object) -> None:
    written = format_outline(document)  # type: ignore[arg-type]
    if not written.strip():
        return
    found = read_pasted(written.encode("utf-8", "surrogatepass"), "outline")
    assert found[0].notes == ()
    assert format_outline(found[0].document) == format_outline(parse_outline(written))


@given(
    st.text(max_size=400) | st.binary(max_size=400),
    st.lists(st.sampled_from(["", "label", "target", "path", "level", "menu", "label:nl"]), max_size=5),
    st.booleans(),
)
@example("Shop,/shop\rFares,/fares", [], False)
@example("a\r0", ["label"], True)
def test_whatever_is_pasted_comes_in_or_is_refused_in_words(
    data: str | bytes, columns: list[str], headed: bool
) -> None:
    raw = data.encode("utf-8", "surrogatepass") if isinstance(data, str) else data
    for more in ({}, {"columns": columns, "headed": headed}):
        try:
            found = read_pasted(raw, None, pages=PAGES, base="https://b.example/", **more)  # type: ignore[arg-type]
        except Refusal as refusal:
            assert refusal.says
            continue
        for menu in found:
            match_titles(menu.document, PAGES)


@given(st.lists(st.from_regex(r"[A-Za-z][A-Za-z ]{0,12}[A-Za-z]", fullmatch=True), min_size=1, max_size=8))
def test_no_line_is_lost(labels: list[str]) -> None:
    for text in ("\n".join(labels), "\n".join(f"{one}\t/x" for one in labels), "\n".join(f"• {one}" for one in labels)):
        found = [item.label["en"] for menu in pasted(text) for _, item in walk(menu.document.items)]  # type: ignore[union-attr]
        assert found == labels, text


def test_which_column_is_what_can_be_said() -> None:
    (guessed,) = pasted("Naam;Waar;Meer\nThuis;/;x\nBoten;/boats;y\n")
    assert guessed.table is not None
    assert (guessed.table.headed, guessed.table.sure) == (True, False)
    assert [(one.head, one.samples, one.role) for one in guessed.table.columns] == [
        ("Naam", ("Thuis", "Boten"), "label"), ("Waar", ("/", "/boats"), "target"), ("Meer", ("x", "y"), ""),
    ]  # fmt: skip
    (said,) = pasted("Naam;Waar;Meer\nThuis;/;x\nBoten;/boats;y\n", columns=["", "target", "label"], headed=True)
    assert format_outline(said.document) == "x -> @home\ny -> /boats\n"
    (whole,) = pasted("a;/a\nb;/b\n", columns=["label", "target"], headed=False)
    assert format_outline(whole.document) == "a -> /a\nb -> /b\n"
    both = pasted("menu,label,address\nHeader,Home,/\nFooter,Fares,/fares\n")
    assert [(one.title, format_outline(one.document)) for one in both] == [
        ("Header", '{menu "Header"}\nHome -> @home\n'), ("Footer", '{menu "Footer"}\nFares -> @fares\n'),
    ]  # fmt: skip


def test_other_encodings_and_a_spreadsheets_own_file() -> None:
    (menu,) = pasted("Titel;Adresse\nÉté;/fares\n".encode("cp1252"))
    assert format_outline(menu.document) == "Été -> @fares\n"
    assert "Windows-1252" in menu.notes[0].says
    with pytest.raises(InvalidDocument, match="copy its cells and paste them"):
        pasted(b"PK\x03\x04\x14\x00")


def test_titles_find_their_pages() -> None:
    (menu,) = pasted(
        "Timetable\nFares and passes\nCafe on bord\nContact\nNowhere at all\nHome:\n  Team -> /team\nSoon -> ? {note later}\n"
    )
    found = match_titles(menu.document, PAGES)
    assert {one.item: (tuple(page.ref for page in one.pages), one.sure) for one in found.matches} == {
        "timetable": (("times",), True),
        "fares-and-passes": (("fares",), True),
        "cafe-on-bord": (("cafe",), False),
        "contact": (("old", "new"), False),
        "home": (("home",), False),
    }
    assert found.asked == 6, "links that wait, and the heading that is a page's title; what has a note is left alone"


@given(st.sampled_from([title for page in PAGES for title in page.title.values()]), st.data())
def test_a_title_is_found_however_it_is_written(title: str, data: st.DataObject) -> None:
    written = "".join(letter.upper() if data.draw(st.booleans()) else letter for letter in title)
    assert plain_title(f" {written}! ") == plain_title(title)


def site() -> SiteDocument:
    return read(SiteDocument, 
        {
            "format": "sign-shelf/site", "version": 1,
            "site": {"key": "b", "name": "B & co", "base": "https://b.example/in/", "languages": ["en", "nl"]},
            "template": {"key": "t", "version": 1, "devices": {"desktop": [0, None]}, "locations": [{"key": "header", "title": "Header bar", "shape": "bar"}]},
            "menus": {
                "main": parse_outline(
                    '{menu "Main"}\n"=Times" -> @times {nl "Tijden"; from 2027-04-01T04:00; until 2027-10-01T04:00}\n-> @fares\n'
                    "More:\n  Part -> #top\n  Own -> /crew/{visitor.id}\n  Soon -> ? {due 2027-02-12; owner Tom; note later}\n"
                    "  Write -> mailto:a@b.example\n  Away -> https://x.example/?a=1 {new tab; on phone; when signed_in}\n  Form -> !form\n  ---\n"
                ).to_json(),
                "loose": parse_outline("A -> <b>\n".replace("<b>", "/b")).to_json(),
            },
            "placements": [{"location": "header", "device": "desktop", "menu": "main"}],
            "pages": [page.to_json() for page in PAGES],
        }
    )  # fmt: skip


def test_a_whole_site_as_a_table_has_whole_addresses_and_comes_back() -> None:
    whole = site()
    text = site_to_csv(whole)
    rows = list(csv.DictReader(text.splitlines()))
    assert list(rows[0]) == [
        "menu",
        "place",
        "path",
        "kind",
        "label",
        "label:nl",
        "page title",
        "target",
        "address",
        "settings",
    ]
    by_path = {(row["menu"], row["path"]): row for row in rows}
    first = by_path["Main", "1"]
    assert (first["place"], first["label"], first["label:nl"], first["target"], first["address"]) == (
        "Header bar (desktop)", "'=Times", "Tijden", "@times", "https://b.example/timetable",
    )  # fmt: skip
    titled = by_path["Main", "2"]
    assert (titled["label"], titled["page title"], titled["address"]) == (
        "",
        "Fares & passes",
        "https://b.example/fares",
    )
    assert [by_path["Main", f"3.{at}"]["address"] for at in range(1, 7)] == [
        "https://b.example/in/#top", "/crew/{visitor.id}", "", "mailto:a@b.example", "https://x.example/?a=1", "",
    ]  # fmt: skip
    assert by_path["Menu", "1"]["place"] == ""
    back = {one.title: one for one in pasted(text)}
    for menu in whole.menus.values():
        came = back[menu.name]
        assert came.notes == ()
        assert came.table is not None
        assert came.table.sure
        assert format_outline(came.document) == format_outline(menu)


def test_a_whole_site_on_paper_says_everything_in_words() -> None:
    page = site_to_print(site(), day="27 November 2026")
    for piece in (
        "<h1>B &amp; co</h1>", "English, Dutch", "27 November 2026", "Header bar (desktop)", "hangs nowhere",
        "https://b.example/timetable", 'lang="nl">Tijden', "from 1 Apr 2027 04:00 until 1 Oct 2027 04:00", "nothing yet",
        "later; Tom; due 12 Feb 2027", "only on phone", "only where signed_in", "opens a new tab", "mailto:a@b.example",
    ):  # fmt: skip
        assert piece in page, piece
    assert "2027-" not in page
    assert "<script" not in page
