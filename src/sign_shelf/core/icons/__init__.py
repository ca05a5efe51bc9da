"""The icons that an item may carry: a shipped open set (Lucide, ISC licence), found by word, drawn as SVG shapes."""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from difflib import get_close_matches
from functools import cache
from html import escape
from importlib.resources import files

Shape = tuple[str, Mapping[str, str]]


@dataclass(frozen=True)
class Icon:
    """`shapes` are SVG elements with their attributes, on a field of 24 by 24, drawn with a stroke."""

    name: str
    words: tuple[str, ...]
    shapes: tuple[Shape, ...]


@cache
def icons() -> Mapping[str, Icon]:
    """The whole set by name, in alphabetical order."""
    raw = json.loads((files(__package__) / "icons.json").read_text("utf-8"))
    return {
        name: Icon(name, tuple(one["words"]), tuple((tag, attributes) for tag, attributes in one["shapes"]))
        for name, one in raw.items()
    }


def search_icons(words: str, limit: int) -> list[Icon]:
    """Icons whose name or words hold every word; names that begin with the first word come first."""
    wanted = words.casefold().split()
    found = [icon for icon in icons().values() if all(_holds(icon, word) for word in wanted)]
    if wanted:
        found.sort(key=lambda icon: (icon.name != wanted[0], not icon.name.startswith(wanted[0]), icon.name))
    return found[:limit]


def _holds(icon: Icon, word: str) -> bool:
    return word in icon.name or any(word in own for own in icon.words)


def known_icon(name: str) -> str:
    """The name itself. Raises ValueError for one that the set does not have, with the nearest that it has."""
    known = icons()
    if name in known:
        return name
    near = get_close_matches(name, known, 3) or [icon.name for icon in search_icons(name, 3)]
    offer = f"did you mean {', '.join(near)}?" if near else "search the set with `sign-shelf icons WORD`"
    raise ValueError(f'there is no icon "{name[:60]}"; {offer}')


def icon_svg(name: str) -> str:
    """The icon as inline SVG in the colour of the text, hidden from readers of the screen: the label speaks for it."""
    inner = ""
    for tag, attributes in icons()[name].shapes:
        written = " ".join(f'{key}="{escape(value)}"' for key, value in attributes.items())
        inner += f"<{tag} {written}/>"
    return (
        '<svg class="icon" viewBox="0 0 24 24" fill="none" stroke="currentColor" stroke-width="2" '
        f'stroke-linecap="round" stroke-linejoin="round" aria-hidden="true">{inner}</svg>'
    )


__all__ = ["Icon", "icon_svg", "icons", "known_icon", "search_icons"]
