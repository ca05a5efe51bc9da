"""What others did comes into every state that undo and redo lead to: held against the core's merge."""

from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.compare import merge
from sign_shelf.core.model.tree import Tree, index_by_id, parents
from tests.core.test_merge import edited, headings, three_trees
from tests.examples import examples
from tests.interface.conftest import Interface
from tests.interface.test_tree_moves import got, sent


def brought(interface: Interface, state: Tree, before: Tree, after: Tree) -> Tree:
    edits = interface("outline/brought", "editsBetween", sent(before), sent(after))
    return got(interface("outline/brought", "brought", sent(state), edits))


@given(three_trees)
@examples(150)
def test_somebodys_edits_lead_from_what_was_to_what_is(interface: Interface, trees: tuple[Tree, Tree, Tree]) -> None:
    """Brought into the state that they were done to they give the one that they led to; none change nothing."""
    base, mine, theirs = trees
    assert brought(interface, base, base, theirs) == theirs
    assert brought(interface, mine, base, base) == mine


@given(three_trees)
@examples(300)
def test_both_sides_edits_are_in_what_comes_out(interface: Interface, trees: tuple[Tree, Tree, Tree]) -> None:
    """As the core merges them where it sees no conflict: the same items below the same ones. Where it does see one, what
    somebody else did stands, and nothing that one added oneself is gone."""
    base, mine, theirs = trees
    found = brought(interface, mine, base, theirs)
    merged = merge(base, mine, theirs)
    names = list(index_by_id(found))
    assert len(names) == len(set(names))
    if not merged.conflicts:
        assert parents(found) == parents(merged.items)
        whole = index_by_id(merged.items)
        assert {key: item.label for key, item in index_by_id(found).items()} == {  # type: ignore[union-attr]
            key: item.label
            for key, item in whole.items()  # type: ignore[union-attr]
        }
    own = index_by_id(mine).keys() - index_by_id(base).keys()
    added = index_by_id(theirs).keys() - index_by_id(base).keys()
    gone = index_by_id(base).keys() - index_by_id(theirs).keys()
    assert own | added <= set(names)
    assert not gone & set(names)


@given(headings().flatmap(lambda base: st.tuples(st.just(base), edited(base, "o"), edited(base, "t"))))
@examples(100)
def test_undo_takes_back_ones_own_step_and_nothing_else(interface: Interface, trees: tuple[Tree, Tree, Tree]) -> None:
    """One edits, somebody else's edits come in, one takes one's own back: what is left is what they did."""
    base, mine, theirs = trees
    history: Any = interface("outline/history", "begin", {"name": "Mine", "tree": sent(base)})
    mine_now = {"name": "Mine, renamed", "tree": sent(mine)}
    history = interface("outline/history", "reduce", history, {"type": "edited", **mine_now})
    edits = interface("outline/brought", "editsBetween", sent(base), sent(theirs))
    both = interface("outline/brought", "brought", sent(mine), edits)
    came = {"type": "brought", "edits": edits, "tree": both}
    history = interface("outline/history", "reduce", history, came)
    assert history["present"] == {"name": "Mine, renamed", "tree": both}
    undone = interface("outline/history", "reduce", history, {"type": "undone"})
    assert undone["present"]["name"] == "Mine"
    assert got(undone["present"]["tree"]) == theirs
    assert interface("outline/history", "reduce", undone, {"type": "redone"})["present"] == history["present"]
    renamed = interface("outline/history", "reduce", history, {**came, "name": "Theirs"})
    assert interface("outline/history", "reduce", renamed, {"type": "undone"})["present"]["name"] == "Theirs"
