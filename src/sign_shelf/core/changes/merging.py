"""Three-way merge of whole states: the laws are those of the merge of trees (core/compare/merge.py)."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, replace

from pydantic import JsonValue, ValidationError

from sign_shelf.core.changes.arrangement import TemplateVersion, arrangement_of, fields_of
from sign_shelf.core.changes.fields import REMOVED, FieldName, Fields, merge_fields, said
from sign_shelf.core.changes.state import Contents
from sign_shelf.core.compare import Conflict, Side, merge
from sign_shelf.core.compare.both import Choice, beside
from sign_shelf.core.look import PlaceLook
from sign_shelf.core.model.menu import MenuDocument, menu_document
from sign_shelf.core.model.template import Template

KEPT = "kept"


@dataclass(frozen=True, kw_only=True)
class StateConflict:
    """A conflict in a menu, or, where `menu` is None, in the arrangement."""

    menu: str | None
    conflict: Conflict

    @property
    def key(self) -> str:
        """What a choice names: the item's conflicts in its menu, or a field of the arrangement."""
        return f"{self.menu}/{self.conflict.id}" if self.menu is not None else self.conflict.id


@dataclass(frozen=True, kw_only=True)
class Merged:
    contents: Contents
    conflicts: tuple[StateConflict, ...]


Templates = Callable[[TemplateVersion], Template]
Choices = Mapping[str, Side]
Note = Callable[[str | None, Conflict], None]
"""Is told of each conflict, with the menu that it is in."""


class Conflicts:
    """What was not agreed on, each thing once."""

    def __init__(self) -> None:
        self._found: dict[tuple[str | None, str, str, str | None], StateConflict] = {}

    def note(self, menu: str | None, conflict: Conflict) -> None:
        self._found[menu, conflict.id, conflict.kind, conflict.field] = StateConflict(menu=menu, conflict=conflict)

    def told(self, settled: Collection[str] = ()) -> tuple[StateConflict, ...]:
        found = [one for one in self._found.values() if one.key not in settled]
        return tuple(sorted(found, key=lambda one: (one.menu or "", one.conflict.id, one.conflict.kind)))


def merge_states(
    base: Contents, ours: Contents, theirs: Contents, *, templates: Templates, choices: Choices | None = None
) -> Merged:
    """Both sides' edits as one state. Where a conflict is not settled, what stands follows `Merge`: nothing that one side
    edited or used is gone because the other removed it, and else ours stands. `choices` are by the keys of conflicts; those
    that they settle are told no more.

    Laws: merge(b, b, x) = merge(b, x, b) = merge(b, x, x) = x; swapping the sides swaps the conflicts.
    """
    chosen = choices or {}
    conflicts = Conflicts()
    was, mine, other = (fields_of(one.arrangement) for one in (base, ours, theirs))
    fields = merge_fields(was, mine, other, chosen, conflicts.note)
    template = templates(TemplateVersion.model_validate(fields[TEMPLATE]))
    fields = on_template(fields, was, mine, other, template, chosen, conflicts.note)
    arrangement = arrangement_of(fields)
    used = {one.menu for one in arrangement.placements} | may_hang(was, mine, other, chosen)
    menus = merge_menus(base.menus, ours.menus, theirs.menus, used, chosen, conflicts.note)
    return Merged(contents=Contents(arrangement=arrangement, menus=menus), conflicts=conflicts.told(chosen))


def may_hang(was: Fields, mine: Fields, other: Fields, choices: Choices) -> set[str | None]:
    """What either side hung where they do not agree and nobody chose yet: whichever is chosen finds its menu there."""
    met = [
        name for name in {*mine, *other}
        if name[0] == "place" and said(name) not in choices and mine.get(name) != other.get(name)
        and (name in was, was.get(name)) not in ((name in side, side.get(name)) for side in (mine, other))
    ]  # fmt: skip
    return {str(side[name]) for side in (mine, other) for name in met if side.get(name) is not None}


TEMPLATE = ("template",)


