"""A resolved menu in its place as a bar to be measured, and what would make one fit that does not."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from sign_shelf.core.drawing.strip import direction_of
from sign_shelf.core.errors import FitRefused
from sign_shelf.core.fit.bar import MOST_ENTRIES, Container, FitItem, FitRequest, fit, fits_from
from sign_shelf.core.fit.fonts import FontSet
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.template import Location, Shape, Template
from sign_shelf.core.resolve.resolved import Resolved

USUAL_FONT = "Atkinson Hyperlegible Next"
SIDE_BY_SIDE: frozenset[Shape] = frozenset({"bar", "strip", "line", "corner"})
"""Shapes whose entries stand beside each other, so that they may not fit."""

_MORE = {"en": "More", "nl": "Meer", "cy": "Mwy", "pl": "Więcej", "de": "Mehr", "pt": "Mais", "ar": "المزيد"}
_JOINTS = (" & ", " and ", " en ", " a ", " i ", " und ", ": ", " – ", ", ")
Suggested = Literal["shorter", "nest", "icon-alone", "move"]


def request_of(items: tuple[Resolved, ...], location: Location, *, language: str, device: Device) -> FitRequest:
    """The place's top level as its look draws it. Dividers take no part. Raises FitRefused for more entries than are
    measured."""
    look = location.look
    shown = [item for item in items if item.kind != "divider"]
    if len(shown) > MOST_ENTRIES:
        raise FitRefused(
            f"{len(shown)} entries stand side by side; at most {MOST_ENTRIES} are measured.", where=location.key,
            remedy="Put most of them below others.",
        )  # fmt: skip
    if look.direction == "reversed":
        shown.reverse()
    return FitRequest(
        font=look.font or USUAL_FONT,
        size=look.size,
        weight=look.weight,
        letter_spacing=look.letter_spacing,
        transform=look.case,
        gap=look.gap,
        padding=look.padding,
        inner_gap=look.inner_gap,
        direction="rtl" if (look.direction or direction_of(language)) == "rtl" else "ltr",
        language=language,
        icon_width=look.icon_size,
        caret_width=look.caret_width,
        badge_size=look.badge_size,
        badge_padding=look.badge_padding,
        button_padding=look.button_padding,
        items=tuple(_item(item, language, device) for item in shown),
        container=Container(max=look.max, gutter=look.gutter, reserved=look.reserved),
        overflow=look.overflow,
        drawer_below=look.drawer_below,
    )


def _item(item: Resolved, language: str, device: Device) -> FitItem:
    look = item.look
    badge = look.badge.label.get(language) or next(iter(look.badge.label.values())) if look.badge else None
    return FitItem(
        label=item.label,
        icon=look.icon is not None,
        icon_only=look.icon_only and device != "phone",
        caret=bool(item.items),
        badge=badge,
        button=(look.size or "m") if look.emphasis == "button" else None,
        strong=look.emphasis == "strong",
        picture=look.picture is not None,
    )


@dataclass(frozen=True, slots=True)
class Suggestion:
    """One way to need less room, with what the bar would then need. `label` is the new one where there is one."""

    kind: Suggested
    items: tuple[str, ...]
    says: str
    natural: float
    fits_from: int | None
    label: str | None = None
    location: str | None = None


def suggestions(
    fonts: FontSet,
    items: tuple[Resolved, ...],
    location: Location,
    template: Template,
    *,
    language: str,
    device: Device,
    titles: dict[str, str],
    width: int,
) -> list[Suggestion]:
    """Ways to make the bar fit at the viewport width, those that do first, then by how much they save.

    `titles` are the pages' own titles by reference. Empty where the bar fits already.
    """
    now = fit(fonts, request_of(items, location, language=language, device=device))
    if now.fits_from is not None and now.fits_from <= width:
        return []

    shown = tuple(item for item in items if item.kind != "divider")
    gap, container = location.look.gap, request_of((), location, language=language, device=device).container
    widths = now.item_widths if location.look.direction != "reversed" else now.item_widths[::-1]

    def width_of(item: Resolved) -> float:
        return fit(fonts, request_of((item,), location, language=language, device=device)).natural

    def then(kind: Suggested, ids: tuple[str, ...], says: str, natural: float, **more: str) -> Suggestion:
        return Suggestion(kind, ids, says, natural, fits_from(natural, container), **more)

    found: list[Suggestion] = []
    for item, own in zip(shown, widths, strict=True):
        for shorter in _shorter(item, titles):
            natural = now.natural - own + width_of(item._replace(label=shorter))
            if natural < now.natural:
                says = f"Call {item.label} just {shorter}"
                found.append(then("shorter", (item.id,), says, natural, label=shorter))
        if item.look.icon and not item.look.icon_only:
            alone = item._replace(look=item.look.model_copy(update={"icon_only": True}))
            says = f"Show {item.label} as its icon alone on wide screens"
            found.append(then("icon-alone", (item.id,), says, now.natural - own + width_of(alone)))
    if location.depth >= 2 and "heading" in location.kinds:
        more = _MORE.get(language.split("-")[0], _MORE["en"])
        # The fewest last entries that, under one heading, leave room for the rest.
        natural = sum(widths) + width_of(Resolved("more", "heading", more, items=shown[-1:])) + gap * len(shown)
        for count, own in enumerate(reversed(widths[1:]), 1):
            natural -= own + gap
            from_width = fits_from(natural, container)
            if count > 1 and from_width is not None and from_width <= width:
                ids = tuple(one.id for one in shown[-count:])
                found.append(then("nest", ids, f"Put the last {count} under “{more}”", natural, label=more))
                break
    if len(shown) > 1:
        natural = now.natural - widths[-1] - gap
        found += [
            then("move", (shown[-1].id,), f"Move {shown[-1].label} to {other.title}", natural, location=other.key)
            for other in _taking(shown[-1], location, template)
        ]
    found.sort(
        key=lambda one: (one.fits_from is None or one.fits_from > width, one.natural if one.kind != "nest" else 0)
    )
    return found[:12]


def _taking(item: Resolved, location: Location, template: Template) -> list[Location]:
    """Other places of the page that take the item."""
    return [
        other
        for other in template.locations
        if other.key != location.key
        and other.shape in {"strip", "corner", "columns", "line"}
        and item.kind in other.kinds
    ][:2]


def _shorter(item: Resolved, titles: dict[str, str]) -> Iterator[str]:
    candidates = [titles.get(item.page or "", item.label)]
    candidates += [item.label.split(joint)[0] for joint in _JOINTS if joint in item.label]
    seen = {item.label}
    for candidate in candidates:
        if candidate and len(candidate) < len(item.label) and candidate not in seen:
            seen.add(candidate)
            yield candidate
