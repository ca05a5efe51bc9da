"""Drift: what a site shows against what was verified, over the site protocol and on its pages; taken over, nothing of either is lost."""

from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.compare.apply import apply
from sign_shelf.core.model.menu import walk
from sign_shelf.core.model.tree import Tree
from sign_shelf.core.outline import format_outline, parse_outline
from sign_shelf.core.protocol.delivery import menu_html
from sign_shelf.core.protocol.drift import Drifted, page_drift, place_drift, taken_over
from sign_shelf.core.protocol.on_the_page import on_the_page
from sign_shelf.core.resolve import Lens, Prepared
from tests.core.test_checks import view
from tests.core.test_merge import edited, headings, relabel, tree

BASE = "https://b.example/"


@given(st.data())
def test_what_a_site_shows_is_told_whole_and_taken_over_whole(data: st.DataObject) -> None:
    """adopt ∘ read = live, whatever was edited there; all edits by their keys are the same as all."""
    base = data.draw(headings())
    there = data.draw(edited(base, "t"))
    drifted = place_drift(base, there, "en")
    if drifted is None:
        assert base == there
        return
    assert apply(base, drifted.edits) == drifted.there
    assert taken_over(drifted, base, None) == (drifted.there, ())
    assert taken_over(drifted, base, [edit.key for edit in drifted.edits])[0] == drifted.there
    assert taken_over(drifted, base, []) == (base, ())
    assert [item.label for _, item in walk(drifted.there)] == [item.label for _, item in walk(there)]  # type: ignore[union-attr]


@given(st.data())
def test_taken_over_beside_a_draft_what_either_edits_alone_is_there(data: st.DataObject) -> None:
    base = data.draw(headings())
    draft, there = data.draw(edited(base, "o")), data.draw(edited(base, "t"))
    drifted = place_drift(base, there, "en")
    if drifted is None or drifted.there != there:
        return
    items, conflicts = taken_over(drifted, draft, None)
    if not conflicts:
        kept = {item.id for _, item in walk(items)}
        added = {item.id for _, item in walk(draft)} - {item.id for _, item in walk(base)}
        assert added <= kept


def test_entries_whose_ids_the_site_did_not_keep_are_found_again_by_what_they_say() -> None:
    base = tree("Fares -> /fares\n  Passes -> /passes\nRoutes -> /routes\nContact -> /contact")
    there = parse_outline("Prices -> /fares\n  Passes -> /passes\nRoutes -> /routes\nSale -> /sale").items
    other = tuple(item.model_copy(update={"id": f"x-{item.id}"}) for item in there)
    drifted = place_drift(base, other, "en")
    assert drifted is not None
    assert {edit.says for edit in drifted.edits} >= {"Relabelled Fares to Prices"}
    assert len(drifted.edits) <= 4
    assert 0 < drifted.sure <= 1


OUTLINE = """\
Fares -> @fares
  Passes -> /passes
Routes -> /routes
Crew rota -> /rota {when signed_in}
Contact -> mailto:quay@b.example
"""


def read(page: str, items: Tree | None = None, seen_at: str | None = None) -> Drifted | None:
    site = view(OUTLINE).site
    if items is not None:
        site = site.model_copy(update={"menus": {"m": site.menus["m"].with_items(items)}})
    prepared = Prepared(site)
    given_ = prepared.resolve("legal", Lens(device="desktop", language="en", at="2027-02-12T09:00"))
    there = on_the_page(
        page.encode(), prepared.site.pages, language="en", base=BASE, seen_at={"legal": seen_at} if seen_at else {}
    )
    return page_drift(
        given_, there.of("legal"), prepared.site.pages, language="en", base=BASE, surely="legal" in there.at
    )


