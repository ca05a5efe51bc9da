"""Shared menus: what is a site's own filled in, and its adjustments held while the shared menu moves on."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.menu import AnyItem, Heading, MenuDocument, children, menu_document, walk
from sign_shelf.core.model.site import Particulars
from sign_shelf.core.model.tree import Tree, index_by_id, parents, rebuilt, remove
from sign_shelf.core.outline import format_outline
from sign_shelf.core.sharing import PageName, Rolled, filled, followed, refuse_unshareable, rolled
from sign_shelf.core.sharing.filling import details_of, page_in_role, roles_of
from tests.core.test_merge import edited, headings, relabel, tree
from tests.examples import examples

three_trees = headings().flatmap(lambda base: st.tuples(st.just(base), edited(base, "o"), edited(base, "n")))


def roll(before: Tree, own: Tree, now: Tree) -> Rolled:
    return rolled(*(menu_document("Legal", one) for one in (before, own, now)))


def words(item: AnyItem) -> object:
    assert isinstance(item, Heading)
    return item.label


@given(three_trees)
@examples(200)
def test_nothing_of_an_adjustment_is_lost_and_nothing_else_of_what_moved_on(trees: tuple[Tree, Tree, Tree]) -> None:
    before, own, now = trees
    assert roll(before, before, now).menu.items == now
    assert roll(before, own, before).menu.items == own
    assert roll(before, own, own).menu.items == own
    after = roll(before, own, now).menu.items
    was, mine, new, found = (index_by_id(one) for one in (before, own, now, after))
    above_was, above_mine, above_found = (parents(one) for one in (before, own, after))
    hidden = was.keys() - mine.keys()
    assert not hidden & found.keys(), "what the site hid stays hidden"
    assert mine.keys() - was.keys() <= found.keys(), "what the site put in stays"
    for one in mine.keys() & was.keys():
        relabelled = words(mine[one]) != words(was[one])
        moved = above_mine[one] != above_was[one]
        if relabelled or moved:
            assert one in found, "an entry that the site adjusted stays, even where the shared menu took it out"
        if relabelled:
            assert words(found[one]) == words(mine[one])
        if moved:
            assert above_found[one] == above_mine[one]
        if one in new and not relabelled:
            assert words(found[one]) == words(new[one]), "what the site did not set is the shared menu's"
    below_hidden = {item.id for one in hidden & new.keys() for _, item in walk((new[one],))}
    assert new.keys() - was.keys() - below_hidden <= found.keys(), "what is new comes, but below what is hidden"


def test_where_both_changed_the_same_the_sites_own_holds_and_both_are_told() -> None:
    base = tree("Privacy -> /privacy\nImprint -> /imprint\nTerms -> /terms")
    privacy, imprint, terms = (item.id for item in base)
    own = remove(relabel(relabel(base, privacy, "Your data"), imprint, "Who we are"), terms)
    now = remove(relabel(relabel(base, privacy, "Privacy notice"), terms, "Conditions"), imprint)
    after = roll(base, own, now)
    assert format_outline(after.menu).partition("\n")[2] == "Your data -> /privacy\nWho we are -> /imprint\n"
    assert [(one.title, one.field, one.ours, one.theirs) for one in after.met] == [
        ("Your data", "its label in English", "Your data", "Privacy notice")
    ]
    assert after.left == (imprint,)
    assert after.does == ()


def test_what_a_site_has_otherwise_is_told_in_sentences_with_what_no_longer_applies() -> None:
    shared = menu_document("Legal", tree("Privacy -> @privacy\nImprint -> @imprint"))
    site = Particulars(key="b", name="Brackwater", base="https://b.example/")
    pages = [PageName("p1", "/legal/privacy.html", ("Privacy",)), PageName("p2", "/who", ("Imprint",))]
    mine = filled("shared:legal", shared, site, pages).menu
    assert followed("shared:legal", mine, mine) == followed("shared:legal", mine, mine.model_copy())
    privacy, imprint = (item.id for item in mine.items)
    own = mine.with_items(remove(relabel(mine.items, imprint, "About"), privacy))
    found = followed("shared:legal", mine, own)
    assert sorted(edit.says for edit in found.adjustments) == ["Relabelled Imprint to About", "Removed Privacy"]
    assert found.left == ()
    assert followed("shared:legal", mine.with_items(()), own).left == (imprint,)


SHARED = """\
"Call {site.name} on {site.phone}" -> tel:{site.phone}
Fax -> tel:{site.fax}
Shop -> https://shop.example/{site.shop}?from={site.name}
Write -> mailto:{site.mail}
-> @privacy
Terms -> @terms
Legal: {nl "Juridisch"}
  Imprint -> @imprint
