"""The fit: its laws, its table of cases, and font files that lie. The browser as truth is in tests/browser/test_fit.py."""

import json
import struct
from io import BytesIO
from pathlib import Path

import brotli
import pytest
from fontTools.ttLib import TTFont
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.errors import FitRefused, InvalidDocument
from sign_shelf.core.fit import NARROWEST, WIDEST, Container, FitRequest, fit, request_of, suggestions, zones
from sign_shelf.core.fit.bar import available, first_to_go, fits_from, rows, rows_at
from sign_shelf.core.fit.font_file import font_facts, sfnt_of
from sign_shelf.core.fit.shaping import Type, cased, measure
from sign_shelf.core.look import PlaceLook
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import Look
from sign_shelf.core.model.template import Location, Template
from sign_shelf.core.resolve.resolved import Resolved
from sign_shelf.outside.fonts import shipped_fonts
from sign_shelf.settings import STATIC

FONTS = shipped_fonts(STATIC / "fonts")
widths = st.lists(st.floats(1, 400), min_size=1, max_size=12)
gaps = st.floats(0, 40)
containers = st.builds(
    Container, max=st.none() | st.floats(200, 2_000), gutter=st.floats(0, 60), reserved=st.floats(0, 300)
)


@given(widths, gaps, containers)
def test_rows_only_get_fewer_as_there_is_more_room(entries: list[float], gap: float, container: Container) -> None:
    """`rows_at` says at every whole width what greedy breaking says there; `fits_from` is where it first is one row."""
    steps = rows_at(entries, gap, container)
    assert [count for _, count in steps] == sorted({count for _, count in steps}, reverse=True)
    told = dict(steps)
    count = told[NARROWEST]
    for width in range(NARROWEST, WIDEST + 1, 7):
        count = next(rows for at, rows in reversed(steps) if at <= width)
        assert count == rows(entries, gap, available(width, container))
    natural = sum(entries) + gap * (len(entries) - 1)
    at = fits_from(natural, container)
    if at is not None:
        assert natural <= available(at, container) + 1e-9
        assert natural > available(at - 1, container) - 1e-9
    leaves = first_to_go(entries, gap, container, at)
    assert leaves is None or 0 < leaves < len(entries)


def bar(**more: object) -> FitRequest:
    usual: dict[str, object] = {"font": "Inter", "items": [{"label": "Fares"}, {"label": "Routes"}, {"label": "Book"}]}
    return read(FitRequest, usual | more)


def test_an_entry_is_its_parts_with_the_gaps_between_them() -> None:
    plain = fit(FONTS, bar(items=[{"label": "Fares"}])).item_widths[0]
    assert fit(FONTS, bar(items=[{"label": "Fares", "icon": True}])).item_widths[0] == plain + 20 + 6
    assert fit(FONTS, bar(items=[{"label": "Fares", "icon": True, "icon_only": True}])).item_widths[0] == 20 + 24
    assert fit(FONTS, bar(items=[{"label": "Fares", "caret": True}])).item_widths[0] == plain + 14 + 6
    assert fit(FONTS, bar(items=[{"label": "Fares", "button": "l"}])).item_widths[0] == plain - 24 + 44
    spaced = fit(FONTS, bar(items=[{"label": "Fares"}], letter_spacing=2)).item_widths[0]
    assert spaced == pytest.approx(plain + 5 * 2, abs=1 / 32)
    three = fit(FONTS, bar())
    assert three.natural == sum(three.item_widths) + 2 * 24
    assert three.first_to_go == 2