def page(change: Callable[[str], str] = str) -> str:
    """A page with other navigations beside the one that was given to it."""
    prepared = Prepared(view(OUTLINE).site)
    got = prepared.resolve("legal", Lens(device="desktop", language="en", at="2027-02-12T09:00"))
    navigation = change(menu_html("Legal line", got, language="en").decode())
    return (
        "<header><nav aria-label='Top'><ul><li><a href='/a'>A</a><li><a href='/b'>B</a></ul></nav></header>"
        f"<main><p>Text with <a href='/routes'>a link</a>.</p></main><footer>{navigation}</footer>"
    )


def test_a_page_that_shows_what_it_was_given_has_not_drifted_whatever_its_markup() -> None:
    assert read(page()) is None
    assert read(page(lambda html: html.replace("<ul", "<ul class='fancy'").replace("</a>", " </a>"))) is None
    assert read(page(lambda html: html.replace('href="/fares"', 'href="https://b.example/fares"'))) is None


@pytest.mark.parametrize(
    ("was", "now", "says"),
    [
        (">Routes<", ">Our routes<", {"Relabelled Routes to Our routes"}),
        ('href="/routes"', 'href="/sale"', {"Pointed Routes at /sale"}),
        ("<li><a href", '<li><a href="/sale">Sale</a></li><li><a href', {"Added Sale, to /sale"}),
        ('<li><a href="/routes">Routes</a></li>', "", {"Removed Routes"}),
    ],
)
def test_what_somebody_edited_on_the_page_is_told_in_sentences(was: str, now: str, says: set[str]) -> None:
    drifted = read(page(lambda html: html.replace(was, now, 1)))
    assert drifted is not None
    assert {edit.says for edit in drifted.edits} == says
    assert drifted.sure > 0.5
    # Taken over into the menu as people keep it, rules and all.
    menu = view(OUTLINE).site.menus["m"].items
    kept, conflicts = taken_over(drifted, menu, None, menu)
    assert not conflicts
    assert read(page(lambda html: html.replace(was, now, 1)), kept) is None, "adopted and read again it is in sync"
    assert "Crew rota -> /rota {when signed_in}" in format_outline(view(OUTLINE).site.menus["m"].with_items(kept))


def test_a_page_without_the_navigation_has_lost_all_of_it_and_that_is_not_sure() -> None:
    drifted = read("<nav><a href='/x'>X</a><a href='/y'>Y</a></nav>")
    assert drifted is not None
    assert drifted.sure == 0
    assert len(drifted.edits) >= 3


def test_where_a_place_is_known_to_stand_nothing_that_is_like_it_is_taken_for_it() -> None:
    whole = page()
    assert read(whole, seen_at="footer nav") is None
    # As it was given it stands above as well: by likeness alone the place itself might be anything.
    twice = page(lambda html: html.replace("Routes", "Our routes")).replace("<main>", f"<main>{page()}")
    assert read(twice) is None
    known = read(twice, seen_at="body > footer nav")
    assert known is not None
    assert [edit.says for edit in known.edits] == ["Relabelled Routes to Our routes"]
    other = read(whole, seen_at="header nav")
    assert other is not None
    assert other.sure > 0
    emptied = read(whole.replace("<main>", "<main><ul id=gone></ul>"), seen_at="#gone")
    assert emptied is not None
    assert (emptied.there, emptied.sure) == ((), 1.0)
    # Where nothing stands, likeness counts.
    assert read(whole, seen_at="#renamed") is None


def ids(items: Tree) -> list[str]:
    return [item.id for _, item in walk(items)]


def test_an_edit_of_the_shelf_and_one_of_the_site_that_meet_are_told() -> None:
    base = tree("Fares -> /fares\nRoutes -> /routes")
    drifted = place_drift(base, relabel(base, ids(base)[0], "Prices"), "en")
    assert drifted is not None
    items, conflicts = taken_over(drifted, relabel(base, ids(base)[0], "Tickets"), None)
    assert [one.id for one in conflicts] == [ids(base)[0]]
    assert items[0].label == {"en": "Tickets"}, "what was typed on the shelf stays"  # type: ignore[union-attr]
