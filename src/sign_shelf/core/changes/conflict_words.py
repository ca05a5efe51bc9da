"""What a change and what is live do not agree on, in words."""

from collections.abc import Sequence

from sign_shelf.core.changes.fields import REMOVED
from sign_shelf.core.changes.merging import StateConflict
from sign_shelf.core.changes.state import Contents
from sign_shelf.core.compare.met import Met, met, value_words
from sign_shelf.core.model.menu import MenuDocument, walk
from sign_shelf.core.model.template import Template
from sign_shelf.core.outline.called import title


def state_met(conflict: StateConflict, sides: Sequence[Contents], template: Template) -> Met:
    """`sides` are the states that met, from which things have their names; `template` names the places."""
    if conflict.menu is not None:
        menus = [side.menus[conflict.menu] for side in sides if conflict.menu in side.menus]
        found = met(conflict.conflict, {item.id: title(item) for menu in menus for _, item in walk(menu.items)})
        name = menus[-1].name if menus else conflict.menu
        whole = conflict.conflict.id == "name"
        return Met(title=name if whole else f"{found.title}, in {name}", field=found.field, ours=found.ours,
                   theirs=found.theirs)  # fmt: skip
    kind, _, rest = conflict.conflict.id.partition(" ")
    known = {key: menu for side in sides for key, menu in side.menus.items()}

    def side(value: object) -> str:
        return _value(kind, value, known)

    return Met(
        title=_title(kind, rest, known, template), field=None, ours=side(conflict.conflict.ours),
        theirs=side(conflict.conflict.theirs),
    )  # fmt: skip


def _title(kind: str, rest: str, menus: dict[str, MenuDocument], template: Template) -> str:
    key, _, of = rest.partition(" ")
    place = template.location(key)
    where = place.title if place is not None else key
    match kind:
        case "template":
            return "The template"
        case "menu":
            return f"The menu {menus[key].name if key in menus else key}"
        case "place":
            return f"What hangs in {where} for {of}"
        case "look":
            return f"The look of {where}{': ' + of.replace('_', ' ') if of else ''}"
        case "archived":
            return f"Whether {menus[rest].name if rest in menus else rest} is put away"
        case "follows":
            return f"Which version of the shared menu {menus[rest].name if rest in menus else rest} it follows"
        case "set":
            return f"Which version of the shared facts {key} it follows"
        case _:
            return f"The {kind} {rest}"


def _value(kind: str, value: object, menus: dict[str, MenuDocument]) -> str:
    if value == REMOVED:
        return "nothing of its own" if kind == "place" else "removed"
    if kind == "place":
        return "none on purpose" if value is None else menus[str(value)].name if str(value) in menus else str(value)
    if kind == "template" and isinstance(value, dict):
        return f"{value.get('key')}, version {value.get('version')}"
    if kind == "follows" and isinstance(value, dict):
        return f"version {str(value.get('version')).removeprefix('sha256:')[:8]}"
    return value_words(value)
