"""Three-way merge of named fields: what each side changed counts, two different values of one field are a conflict."""

from collections.abc import Callable, Mapping
from typing import Final

from pydantic import JsonValue

from sign_shelf.core.compare import Conflict, Side

FieldName = tuple[str, ...]
"""Such as ("place", "header", "phone") or ("fact", "member")."""

Fields = Mapping[FieldName, JsonValue]

REMOVED: Final = "removed"
"""How a conflict tells of a side that does not have the field."""


class _Absent:
    pass


_ABSENT: Final = _Absent()


def said(name: FieldName) -> str:
    """The name as people and choices have it: `place header phone`."""
    return " ".join(name)


def merge_fields(
    base: Fields,
    ours: Fields,
    theirs: Fields,
    choices: Mapping[str, Side],
    note: Callable[[str | None, Conflict], None],
) -> dict[FieldName, JsonValue]:
    """Both sides' edits. The order is that of the side that changed it, ours where both did.

    A field that one side removed and the other set anew is a conflict, in which, unless chosen, it stays.
    """
    spine, rest = (theirs, ours) if list(ours) == list(base) else (ours, theirs)
    merged: dict[FieldName, JsonValue] = {}
    for name in dict.fromkeys([*spine, *rest]):
        was, mine, other = (side.get(name, _ABSENT) for side in (base, ours, theirs))
        value = other if mine == was else mine
        if mine != other and was not in (mine, other):
            kind = "edit-remove" if _ABSENT in (mine, other) else "add-add" if was is _ABSENT else "edit-edit"
            note(None, Conflict(id=said(name), kind=kind, ours=_told(mine), theirs=_told(other)))  # type: ignore[arg-type]
            chosen = choices.get(said(name), "theirs" if mine is _ABSENT else "ours")
            value = mine if chosen == "ours" else other
        if not isinstance(value, _Absent):
            merged[name] = value
    return merged


def _told(value: object) -> object:
    return REMOVED if isinstance(value, _Absent) else value
