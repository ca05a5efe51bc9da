"""Merging: the laws with generated trees and edits, the cases that people meet."""

from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.compare import Conflict, diff, merge
from sign_shelf.core.compare.both import KEPT_BOTH, Choice, beside, sides
from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.menu import AnyItem, Heading, UrlTarget, walk
from sign_shelf.core.model.tree import Tree, index_by_id, insert, move, nest, rebuilt, remove, unnest
from sign_shelf.core.outline import parse_outline
from tests.examples import examples


def heading(item_id: str, *items: AnyItem) -> Heading:
    return Heading(id=item_id, kind="heading", label={"en": item_id}, items=tuple(items))


def tree(outline: str) -> Tree:
    return parse_outline(outline).items


def relabel(items: Tree, item_id: str, words: str) -> Tree:
    return tuple(rebuilt(item, lambda one: {"label": {"en": words}} if one.id == item_id else {}) for item in items)


@st.composite
def headings(draw: st.DrawFn) -> Tree:
    items: Tree = ()
    for number in range(draw(st.integers(0, 7))):
        parent = draw(st.sampled_from([None, *index_by_id(items)]))
        items = insert(items, heading(f"b{number}"), parent=parent, at=draw(st.integers(0, 3)))
    return items


@st.composite
def edited(draw: st.DrawFn, items: Tree, mark: str) -> Tree:
    """The tree after up to four edits of any sort."""
    for number in range(draw(st.integers(0, 4))):
        known = sorted(index_by_id(items))
        edit = draw(st.sampled_from(["insert", "relabel", "move", "remove"] if known else ["insert"]))
        parent = draw(st.sampled_from([None, *known]))
        at = draw(st.integers(0, 3))
        if edit == "insert":
            items = insert(items, heading(f"{mark}{number}"), parent=parent, at=at)
            continue
        chosen = draw(st.sampled_from(known))
        if edit == "relabel":
            items = relabel(items, chosen, f"{mark} {number}")
        elif edit == "remove":
            items = remove(items, chosen)
        else:
            try:
                items = move(items, chosen, parent=parent, at=at)
            except EditRefused:
                continue
    return items


three_trees = headings().flatmap(lambda base: st.tuples(st.just(base), edited(base, "o"), edited(base, "t")))


@given(three_trees)
@examples(300)
def test_an_unchanged_side_gives_way(trees: tuple[Tree, Tree, Tree]) -> None:
    """merge(b, b, x) = merge(b, x, b) = merge(b, x, x) = x, without conflicts."""
    base, changed, _ = trees
    for ours, theirs in ((base, changed), (changed, base), (changed, changed)):
        merged = merge(base, ours, theirs)
        assert merged.items == changed
        assert merged.conflicts == ()


@given(three_trees)
@examples(300)
def test_nothing_vanishes_and_conflicts_are_symmetric(trees: tuple[Tree, Tree, Tree]) -> None:
    """An item is gone only when one side removed it and the other had left it alone; sides can be swapped."""
    base, ours, theirs = trees
    merged, mirrored = merge(base, ours, theirs), merge(base, theirs, ours)

    def keys(conflicts: tuple[Conflict, ...]) -> set[tuple[str, str, str | None]]:
        return {(one.id, one.kind, one.field) for one in conflicts}

    assert keys(merged.conflicts) == keys(mirrored.conflicts)
    left = index_by_id(merged.items)
    assert len(left) == sum(1 for _ in walk(merged.items))
    removed = {one.id for one in merged.conflicts if one.kind == "edit-remove" and one.ours == "removed"}
    for mine, other in ((ours, theirs), (theirs, ours)):
        for item_id in index_by_id(mine):
            if item_id not in left:
                assert item_id in index_by_id(base)
                assert item_id not in index_by_id(other) or item_id in removed


@given(three_trees)
def test_diff_is_empty_for_equal_trees_only(trees: tuple[Tree, Tree, Tree]) -> None:
    base, changed, _ = trees
    assert diff(base, base) == []
    assert (diff(base, changed) == []) == (base == changed)


BASE = "A:\n  B -> /b\n  C -> /c\nD:"


def _both(items: Tree, *edits: Callable[[Tree], Tree]) -> Tree:
    for edit in edits:
        items = edit(items)
    return items


