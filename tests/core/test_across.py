"""Menus of several sites side by side: the same entries in one row, in everybody's order, and what one lacks."""

from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.compare.across import Row, Shown, across
from sign_shelf.core.model.menu import Divider, walk
from sign_shelf.core.model.site import Page
from sign_shelf.core.outline import parse_outline
from tests.core.test_merge import edited, headings


def shown(outline: str, *pages: Page) -> Shown:
    return Shown(parse_outline(outline).items, pages, "en")


def table(rows: list[Row]) -> list[list[str | None]]:
    return [[cell.label if cell else None for cell in row.cells] for row in rows]


def test_the_same_entries_stand_in_one_row_whatever_they_are_called_by() -> None:
    first = shown(
        "Visit -> @visit\n  Opening times -> /opening\nAbout us -> /about\nPrivacy -> /privacy",
        Page(ref="visit", path="/visit", title={"en": "Visit"}),
    )
    second = shown("Visit -> /visit\n  Opening times -> /opening\n  Getting here -> /here\nAbout -> /about")
    third = shown("Visit -> /visit\nAbout us -> /about\nPrivacy -> /privacy\n---\nShop -> /shop")
    rows = across([first, second, third])
    assert table(rows) == [
        ["Visit", "Visit", "Visit"],
        ["Opening times", "Opening times", None],
        [None, "Getting here", None],
        ["About us", "About", "About us"],
        ["Privacy", None, "Privacy"],
        [None, None, "Shop"],
    ]
    assert [row.level for row in rows] == [1, 2, 2, 1, 1, 1]
    assert {row.cells[0].label: row.lacking() for row in rows if row.cells[0]} == {
        "Visit": (), "Opening times": (2,), "About us": (), "Privacy": (1,),
    }  # fmt: skip
    about = rows[3].cells[1]
    assert about is not None
    assert about.sure < 1, "called otherwise, it is not quite sure"


def test_a_site_where_nothing_hangs_lacks_everything_and_has_nothing() -> None:
    rows = across([shown("A -> /a\nB -> /b"), shown("A -> /a\nB -> /b"), shown("")])
    assert [row.lacking() for row in rows] == [(2,), (2,)]


@given(st.data())
def test_each_entry_of_each_site_stands_in_exactly_one_row(data: st.DataObject) -> None:
    base = data.draw(headings())
    menus = [Shown(base, (), "en"), *(Shown(data.draw(edited(base, mark)), (), "en") for mark in "xy")]
    rows = across(menus)
    for at, menu in enumerate(menus):
        there = [row.cells[at].item for row in rows if row.cells[at] is not None]  # type: ignore[union-attr]
        assert sorted(there) == sorted(item.id for _, item in walk(menu.items) if not isinstance(item, Divider))
    assert all(row.has for row in rows)
    # The first one's order is the order of the rows.
    assert [row.cells[0].item for row in rows if row.cells[0]] == [item.id for _, item in walk(base)]
