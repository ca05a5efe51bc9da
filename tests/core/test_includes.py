"""Menus within menus: loops are found, and what they come to is counted before anybody walks it."""

from collections.abc import Mapping
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.model.includes import MOST_ITEMS, Includes
from sign_shelf.core.model.menu import Include, MenuDocument, menu_document
from sign_shelf.core.outline import parse_outline

KEYS = tuple("abcdef")
Graph = Mapping[str, list[str]]
graphs = st.fixed_dictionaries({key: st.lists(st.sampled_from((*KEYS, "gone")), max_size=4) for key in KEYS})


def menus(graph: Graph) -> dict[str, MenuDocument]:
    return {
        key: menu_document(
            key, tuple(Include(id=f"{key}{at}", kind="include", menu=to) for at, to in enumerate(included))
        )
        for key, included in graph.items()
    }


def plainly(graph: Graph, key: str, above: tuple[str, ...] = ()) -> int | None:
    """The items of the menu, by walking all of it; None where the walk comes back to where it was."""
    if key in above:
        return None
    parts = [plainly(graph, one, (*above, key)) for one in graph.get(key, ())]
    return None if None in parts else len(parts) + sum(part for part in parts if part is not None)


@given(graphs)
def test_a_loop_is_a_way_back_and_is_found_where_there_is_one(graph: Graph) -> None:
    includes = Includes(menus(graph))
    reached = {key: set(graph[key]) for key in KEYS}
    for _ in KEYS:
        reached = {
            key: found | {two for one in found for two in reached.get(one, ())} for key, found in reached.items()
        }
    for key in KEYS:
        loop = includes.loop(key)
        assert (loop is not None) == (key in reached[key])
        if loop is not None:
            assert (loop[0], loop[-1]) == (key, key)
            assert all(two in graph[one] for one, two in pairwise(loop))


@given(graphs)
def test_a_menu_without_loops_is_as_large_as_walking_it_says(graph: Graph) -> None:
    documents = menus(graph)
    for key in KEYS:
        walked = plainly(graph, key)
        includes = Includes(documents)
        if walked is not None:
            assert includes.size(key) == includes.size_of(documents[key].items) == walked
        refusal = includes.refusal(key, key)
        assert (refusal is None) == (includes.loop(key) is None)
        assert includes.items(key, key) == (documents[key].items if refusal is None else ())


def test_menus_that_double_each_time_are_counted_without_being_walked() -> None:
    doubling: dict[str, list[str]] = {f"m{at}": [f"m{at + 1}"] * 2 for at in range(200)} | {"m200": []}
    includes = Includes(menus(doubling))
    assert includes.size("m188") == 2**13 - 2
    assert includes.size("m0") == MOST_ITEMS + 1
    assert includes.refusal("m1", "m0") == "the menu and what it includes are over 20000 entries"
    assert includes.refusal("m188", "m188") is None, "where it is included alone it is not too large"
    loose = parse_outline("+ m0").items
    assert includes.refusal("m0", loose)
    assert includes.refusal("gone", loose) == 'there is no menu "gone"'