@pytest.mark.parametrize(
    ("ours", "theirs", "kinds", "says"),
    [
        (lambda t: move(t, "b", parent="d", at=0), lambda t: relabel(t, "b", "Bee"), [], "Moved Bee from A to D"),
        (
            lambda t: remove(t, "a"),
            lambda t: relabel(t, "b", "Bee"),
            ["edit-remove", "edit-remove"],
            "Relabelled B to Bee",
        ),
        (
            lambda t: move(t, "a", parent="d", at=0),
            lambda t: move(t, "d", parent="a", at=0),
            ["cycle", "cycle"],
            "Moved A",
        ),
        (lambda t: relabel(t, "b", "X"), lambda t: relabel(t, "b", "Y"), ["edit-edit"], "Relabelled B to X"),
        (
            lambda t: move(t, "b", parent="d", at=0),
            lambda t: move(t, "b", parent=None, at=0),
            ["move-move"],
            "from A to D",
        ),
        (lambda t: nest(t, "c"), lambda t: unnest(t, "c"), ["move-move"], "Moved C from A to B"),
        (
            lambda t: insert(t, heading("n"), parent="a", at=9),
            lambda t: insert(t, heading("m"), parent="a", at=0),
            [],
            "Added n",
        ),
    ],
)
def test_cases(ours: Callable[[Tree], Tree], theirs: Callable[[Tree], Tree], kinds: list[str], says: str) -> None:
    """A move and a relabel both survive; contested removals, crossing moves and double edits are conflicts."""
    base = tree(BASE)
    merged = merge(base, ours(base), theirs(base))
    assert [conflict.kind for conflict in merged.conflicts] == kinds
    assert says in "; ".join(edit.says for edit in diff(base, merged.items))


def test_a_choice_settles_a_conflict() -> None:
    base = tree(BASE)
    ours, theirs = relabel(base, "b", "X"), relabel(base, "b", "Y")
    chosen = merge(base, ours, theirs, choices={"b": "theirs"})
    assert chosen.items == theirs
    assert merge(base, ours, theirs).items == ours


def test_each_of_an_items_conflicts_is_settled_by_itself() -> None:
    base = tree("A -> /a")

    def side(words: str, url: str) -> Tree:
        fields = {"label": {"en": words}, "target": UrlTarget(url=url)}
        return tuple(rebuilt(item, lambda one: fields) for item in base)

    mine, other = side("Mine", "/mine"), side("Other", "/other")
    met = {conflict.field: conflict.key for conflict in merge(base, mine, other).conflicts}
    both = merge(base, mine, other, choices={met["label.en"]: "theirs", met["target"]: "ours"})
    assert both.items == side("Other", "/mine")


def test_sentences_name_what_was_done() -> None:
    before = tree("Fares -> @fares\nPress -> ?\nAbout:\n  Team -> @team\n  Jobs -> @jobs")
    after = move(remove(relabel(before, "fares", "Fares & passes"), "press"), "jobs", parent="about", at=0)
    assert [edit.says for edit in diff(before, after)] == [
        "Relabelled Fares to Fares & passes",
        "Put Jobs to the front",
        "Removed Press",
    ]


@given(three_trees)
@examples(200)
def test_where_both_are_chosen_nothing_of_either_is_lost_and_nothing_else_is_another(
    trees: tuple[Tree, Tree, Tree],
) -> None:
    base, ours, theirs = trees
    met = merge(base, ours, theirs).conflicts
    choices: dict[str, Choice] = {one.id: "both" if one.kind in KEPT_BOTH else "ours" for one in met}
    plain = merge(base, ours, theirs, choices=sides(choices)).items
    result = index_by_id(beside(plain, theirs, met, choices))
    copies = {item.origin: item for id, item in result.items() if id not in index_by_id(plain)}
    wanted = {one.id for one in met if one.kind in KEPT_BOTH and choices[one.id] == "both"}
    assert set(copies) == wanted & index_by_id(plain).keys() & index_by_id(theirs).keys()
    for origin, copy in copies.items():
        assert alone(copy, id="x", origin=None) == alone(index_by_id(theirs)[str(origin)], id="x", origin=None)
    stands = {id: alone(item) for id, item in index_by_id(plain).items()}
    assert stands == {id: alone(item) for id, item in result.items() if id in stands}


def alone(item: AnyItem, **other: object) -> AnyItem:
    """Without what is below it."""
    return item.model_copy(update={"items": (), **other})
