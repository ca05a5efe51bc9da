"""Other formats: what is written reads back as the same menu; odd but legal input is read; hostile input is refused."""

import json
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path

import extruct
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sign_shelf.core.errors import Refusal
from sign_shelf.core.formats import READABLE, WRITABLE, Readable, read_menus, write_menu
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import MenuDocument, menu_document
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.tree import count
from sign_shelf.core.outline import format_outline, parse_outline
from tests.core.test_site import BASE
from tests.documents import documents, without_ids
from tests.examples import examples

SITE = read(SiteDocument, BASE)
VNU = Path(__file__).parents[2] / "frontend" / "node_modules" / "vnu-jar" / "build" / "dist" / "vnu.jar"


def as_outline(data: str | bytes, format: Readable | None = None, **more: object) -> str:
    raw = data.encode() if isinstance(data, str) else data
    (menu,) = read_menus(raw, format, **more)  # type: ignore[arg-type]
    return format_outline(menu.document)


@pytest.mark.parametrize("format", READABLE)
@given(document=documents)
@examples(60)
def test_what_is_written_reads_back_as_the_same_menu(format: Readable, document: MenuDocument) -> None:
    written = write_menu(document, format).text
    if not document.items and format in {"html", "csv"}:
        return  # an empty list has nothing to read
    (found,) = read_menus(written.encode("utf-8", "surrogatepass"), format, name=document.name)
    assert found.notes == ()
    want = without_ids(document.model_copy(update={"name": found.document.name}))
    assert without_ids(found.document) == want


@given(documents)
@examples(40)
def test_every_format_writes_every_document(document: MenuDocument) -> None:
    for format in WRITABLE:
        written = write_menu(document, format, site=SITE)
        assert written.text.endswith("\n") or (format == "outline" and not written.text)
        if format in {"linkset", "jsonld"}:
            json.loads(written.text)


@given(st.binary(max_size=400) | st.text(max_size=400).map(lambda text: text.encode("utf-8", "surrogatepass")))
def test_no_input_breaks_a_reader(data: bytes) -> None:
    for format in (None, *READABLE):
        try:
            read_menus(data, format)
        except Refusal as refusal:
            assert refusal.says


def test_pages_of_the_site_become_references_again() -> None:
    html = write_menu(parse_outline("Fares -> @timetables#fares\n-> @timetables"), "html", site=SITE).text
    found = as_outline(html, base=SITE.site.base, pages=SITE.pages)
    assert found == '{menu "Menu"}\nFares -> @timetables#fares\n-> @timetables\n'.removeprefix('{menu "Menu"}\n')
    table = "label,url\nFares,https://brackwater.example/timetables\nOut,https://else.example/\n"
    assert (
        as_outline(table, base=SITE.site.base, pages=SITE.pages)
        == "Fares -> @timetables\nOut -> https://else.example/\n"
    )


