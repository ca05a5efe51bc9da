"""The edits that lead from one tree to another, items matched by id, each as a plain sentence."""

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from sign_shelf.core.compare.edits import (
    Add,
    Edit,
    Move,
    Relabel,
    Remove,
    Reorder,
    Retarget,
    Set,
    alone,
    own_json,
)
from sign_shelf.core.compare.flat import TOP, Flat, flatten, same_fields
from sign_shelf.core.compare.sentences import (
    added_sentence,
    label_sentence,
    moved_sentence,
    removed_sentence,
    reordered_sentence,
    set_sentence,
    target_sentence,
)
from sign_shelf.core.model.menu import AnyItem, Labelled, MenuDocument
from sign_shelf.core.model.tree import Tree

if TYPE_CHECKING:
    from sign_shelf.core.compare.matching import Match

#: Children are compared by themselves; labels and targets have edits of their own.
_APART = frozenset({"id", "items", "kind", "label", "target"})


def longest_run(positions: Sequence[int]) -> set[int]:
    """Indices of one longest strictly increasing subsequence (patience sorting, O(n log n))."""
    tails: list[int] = []
    tail_at: list[int] = []
    before: list[int] = []
    for index, value in enumerate(positions):
        slot = bisect_left(tails, value)
        before.append(tail_at[slot - 1] if slot else -1)
        if slot == len(tails):
            tails.append(value)
            tail_at.append(index)
        else:
            tails[slot] = value
            tail_at[slot] = index
    kept: set[int] = set()
    at = tail_at[-1] if tail_at else -1
    while at >= 0:
        kept.add(at)
        at = before[at]
    return kept


def diff(before: Tree, after: Tree, *, language: str = "en") -> list[Edit]:
    """Edits in document order of the new tree, removals last; carried out one after the other they give `after`.

    Among siblings as few as possible are moved: all but a longest run that kept its order.
    """
    if before == after:
        return []
    return list(_Comparing(flatten(before), flatten(after), language).edits())


def diff_documents(
    before: MenuDocument, after: MenuDocument, *, language: str = "en", seeds: Mapping[str, str] | None = None
) -> list[Edit]:
    """The edits of the trees, and one more where the menu's name is another.

    `seeds`, given, pairs items by content: ids of `after` with ids of `before` that are known beforehand, the rest
    found; the edits then speak of `before`'s ids, and of how sure the pairing is.
    """
    items = after.items
    matches: Mapping[str, Match] = {}
    if seeds is not None:
        from sign_shelf.core.compare.matching import adopt_ids, match_by_content

        matches = match_by_content(before.items, items, seeds)
        items = adopt_ids(before.items, items, matches)
    edits = diff(before.items, items, language=language)
    if before.name != after.name:
        says = f"Renamed the menu from {before.name} to {after.name}"
        edits.insert(0, Set(op="set", id=None, field="name", was=before.name, now=after.name, says=says))
    sure = {match.id: match.confidence for match in matches.values()}
    return [
        edit.model_copy(update={"confidence": sure[edit.id]}) if edit.id in sure and sure[edit.id] < 1 else edit
        for edit in edits
    ]


class _Comparing:
    def __init__(self, old: Flat, new: Flat, language: str) -> None:
        self.old, self.new, self.language = old, new, language

    def edits(self) -> list[Edit]:
        old, new = self.old, self.new
        out_of_order = self._out_of_order()
        found: list[Edit] = []
        for item_id, item in new.items.items():
            was = old.items.get(item_id)
            if was is None:
                found.append(self._added(item_id, item))
                continue
            if old.parent[item_id] != new.parent[item_id]:
                found.append(self._moved(item_id, item))
            elif item_id in out_of_order:
                found.append(self._reordered(item_id, item))
            if was is not item:
                found += self._changed(was, item)
        found += [
            Remove(op="remove", id=item_id, says=removed_sentence(item, self._gone_below(item_id), self.language))
            for item_id, item in old.items.items()
            if item_id not in new.items and (old.parent[item_id] == TOP or old.parent[item_id] in new.items)
        ]
        return found

    def _out_of_order(self) -> set[str]:
        """Items that stay under their parent but not in the longest run that kept its order."""
        found: set[str] = set()
        for parent, siblings in self.new.order.items():
            before = self.old.order.get(parent)
            if not before or before == siblings:
                continue
            places = {sibling: at for at, sibling in enumerate(before)}
            stayed = [sibling for sibling in siblings if sibling in places]
            run = longest_run([places[sibling] for sibling in stayed])
            found.update(sibling for at, sibling in enumerate(stayed) if at not in run)
        return found

    def _place(self, item_id: str) -> tuple[str | None, str | None]:
        """The parent and the sibling before, as edits name them."""
        parent = self.new.parent[item_id]
        at = self.new.position[item_id]
        return parent or None, self.new.order[parent][at - 1] if at else None

    def _added(self, item_id: str, item: AnyItem) -> Add:
        parent, after = self._place(item_id)
        says = added_sentence(item, self.new.items[parent] if parent else None, self.language)
        return Add(op="add", id=item_id, parent=parent, after=after, item=alone(item), says=says)

    def _moved(self, item_id: str, item: AnyItem) -> Move:
        parent, after = self._place(item_id)
        source = self.old.items.get(self.old.parent[item_id])
        says = moved_sentence(item, source, self.new.items[parent] if parent else None, self.language)
        return Move(op="move", id=item_id, parent=parent, after=after, says=says)

    def _reordered(self, item_id: str, item: AnyItem) -> Reorder:
        parent, after = self._place(item_id)
        says = reordered_sentence(item, self.new.items[after] if after else None, self.language)
        return Reorder(op="reorder", id=item_id, parent=parent, after=after, says=says)

    def _changed(self, old: AnyItem, new: AnyItem) -> list[Edit]:
        language = self.language
        if old.kind != new.kind:
            says = set_sentence("kind", old, new, language)
            return [Set(op="set", id=new.id, field="kind", was=own_json(old), now=own_json(new), says=says)]
        was, now = old.__dict__, new.__dict__
        names = [
            name for name, value in now.items() if name not in _APART and value is not was[name] and value != was[name]
        ]
        found: list[Edit] = []
        if isinstance(old, Labelled) and isinstance(new, Labelled) and old.label != new.label:
            found += [
                Relabel(
                    op="relabel",
                    id=new.id,
                    language=tag,
                    was=old.label.get(tag),
                    now=new.label.get(tag),
                    says=label_sentence(old, language, tag, old.label.get(tag), new.label.get(tag)),
                )
                for tag in dict.fromkeys([*old.label, *new.label])
                if old.label.get(tag) != new.label.get(tag)
            ]
        if "target" in now and not same_fields(was["target"], now["target"]):
            says = target_sentence(new, language)
            goal, before = now["target"].to_json(), was["target"].to_json()
            found.append(Retarget(op="retarget", id=new.id, was=before, now=goal, says=says))
        if names:
            old_json, new_json = own_json(old), own_json(new)
            for name in names:
                field = type(new).model_fields[name].alias or name
                says = set_sentence(field, old, new, language)
                one = Set(op="set", id=new.id, field=field, was=old_json.get(field), now=new_json.get(field), says=says)
                found.append(one)
        return found

    def _gone_below(self, item_id: str) -> int:
        gone = 0
        stack = list(self.old.order[item_id])
        while stack:
            below = stack.pop()
            if below not in self.new.items:
                gone += 1
                stack += self.old.order[below]
        return gone
