"""Edits as plain sentences, in the language in which the menu's labels are read."""

from collections.abc import Callable

from sign_shelf.core.basics.clock import said_moment
from sign_shelf.core.basics.languages import language_name
from sign_shelf.core.model.menu import AnyItem, Include, Link, Listing, Look, Opener
from sign_shelf.core.outline.called import title
from sign_shelf.core.outline.writing import query_text, target_text


def set_sentence(field: str, old: AnyItem, new: AnyItem, language: str) -> str:
    """What a changed setting of an item means."""
    name = title(new, language)
    tell = _FIELDS.get(field)
    return tell(name, old, new) if tell else f"Changed {field} of {name}"


def _time(word: str, none: str, value: Callable[[AnyItem], str | None]) -> Callable[[str, AnyItem, AnyItem], str]:
    def tell(name: str, old: AnyItem, new: AnyItem) -> str:
        now = value(new)
        return f"{name} now {word} {said_moment(now)}" if now else f"{name} no longer {none}"

    return tell


def _rule(name: str, old: AnyItem, new: AnyItem) -> str:
    return f"{name} now shows when {new.when}" if new.when else f"{name} no longer has a rule"


def _devices(name: str, old: AnyItem, new: AnyItem) -> str:
    return f"{name} now shows on {', '.join(new.devices)}" if new.devices else f"{name} now shows on every device"


def _tab(name: str, old: AnyItem, new: AnyItem) -> str:
    return f"{name} {'now opens in a new tab' if getattr(new, 'new_tab', False) else 'no longer opens a new tab'}"


def _rel(name: str, old: AnyItem, new: AnyItem) -> str:
    rel = getattr(new, "rel", ())
    return f"{name} now has the relations {', '.join(rel)}" if rel else f"Took the relations of {name} away"


def _list(name: str, old: AnyItem, new: AnyItem) -> str:
    return f"{name} now fills itself with {query_text(new.list)}" if isinstance(new, Listing) else f"Changed {name}"


def _menu(name: str, old: AnyItem, new: AnyItem) -> str:
    was = old.menu if isinstance(old, Include) else ""
    return f"Includes {new.menu if isinstance(new, Include) else ''} in place of {was}"


def _kind(name: str, old: AnyItem, new: AnyItem) -> str:
    return f"Turned {name} from a {old.kind} into a {new.kind}"


def _origin(name: str, old: AnyItem, new: AnyItem) -> str:
    return f"Noted that {name} is a copy of {new.origin}" if new.origin else f"Forgot what {name} is a copy of"


def _look(name: str, old: AnyItem, new: AnyItem) -> str:
    was, now = getattr(old, "look", Look()), getattr(new, "look", Look())
    told: list[str] = []
    if (was.emphasis, was.size) != (now.emphasis, now.size):
        told.append(
            {
                "plain": "speaks plainly",
                "strong": "speaks strongly",
                "button": f"is a button{f' of size {now.size}' if now.size else ''}",
            }[now.emphasis]
        )
    if was.icon != now.icon:
        told.append(f"has the icon {now.icon}" if now.icon else "has no icon")
    if was.icon_only != now.icon_only:
        told.append("shows its icon alone on wide screens" if now.icon_only else "shows its words beside the icon")
    if was.badge != now.badge:
        words = next(iter(now.badge.label.values())) if now.badge else ""
        told.append(f"has the badge {words}" if words else "has no badge")
    if was.picture != now.picture:
        told.append(f"has the picture {now.picture}" if now.picture else "has no picture")
    if was.hooks != now.hooks:
        told.append(f"has the style hooks {', '.join(now.hooks)}" if now.hooks else "has no style hooks")
    return f"{name} now {', '.join(told)}"


_FIELDS: dict[str, Callable[[str, AnyItem, AnyItem], str]] = {
    "from": _time("starts", "has a start", lambda item: item.from_),
    "until": _time("ends", "has an end", lambda item: item.until),
    "when": _rule,
    "devices": _devices,
    "new_tab": _tab,
    "rel": _rel,
    "list": _list,
    "menu": _menu,
    "kind": _kind,
    "origin": _origin,
    "look": _look,
}


def label_sentence(item: AnyItem, language: str, tag: str, was: str | None, now: str | None) -> str:
    note = "" if tag == language else f" in {language_name(tag)}"
    if now is None:
        return f"Took the label {was}{note} away"
    return f"Relabelled {was or title(item, language)} to {now}{note}"


def target_sentence(item: AnyItem, language: str) -> str:
    goal = target_text(item.target) if isinstance(item, Link | Opener) else ""
    return f"Pointed {title(item, language)} at {goal}"


def removed_sentence(item: AnyItem, below: int, language: str) -> str:
    return f"Removed {title(item, language)}{f' and {below} below it' if below else ''}"


def added_sentence(item: AnyItem, parent: AnyItem | None, language: str) -> str:
    place = f" under {title(parent, language)}" if parent else ""
    leads = f", to {target_text(item.target)}" if isinstance(item, Link | Opener) and item.label else ""
    return f"Added {title(item, language)}{place}{leads}"


def moved_sentence(item: AnyItem, source: AnyItem | None, goal: AnyItem | None, language: str) -> str:
    def name(place: AnyItem | None) -> str:
        return title(place, language) if place else "the top"

    return f"Moved {title(item, language)} from {name(source)} to {name(goal)}"


def reordered_sentence(item: AnyItem, after: AnyItem | None, language: str) -> str:
    return f"Put {title(item, language)} {f'after {title(after, language)}' if after else 'to the front'}"


_DONE_AND_TO_DO = {
    "Added": "Add", "Relabelled": "Relabel", "Took": "Take", "Pointed": "Point", "Removed": "Remove", "Moved": "Move",
}  # fmt: skip


def as_task(says: str) -> str:
    """The sentence of an edit that adds, takes, moves, relabels or points, as something to be done."""
    verb, _, rest = says.partition(" ")
    return f"{_DONE_AND_TO_DO.get(verb, verb)} {rest}"
