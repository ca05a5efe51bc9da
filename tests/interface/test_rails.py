"""A menu before and after, as it is drawn: nothing that was touched is folded away, and what moved is joined to itself."""

from dataclasses import asdict

from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.compare.rails import rails
from sign_shelf.core.model.tree import Tree
from tests.core.test_merge import edited, headings
from tests.interface.conftest import Interface


@given(headings(), st.data())
def test_folding_leaves_what_was_touched_and_joins_what_moved(
    interface: Interface, before: Tree, data: st.DataObject
) -> None:
    found = rails(before, data.draw(edited(before, "x")), "en")
    sides = [[asdict(line) for line in lines] for lines in (found.before, found.after)]
    rows = [interface("views/changes/rails", "folded", side) for side in sides]
    for side, shown in zip(sides, rows, strict=True):
        assert sum(row.get("more", 1) for row in shown) == len(side), "every line is there, or counted"
        drawn = [row["line"] for row in shown if "line" in row]
        assert [line for line in side if line["what"] != "kept"] == [line for line in drawn if line["what"] != "kept"]
        assert all(row["more"] > 2 for row in shown if "more" in row)
    for joint in interface("views/changes/rails", "joints", *rows):
        one, other = rows[0][joint["from"]]["line"], rows[1][joint["to"]]["line"]
        assert (one["id"], one["what"]) == (other["id"], other["what"])
        assert joint["what"] == one["what"]