@pytest.mark.parametrize(
    ("data", "outline"),
    [
        ("- One\n  - Two\n- Three", "One:\n  Two -> ?\nThree -> ?\n"),
        ("<ul><li><a href='/a'>A</a><ul><li><a href='/b'>B</a></ul><li>C</ul>", "A -> /a\n  B -> /b\nC:\n"),
        ("<meta charset=utf-8><a href=https://x.example/>X</a> <a href=/y>Y</a>", "X -> https://x.example/\nY -> /y\n"),
        ("path,label,target\n2,B,/b\n1,A,/a\n2.1,C,?\n", "B -> /b\n  C -> ?\nA -> /a\n"),
        ("Title,Level,Link\nA,1,/a\nB,2,/b\nC,1,/c\n", "A -> /a\n  B -> /b\nC -> /c\n"),
        ('name,url\r\n"Say ""hi"", twice",/a\r\n"two\nlines",/b\r\n', None),
        ("path,url\nShop,/shop\nShop / Sale,/sale\nShop > Sale > Old,/old\n", "Shop -> /shop\n  Sale -> /sale\n    Old -> /old\n"),
        ("\ufefflabel,target\n'=1+1,/x\n", '=1+1 -> /x\n'),
        ('<?xml version="1.0"?><opml version="1.0"><body><outline text="A" xmlUrl="https://f.example/rss"/></body></opml>',
         "A -> https://f.example/rss\n"),
        ('<?xml version="1.0"?><!DOCTYPE opml SYSTEM "x.dtd"><opml version="2.0"><head><title>T</title>'
         '<expansionState>1,2</expansionState></head><body><outline text="&lt;b&gt;Bold&lt;/b&gt; one" TYPE="link" '
         'URL="https://a.example/"><outline title="Only title"/><outline text="no" isComment="true"/></outline>'
         '<outline/></body></opml>', '{menu "T"}\nBold one -> https://a.example/\n  Only title -> ?\n---\n'),
        ('<opml version="2.0"><body/></opml>', ""),
    ],
)  # fmt: skip
def test_odd_but_legal_input_is_read(data: str, outline: str | None) -> None:
    if outline is None:
        (menu,) = read_menus(data.encode(), None)
        assert count(menu.document.items) == 2
        assert [note.where for note in menu.notes] == ["line 4"], "a label of two lines is told"
    else:
        assert as_outline(data) == outline


@pytest.mark.parametrize("encoding", ["utf-8", "utf-16", "iso-8859-1"])
def test_opml_is_read_in_the_encoding_that_it_declares(encoding: str) -> None:
    text = f'<?xml version="1.0" encoding="{encoding}"?><opml version="2.0"><body><outline text="Café"/></body></opml>'
    assert as_outline(text.encode(encoding), "opml") == "Café -> ?\n"


def test_what_is_not_understood_is_told_with_its_place() -> None:
    (menu,) = read_menus(b"path,label,target,colour\n1,A,javascript:alert(1),red\n3.1,B,/b,\n", "csv")
    assert [(note.where, note.says.split(";")[0]) for note in menu.notes] == [
        ("column 4", '"colour" is not understood'),
        ("line 3", "nothing stands at 3"),
        ("line 2", 'expected http, https or an address within the site, got "javascript:"'),
    ]
    assert format_outline(menu.document).startswith("A -> ? {note was not understood: javascript:alert(1)}\n")


BOMB = (
    '<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa">'
    + "".join(f'<!ENTITY {chr(98 + n)} "{f"&{chr(97 + n)};" * 10}">' for n in range(9))
    + ']><opml version="2.0"><body><outline text="&j;"/></body></opml>'
)


@pytest.mark.parametrize(
    ("format", "data", "where", "says"),
    [
        ("opml", BOMB.encode(), "OPML", "entities"),
        ("opml", b'<opml><body>' + b'<outline text="x">' * 100_000, "outline 24", "levels"),
        ("opml", b"<opml><body><outline></body></opml>", "line 1, column", "well-formed"),
        ("opml", b"<rss/>", "OPML", "no <opml>"),
        ("opml", b'<opml><body>\0</body></opml>', "line 1", "well-formed"),
        ("html", b"<ul><li>" * 100_000, "the page", "deep"),
        ("html", b"<p>nothing here</p>", "HTML", "no list"),
        ("html", b"<ul>" + b"<li><a href=/a>a</a>" * 20_001, "the page", "20000 entries"),
        ("csv", b"label,target\n" + b"x" * 1_000_000, "line 2", "characters"),
        ("csv", b'label,target\n"x,y', "line 2", "CSV"),
        ("csv", b"colour,taste\nred,sweet\n", "line 1", "no column"),
        ("csv", b"label,target\na\0b,/\n", "line 2", "NUL"),
        ("csv", b"path,label\n" + b"1." * 30 + b"1,x\n", "line 2", "levels"),
        ("csv", b"label\n" + b"x\n" * 20_001, "line 20002", "20000"),
        ("csv", b"label,target\n\xff\xfe,/\n", "line 2, column 1", "UTF-8"),
        ("outline", b"x" * 1_000_000, "line 1", "characters"),
        ("json", b"[" * 100_000, "menu document", "JSON"),
        (None, b"x" * (6 * 1024 * 1024), "input", "larger"),
    ],
)  # fmt: skip
@pytest.mark.timeout(60)
def test_hostile_input_is_refused_and_does_not_go_on(
    format: Readable | None, data: bytes, where: str, says: str
) -> None:
    with pytest.raises(Refusal) as refused:
        read_menus(data, format)
    assert where in str(refused.value.where)
    assert says in refused.value.says