"""


def test_a_sites_own_is_filled_in_and_nothing_shows_with_a_hole_in_it() -> None:
    shared = menu_document("Legal", tree(SHARED))
    refuse_unshareable(shared)
    assert details_of(shared) == ("phone", "fax", "shop", "mail")
    assert roles_of(shared) == ("privacy", "terms", "imprint")
    site = Particulars(
        key="b", name="Brack & Water", base="https://b.example/", languages=("en-GB",),
        details={"phone": "+44 20 7946 0018", "shop": "brack", "mail": "no address"}, roles={"imprint": "who"},
    )  # fmt: skip
    pages = [
        PageName("p9", "/archive/privacy", ()), PageName("p1", "/privacy", ("Privacy",)), PageName("who", "/us", ("Us",)),
    ]  # fmt: skip
    found = filled("shared:legal", shared, site, pages)
    plain = tuple(rebuilt(item, lambda _: {"origin": None}) for item in found.menu.items)
    assert format_outline(menu_document("Legal", plain)).splitlines()[1:] == [
        "Call Brack & Water on +44 20 7946 0018 -> <tel:+44 20 7946 0018>",
        "Shop -> https://shop.example/brack?from=Brack%20%26%20Water",
        "-> @p1",
        "Terms -> ? {note No page here is its terms page.}",
        "Legal:",
        "  Imprint -> @who",
    ]
    said = [(one.title, one.leaves_out) for one in found.notes]
    assert said == [("Fax", True), ("Write", True), ("Terms", False)]
    assert "no fax" in found.notes[0].says
    assert {item.origin for _, item in walk(found.menu.items)} == {
        f"shared:legal/{item.id}" for _, item in walk(found.menu.items)
    }


def test_which_page_is_in_a_role_is_named_or_seen() -> None:
    site = Particulars(key="b", name="B", base="https://b.example/")
    pages = [
        PageName("a", "/x/privacy-policy", ("Data",)), PageName("b", "/privacy-policy/", ("Other",)), PageName("c", "/c", ("Legal notice",)),
    ]  # fmt: skip
    assert page_in_role("privacy-policy", site, pages) == "b", "of several the one with the shortest address"
    assert page_in_role("legal-notice", site, pages) == "c"
    assert page_in_role("a", site, pages) == "a"
    assert page_in_role("imprint", site, pages) is None
    named = site.model_copy(update={"roles": {"privacy-policy": "a", "imprint": "gone"}})
    assert page_in_role("privacy-policy", named, pages) == "a"
    assert page_in_role("imprint", named, pages) is None, "a page that is named and not there is not guessed at"


@pytest.mark.parametrize(
    ("outline", "says"),
    [("+ other", "includes other"), ("\"Call {site.}\" -> /call", "names no detail"), ("Call -> /{site.9}", "names no detail")],
)  # fmt: skip
def test_what_no_site_could_follow_is_refused(outline: str, says: str) -> None:
    with pytest.raises(EditRefused, match=says):
        refuse_unshareable(MenuDocument.model_construct(name="Legal", items=tree(outline)))


def test_what_the_site_kept_of_a_hidden_entry_takes_its_place() -> None:
    base = tree("Company:\n  Press -> /press\nJobs -> /jobs")
    company, jobs = base
    now = tree("Company:\n  Press -> /press\n  News -> /news\n  Jobs -> /jobs")
    assert index_by_id(base).keys() < index_by_id(now).keys()
    after = roll(base, (*children(company), jobs), now).menu
    assert sorted(item.id for _, item in walk(after.items)) == sorted([children(company)[0].id, jobs.id])
