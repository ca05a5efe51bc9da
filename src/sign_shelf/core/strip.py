"""A resolved menu drawn as its place on the site would show it: HTML without scripts, links that lead nowhere.

The classes are those of frontend/public/strip.css. Labels are text; what a template says of colours and sizes comes in
as custom properties, and only where it can be nothing but a colour, a size or a word.
"""

import re
from collections.abc import Iterable, Mapping
from html import escape
from typing import Literal

from sign_shelf.core.icons import icon_svg
from sign_shelf.core.menu import Device
from sign_shelf.core.resolved import Resolved
from sign_shelf.core.template import Location, Shape

Opens = Literal["drop-down", "beside", "columns", "panel", "in-place"]
OPENS: tuple[Opens, ...] = ("drop-down", "beside", "columns", "panel", "in-place")

_VALUE = re.compile(r"^[#\w .,%()\-]{1,120}$")
_STACKED: frozenset[Shape] = frozenset({"drawer", "side", "section"})
#: Scripts written from right to left (Unicode CLDR, languages in common use).
_RIGHT_TO_LEFT = frozenset({"ar", "arc", "ckb", "dv", "fa", "he", "ks", "ps", "sd", "ug", "ur", "yi"})


def direction_of(language: str) -> Literal["ltr", "rtl"]:
    return "rtl" if language.split("-")[0] in _RIGHT_TO_LEFT or "-Arab" in language else "ltr"


def strip_html(items: Iterable[Resolved], location: Location, *, device: Device, language: str, name: str) -> str:
    """The place with its menu. `name` stands where the site has its own; `device` says whether an icon may stand alone.

    How levels below open follows from the location's look (`opens`), else from its shape.
    """
    shape = "drawer" if device == "phone" and location.shape == "bar" else location.shape
    writer = _Writer(language, wide=device != "phone")
    classes = f"place shape-{shape} opens-{_opens(location, shape)}"
    own_name = f'<span class="name">{escape(name)}</span>' if shape in {"bar", "drawer"} else ""
    said = location.look.get("direction")
    direction = said if said in {"ltr", "rtl"} else direction_of(language)
    return (
        f'<div class="{classes}" dir="{direction}" lang="{escape(language)}" style="{escape(_properties(location.look))}">'
        f"{own_name}{writer.level(items, 1)}</div>"
    )


def _opens(location: Location, shape: Shape) -> Opens:
    said = location.look.get("opens")
    if shape in _STACKED or shape == "columns":
        return "in-place"
    return next((one for one in OPENS if one == said), "drop-down")


def _properties(look: Mapping[str, str | int | float]) -> str:
    return ";".join(
        f"--{name.replace('_', '-')}:{value}"
        for name, value in look.items()
        if re.fullmatch(r"[a-z_]{1,40}", name) and _VALUE.match(str(value))
    )


class _Writer:
    def __init__(self, language: str, *, wide: bool) -> None:
        self.language = language
        self.wide = wide

    def level(self, items: Iterable[Resolved], depth: int) -> str:
        entries = "".join(self._entry(item, depth) for item in items)
        return f'<ul class="level level-{min(depth, 4)}">{entries}</ul>' if entries else ""

    def _entry(self, item: Resolved, depth: int) -> str:
        if item.kind == "divider":
            return f'<li class="entry" data-entry="{escape(item.id)}"><hr></li>'
        below = self.level(item.items, depth + 1)
        classes = "entry holds" if below else "entry"
        return f'<li class="{classes}" data-entry="{escape(item.id)}">{self._words(item, bool(below))}{below}</li>'

    def _words(self, item: Resolved, holds: bool) -> str:
        look = item.look
        classes = ["words", f"is-{item.kind}", f"speaks-{look.emphasis}"]
        classes += [f"size-{look.size or 'm'}"] if look.emphasis == "button" else []
        classes += ["icon-alone"] if look.icon_only and self.wide else []
        classes += [f"current-{item.current}"] if item.current != "none" else []
        hooks = f' data-hooks="{escape(" ".join(look.hooks))}"' if look.hooks else ""
        pieces = [
            f'<img class="picture" src="{escape(look.picture)}" alt="" loading="lazy" referrerpolicy="no-referrer">'
            if look.picture
            else "",
            icon_svg(look.icon) if look.icon else "",
            f'<span class="text">{escape(item.label)}</span>',
            self._badge(item),
            '<span class="away" aria-hidden="true">↗</span>' if item.new_tab else "",
            '<span class="caret" aria-hidden="true"></span>' if holds else "",
        ]
        return f'<a class="{" ".join(classes)}"{hooks}>{"".join(pieces)}</a>'

    def _badge(self, item: Resolved) -> str:
        badge = item.look.badge
        if badge is None:
            return ""
        words = badge.label.get(self.language) or next(iter(badge.label.values()))
        return f'<small class="badge tone-{badge.tone}">{escape(words)}</small>'
