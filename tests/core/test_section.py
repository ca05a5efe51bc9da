"""Section locations: the part of the tree that the page is in, and nothing where there is none."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.resolve import Lens, resolve
from sign_shelf.core.resolve.resolved import Resolved, ResolvedMenu
from tests.documents import documents

MENU = """\
About -> @about
  History -> @history
    Founders -> @founders
      Letters -> @letters
  ---
  People -> @people
News -> @news
"""


def site(menu: MenuDocument, **section: object) -> SiteDocument:
    place = {"key": "nearby", "title": "Nearby", "shape": "section", "of": "header", "start": 2, "levels": 2} | section
    pages = [
        {"ref": "about", "path": "/about"}, {"ref": "history", "path": "/about/history", "under": "about"},
        {"ref": "founders", "path": "/f", "under": "history"}, {"ref": "letters", "path": "/l", "under": "founders"},
        {"ref": "people", "path": "/p", "under": "about"}, {"ref": "news", "path": "/news"},
        {"ref": "unlisted", "path": "/u", "under": "people"}, {"ref": "round", "path": "/r", "under": "round"},
    ]  # fmt: skip
    return read(SiteDocument, {
        "format": "sign-shelf/site", "version": 1, "site": {"key": "s", "name": "S", "base": "https://s.example/"},
        "template": {"key": "t", "devices": {"desktop": [0, None]},
                     "locations": [{"key": "header", "title": "H", "shape": "bar"}, place]},
        "menus": {"m": menu.to_json()}, "placements": [{"location": "header", "device": "desktop", "menu": "m"}],
        "pages": pages,
    })  # fmt: skip


def got(page: str | None, **section: object) -> ResolvedMenu:
    lens = Lens(device="desktop", language="en", at="2027-01-01T00:00", page=page)
    return resolve(site(parse_outline(MENU), **section), "nearby", lens)


def told(items: tuple[Resolved, ...]) -> list[object]:
    return [
        [f"{item.label}{ {'page': '*', 'branch': '+', 'none': ''}[item.current] }", *told(item.items)]
        if item.items
        else f"{item.label}{ {'page': '*', 'branch': '+', 'none': ''}[item.current] }"
        for item in items
        if item.kind != "divider"
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("page", "section", "expected"),
    [
        ("history", {}, [["History*", "Founders"], "People"]),
        ("letters", {}, [["History+", "Founders+"], "People"]),
        ("letters", {"start": 3}, [["Founders+", "Letters*"]]),
        ("letters", {"start": 1, "levels": 1}, ["About+", "News"]),
        ("about", {}, [["History", "Founders"], "People"]),
        ("news", {}, []),
        ("news", {"start": 1, "levels": 1}, ["About", "News*"]),
        ("unlisted", {}, [["History", "Founders"], "People+"]),
        ("round", {}, []),
        (None, {}, []),
        (None, {"start": 1, "levels": 1}, ["About", "News"]),
        ("history", {"pages": ["under:about"]}, [["History*", "Founders"], "People"]),
        ("news", {"pages": ["under:about"], "start": 1}, []),
        ("people", {"pages": ["people"]}, [["History", "Founders"], "People*"]),
        ("history", {"pages": ["people"]}, []),
    ],
)
def test_the_section_is_cut_to_where_the_page_is(
    page: str | None, section: dict[str, object], expected: list[object]
) -> None:
    assert told(got(page, **section).items) == expected


def test_an_empty_section_says_why() -> None:
    assert [one.detail for one in got("news").hidden][-1:] == []
    assert got("round").hidden[0].detail == "the menu does not have this page"
    assert got("history", pages=["people"]).hidden[0].detail == "does not show on this page"


@given(documents, st.integers(1, 4), st.integers(1, 4), st.sampled_from(["about", "history", "news", None]))
def test_a_section_is_never_deeper_than_its_levels(
    menu: MenuDocument, start: int, levels: int, page: str | None
) -> None:
    lens = Lens(device="desktop", language="en", at="2027-01-01T00:00", page=page)
    plain = menu.model_copy(update={"items": tuple(item for item in menu.items if item.kind != "include")})
    found = resolve(site(plain, start=start, levels=levels), "nearby", lens).items
    assert _depth(found) <= levels
    assert not found or found[0].kind != "divider"


def _depth(items: tuple[Resolved, ...]) -> int:
    return max((1 + _depth(item.items) for item in items), default=0)
