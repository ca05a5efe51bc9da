"""A resolved menu drawn as its place on the site would show it: HTML without scripts, links that lead nowhere.

The classes are those of frontend/public/strip.css. Labels are text; what the look says of colours and sizes comes in as
custom properties.
"""

from collections.abc import Iterable
from html import escape
from typing import Literal

from sign_shelf.core.basics.address import joined
from sign_shelf.core.icons import icon_svg
from sign_shelf.core.look import Opens
from sign_shelf.core.look.export import css_properties
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.template import Location, Shape
from sign_shelf.core.resolve.resolved import Resolved

_STACKED: frozenset[Shape] = frozenset({"drawer", "side", "section"})
#: Scripts written from right to left (Unicode CLDR, languages in common use).
_RIGHT_TO_LEFT = frozenset({"ar", "arc", "ckb", "dv", "fa", "he", "ks", "ps", "sd", "ug", "ur", "yi"})


def direction_of(language: str) -> Literal["ltr", "rtl"]:
    return "rtl" if language.split("-")[0] in _RIGHT_TO_LEFT or "-Arab" in language else "ltr"


def strip_html(
    items: Iterable[Resolved],
    location: Location,
    *,
    device: Device,
    language: str,
    name: str,
    base: str = "",
    width: int | None = None,
) -> str:
    """The place with its menu. `name` stands where the site has its own; pictures are those of the site at `base`; `device`
    says whether an icon may stand alone. Below the look's own break width, where `width` is known, the drawer has taken
    over.

    How levels below open follows from the location's look (`opens`), else from its shape.
    """
    look = location.look
    shape = "drawer" if device == "phone" and location.shape == "bar" else location.shape
    writer = _Writer(language, wide=device != "phone", icon_end=look.icon_side == "end", base=base)
    classes = f"place shape-{shape} opens-{_opens(location, shape)} overflow-{look.overflow} effect-{look.effect}"
    classes += " align-fill" if look.align == "fill" else ""
    classes += " has-max" if look.max is not None else ""
    classes += " starts-folded" if look.folded else ""
    classes += " is-drawer" if width is not None and look.drawer_below is not None and width < look.drawer_below else ""
    # A bar keeps the space that its look reserves; a name without a space of its own would push the entries aside.
    named = shape == "drawer" or (shape == "bar" and look.reserved > 0)
    own_name = f'<span class="name">{escape(name)}</span>' if named else ""
    button = '<span class="takes-over">Menu</span>' if look.overflow == "drawer" and shape == "bar" else ""
    direction = look.direction if look.direction in {"ltr", "rtl"} else direction_of(language)
    shown = tuple(items)[::-1] if look.direction == "reversed" else items
    style = escape(";".join(f"{name}:{value}" for name, value in css_properties(look).items()))
    return (
        f'<div class="{classes}" dir="{direction}" lang="{escape(language)}" style="{style}">'
        f"{own_name}{writer.level(shown, 1)}{button}</div>"
    )


def first_entries(items: tuple[Resolved, ...], most: int) -> tuple[Resolved, ...]:
    """The first entries in reading order, at most so many: a drawing of thousands is no use to anybody's eye."""
    left = most

    def taken(level: tuple[Resolved, ...]) -> tuple[Resolved, ...]:
        nonlocal left
        found = []
        for item in level:
            if left <= 0:
                break
            left -= 1
            found.append(item._replace(items=taken(item.items)) if item.items else item)
        return tuple(found)

    return taken(items)


def count_entries(items: tuple[Resolved, ...]) -> int:
    return sum(1 + count_entries(item.items) for item in items)


def _opens(location: Location, shape: Shape) -> Opens:
    return "in-place" if shape in _STACKED or shape == "columns" else location.look.opens


class _Writer:
    def __init__(self, language: str, *, wide: bool, icon_end: bool, base: str) -> None:
        self.language = language
        self.wide = wide
        self.icon_end = icon_end
        self.base = base

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
        named = [icon_svg(look.icon) if look.icon else "", f'<span class="text">{escape(item.label)}</span>']
        pieces = [
            self._picture(look.picture) if look.picture else "",
            *(named[::-1] if self.icon_end else named),
            self._badge(item),
            '<span class="caret" aria-hidden="true"></span>' if holds else "",
        ]
        return f'<a class="{" ".join(classes)}"{hooks}>{"".join(pieces)}</a>'

    def _picture(self, address: str) -> str:
        """A blank with the picture's name, which the picture covers where it can be loaded."""
        name = address.partition("?")[0].rstrip("/").rpartition("/")[2] or "picture"
        src = escape(joined(self.base, address) if self.base else address)
        return (
            f'<span class="picture"><span class="blank">{escape(name)}</span>'
            f'<img src="{src}" alt="" loading="lazy" referrerpolicy="no-referrer"></span>'
        )

    def _badge(self, item: Resolved) -> str:
        badge = item.look.badge
        if badge is None:
            return ""
        words = badge.label.get(self.language) or next(iter(badge.label.values()))
        return f'<small class="badge tone-{badge.tone}">{escape(words)}</small>'
