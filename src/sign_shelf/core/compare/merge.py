"""Three-way merge of trees: fields one by one, positions apart from fields, removals never over the other's edits."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from sign_shelf.core.compare.edits import own_json
from sign_shelf.core.compare.flat import TOP, Flat, build, flatten, own_fields, same_fields
from sign_shelf.core.model.menu import AnyItem, Parent
from sign_shelf.core.model.tree import Tree

Side = Literal["ours", "theirs"]
ConflictKind = Literal["edit-edit", "edit-remove", "move-move", "cycle", "order", "add-add"]


@dataclass(frozen=True, kw_only=True)
class Conflict:
    """`ours` and `theirs` describe each side's version: a field's value, a parent's id, "removed" or "kept"."""

    id: str
    kind: ConflictKind
    field: str | None = None
    ours: object
    theirs: object

    @property
    def key(self) -> str:
        """Which one it is of the item's conflicts."""
        return f"{self.id}:{self.field or self.kind}"


@dataclass(frozen=True)
class Merge:
    """Where there are conflicts, `items` holds the chosen side's version; where nobody chose, what one side removed
    and the other edited is kept, and else ours stands."""

    items: Tree
    conflicts: tuple[Conflict, ...]


def merge(base: Tree, ours: Tree, theirs: Tree, *, choices: Mapping[str, Side] | None = None) -> Merge:
    """Both sides' edits in one tree. `choices` settles all conflicts of an item by its id, or one of them by
    its key.

    Laws: merge(b, b, x) = merge(b, x, b) = merge(b, x, x) = x; swapping the sides swaps the conflicts; no item of
    either side vanishes unless a side removed it and the other left it and all below it alone.
    """
    flat_base, flat_ours, flat_theirs = flatten(base), flatten(ours), flatten(theirs)
    chosen = choices or {}
    merging = _Merging(flat_base, flat_ours, flat_theirs, chosen)
    items = merging.result()
    # Which conflicts follow from others depends on the side that stands meanwhile: report those of either reading.
    mirror = _Merging(flat_base, flat_theirs, flat_ours, {key: _OTHER[side] for key, side in chosen.items()})
    mirror.result()
    mirrored = {key: replace(one, ours=one.theirs, theirs=one.ours) for key, one in mirror.conflicts.items()}
    conflicts = sorted((mirrored | merging.conflicts).values(), key=lambda one: (one.id, one.kind, one.field or ""))
    return Merge(items, tuple(conflicts))


_OTHER: dict[Side, Side] = {"ours": "theirs", "theirs": "ours"}


