"""The outline moves lines at once, in the browser: by the rules of core/model/tree.py, and where they refuse, not at all."""

from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.documents import read_menu
from sign_shelf.core.model.menu import Parent, children, walk
from sign_shelf.core.model.tree import (
    Tree,
    count,
    depth_of,
    duplicate,
    fresh_ids,
    index_by_id,
    insert,
    move,
    nest,
    numbers,
    parents,
    remove,
    unnest,
)
from tests.documents import menu_of, trees
from tests.interface.conftest import Interface

grown = trees.filter(lambda items: count(items) > 1)


def sent(items: Tree) -> Any:
    return menu_of(*items).to_json().get("items", [])


def got(items: Any) -> Tree:
    return read_menu({"format": "sign-shelf/menu", "version": 1, "name": "Menu", "items": items}).items


def ids(items: Tree) -> list[str]:
    return [item.id for _, item in walk(items)]


def some_id(data: st.DataObject, items: Tree) -> str:
    return data.draw(st.sampled_from(ids(items)))


def block_of(data: st.DataObject, items: Tree, interface: Interface) -> list[str]:
    chosen = data.draw(st.sets(st.sampled_from(ids(items)), min_size=1, max_size=4))
    heads: list[str] = interface("outline/block", "headsOf", sent(items), {"set": sorted(chosen)})
    return heads


def or_as_it_was(items: Tree, change: Any) -> Tree:
    try:
        return change()  # type: ignore[no-any-return]
    except EditRefused:
        return items


@given(grown, st.data())
def test_lines_move_as_the_core_moves_them(interface: Interface, items: Tree, data: st.DataObject) -> None:
    one, tree = some_id(data, items), sent(items)
    goal = data.draw(st.none() | st.sampled_from(ids(items)))
    at = data.draw(st.integers(0, 5))
    spot = {"parentId": goal, "index": at}
    assert got(interface("outline/tree", "nest", tree, one)) == or_as_it_was(items, lambda: nest(items, one))
    assert got(interface("outline/tree", "unnest", tree, one)) == or_as_it_was(items, lambda: unnest(items, one))
    assert got(interface("outline/tree", "remove", tree, one)) == remove(items, one)
    moved = got(interface("outline/tree", "move", tree, one, spot))
    assert moved == or_as_it_was(items, lambda: move(items, one, parent=goal, at=at))
    new = index_by_id(items)[one].model_copy(update={"id": "new", **({"items": ()} if children_of(items, one) else {})})
    holder = goal if goal is None or isinstance(index_by_id(items)[goal], Parent) else None
    inserted = interface("outline/tree", "insert", tree, sent((new,))[0], {"parentId": holder, "index": at})
    assert got(inserted) == insert(items, new, parent=holder, at=at)


def children_of(items: Tree, one: str) -> Tree:
    return children(index_by_id(items)[one])


@given(grown, st.data())
def test_a_line_goes_up_and_down_among_its_own_level(interface: Interface, items: Tree, data: st.DataObject) -> None:
    one, step = some_id(data, items), data.draw(st.sampled_from([-1, 1]))
    shifted = got(interface("outline/tree", "shift", sent(items), one, step))
    above = parents(items)[one]
    assert parents(shifted)[one] == above
    siblings = [item.id for item in (items if above is None else children_of(items, above))]
    after = [item.id for item in (shifted if above is None else children_of(shifted, above))]
    place = siblings.index(one) + step
    if 0 <= place < len(siblings):
        siblings.remove(one)
        siblings.insert(place, one)
        assert got(interface("outline/tree", "shift", sent(shifted), one, -step)) == items
    assert after == siblings


@given(grown, st.data())
def test_a_block_moves_whole_or_not_at_all(interface: Interface, items: Tree, data: st.DataObject) -> None:
    heads, tree = block_of(data, items, interface), sent(items)
    assert not any(set(heads) & set(ids(children_of(items, head))) for head in heads), "none goes along with another"
    assert heads == [one for one in ids(items) if one in heads], "in the order of the document"
    for name, further in (("nestAll", []), ("unnestAll", []), ("shiftAll", [-1]), ("shiftAll", [1])):
        moved = got(interface("outline/block", name, tree, heads, *further))
        assert sorted(ids(moved)) == sorted(ids(items)), "nothing lost, nothing doubled"
        if moved != items:
            if len({parents(items)[head] for head in heads}) == 1:
                assert [one for one in ids(moved) if one in heads] == heads, "one after the other, as they stood"
            for head in heads:
                assert index_by_id(moved)[head] == index_by_id(items)[head] or name == "nestAll"
    spot = {"parentId": data.draw(st.none() | st.sampled_from(ids(items))), "index": 0}
    holder = spot["parentId"] and index_by_id(items)[spot["parentId"]]
    if holder is None or (isinstance(holder, Parent) and holder.id not in heads):
        moved = got(interface("outline/block", "moveAll", tree, heads, spot))
        assert sorted(ids(moved)) == sorted(ids(items))
        if moved != items:
            now = moved if holder is None else children_of(moved, holder.id)
            assert [item.id for item in now[: len(heads)]] == heads
    assert set(ids(got(interface("outline/block", "removeAll", tree, heads)))) == set(ids(items)) - {
        below for head in heads for below in (head, *ids(children_of(items, head)))
    }


