"""Finding items again by content: what people do to menus, case by case, and what may never be paired."""

import pytest
from hypothesis import given

from sign_shelf.core.compare.matching import Match, adopt_ids, match_by_content
from sign_shelf.core.model.menu import MenuDocument, walk
from sign_shelf.core.model.tree import Tree, rebuilt
from sign_shelf.core.outline import parse_outline
from tests.documents import documents
from tests.examples import examples


def stripped(outline: str) -> Tree:
    """The outline's tree under ids that mean nothing: x1, x2, … in document order."""
    tree = parse_outline(outline).items
    names = {item.id: f"x{at}" for at, (_, item) in enumerate(walk(tree), start=1)}
    return tuple(rebuilt(item, lambda one: {"id": names[one.id]}) for item in tree)


def paired(before: str, after: str, seeds: dict[str, str] | None = None) -> dict[str, str]:
    found = match_by_content(parse_outline(before).items, stripped(after), seeds)
    return {theirs: match.id for theirs, match in found.items()}


SHOP = "Shop -> /shop\n  Toys -> /toys\n  Books -> /books\nNews -> /news\nContact -> /contact"


@pytest.mark.parametrize(
    ("after", "expected"),
    [
        # nothing but the ids
        (SHOP, {"x1": "shop", "x2": "toys", "x3": "books", "x4": "news", "x5": "contact"}),
        # a subtree moved whole, to the end
        ("News -> /news\nContact -> /contact\nShop -> /shop\n  Toys -> /toys\n  Books -> /books",
         {"x1": "news", "x2": "contact", "x3": "shop", "x4": "toys", "x5": "books"}),
        # a parent renamed and pointed elsewhere: its children tell
        ("Our goods -> /goods\n  Toys -> /toys\n  Books -> /books\nNews -> /news\nContact -> /contact",
         {"x1": "shop", "x2": "toys", "x3": "books", "x4": "news", "x5": "contact"}),
        # a label changed by a word
        ("Shop -> /shop\n  Toys and games -> /toys\n  Books -> /books\nNews -> /news\nContact -> /contact",
         {"x1": "shop", "x2": "toys", "x3": "books", "x4": "news", "x5": "contact"}),
        # a child that left its parent
        ("Shop -> /shop\n  Books -> /books\nNews -> /news\nToys -> /toys\nContact -> /contact",
         {"x1": "shop", "x2": "books", "x3": "news", "x4": "toys", "x5": "contact"}),
        # one gone, one new that is like nothing
        ("Shop -> /shop\n  Toys -> /toys\nNews -> /news\nContact -> /contact\nJobs at the harbour -> https://jobs.example/",
         {"x1": "shop", "x2": "toys", "x3": "news", "x4": "contact"}),
        # turned into a heading
        ("Shop:\n  Toys -> /toys\n  Books -> /books\nNews -> /news\nContact -> /contact",
         {"x1": "shop", "x2": "toys", "x3": "books", "x4": "news", "x5": "contact"}),
        ("", {}),
    ],
)  # fmt: skip
def test_what_people_do_to_menus(after: str, expected: dict[str, str]) -> None:
    assert paired(SHOP, after) == expected


def test_equal_entries_are_told_apart_by_where_they_stand() -> None:
    before = "A -> /a\n  More -> /more\n  ---\nB -> /b\n  More -> /more\n  ---"
    after = "B -> /b\n  More -> /more\n  ---\nA -> /a\n  More -> /more\n  ---"
    found = match_by_content(parse_outline(before).items, stripped(after))
    assert {theirs: match.id for theirs, match in found.items()} == {
        "x1": "b", "x2": "more-2", "x3": "divider-2", "x4": "a", "x5": "more", "x6": "divider",
    }  # fmt: skip
    assert all(match.confidence == 1 for match in found.values())


def test_entries_that_share_nothing_are_not_paired() -> None:
    assert paired("Timetables -> /t\nFares -> /f", "Orchid house -> https://o.example/\nClay workshop -> /clay") == {}


def test_what_is_known_beforehand_stands_whatever_it_says() -> None:
    found = paired("Fares -> /f\nNews -> /n", "News -> /n\nFares -> /f", {"x1": "fares", "x9": "nobody"})
    assert found["x1"] == "fares"
    assert found.get("x2") != "fares"


@given(documents, documents)
@examples(40)
def test_pairs_are_one_to_one_and_confidences_are_shares(one: MenuDocument, two: MenuDocument) -> None:
    found = match_by_content(one.items, two.items)
    known = {item.id for _, item in walk(one.items)}
    assert len({match.id for match in found.values()}) == len(found)
    assert {match.id for match in found.values()} <= known
    assert found.keys() <= {item.id for _, item in walk(two.items)}
    assert all(0 < match.confidence <= 1 for match in found.values())


@given(documents)
@examples(40)
def test_a_tree_is_wholly_found_in_itself(document: MenuDocument) -> None:
    found = match_by_content(document.items, document.items)
    assert len(found) == sum(1 for _ in walk(document.items))


def test_ids_that_are_free_stay_and_taken_ones_get_another() -> None:
    before = parse_outline("Fares -> /f\nNews -> /n").items
    after = parse_outline("News -> /else\nFares -> /f").items
    adopted = adopt_ids(before, after, {"fares": Match("fares", 1)})
    assert [item.id for item in adopted] == ["news-2", "fares"], "a new item may not take the id of one that is gone"
