"""Tree operations: nothing lost, no loops, undo by the opposite; hashes and paths of problems."""

import hashlib

import pytest
import rfc8785
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.errors import EditRefused, InvalidDocument
from sign_shelf.core.model.documents import canonical, content_hash, parse_json, read_menu
from sign_shelf.core.model.menu import MenuDocument, Parent, walk
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
from sign_shelf.core.outline import parse_outline
from tests.documents import documents, trees


@given(trees, st.data())
def test_moving_keeps_every_item_and_can_be_taken_back(items: Tree, data: st.DataObject) -> None:
    known = index_by_id(items)
    if not known:
        return
    moving = data.draw(st.sampled_from(sorted(known)))
    holders = [None, *(key for key, item in known.items() if isinstance(item, Parent))]
    goal = data.draw(st.sampled_from(holders))
    was = parents(items)[moving]
    siblings = items if was is None else known[was].items  # type: ignore[union-attr]
    place = [item.id for item in siblings].index(moving)
    try:
        moved = move(items, moving, parent=goal, at=0)
    except EditRefused as refusal:
        assert "inside" in str(refusal)
        return
    assert set(index_by_id(moved)) == set(known)
    assert move(moved, moving, parent=was, at=place) == items


@given(trees)
def test_a_duplicate_has_new_ids_and_the_same_shape(items: Tree) -> None:
    for item in items:
        copied = duplicate(items, item.id, new_ids=fresh_ids(index_by_id(items), "copy"))
        assert count(copied) == count(items) + count((item,))
        assert len(index_by_id(copied)) == count(copied)
        assert remove(copied, "copy") == items


@given(trees)
def test_numbers_follow_the_order_of_the_document(items: Tree) -> None:
    found = [tuple(map(int, numbers(items)[item.id].split("."))) for _, item in walk(items)]
    assert found == sorted(found)
    assert max((len(number) for number in found), default=0) == depth_of(items)


def test_nest_and_unnest_are_opposites() -> None:
    items = parse_outline("A:\n  B -> /b\nC -> /c").items
    nested = nest(items, "c")
    assert parents(nested)["c"] == "a"
    assert unnest(nested, "c") == items


@pytest.mark.parametrize(
    ("edit", "says"),
    [
        (lambda t: nest(t, "a"), "no neighbour"),
        (lambda t: unnest(t, "a"), "at the top"),
        (lambda t: move(t, "a", parent="b", at=0), "inside"),
        (lambda t: remove(t, "z"), 'no item "z"'),
        (lambda t: move(t, "a", parent="divider", at=0), "cannot hold"),
        (lambda t: insert(t, t[0], parent=None, at=0), "already has"),
    ],
)
def test_impossible_edits_are_refused_with_the_reason(edit: object, says: str) -> None:
    items = parse_outline("A:\n  B -> /b\n---").items
    with pytest.raises(EditRefused, match=says):
        edit(items)  # type: ignore[operator]


@given(documents)
def test_equal_documents_have_equal_hashes(document: MenuDocument) -> None:
    """The hash is over the canonical form: key order and defaults written out do not matter."""
    raw = document.to_json()
    again = read_menu(
        dict(reversed(raw.items())) | {"items": [dict(reversed(item.items())) for item in raw["items"]]}
        if raw.get("items")
        else raw
    )  # type: ignore[union-attr]
    assert content_hash(again) == content_hash(document)
    assert content_hash(document.model_copy(update={"name": document.name + "x"})) != content_hash(document)


_SCALARS = (
    st.none() | st.booleans() | st.integers(-(2**53) + 1, 2**53 - 1)
    | st.floats(allow_nan=False, allow_infinity=False) | st.text()
)  # fmt: skip


@given(st.recursive(_SCALARS, lambda below: st.lists(below) | st.dictionaries(st.text(), below), max_leaves=20))
def test_the_canonical_form_is_that_of_rfc_8785(value: object) -> None:
    assert canonical(value) == rfc8785.dumps(value)  # type: ignore[arg-type]


@given(documents)
def test_a_menu_is_named_by_its_canonical_form(document: MenuDocument) -> None:
    named = hashlib.sha256(rfc8785.dumps(document.to_json())).hexdigest()  # type: ignore[arg-type]
    assert content_hash(document) == f"sha256:{named}"


@pytest.mark.parametrize("value", [float("nan"), 2**53, {"a": "\ud800"}, ["\udfff", 0.5]])
def test_what_has_no_canonical_form_is_refused(value: object) -> None:
    with pytest.raises(ValueError, match=r"nan|domain|integer|surrogate|UTF-8|utf-8"):
        canonical(value)  # type: ignore[arg-type]


def test_every_problem_is_reported_with_its_path() -> None:
    with pytest.raises(InvalidDocument) as caught:
        read_menu(
            {
                "format": "sign-shelf/menu",
                "version": 1,
                "name": "M",
                "colour": 1,
                "items": [
                    {"id": "a", "kind": "link", "label": {"en": "x"}, "target": {"url": "ftp://x"}},
                    {"id": "b", "kind": "heading", "label": {"en": "x"}, "items": [{"id": "c", "kind": "sign"}]},
                    {"id": "d", "kind": "link", "label": {"en": " \u200b"}, "target": {"page": "x"}},
                    {"id": "e", "kind": "link", "label": {"en": "y"}, "target": {"url": "https://me:pw@x.example/"}},
                ],
            }
        )
    told = {problem.where: problem.says for problem in caught.value.problems}
    assert set(told) == {
        "colour",
        "items[0].target.url",
        "items[1].items[0]",
        "items[2].label.en",
        "items[3].target.url",
    }
    assert 'got "ftp:"' in told["items[0].target.url"]


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"\xff\xfe{}", "not UTF-8"),
        (b'{"a": NaN}', "not JSON"),
        (b'{"items": [' * 100_000, "not JSON"),
        (b" " * (17 * 1024 * 1024), "larger than"),
    ],
)
def test_hostile_json_is_refused(data: bytes, says: str) -> None:
    with pytest.raises(InvalidDocument, match=says):
        parse_json(data)


def test_ids_must_be_single_and_depth_is_limited() -> None:
    twice = {"id": "a", "kind": "divider"}
    with pytest.raises(InvalidDocument, match='id "a"'):
        read_menu({"format": "sign-shelf/menu", "version": 1, "name": "M", "items": [twice, twice]})
    deep: dict[str, object] = {"id": "x", "kind": "divider"}
    for level in range(30):
        deep = {"id": f"h{level}", "kind": "heading", "label": {"en": "h"}, "items": [deep]}
    with pytest.raises(InvalidDocument, match="24 levels"):
        read_menu({"format": "sign-shelf/menu", "version": 1, "name": "M", "items": [deep]})
