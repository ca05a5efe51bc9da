"""Edits carried out: all of them, or all but some that are taken back."""

from collections.abc import Collection, Mapping, Sequence

from pydantic import JsonValue, TypeAdapter, ValidationError

from sign_shelf.core.compare.diff import diff
from sign_shelf.core.compare.edits import Add, Edit, Move, Relabel, Remove, Reorder, Retarget, Set, own_json
from sign_shelf.core.compare.flat import TOP, build, flatten
from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.documents import problems_of
from sign_shelf.core.model.menu import HOLDERS, AnyItem, Item, MenuDocument
from sign_shelf.core.model.tree import Tree

_ITEM: TypeAdapter[AnyItem] = TypeAdapter(Item)


def apply(items: Tree, edits: Sequence[Edit]) -> Tree:
    """The tree after the edits. Raises EditRefused for an edit of an item, parent or neighbour that is not there."""
    applying = _Applying(items)
    for edit in edits:
        applying.carry_out(edit)
    return applying.tree()


def apply_to_document(document: MenuDocument, edits: Sequence[Edit]) -> MenuDocument:
    """The same for a whole document, whose name may be among the edits."""
    name = next((str(edit.now) for edit in edits if isinstance(edit, Set) and edit.id is None), document.name)
    return document.model_copy(update={"name": name, "items": apply(document.items, edits)})


def without(before: Tree, after: Tree, keys: Collection[str]) -> Tree:
    """`after` with some of its edits against `before` taken back, named by their keys, and those that rest on them.

    What was to stand under an item whose addition is taken back stays where it was, or is not added either.
    """
    applying = _Applying(before, wanted_order=flatten(after).order)
    for edit in diff(before, after):
        if edit.key not in keys and not applying.rests_on_nothing(edit):
            applying.carry_out(edit)
    return applying.tree()


class _Applying:
    """One tree while it changes: items without children, and the order of the children of each.

    Edited items are kept as JSON until the end: a step on the way, such as a label taken out before another comes in,
    need not be a valid item. `wanted_order` says where to stand where the neighbour that an edit names is not there.
    """

    def __init__(self, items: Tree, wanted_order: Mapping[str, Sequence[str]] | None = None) -> None:
        flat = flatten(items)
        self.items = dict(flat.items)
        self.raw: dict[str, dict[str, JsonValue]] = {}
        self.parent = dict(flat.parent)
        self.order = {parent: list(order) for parent, order in flat.order.items()}
        self.wanted_order = wanted_order

    def tree(self) -> Tree:
        for item_id, raw in self.raw.items():
            if item_id in self.items:
                self.items[item_id] = self._valid(item_id, raw)
        for item_id, item in self.items.items():
            if self.order[item_id] and item.kind not in HOLDERS:
                raise EditRefused(f"A {item.kind} cannot hold other items.", where=item_id)
        return build(self.items, {parent: tuple(order) for parent, order in self.order.items()})

    def _valid(self, item_id: str, raw: dict[str, JsonValue]) -> AnyItem:
        try:
            return _ITEM.validate_python(raw)
        except ValidationError as exc:
            raise EditRefused(
                f"That would leave {item_id} as no item can be: {problems_of(exc)[0].says}.", where=item_id,
                remedy="Take the other edits of the item back as well.",
            ) from exc  # fmt: skip

    def _kind(self, item_id: str) -> str:
        return str(self.raw[item_id]["kind"]) if item_id in self.raw else self.items[item_id].kind

    def rests_on_nothing(self, edit: Edit) -> bool:
        """Whether the edit needs an item that is not there, or would put it inside itself."""
        if edit.id is None:
            return False
        if isinstance(edit, Add | Move | Reorder):
            parent = edit.parent or TOP
            if parent != TOP and (parent not in self.items or self._kind(parent) not in HOLDERS):
                return True
            if isinstance(edit, Add):
                return edit.id in self.items
            if edit.id in self.items and self._inside(parent, edit.id):
                return True
        return edit.id not in self.items

    def carry_out(self, edit: Edit) -> None:
        if edit.id is None:
            return
        match edit:
            case Add():
                if edit.id in self.items:
                    raise EditRefused(f'The menu already has an item "{edit.id}".', where=edit.id)
                self.items[edit.id] = edit.item
                self.order[edit.id] = []
                self._put(edit.id, edit.parent, edit.after)
            case Move() | Reorder():
                self._known(edit.id)
                if edit.parent is not None:
                    self._known(edit.parent)
                if self._inside(edit.parent or TOP, edit.id):
                    raise EditRefused(f'"{edit.id}" cannot move inside itself.', where=edit.id)
                self.order[self.parent[edit.id]].remove(edit.id)
                self._put(edit.id, edit.parent, edit.after)
            case Remove():
                self._known(edit.id)
                self.order[self.parent[edit.id]].remove(edit.id)
                self._forget(edit.id)
            case Relabel():
                label = self._opened(edit.id).setdefault("label", {})
                assert isinstance(label, dict)
                if edit.now is None:
                    label.pop(edit.language, None)
                else:
                    label[edit.language] = edit.now
            case Retarget():
                self._opened(edit.id)["target"] = edit.now
            case Set(field="kind", now=dict() as whole):
                self._known(edit.id)
                self.raw[edit.id] = dict(whole)
            case Set(now=None):
                self._opened(edit.id).pop(edit.field, None)
            case Set():
                self._opened(edit.id)[edit.field] = edit.now

    def _opened(self, item_id: str) -> dict[str, JsonValue]:
        if item_id not in self.raw:
            self.raw[item_id] = own_json(self._known(item_id))
        return self.raw[item_id]

    def _known(self, item_id: str) -> AnyItem:
        if item_id not in self.items:
            raise EditRefused(f'The menu has no item "{item_id}".', where=item_id)
        return self.items[item_id]

    def _inside(self, item_id: str, ancestor: str) -> bool:
        while item_id != TOP:
            if item_id == ancestor:
                return True
            item_id = self.parent[item_id]
        return False

    def _put(self, item_id: str, parent: str | None, after: str | None) -> None:
        above = parent or TOP
        if parent is not None:
            self._known(parent)
        siblings = self.order[above]
        if after is not None and after not in siblings:
            if self.wanted_order is None:
                raise EditRefused(f'"{after}", after which "{item_id}" is to stand, is not there.', where=item_id)
            wanted = self.wanted_order[above]
            earlier = wanted[: wanted.index(item_id)]
            after = next((one for one in reversed(earlier) if one in siblings), None)
        siblings.insert(siblings.index(after) + 1 if after is not None else 0, item_id)
        self.parent[item_id] = above

    def _forget(self, item_id: str) -> None:
        stack = [item_id]
        while stack:
            gone = stack.pop()
            stack += self.order.pop(gone)
            del self.items[gone], self.parent[gone]
