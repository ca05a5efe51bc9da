"""A bar of entries: how wide each is, from which viewport width they stand in one row, how they wrap.

The box model is that of docs/fit.md; rows break as flex rows wrap (CSS Flexible Box Layout 1, 9.3).
"""

from bisect import bisect_left
from collections.abc import Sequence
from itertools import pairwise
from typing import Literal, Self

from pydantic import Field, JsonValue, model_validator

from sign_shelf.core.basics.text import Language, Words
from sign_shelf.core.fit.fonts import FontSet
from sign_shelf.core.fit.shaping import Measured, Type, laid_out, measure
from sign_shelf.core.look.model import ButtonPadding
from sign_shelf.core.model.menu import Model

NARROWEST, WIDEST = 320, 2_560
"""The viewport widths that a bar is swept over."""

MOST_ENTRIES = 2_000
"""Entries of one bar."""

STRONG = 700
PICTURE = 32.0


class FitItem(Model):
    label: str = Field(default="", max_length=500)
    icon: bool = False
    icon_only: bool = False
    caret: bool = False
    badge: str | None = Field(default=None, max_length=500)
    button: Literal["s", "m", "l", "xl"] | None = None
    strong: bool = False
    picture: bool = False


class Container(Model):
    """`max` absent: as wide as the viewport lets it."""

    max: float | None = Field(default=None, ge=0, le=100_000, allow_inf_nan=False)
    gutter: float = Field(default=24, ge=0, le=10_000, allow_inf_nan=False)
    reserved: float = Field(default=0, ge=0, le=10_000, allow_inf_nan=False)


class FitRequest(Model):
    """A bar to be measured; lengths are CSS pixels."""

    font: Words
    size: float = Field(default=16, gt=0, le=400, allow_inf_nan=False)
    weight: int = Field(default=400, ge=1, le=1_000)
    letter_spacing: float = Field(default=0, ge=-50, le=100, allow_inf_nan=False)
    transform: Literal["none", "uppercase"] = "none"
    gap: float = Field(default=24, ge=0, le=10_000, allow_inf_nan=False)
    padding: float = Field(default=12, ge=0, le=10_000, allow_inf_nan=False)
    inner_gap: float = Field(default=6, ge=0, le=10_000, allow_inf_nan=False)
    direction: Literal["ltr", "rtl"] = "ltr"
    language: Language = "en"
    icon_width: float = Field(default=20, ge=0, le=10_000, allow_inf_nan=False)
    caret_width: float = Field(default=14, ge=0, le=10_000, allow_inf_nan=False)
    badge_size: float = Field(default=12, gt=0, le=400, allow_inf_nan=False)
    badge_padding: float = Field(default=8, ge=0, le=10_000, allow_inf_nan=False)
    button_padding: ButtonPadding = ButtonPadding()
    items: tuple[FitItem, ...] = Field(max_length=MOST_ENTRIES)
    container: Container = Container()
    overflow: Literal["wrap", "scroll", "drawer"] = "wrap"
    drawer_below: int | None = Field(default=None, ge=0, le=100_000)

    @model_validator(mode="after")
    def _labelled(self) -> Self:
        for at, item in enumerate(self.items):
            if item.icon_only and not item.icon:
                raise ValueError(f"items[{at}]: icon_only needs an icon")
        return self


class Fit(Model):
    """What was measured. Widths are of the whole viewport where they are no entry's; `rows_at` tells from which width
    on a wrapping bar takes how many rows."""

    item_widths: tuple[float, ...]
    natural: float
    fits_from: int | None
    rows_at: tuple[tuple[int, int], ...]
    drawer_from_overflow: tuple[int, int] | None
    first_to_go: int | None
    fallbacks: dict[str, str] = {}
    """Characters that the font lacks, with the font that shows each."""
    missing: tuple[str, ...] = ()
    """Characters that no font here has; their width is a guess."""

    def whole(self) -> dict[str, JsonValue]:
        """Every key, whether it holds its default or not."""
        return self.model_dump(mode="json")


def fit(fonts: FontSet, bar: FitRequest) -> Fit:
    """Raises FitRefused for an unknown font."""
    texts: list[Measured] = []
    widths = tuple(_item_width(fonts, bar, item, texts) for item in bar.items)
    natural = sum(widths) + bar.gap * max(len(widths) - 1, 0)
    from_width = fits_from(natural, bar.container)
    return Fit(
        item_widths=widths,
        natural=natural,
        fits_from=from_width,
        rows_at=rows_at(widths, bar.gap, bar.container),
        drawer_from_overflow=_overflows(bar, from_width),
        first_to_go=first_to_go(widths, bar.gap, bar.container, from_width),
        fallbacks={character: font for text in texts for character, font in text.fallbacks},
        missing=tuple(dict.fromkeys(character for text in texts for character in text.missing)),
    )