def test_jsonld_is_read_by_an_independent_reader() -> None:
    document = parse_outline('A <b>"&</script> -> @timetables\n  B -> https://x.example/\nHead:\n  C -> ?\n')
    written = write_menu(document, "jsonld", site=SITE).text.replace("<", "\\u003c")
    page = f'<html><body><script type="application/ld+json">{written}</script></body></html>'
    (found,) = extruct.extract(page, syntaxes=["json-ld"])["json-ld"]
    assert found["@type"] == "SiteNavigationElement"
    assert [part["name"] for part in found["hasPart"]] == ['A <b>"&</script>', "Head"]
    assert found["hasPart"][0]["hasPart"][0] == {
        "@type": "SiteNavigationElement", "name": "B", "url": "https://x.example/",
    }  # fmt: skip


def test_a_link_set_says_what_stands_under_what() -> None:
    document = parse_outline(
        'Fares -> @timetables {nl "Tarieven"; rel help}\n  Out -> https://x.example/\nHead:\n  Soon -> ?\n'
    )
    found = json.loads(write_menu(document, "linkset", site=SITE).text)
    fares = {
        "href": "https://brackwater.example/timetables",
        "title": "Fares",
        "title*": [{"value": "Fares", "language": "en"}, {"value": "Tarieven", "language": "nl"}],
    }
    assert found["linkset"] == [
        {"anchor": "https://brackwater.example/", "item": [fares], "help": [fares]},
        {
            "anchor": "https://brackwater.example/timetables",
            "item": [{"href": "https://x.example/", "title": "Out", "title*": [{"value": "Out", "language": "en"}]}],
        },
    ]


@pytest.fixture(scope="session")
def nu_checker() -> Callable[[str], list[dict[str, object]]]:
    """The Nu HTML checker: its messages for a page."""
    java = shutil.which("java")
    if java is None or not VNU.exists():
        pytest.skip("the Nu HTML checker needs Java, which is not on this machine")

    def check(page: str) -> list[dict[str, object]]:
        done = subprocess.run(
            [java, "-Xss4m", "-jar", VNU, "--format", "json", "--stdout", "--exit-zero-always", "-"],
            input=page.encode(), capture_output=True, check=True,
        )  # fmt: skip
        found: list[dict[str, object]] = json.loads(done.stdout)["messages"]
        return found

    return check


def test_the_nu_checker_finds_no_error_in_rendered_html(nu_checker: Callable[[str], list[dict[str, object]]]) -> None:
    """One page with thirty generated menus, and one with every kind and target."""
    found: list[MenuDocument] = []

    @given(documents)
    @settings(max_examples=30, database=None, derandomize=True)
    def gather(document: MenuDocument) -> None:
        found.append(document)

    gather()
    whole = parse_outline(Path(__file__).with_name("every_kind.txt").read_text("utf-8"))
    menus = [whole, *(menu_document(f"{number} {one.name}", one.items) for number, one in enumerate(found))]
    body = "".join(write_menu(one, "html", site=SITE).text for one in menus)
    page = f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Menus</title></head><body>{body}</body></html>'
    errors = [message for message in nu_checker(page) if message["type"] == "error"]
    assert [str(error.get("message"))[:200] + str(error.get("extract"))[:200] for error in errors] == []