class _Merging:
    def __init__(self, base: Flat, ours: Flat, theirs: Flat, choices: Mapping[str, Side]) -> None:
        self.base, self.ours, self.theirs = base, ours, theirs
        self.choices = choices
        self.conflicts: dict[tuple[str, str, str | None], Conflict] = {}
        self.parent: dict[str, str] = {}
        self.items: dict[str, AnyItem] = {}

    def result(self) -> Tree:
        kept = self._kept()
        for item_id in kept:
            self.items[item_id] = self._fields(item_id)
            self.parent[item_id] = self._parent(item_id)
        self._keep_ancestors()
        self._break_cycles()
        self._mend_holders()
        members: dict[str, list[str]] = {parent: [] for parent in [TOP, *self.items]}
        for item_id, above in self.parent.items():
            members[above].append(item_id)
        order = {parent: self._order(parent, set(below)) for parent, below in members.items()}
        return build(self.items, order)

    def _note(self, item_id: str, kind: ConflictKind, ours: object, theirs: object, field: str | None = None) -> Side:
        self.conflicts[item_id, kind, field] = Conflict(id=item_id, kind=kind, field=field, ours=ours, theirs=theirs)
        usual: Side = "theirs" if ours == "removed" else "ours"
        return self.choices.get(self.conflicts[item_id, kind, field].key, self.choices.get(item_id, usual))

    # --- presence

    def _kept(self) -> list[str]:
        everything = dict.fromkeys([*self.ours.items, *self.theirs.items])
        return [item_id for item_id in everything if self._survives(item_id)]

    def _survives(self, item_id: str) -> bool:
        in_ours, in_theirs = item_id in self.ours.items, item_id in self.theirs.items
        if (in_ours and in_theirs) or item_id not in self.base.items:
            return True
        side = self.ours if in_ours else self.theirs
        if not self._touched(item_id, side):
            return False
        chosen = self._note(item_id, "edit-remove", *(("kept", "removed") if in_ours else ("removed", "kept")))
        return item_id in (self.ours if chosen == "ours" else self.theirs).items

    def _touched(self, item_id: str, side: Flat) -> bool:
        """Whether the side changed the item itself or where it hangs."""
        was, now = self.base.items[item_id], side.items[item_id]
        return self.base.parent[item_id] != side.parent[item_id] or not same_fields(was, now)

    def _keep_ancestors(self) -> None:
        """A parent that one side removed stays while something survives under it."""
        for item_id in list(self.items):
            while (above := self.parent[item_id]) != TOP and above not in self.items:
                in_ours = above in self.ours.items
                self._note(above, "edit-remove", *(("kept", "removed") if in_ours else ("removed", "kept")))
                self.items[above] = (self.ours if in_ours else self.theirs).items[above]
                self.parent[above] = (self.ours if in_ours else self.theirs).parent[above]
                item_id = above

    # --- fields

    def _fields(self, item_id: str) -> AnyItem:
        ours, theirs = self.ours.items.get(item_id), self.theirs.items.get(item_id)
        if ours is None or theirs is None:
            item = ours or theirs
            assert item is not None
            return item
        base = self.base.items.get(item_id)
        if same_fields(ours, theirs):
            return ours
        if base is None:
            chosen = self._note(item_id, "add-add", _json(ours), _json(theirs))
            return ours if chosen == "ours" else theirs
        if same_fields(ours, base):
            return theirs
        if same_fields(theirs, base):
            return ours
        if not (ours.kind == theirs.kind == base.kind):
            chosen = self._note(item_id, "edit-edit", _json(ours), _json(theirs), "kind")
            return ours if chosen == "ours" else theirs
        return ours.model_copy(
            update=self._merged_fields(item_id, own_fields(base), own_fields(ours), own_fields(theirs))
        )

    def _merged_fields(
        self, item_id: str, was: dict[str, object], mine: dict[str, object], other: dict[str, object]
    ) -> dict[str, object]:
        update: dict[str, object] = {}
        for name, value in mine.items():
            if value == other[name] or other[name] == was[name]:
                continue
            if value == was[name]:
                update[name] = other[name]
            elif name == "label":
                update[name] = self._merged_label(item_id, was[name], value, other[name])
            elif self._note(item_id, "edit-edit", value, other[name], name) == "theirs":
                update[name] = other[name]
        return update

    def _merged_label(self, item_id: str, was: object, mine: object, other: object) -> dict[str, str]:
        assert isinstance(was, dict)
        assert isinstance(mine, dict)
        assert isinstance(other, dict)
        merged: dict[str, str] = {}
        for tag in dict.fromkeys([*mine, *other]):
            ours, theirs, before = mine.get(tag), other.get(tag), was.get(tag)
            value = ours if theirs == before or ours == theirs else theirs
            if ours != theirs and before not in (ours, theirs):
                value = ours if self._note(item_id, "edit-edit", ours, theirs, f"label.{tag}") == "ours" else theirs
            if value is not None:
                merged[tag] = value
        return merged

    # --- positions

    def _parent(self, item_id: str) -> str:
        ours, theirs = self.ours.parent.get(item_id), self.theirs.parent.get(item_id)
        base = self.base.parent.get(item_id)
        if ours is None or theirs is None or ours == theirs:
            place = ours if ours is not None else theirs
            assert place is not None
            return place
        if ours == base:
            return theirs
        if theirs == base:
            return ours
        return ours if self._note(item_id, "move-move", ours, theirs) == "ours" else theirs

    def _break_cycles(self) -> None:
        """Two moves that would put items inside each other: every item of the loop goes back to one side's place."""
        while loop := self._loop():
            for item_id in loop:
                ours = self.ours.parent.get(item_id, TOP)
                theirs = self.theirs.parent.get(item_id, TOP)
                if ours != theirs:
                    self._note(item_id, "cycle", ours, theirs)
                self.parent[item_id] = ours if ours == TOP or ours in self.items else TOP

    def _loop(self) -> list[str]:
        safe: set[str] = {TOP}
        for start in self.items:
            path: list[str] = []
            at = start
            while at not in safe:
                if at in path:
                    return path[path.index(at) :]
                path.append(at)
                at = self.parent[at]
            safe.update(path)
        return []

    def _mend_holders(self) -> None:
        """An item that one side made childless by kind keeps the kind that can hold what the other put under it."""
        for parent in set(self.parent.values()) - {TOP}:
            if not isinstance(self.items[parent], Parent):
                ours, theirs = self.ours.items.get(parent), self.theirs.items.get(parent)
                holder = next(item for item in (ours, theirs, self.base.items.get(parent)) if isinstance(item, Parent))
                self._note(parent, "edit-edit", ours and _json(ours), theirs and _json(theirs), "kind")
                self.items[parent] = holder

    def _order(self, parent: str, members: set[str]) -> tuple[str, ...]:
        alike = self.ours.order.get(parent, ())
        if alike == self.theirs.order.get(parent, ()) and members == set(alike):
            return alike
        ours = [item_id for item_id in self.ours.order.get(parent, ()) if item_id in members]
        theirs = [item_id for item_id in self.theirs.order.get(parent, ()) if item_id in members]
        base = [item_id for item_id in self.base.order.get(parent, ()) if item_id in members]
        shared = set(ours) & set(theirs)
        mine, other = [one for one in ours if one in shared], [one for one in theirs if one in shared]
        spine, rest = ours, theirs
        if mine != other:
            was = [one for one in base if one in shared]
            changed_by_ours = [one for one in mine if one in set(was)] != was
            changed_by_theirs = [one for one in other if one in set(was)] != was
            contested = changed_by_ours and changed_by_theirs
            if not changed_by_ours or (contested and self._note(parent, "order", mine, other) == "theirs"):
                spine, rest = theirs, ours
        placed = _woven(spine, rest)
        return tuple(placed + sorted(members - set(placed)))


def _woven(spine: list[str], rest: list[str]) -> list[str]:
    """`spine` with the others of `rest` put in, each after the neighbour before it."""
    placed = list(spine)
    known = set(spine)
    for at, item_id in enumerate(rest):
        if item_id not in known:
            index = placed.index(rest[at - 1]) + 1 if at else 0
            while at and index < len(placed) and placed[index] not in rest:
                index += 1
            placed.insert(index, item_id)
            known.add(item_id)
    return placed


def _json(item: AnyItem) -> Mapping[str, object]:
    return own_json(item)
