"""The edits that lead from one tree to another. Each carries what it needs to be carried out, and a sentence.

`parent` None is the top; `after` is the sibling that the item then stands behind, None at the front.
"""

from typing import Annotated, Literal

from pydantic import Field, JsonValue

from sign_shelf.core.basics.text import ItemId
from sign_shelf.core.model.menu import AnyItem, Item, Model


class _Edit(Model):
    id: ItemId | None
    """The item; None stands for the menu itself, which only `set` of its name concerns."""
    says: str
    confidence: float | None = None
    """How sure it is that this is the same item, where items were matched by content; None where the id says so."""

    @property
    def key(self) -> str:
        """Names the edit among all of one comparison."""
        return (
            f"{getattr(self, 'op', '')}:{self.id or ''}:{getattr(self, 'field', None) or getattr(self, 'language', '')}"
        )


class _Placed(_Edit):
    parent: ItemId | None
    after: ItemId | None


class Add(_Placed):
    op: Literal["add"]
    item: Item
    """Without what stands below it: that is added by edits of its own."""


class Remove(_Edit):
    """The item goes, with everything that is still below it by then."""

    op: Literal["remove"]


class Move(_Placed):
    op: Literal["move"]


class Reorder(_Placed):
    op: Literal["reorder"]


class Relabel(_Edit):
    op: Literal["relabel"]
    language: str
    was: str | None
    now: str | None


class Retarget(_Edit):
    op: Literal["retarget"]
    was: JsonValue
    now: JsonValue


class Set(_Edit):
    """A key of the item's JSON takes another value; null is its absence. For `kind` the values are the whole item."""

    op: Literal["set"]
    field: str
    was: JsonValue
    now: JsonValue


Edit = Add | Remove | Move | Reorder | Relabel | Retarget | Set
AnyEdit = Annotated[Edit, Field(discriminator="op")]


def alone(item: AnyItem) -> AnyItem:
    """The item without what stands below it."""
    return item.model_copy(update={"items": ()}) if getattr(item, "items", ()) else item


def own_json(item: AnyItem) -> dict[str, JsonValue]:
    """The item's JSON without what stands below it."""
    return item.model_dump(mode="json", by_alias=True, exclude_defaults=True, exclude={"items"})