def on_template(
    fields: Fields, base: Fields, ours: Fields, theirs: Fields, template: Template, choices: Choices, note: Note
) -> dict[FieldName, JsonValue]:
    """What goes with the template that came out. What a side put at a location that the other's template does not have is
    a conflict, until the side that moved is chosen for it; so are looks that cannot be together."""
    kept: dict[FieldName, JsonValue] = {}
    for name, value in fields.items():
        meant = any(
            side.get(TEMPLATE) == fields[TEMPLATE] and name in side and side[name] == value for side in (ours, theirs)
        )
        if name[0] not in {"place", "look"} or template.location(name[1]) is not None or meant:
            kept[name] = value
        elif name not in base or base[name] != value:
            chosen = {"ours": ours, "theirs": theirs}.get(choices.get(said(name), ""), fields)
            if name in chosen:
                mine, other = ours.get(name, REMOVED), theirs.get(name, REMOVED)
                note(None, Conflict(id=said(name), kind="edit-remove", ours=mine, theirs=other))
    for location in template.locations:
        look, mine, other = (_look(side, location.key) for side in (kept, ours, theirs))
        if look in (mine, other) or _holds_together(location.look, look):
            continue
        note(None, Conflict(id=f"look {location.key}", kind="edit-edit", ours=mine, theirs=other))
        stands = other if choices.get(f"look {location.key}") == "theirs" else mine
        kept = {name: value for name, value in kept.items() if name[:2] != ("look", location.key)}
        kept |= {("look", location.key, key): value for key, value in stands.items()}
    return kept


def _look(fields: Fields, location: str) -> dict[str, JsonValue]:
    return {name[2]: value for name, value in fields.items() if name[:2] == ("look", location)}


def _holds_together(usual: PlaceLook, look: Mapping[str, JsonValue]) -> bool:
    try:
        usual.adjusted(look)
    except ValidationError:
        return False
    return True


def merge_menus(
    base: Mapping[str, MenuDocument],
    ours: Mapping[str, MenuDocument],
    theirs: Mapping[str, MenuDocument],
    used: Collection[str | None],
    choices: Choices,
    note: Note,
) -> dict[str, MenuDocument]:
    """Menu by menu. One that a side removed and the other edited, or that still hangs somewhere, is kept."""
    spine, rest = (theirs, ours) if list(ours) == list(base) else (ours, theirs)
    merged: dict[str, MenuDocument] = {}
    for key in dict.fromkeys([*spine, *rest]):
        was, mine, other = base.get(key), ours.get(key), theirs.get(key)
        kept = _menu(key, was, mine, other, key in used, choices, note)
        if kept is not None:
            merged[key] = kept
    return merged


def _menu(
    key: str,
    was: MenuDocument | None,
    mine: MenuDocument | None,
    other: MenuDocument | None,
    used: bool,
    choices: Choices,
    note: Note,
) -> MenuDocument | None:
    if mine is not None and other is not None:
        return merge_menu(key, was, mine, other, choices, note)
    left = mine or other
    if was is None or left is None or (_same(was, left) and not used):
        return left if was is None else None
    told = (KEPT, REMOVED) if mine is not None else (REMOVED, KEPT)
    note(None, Conflict(id=f"menu {key}", kind="edit-remove", ours=told[0], theirs=told[1]))
    chosen = choices.get(f"menu {key}")
    return None if chosen is not None and (chosen == "ours") == (mine is None) and not used else left


def merge_menu(
    key: str,
    was: MenuDocument | None,
    mine: MenuDocument,
    other: MenuDocument,
    choices: Choices,
    note: Note,
) -> MenuDocument:
    """Items and name. Two menus that were begun under the same key set out from an empty one."""
    if _same(mine, other) or (was is not None and _same(other, was)):
        return mine
    if was is not None and _same(mine, was):
        return other
    start = was or menu_document(key)
    prefix = f"{key}/"
    own = {name.removeprefix(prefix): side for name, side in choices.items() if name.startswith(prefix)}
    result = merge(start.items, mine.items, other.items, choices=own)
    for conflict in result.conflicts:
        note(key, conflict)
    before = was.name if was is not None else None
    name = mine.name if other.name == before else other.name
    if mine.name != other.name and before not in (mine.name, other.name):
        note(key, Conflict(id="name", kind="edit-edit", field="name", ours=mine.name, theirs=other.name))
        name = mine.name if own.get("name", "ours") == "ours" else other.name
    return mine.model_copy(update={"name": name, "items": result.items})


def _same(one: MenuDocument, other: MenuDocument) -> bool:
    return one is other or one == other


def with_both(
    merged: Contents, theirs: Contents, met: Collection[StateConflict], choices: Mapping[str, Choice]
) -> Contents:
    """The merge with their version beside ours where both were chosen (core/compare/both.py)."""
    menus = dict(merged.menus)
    for menu in {one.menu for one in met if one.menu is not None and choices.get(one.key) == "both"}:
        if menu in menus and menu in theirs.menus:
            of_menu = [one.conflict for one in met if one.menu == menu and choices.get(one.key) == "both"]
            chosen: dict[str, Choice] = {one.id: "both" for one in of_menu}
            items = beside(menus[menu].items, theirs.menus[menu].items, of_menu, chosen)
            menus[menu] = menus[menu].with_items(items)
    return replace(merged, menus=menus)