@given(grown, st.data())
def test_copies_have_ids_of_their_own_and_know_their_origin(
    interface: Interface, items: Tree, data: st.DataObject
) -> None:
    one = some_id(data, items)
    made = interface("outline/block", "duplicateAll", sent(items), [one])
    doubled = got(made["tree"])
    assert len(set(ids(doubled))) == len(ids(doubled)) == count(items) + 1 + len(ids(children_of(items, one)))
    (copy,) = made["copies"]
    rightly = duplicate(items, one, new_ids=fresh_ids(ids(items), "copy"))
    assert [level for level, _ in walk(doubled)] == [level for level, _ in walk(rightly)]
    assert remove(doubled, copy) == items
    for (_, own), (_, new) in zip(
        walk((index_by_id(items)[one],)), walk((index_by_id(doubled)[copy],)), strict=True
    ):  # fmt: skip
        assert new.origin == own.id
    fresh = interface("outline/tree", "withNewIds", sent(items))
    assert not set(ids(got(fresh))) & set(ids(items))
    assert [item.kind for _, item in walk(got(fresh))] == [item.kind for _, item in walk(items)]


@given(grown, st.data())
def test_rows_are_numbered_and_folded_as_the_document_is(
    interface: Interface, items: Tree, data: st.DataObject
) -> None:
    tree = sent(items)
    folded = data.draw(st.sets(st.sampled_from(ids(items)), max_size=3))
    rows = interface("outline/tree", "flatten", tree, {"set": sorted(folded)})
    above, number = parents(items), numbers(items)
    hidden = {below for one in folded for below in ids(children_of(items, one))}
    assert [row["item"]["id"] for row in rows] == [one for one in ids(items) if one not in hidden]
    for row in rows:
        one = row["item"]["id"]
        siblings = items if above[one] is None else children_of(items, above[one] or "")
        assert (row["number"], row["parentId"], row["size"]) == (number[one], above[one], len(siblings))
        assert row["level"] == len(number[one].split(".")) == len(row["rails"]) + 1
        assert row["hasChildren"] is bool(children_of(items, one))
        assert siblings[row["index"]].id == one
    for level in (1, 2, 3):
        closed = interface("outline/tree", "foldedAt", tree, level)
        shown = interface("outline/tree", "flatten", tree, closed)
        assert max(row["level"] for row in shown) == min(level, depth_of(items))
    one = some_id(data, items)
    path = [one]
    while (parent := above[path[-1]]) is not None:
        path.append(parent)
    assert interface("outline/tree", "pathTo", tree, one) == path


@given(grown, trees, st.data())
def test_rows_that_are_kept_are_as_rows_made_anew(
    interface: Interface, items: Tree, other: Tree, data: st.DataObject
) -> None:
    """After a move, a new label, a fold, in another tree: whatever rows were there before."""
    tree, one = sent(items), some_id(data, items)
    folds = [{"set": sorted(data.draw(st.sets(st.sampled_from(ids(items)), max_size=2)))} for _ in range(2)]
    before = interface("outline/tree", "flatten", tree, folds[0])
    spot = {"parentId": data.draw(st.none() | st.sampled_from(ids(items))), "index": data.draw(st.integers(0, 3))}
    label = index_by_id(items)[one].model_copy(update={"from_": "2027-01-01T00:00", "until": None})
    relabelled = tuple(label if item.id == one else item for item in items)
    for after in (
        tree, interface("outline/tree", "move", tree, one, spot), interface("outline/tree", "remove", tree, one),
        interface("outline/tree", "nest", tree, one), sent(relabelled), sent(other),
    ):  # fmt: skip
        kept = interface("outline/tree", "flatten", after, folds[1], before)
        assert kept == interface("outline/tree", "flatten", after, folds[1])


@given(grown, st.data())
def test_blank_lines_are_not_saved_and_what_stands_below_them_is(
    interface: Interface, items: Tree, data: st.DataObject
) -> None:
    blanked = set(data.draw(st.sets(st.sampled_from(ids(items)), max_size=3)))
    tree = sent(items)

    def blank(item: Any) -> Any:
        below = [blank(one) for one in item.get("items", [])]
        if item["id"] in blanked:
            item = {"id": item["id"], "kind": "link", "label": {}, "target": {"pending": {}}}
        return item | ({"items": below} if below else {})

    written = [item["id"] for item in flat(interface("outline/tree", "written", [blank(item) for item in tree]))]
    assert written == [item["id"] for item in flat(tree) if item["id"] not in blanked]


