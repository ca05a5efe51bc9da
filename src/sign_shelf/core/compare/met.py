"""Conflicts in words: what two people met in, and what each of them wants of it."""

from collections.abc import Mapping
from dataclasses import dataclass

from pydantic import JsonValue, TypeAdapter, ValidationError

from sign_shelf.core.basics.clock import said_moment
from sign_shelf.core.basics.languages import language_name
from sign_shelf.core.compare.merge import Conflict
from sign_shelf.core.model.menu import AnyLinkTarget, LinkTarget, OverlayTarget, PendingTarget, Query
from sign_shelf.core.outline.writing import query_text, target_text

_TARGET: TypeAdapter[LinkTarget] = TypeAdapter(AnyLinkTarget)
_FIELDS = {
    "target": "where it leads",
    "from_": "when it starts",
    "until": "when it ends",
    "when": "whom it shows to",
    "devices": "on which devices it shows",
    "new_tab": "whether it opens a new tab",
    "rel": "its link relations",
    "look": "its look",
    "kind": "what it is",
    "list": "what it lists",
    "menu": "which menu it includes",
    "origin": "what it is a copy of",
    "name": "the menu's name",
}


@dataclass(frozen=True, kw_only=True)
class Met:
    """`field` None: the thing as a whole."""

    title: str
    field: str | None
    ours: str
    theirs: str


def met(conflict: Conflict, titles: Mapping[str, str]) -> Met:
    """`titles` are what the menu's items are called, by id."""
    return Met(
        title=titles.get(conflict.id, "the top"),
        field=field_words(conflict.field) if conflict.field else None,
        ours=_side(conflict, conflict.ours, titles),
        theirs=_side(conflict, conflict.theirs, titles),
    )


def field_words(field: str) -> str:
    name, _, tag = field.partition(".")
    return f"its label in {language_name(tag)}" if name == "label" else _FIELDS.get(name, name.replace("_", " "))


def _side(conflict: Conflict, value: object, titles: Mapping[str, str]) -> str:
    if conflict.kind in {"move-move", "cycle"}:
        return f"under {titles.get(str(value), 'the top')}" if value else "at the top"
    if conflict.kind == "order" and isinstance(value, list | tuple):
        return ", ".join(titles.get(str(one), str(one)) for one in value)
    if conflict.field == "target":
        return _leads_to(value)
    if conflict.field == "list" and isinstance(value, dict):
        return query_text(Query.model_validate(value))
    if conflict.field in {"from_", "until"} and isinstance(value, str):
        return said_moment(value)
    return value_words(value)


def _leads_to(value: object) -> str:
    try:
        overlay = isinstance(value, dict) and "overlay" in value
        target = OverlayTarget.model_validate(value) if overlay else _TARGET.validate_python(value)
    except ValidationError:
        return value_words(value)
    return "nowhere yet" if isinstance(target, PendingTarget) else target_text(target)


def value_words(value: object | JsonValue) -> str:
    """A value as it may be read aloud: an item by its label."""
    match value:
        case None:
            return "none"
        case bool():
            return "yes" if value else "no"
        case dict():
            label = value.get("label")
            if isinstance(label, dict) and label:
                return str(next(iter(label.values())))
            return ", ".join(f"{str(key).replace('_', ' ')} {value_words(one)}" for key, one in value.items()) or "none"
        case list() | tuple():
            return ", ".join(value_words(one) for one in value) or "none"
        case _:
            return str(value)
