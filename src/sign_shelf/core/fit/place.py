"""A resolved menu in its place as a bar to be measured, and what would make one fit that does not."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from sign_shelf.core.fit.bar import Container, Fit, FitItem, FitRequest, fit
from sign_shelf.core.fit.fonts import FontSet
from sign_shelf.core.menu import Device
from sign_shelf.core.resolve.resolved import Resolved
from sign_shelf.core.strip import direction_of
from sign_shelf.core.template import Location, Shape, Template

USUAL_FONT = "Atkinson Hyperlegible Next"
SIDE_BY_SIDE: frozenset[Shape] = frozenset({"bar", "strip", "line", "corner"})
"""Shapes whose entries stand beside each other, so that they may not fit."""

_MORE = {"en": "More", "nl": "Meer", "cy": "Mwy", "pl": "Więcej", "de": "Mehr", "pt": "Mais", "ar": "المزيد"}
_JOINTS = (" & ", " and ", " en ", " a ", " i ", " und ", ": ", " – ", ", ")
Suggested = Literal["shorter", "nest", "icon-alone", "move"]


def request_of(items: tuple[Resolved, ...], location: Location, *, language: str, device: Device) -> FitRequest:
    """The place's top level as its look draws it. Dividers take no part."""
    look = location.look
    shown = [item for item in items if item.kind != "divider"]
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

    def measured(changed: tuple[Resolved, ...]) -> Fit:
        return fit(fonts, request_of(changed, location, language=language, device=device))

    shown = tuple(item for item in items if item.kind != "divider")
    found: list[Suggestion] = []
    for at, item in enumerate(shown):
        for shorter in _shorter(item, titles):
            then = measured((*shown[:at], item._replace(label=shorter), *shown[at + 1 :]))
            if then.natural < now.natural:
                says = f"Call {item.label} just {shorter}"
                found.append(Suggestion("shorter", (item.id,), says, then.natural, then.fits_from, label=shorter))
        if item.look.icon and not item.look.icon_only:
            alone = item._replace(look=item.look.model_copy(update={"icon_only": True}))
            then = measured((*shown[:at], alone, *shown[at + 1 :]))
            says = f"Show {item.label} as its icon alone on wide screens"
            found.append(Suggestion("icon-alone", (item.id,), says, then.natural, then.fits_from))
    found += _nested(shown, location, language, width, measured)
    found += _moved(shown, location, template, measured)
    found.sort(
        key=lambda one: (one.fits_from is None or one.fits_from > width, one.natural if one.kind != "nest" else 0)
    )
    return found[:12]


def _shorter(item: Resolved, titles: dict[str, str]) -> Iterator[str]:
    candidates = [titles.get(item.page or "", item.label)]
    candidates += [item.label.split(joint)[0] for joint in _JOINTS if joint in item.label]
    seen = {item.label}
    for candidate in candidates:
        if candidate and len(candidate) < len(item.label) and candidate not in seen:
            seen.add(candidate)
            yield candidate


def _nested(
    shown: tuple[Resolved, ...],
    location: Location,
    language: str,
    width: int,
    measured: Callable[[tuple[Resolved, ...]], Fit],
) -> list[Suggestion]:
    """The fewest last entries that, under one heading, leave room for the rest."""
    if location.depth < 2 or "heading" not in location.kinds:
        return []
    more = _MORE.get(language.split("-")[0], _MORE["en"])
    for count in range(2, len(shown)):
        kept, under = shown[:-count], shown[-count:]
        then = measured((*kept, Resolved("more", "heading", more, items=under)))
        if then.fits_from is not None and then.fits_from <= width:
            says = f"Put the last {count} under “{more}”"
            return [Suggestion("nest", tuple(one.id for one in under), says, then.natural, then.fits_from, label=more)]
    return []


def _moved(
    shown: tuple[Resolved, ...], location: Location, template: Template, measured: Callable[[tuple[Resolved, ...]], Fit]
) -> list[Suggestion]:
    """The last entry somewhere else on the page that takes it."""
    if len(shown) < 2:
        return []
    last = shown[-1]
    then = measured(shown[:-1])
    return [
        Suggestion(
            "move", (last.id,), f"Move {last.label} to {other.title}", then.natural, then.fits_from, location=other.key
        )
        for other in template.locations
        if other.key != location.key and other.shape in {"strip", "corner", "columns", "line"} and last.kind in other.kinds
    ][:2]  # fmt: skip