def flat(tree: Any) -> list[Any]:
    return [one for item in tree for one in (item, *flat(item.get("items", [])))]


@given(grown, st.data())
def test_a_dragged_block_lands_where_the_guide_says(interface: Interface, items: Tree, data: st.DataObject) -> None:
    tree, heads = sent(items), block_of(data, items, interface)
    moving = interface("outline/block", "itemsOf", tree, heads)
    rows = interface("outline/tree", "flatten", interface("outline/block", "removeAll", tree, heads), {"set": []})
    y, level = data.draw(st.floats(-50, 900)), data.draw(st.integers(-2, 9))
    limit = data.draw(st.none() | st.integers(1, 5).map(lambda depth: {"depth": depth, "title": "Header bar"}))
    landing = interface("outline/drop", "landing", rows, moving, y, level, limit)
    spot = {"parentId": landing["parentId"], "index": landing["index"]}
    moved = got(interface("outline/block", "moveAll", tree, heads, spot))
    assert sorted(ids(moved)) == sorted(ids(items))
    depths = {item.id: depth for depth, item in walk(moved)}
    assert {depths[head] for head in heads} == {landing["level"]}
    stays = [one for one in ids(moved) if one in {row["item"]["id"] for row in rows}]
    assert stays == [row["item"]["id"] for row in rows], "what stays keeps its order"
    before = ids(moved)[: ids(moved).index(heads[0])]
    assert len(before) == landing["row"], "it stands where the guide was drawn"
    deepest = max(depths[below] for head in heads for below in (head, *ids(children_of(items, head))))
    assert (landing["refusal"] is not None) == (limit is not None and deepest > limit["depth"])


@given(st.lists(st.sampled_from(["typed", "moved", "undone", "redone", "rested"]), max_size=25))
def test_undo_goes_back_over_every_step_and_redo_forward(interface: Interface, steps: list[str]) -> None:
    """Against a plain list of states with a place in it; a run of typing is one state, until the line is left."""
    history = interface("outline/history", "begin", {"name": "Menu", "tree": []})
    states: list[Any] = [[]]
    at, run = 0, False
    for number, step in enumerate(steps):
        tree = [{"id": f"i{number}", "kind": "divider"}]
        if step in {"undone", "redone"}:
            history = interface("outline/history", "reduce", history, {"type": step})
            moved = at > 0 if step == "undone" else at + 1 < len(states)
            at, run = at + (0 if not moved else -1 if step == "undone" else 1), run and not moved
        elif step == "rested":
            # The line was left: what is typed next is a step of its own.
            history, run = interface("outline/history", "reduce", history, {"type": step}), False
        else:
            kind: dict[str, Any] = {"type": "edited", "tree": tree}
            history = interface(
                "outline/history", "reduce", history, kind | ({"run": "label i1"} if step == "typed" else {})
            )
            keep = at if step == "typed" and run else at + 1
            states, at, run = [*states[:keep], tree], keep, step == "typed"
        assert history["present"]["tree"] == states[at]
        assert [one["tree"] for one in history["past"]] == states[:at]
        assert [one["tree"] for one in history["future"]] == states[at + 1 :]


@given(grown, st.data())
def test_a_step_leads_to_the_line_that_it_is_about(interface: Interface, items: Tree, data: st.DataObject) -> None:
    """Forwards and back, which is what redo and undo ask for."""
    one, step = some_id(data, items), data.draw(st.sampled_from(["remove", "move", "change"]))
    before: Any = sent(items)
    after: Any = sent(items)
    if step == "remove":
        after = interface("outline/tree", "remove", before, one)
    elif step == "move":
        goal = data.draw(st.sampled_from([None, *ids(items)]))
        after = interface(
            "outline/tree", "move", before, one, {"parentId": goal, "index": data.draw(st.integers(0, 3))}
        )
    else:
        found = json_of(after, one)
        found["hooks"] = [*found.get("hooks", []), "another-name"]
    there = interface("outline/history", "changedAt", before, after)
    back = interface("outline/history", "changedAt", after, before)
    if before == after:
        assert there is None
        assert back is None
    elif step == "remove":
        assert back == one, "what comes back is led to"
        assert there in ids(got(after)) if after else there is None
    elif step == "change" or parents(items)[one] != parents(got(after))[one]:
        assert there == back == one
    else:
        swapped = [was for was, now in zip(ids_beside(before, one), ids_beside(after, one), strict=True) if was != now]
        assert {there, back} == {one} or (len(swapped) == 2 and {there, back} <= set(swapped))


def json_of(items: list[Any], wanted: str) -> Any:
    found = (one if one["id"] == wanted else json_of(one.get("items", []), wanted) for one in items)
    return next((one for one in found if one), None)


def ids_beside(items: list[Any], wanted: str) -> list[str]:
    own = [one["id"] for one in items]
    below = (ids_beside(one.get("items", []), wanted) for one in items)
    return own if wanted in own else next((found for found in below if found), [])
