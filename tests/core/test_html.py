"""Menus as HTML: every kind and target by case, nesting as a law, labels never as markup."""

from html.parser import HTMLParser

import pytest
from hypothesis import given

from sign_shelf.core.formats.html import menu_to_html
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.tree import count, depth_of
from sign_shelf.core.outline import parse_outline
from tests.core.test_site import BASE
from tests.documents import documents

SITE = read(SiteDocument, BASE)


class Shape(HTMLParser):
    """Counts entries and how deep lists nest; notes every tag that a menu may not have."""

    ALLOWED = frozenset({"nav", "ul", "li", "a", "span", "button", "hr"})

    def __init__(self) -> None:
        super().__init__()
        self.entries = self.depth = self.deepest = 0
        self.foreign: set[str] = set()
        self.open: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag not in self.ALLOWED:
            self.foreign.add(tag)
        if tag != "hr":
            self.open.append(tag)
        self.entries += tag == "li"
        self.depth += tag == "ul"
        self.deepest = max(self.deepest, self.depth)

    def handle_endtag(self, tag: str) -> None:
        assert self.open.pop() == tag
        self.depth -= tag == "ul"


@given(documents)
def test_the_tree_is_kept_and_nothing_else_comes_in(document: MenuDocument) -> None:
    shape = Shape()
    shape.feed(menu_to_html(document))
    assert (shape.entries, shape.deepest) == (count(document.items), depth_of(document.items))
    assert (shape.foreign, shape.open) == (set(), [])


@pytest.mark.parametrize(
    ("line", "html"),
    [
        ("Fares -> @timetables", '<a href="https://brackwater.example/timetables">Fares</a>'),
        ("Fares -> @timetables#fares", '<a href="https://brackwater.example/timetables#fares">Fares</a>'),
        ("Gone -> @gone#x", '<a data-goal="@gone#x">Gone</a>'),
        ("-> @gone", '<a data-goal="@gone" data-titled>@gone</a>'),
        ("Out -> https://x.example/?a=1&b=2 {new tab; rel noopener, external}",
         '<a href="https://x.example/?a=1&amp;b=2" target="_blank" rel="noopener external">Out</a>'),
        ("Part -> #top", '<a href="#top">Part</a>'),
        ("Write -> mailto:a@b.example", '<a href="mailto:a@b.example">Write</a>'),
        ("Call -> <tel:+44 20 1>", '<a href="tel:+44201" data-goal="&lt;tel:+44 20 1&gt;">Call</a>'),
        ("Soon -> ?", '<a data-goal="?">Soon</a>'),
        ("Ask -> !form", '<button type="button" data-overlay="form">Ask</button>'),
        ("All -> *route", '<span data-goal="*route">All</span>'),
        ("Any -> *", '<span data-goal="*">Any</span>'),
        ("+ shared:legal", '<span data-goal="+ shared:legal"></span>'),
        ("Head:", "<span>Head</span>"),
        ("---", "<hr>"),
        ('"<b>&" -> /x', '<a href="/x">&lt;b&gt;&amp;</a>'),
        ('-> /x {nl "Dienst"}', '<a href="/x" lang="nl">Dienst</a>'),
    ],
)  # fmt: skip
def test_every_kind_and_target(line: str, html: str) -> None:
    assert f"<li>{html}</li>" in menu_to_html(parse_outline(line), site=SITE)


def test_the_name_of_the_menu_is_its_accessible_name() -> None:
    assert menu_to_html(parse_outline('{menu "A \\"quoted\\" <name>"}')).startswith(
        '<nav aria-label="A &quot;quoted&quot; &lt;name&gt;">'
    )