def _item_width(fonts: FontSet, bar: FitRequest, item: FitItem, texts: list[Measured]) -> float:
    weight = max(bar.weight, STRONG) if item.strong else bar.weight
    kind = Type(bar.font, bar.size, weight, bar.letter_spacing, bar.transform, bar.language)
    parts = []
    if item.picture:
        parts.append(PICTURE)
    if item.icon:
        parts.append(bar.icon_width)
    if item.label and not item.icon_only:
        texts.append(measure(fonts, item.label, kind))
        parts.append(laid_out(texts[-1].width))
    if item.badge:
        small = Type(bar.font, bar.badge_size, weight, bar.letter_spacing, bar.transform, bar.language)
        texts.append(measure(fonts, item.badge, small))
        parts.append(laid_out(texts[-1].width) + 2 * bar.badge_padding)
    if item.caret:
        parts.append(bar.caret_width)
    padding = getattr(bar.button_padding, item.button) if item.button else bar.padding
    return sum(parts) + bar.inner_gap * max(len(parts) - 1, 0) + 2 * float(padding)


def available(viewport: float, container: Container) -> float:
    """The room for entries at a viewport width; less than nothing where the reserved space alone is too wide."""
    inner = viewport - 2 * container.gutter
    return (inner if container.max is None else min(container.max, inner)) - container.reserved


def fits_from(natural: float, container: Container) -> int | None:
    """The smallest whole viewport width from which everything stands in one row; None: never."""
    if container.max is not None and natural > container.max - container.reserved:
        return None
    needed = natural + container.reserved + 2 * container.gutter
    return max(int(needed) if needed == int(needed) else int(needed) + 1, 0)


def rows(widths: Sequence[float], gap: float, room: float) -> int:
    """Greedy: an entry goes to the next row where it no longer fits; one that is wider than the room stands alone."""
    count, used = 0, 0.0
    for width in widths:
        if count and used + gap + width <= room:
            used += gap + width
        else:
            count, used = count + 1, width
    return count


def rows_at(widths: Sequence[float], gap: float, container: Container) -> tuple[tuple[int, int], ...]:
    """How many rows a wrapping bar takes, from each whole viewport width upward; wider never takes more."""
    swept = range(NARROWEST, WIDEST + 1)
    found = [(NARROWEST, rows(widths, gap, available(NARROWEST, container)))]
    fewest = rows(widths, gap, available(WIDEST, container))
    while found[-1][1] > fewest:
        now = found[-1][1]
        at = bisect_left(swept, True, key=lambda width: rows(widths, gap, available(width, container)) < now)
        found.append((swept[at], rows(widths, gap, available(swept[at], container))))
    return tuple(found)


def first_to_go(widths: Sequence[float], gap: float, container: Container, from_width: int | None) -> int | None:
    """The entry that leaves the first row first: just below `from_width`, or where there is most room if none is enough.

    None where nothing leaves, as a single entry never does.
    """
    room = available(WIDEST if from_width is None else from_width - 1, container)
    used = -gap
    for at, width in enumerate(widths):
        used += gap + width
        if at and used > room:
            return at
    return None


def _overflows(bar: FitRequest, from_width: int | None) -> tuple[int, int] | None:
    """The viewport widths at which the bar is shown and does not fit."""
    if bar.drawer_below is None or not bar.items:
        return None
    last = WIDEST if from_width is None else from_width - 1
    return (bar.drawer_below, last) if bar.drawer_below <= last else None


def zones(fit_at: Fit, drawer_below: int | None) -> list[tuple[int, int, str]]:
    """The swept widths cut into stretches: `drawer`, `fits`, or `wraps n`. Bounds are inclusive."""
    starts = {NARROWEST, *(width for width, _ in fit_at.rows_at)}
    if drawer_below is not None and NARROWEST < drawer_below <= WIDEST:
        starts.add(drawer_below)
    edges = [*sorted(starts), WIDEST + 1]
    found: list[tuple[int, int, str]] = []
    for begin, end in pairwise(edges):
        count = next(count for width, count in reversed(fit_at.rows_at) if width <= begin)
        in_drawer = drawer_below is not None and begin < drawer_below
        says = "drawer" if in_drawer else "fits" if count <= 1 else f"wraps {count}"
        if found and found[-1][2] == says:
            found[-1] = (found[-1][0], end - 1, says)
        else:
            found.append((begin, end - 1, says))
    return found