def test_a_drawer_that_comes_too_late_is_told() -> None:
    late = fit(FONTS, bar(overflow="drawer", drawer_below=200, container={"gutter": 24, "reserved": 120}))
    assert late.fits_from is not None
    assert late.drawer_from_overflow == (200, late.fits_from - 1)
    never = fit(FONTS, bar(container={"max": 100}, drawer_below=500))
    assert (never.fits_from, never.drawer_from_overflow, never.first_to_go) == (None, (500, WIDEST), 1)
    assert fit(FONTS, bar(items=[])).whole() == {
        "item_widths": [], "natural": 0, "fits_from": 48, "rows_at": [[320, 0]], "drawer_from_overflow": None,
        "first_to_go": None, "fallbacks": {}, "missing": [],
    }  # fmt: skip
    cut = zones(late, 600)
    assert cut[0] == (NARROWEST, 599, "drawer")
    assert cut[-1] == (600, WIDEST, "fits")


def test_characters_that_the_font_lacks_are_told_with_who_shows_them() -> None:
    got = measure(FONTS, "Łódź احجز 字", Type("Lora", 16, 400))
    assert dict(got.fallbacks)["ح"] == "Noto Sans Arabic"
    assert "Ł" not in dict(got.fallbacks)
    assert got.missing == ("字",)
    upper = [
        cased("iyi λόγος straße", Type("Inter", 16, 400, transform="uppercase", language=tag)) for tag in ("tr", "el")
    ]
    assert upper == ["İYİ ΛΌΓΟΣ STRASSE", "IYI ΛΟΓΟΣ STRASSE"]
    with pytest.raises(FitRefused, match=r'no font "Nowhere Sans"'):
        fit(FONTS, bar(font="Nowhere Sans"))
    with pytest.raises(InvalidDocument, match="icon_only needs an icon"):
        bar(items=[{"label": "x", "icon_only": True}])


TEMPLATE = read(
    Template,
    {
        "key": "t",
        "devices": {"desktop": [0, None]},
        "locations": [
            {
                "key": "bar",
                "title": "Bar",
                "shape": "bar",
                "look": {"font": "Inter", "max": 760, "gap": 30, "padding": 6},
            },
            {"key": "strip", "title": "Top strip", "shape": "strip"},
        ],
    },
)


def test_a_bar_that_does_not_fit_is_told_what_would_make_it_fit() -> None:
    """Each with the width that it would then need, and the true one."""
    words = ["Timetables", "Fares and passes", "Our routes", "On board", "Travelling with a dog", "Contact us", "Book"]
    items = tuple(
        Resolved(f"i{at}", "link", label, href="/", page="dog" if at == 4 else None) for at, label in enumerate(words)
    )
    items = (*items[:6], Resolved("i6", "link", "Book", href="/", look=Look(icon="ticket")))
    place = TEMPLATE.locations[0]
    asked = {"language": "en", "device": "desktop", "titles": {"dog": "Dogs"}, "width": 1_280}
    told = suggestions(FONTS, items, place, TEMPLATE, **asked)  # type: ignore[arg-type]
    found = {one.kind: one for one in told}
    assert set(found) == {"shorter", "nest", "icon-alone", "move"}
    assert any(one.label == "Dogs" and one.items == ("i4",) for one in told)
    assert found["nest"].fits_from is not None
    assert (found["move"].items, found["move"].location) == (("i6",), "strip")
    moved = fit(FONTS, request_of(items[:-1], place, language="en", device="desktop"))
    assert found["move"].natural == moved.natural
    roomy = place.model_copy(update={"look": PlaceLook(font="Inter")})
    assert suggestions(FONTS, items, roomy, TEMPLATE, **asked) == []  # type: ignore[arg-type]


# --- font files


def _shipped(name: str) -> bytes:
    return (STATIC / "fonts" / name).read_bytes()


INTER = "inter-latin-wght-normal.woff2"


def test_a_font_says_its_family_and_weights() -> None:
    facts = font_facts(sfnt_of(_shipped(INTER)))
    assert (facts.family, facts.weights) == ("Inter", (100, 900))
    assert facts.characters > 200


