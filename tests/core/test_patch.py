"""JSON Patch (RFC 6902): the very operations, and an independent library applying them."""

from typing import Any

import jsonpatch
import pytest

from sign_shelf.core.compare import diff_documents, json_patch
from sign_shelf.core.model.documents import read_menu
from sign_shelf.core.model.menu import MenuDocument


def link(item_id: str, *items: dict[str, Any], **more: Any) -> dict[str, Any]:
    below = {"items": list(items)} if items else {}
    return {"id": item_id, "kind": "link", "label": {"en": item_id}, "target": {"url": f"/{item_id}"}} | below | more


def menu(*items: dict[str, Any], name: str = "Menu") -> MenuDocument:
    return read_menu({"format": "sign-shelf/menu", "version": 1, "name": name, "items": list(items)})


def patch(before: MenuDocument, after: MenuDocument) -> list[dict[str, Any]]:
    operations: list[dict[str, Any]] = json_patch(before.to_json(), after.to_json(), diff_documents(before, after))  # type: ignore[assignment]
    assert jsonpatch.apply_patch(before.to_json(), operations) == after.to_json()
    return operations


@pytest.mark.parametrize(
    ("before", "after", "operations"),
    [
        (menu(link("a")), menu(link("a")), []),
        (menu(link("a")), menu(link("a"), name="New"), [{"op": "replace", "path": "/name", "value": "New"}]),
        (menu(link("a"), link("b")), menu(link("b"), link("a")), [{"op": "move", "from": "/items/1", "path": "/items/0"}]),
        (menu(link("a")), menu(link("a"), link("b")), [{"op": "add", "path": "/items/1", "value": link("b")}]),
        (menu(link("a"), link("b")), menu(link("b")), [{"op": "remove", "path": "/items/0"}]),
        (menu(), menu(link("a")), [{"op": "add", "path": "/items", "value": []},
                                   {"op": "add", "path": "/items/0", "value": link("a")}]),
        (menu(link("a")), menu(), [{"op": "remove", "path": "/items/0"}, {"op": "remove", "path": "/items"}]),
        (menu(link("a", link("b"))), menu(link("a"), link("b")),
         [{"op": "move", "from": "/items/0/items/0", "path": "/items/1"}, {"op": "remove", "path": "/items/0/items"}]),
        # Into what then stands where it stood: a move may not begin with where it goes, so it is taken out and put in.
        (menu(link("a"), link("b")), menu(link("b", link("a"))),
         [{"op": "add", "path": "/items/1/items", "value": []}, {"op": "remove", "path": "/items/0"},
          {"op": "add", "path": "/items/0/items/0", "value": link("a")}]),
        (menu(link("a")), menu(link("a", label={"en": "A", "nl": "B"})),
         [{"op": "replace", "path": "/items/0/label/en", "value": "A"}, {"op": "add", "path": "/items/0/label/nl", "value": "B"}]),
        (menu(link("a", new_tab=True)), menu(link("a", look={"emphasis": "strong"})),
         [{"op": "remove", "path": "/items/0/new_tab"}, {"op": "add", "path": "/items/0/look", "value": {"emphasis": "strong"}}]),
        (menu(link("a")), menu(link("a", target={"page": "home"})),
         [{"op": "remove", "path": "/items/0/target/url"}, {"op": "add", "path": "/items/0/target/page", "value": "home"}]),
    ],
)  # fmt: skip
def test_operations(before: MenuDocument, after: MenuDocument, operations: list[dict[str, Any]]) -> None:
    assert patch(before, after) == operations


def test_a_parent_and_its_child_change_places() -> None:
    before = menu(link("a", link("b", link("c"))))
    after = menu(link("b", link("a", link("c"))))
    assert {one["op"] for one in patch(before, after)} <= {"move", "add", "remove"}


def test_keys_are_escaped_as_pointers_have_it() -> None:
    operations = json_patch({"a/b": 1, "m~n": 2, "x": {"y/z": 1}}, {"a/b": 2, "x": {"y/z": 2}}, [])
    assert [(one["op"], one["path"]) for one in operations] == [
        ("remove", "/m~0n"), ("replace", "/a~1b"), ("replace", "/x/y~1z"),
    ]  # fmt: skip
