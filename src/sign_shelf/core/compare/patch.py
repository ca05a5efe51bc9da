"""Two menu documents' difference as a JSON Patch (RFC 6902): the moves of `diff`, and the keys of each item."""

from collections.abc import Sequence
from copy import deepcopy
from typing import cast

from pydantic import JsonValue

from sign_shelf.core.compare.edits import Add, Edit, Move, Remove, Reorder

Raw = dict[str, JsonValue]
Operation = dict[str, JsonValue]


def json_patch(before: Raw, after: Raw, edits: Sequence[Edit]) -> list[Operation]:
    """Operations that make `before` into `after`, key for key. `edits` are those of the two documents' comparison."""
    patching = _Patching(deepcopy(before))
    wanted = _items(after)
    for edit in edits:
        match edit:
            case Add():
                patching.add(edit.parent, edit.after, _own(wanted[edit.id or ""]))
            case Move() | Reorder():
                patching.move(edit.id or "", edit.parent, edit.after)
            case Remove():
                patching.remove(edit.id or "")
            case _:
                pass
    for item_id, item in wanted.items():
        have = patching.items[item_id]
        if have is not item and _own(have) != _own(item):
            patching.keys(patching.path(item_id), have, item, skip="items")
    patching.keys("", patching.root, after, skip="items")
    patching.empty_levels(after, wanted)
    return patching.operations


def _own(item: Raw) -> Raw:
    return {key: value for key, value in item.items() if key != "items"}


def _items(document: Raw) -> dict[str, Raw]:
    found: dict[str, Raw] = {}
    stack = [document]
    while stack:
        for item in cast(list[Raw], stack.pop().get("items", [])):
            found[str(item["id"])] = item
            stack.append(item)
    return found


class _Patching:
    """A document that takes every operation at once, so that pointers are those of the moment."""

    def __init__(self, root: Raw) -> None:
        self.root = root
        self.items = _items(root)
        self.parent: dict[str, str | None] = {}
        for holder_id, holder in [(None, root), *self.items.items()]:
            for item in self._below(holder):
                self.parent[str(item["id"])] = holder_id
        self.operations: list[Operation] = []

    def _below(self, holder: Raw) -> list[Raw]:
        return cast(list[Raw], holder.get("items", []))

    def _holder(self, item_id: str | None) -> Raw:
        return self.items[item_id] if item_id is not None else self.root

    def path(self, item_id: str | None) -> str:
        steps: list[str] = []
        while item_id is not None:
            above = self.parent[item_id]
            at = next(at for at, one in enumerate(self._below(self._holder(above))) if one["id"] == item_id)
            steps.append(f"/items/{at}")
            item_id = above
        return "".join(reversed(steps))

    def _level(self, parent: str | None) -> list[Raw]:
        holder = self._holder(parent)
        if "items" not in holder:
            self.operations.append({"op": "add", "path": f"{self.path(parent)}/items", "value": []})
            holder["items"] = []
        return self._below(holder)

    def _index(self, level: list[Raw], after: str | None) -> int:
        return next(at for at, one in enumerate(level) if one["id"] == after) + 1 if after is not None else 0

    def add(self, parent: str | None, after: str | None, item: Raw) -> None:
        level = self._level(parent)
        at = self._index(level, after)
        self.operations.append({"op": "add", "path": f"{self.path(parent)}/items/{at}", "value": deepcopy(item)})
        level.insert(at, item)
        self.items[str(item["id"])] = item
        self.parent[str(item["id"])] = parent

    def move(self, item_id: str, parent: str | None, after: str | None) -> None:
        self._level(parent)
        source = self.path(item_id)
        item = self.items[item_id]
        self._below(self._holder(self.parent[item_id])).remove(item)
        level = self._level(parent)
        at = self._index(level, after)
        # The pointer is read after the item was taken out; it may still not begin with where that was (RFC 6902, 4.4).
        path = f"{self.path(parent)}/items/{at}"
        if path.startswith(f"{source}/"):
            self.operations.append({"op": "remove", "path": source})
            self.operations.append({"op": "add", "path": path, "value": deepcopy(item)})
        else:
            self.operations.append({"op": "move", "from": source, "path": path})
        level.insert(at, item)
        self.parent[item_id] = parent

    def remove(self, item_id: str) -> None:
        self.operations.append({"op": "remove", "path": self.path(item_id)})
        self._below(self._holder(self.parent[item_id])).remove(self.items[item_id])

    def keys(self, path: str, have: Raw, want: Raw, *, skip: str = "") -> None:
        for key in [key for key in have if key not in want and key != skip]:
            self.operations.append({"op": "remove", "path": f"{path}/{_escaped(key)}"})
            del have[key]
        for key, value in want.items():
            if key == skip or (key in have and have[key] == value):
                continue
            place = f"{path}/{_escaped(key)}"
            now = have.get(key)
            if isinstance(now, dict) and isinstance(value, dict):
                self.keys(place, now, value)
            else:
                self.operations.append({"op": "replace" if key in have else "add", "path": place, "value": value})
                have[key] = value

    def empty_levels(self, after: Raw, wanted: dict[str, Raw]) -> None:
        """Lists that became empty go where the other document has none, and come where it has an empty one."""
        for item_id, want in [(None, after), *wanted.items()]:
            have = self._holder(item_id)
            if "items" in have and "items" not in want:
                self.operations.append({"op": "remove", "path": f"{self.path(item_id)}/items"})
            elif "items" not in have and "items" in want:
                self.operations.append({"op": "add", "path": f"{self.path(item_id)}/items", "value": []})


def _escaped(key: str) -> str:
    return key.replace("~", "~0").replace("/", "~1")