def _woff2(tables: int, unpacked: int, compressed: bytes) -> bytes:
    directory = b"".join(bytes([0]) + _base128(unpacked // tables) for _ in range(tables))
    head = struct.pack(
        ">4sLLHHLLHHLLLLL", b"wOF2", 0x10000, 0, tables, 0, unpacked, len(compressed), 1, 0, 0, 0, 0, 0, 0
    )
    return head[:48] + directory + compressed


def _base128(value: int) -> bytes:
    out = [value & 0x7F]
    while value := value >> 7:
        out.append((value & 0x7F) | 0x80)
    return bytes(reversed(out))


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "no font file"),
        (b"\x89PNG\r\n", "no font file"),
        (b"wOFF" + bytes(60), "no font file"),
        (b"ttcf" + bytes(60), "no font file"),
        (b"\0\1\0\0" + bytes(4_000_000), "at most"),
        (b"\0\1\0\0", "ends in its header"),
        (b"\0\1\0\0\xff\xff" + bytes(16 * 65_535), "claims 65535 tables"),
        (b"\0\1\0\0\0\2" + bytes(30), "claims 2 tables"),
        (b"\0\1\0\0\0\1" + bytes(6) + struct.pack(">4sLLL", b"glyf", 0, 10, 1 << 30), "lies outside"),
        (b"\0\1\0\0\0\1" + bytes(6) + struct.pack(">4sLLL", b"name", 0, 28, 0), "damaged"),
        (_woff2(1, 1_000, brotli.compress(bytes(50_000_000))), "more than it says"),
        (_woff2(1, 200_000_000, b"x"), "would have 200,000,000"),
        (_woff2(2, 1_000, brotli.compress(bytes(1_000))[:6]), "ends too early"),
        (_woff2(1, 100, b"not brotli at all"), "damaged"),
        (b"wOF2" + bytes(10), "claims 0 tables"),
        (b"wOF2" + bytes(8) + b"\0\1" + bytes(34) + b"\0" + b"\xff" * 9, "a length has no end"),
        (_shipped(INTER)[:20_000], "ends too early"),
    ],
)  # fmt: skip
def test_hostile_fonts_are_refused_with_the_reason(data: bytes, says: str) -> None:
    with pytest.raises(FitRefused, match=says):
        font_facts(sfnt_of(data))


@given(st.integers(12, 30_000), st.integers(0, 255))
def test_a_byte_changed_anywhere_is_read_or_refused(at: int, byte: int) -> None:
    """Never a crash, whatever stands in a table."""
    data = bytearray(SFNT)
    data[at % len(data)] = byte
    try:
        font_facts(bytes(data))
    except FitRefused as refusal:
        assert refusal.remedy


SFNT = sfnt_of(_shipped("atkinson-hyperlegible-next-latin-wght-normal.woff2"))


def test_the_index_of_the_fonts_is_true(tmp_path: Path) -> None:
    """Every file is there and has the characters that it may be used for; at least eight families ship."""
    index = json.loads((STATIC / "fonts" / "fonts.json").read_text())
    assert len(index) >= 8
    for family in FONTS.families.values():
        assert family.files[0].has(ord("a"))
        for file in family.files:
            has = TTFont(BytesIO(file.load())).getBestCmap().keys()
            said = {character for character in range(0x20, 0x3000) if file.has(character)}
            assert said, file
            assert said <= has, (file, sorted(said - has)[:5])
    with pytest.raises(FitRefused, match="fonts are not there"):
        shipped_fonts(tmp_path)


def test_a_place_s_look_is_what_is_measured() -> None:
    look = PlaceLook(
        font="Lora", size=20, case="uppercase", direction="reversed", drawer_below=700, overflow="drawer", max=900
    )
    items = (
        Resolved("a", "link", "A", href="/"),
        Resolved("d", "divider"),
        Resolved("b", "heading", "B", items=(Resolved("c", "link", "C"),)),
    )
    place = Location(key="k", title="K", shape="bar", look=look)
    asked = request_of(items, place, language="ar", device="phone")
    assert [item.label for item in asked.items] == ["B", "A"]
    assert asked.items[0].caret
    assert (asked.font, asked.transform, asked.direction, asked.drawer_below) == ("Lora", "uppercase", "ltr", 700)
