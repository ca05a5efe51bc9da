"""A page as crawlers get it: which addresses stand in its HTML, and how its navigations are made."""

import pytest

from sign_shelf.core.crawled import LiveNavigation, LivePage, read_live
from sign_shelf.core.formats.html_tree import parse

URL = "https://a.example/"
THREE = "<ul><li><a href=/a>A</a><li><a href=/b#part>B</a><li><a href='https://b.example/c'>C</a></ul>"


def page(body: str) -> LivePage:
    return read_live(URL, parse(f"<!doctype html><html><body>{body}</body></html>".encode(), URL), "2027-02-12T12:00")


def one(body: str) -> LiveNavigation:
    (found,) = page(body).navigations
    return found


def test_addresses_are_absolute_and_without_parts_and_what_a_script_makes_is_not_there() -> None:
    found = page(
        f"<nav>{THREE}</nav><script>document.write('<a href=/d>D</a>')</script><template><a href=/e>E</a></template>"
    )
    assert found.links == ("https://a.example/a", "https://a.example/b", "https://b.example/c")


@pytest.mark.parametrize(("body", "told"), [
    (f"<nav aria-label='Main'>{THREE}</nav>", {"name": "Main", "landmark": True, "lists": True, "marks": None, "openers": ()}),
    (f"<h2 id=h>Ways <b>on</b></h2><div role=navigation aria-labelledby=h>{THREE}</div>", {"name": "Ways on", "landmark": True}),
    (f"<nav>{THREE}</nav>", {"name": ""}),
    ("<nav><a href=/a>A</a><a href=/b>B</a><a href=/c>C</a></nav>", {"lists": False}),
    ("<nav><a href=/a>A</a><a href=/b>B</a></nav>", {"lists": True}),
    (f"<header>{THREE}</header>", {"landmark": False, "links": 3}),
    ("<nav><ul><li><a href=/ aria-current=page>Home</a></ul></nav>", {"marks": True}),
    ("<nav><ul><li><a href='https://a.example/'>Home</a></ul></nav>", {"marks": False}),
    (f"<nav><ul><li><button aria-expanded=false>More</button>{THREE}</ul></nav>", {"openers": ()}),
    (f"<nav><ul><li><details><summary>More</summary>{THREE}</details></ul></nav>", {"openers": ()}),
    (f"<nav><ul><li><a href='#'>More</a>{THREE}</ul></nav>", {"openers": ("More",)}),
    (f"<nav><ul><li><span onclick='x()'>More</span>{THREE}</ul></nav>", {"openers": ("More",)}),
    (f"<nav><ul><li><button aria-haspopup=true>More</button>{THREE}</ul></nav>", {"openers": ("More",)}),
    ("<nav><ul><li><button aria-haspopup=dialog aria-controls=d>Ask</button><li><a href=/a>A</a></ul></nav>", {"openers": ()}),
    (f"<nav><ul><li><a href='#ways'>Ways</a>{THREE}</ul></nav>", {"openers": ()}),
    (f"<nav><ul role=menubar><li><a role=menuitem aria-haspopup=true aria-expanded=false>More</a>{THREE}</ul></nav>", {"openers": ()}),
    ("<nav><ul><li><a href='#top'>Up</a><li><a href=/a>A</a></ul></nav>", {"openers": ()}),
])  # fmt: skip
def test_how_a_navigation_is_made(body: str, told: dict[str, object]) -> None:
    found = one(body)
    assert {name: getattr(found, name) for name in told} == told


def test_a_header_whose_links_stand_in_a_landmark_is_that_landmark_alone() -> None:
    assert [
        nav.landmark for nav in page(f"<header><nav>{THREE}</nav></header><footer>{THREE}</footer>").navigations
    ] == [True]
    assert page("<header><a href=/>Home</a></header>").navigations == ()
