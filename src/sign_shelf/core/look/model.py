"""The look of a location: type, colours in every state, spacing, direction, overflow, how levels below open."""

import re
from collections.abc import Mapping
from typing import Annotated, Literal, Self, cast

from pydantic import AfterValidator, Field, JsonValue, StringConstraints, model_validator

from sign_shelf.core.basics.text import Words
from sign_shelf.core.model.menu import Model

State = Literal["normal", "hover", "current", "open"]
STATES: tuple[State, ...] = ("normal", "hover", "current", "open")
ButtonSize = Literal["s", "m", "l", "xl"]
BUTTON_SIZES: tuple[ButtonSize, ...] = ("s", "m", "l", "xl")
Opens = Literal["drop-down", "beside", "columns", "panel", "in-place"]
Line = Literal["none", "underline", "thick"]
Case = Literal["none", "uppercase"]

_HEX = re.compile(r"^#([0-9a-f]{3}|[0-9a-f]{6})$")


def _colour(text: str) -> str:
    if not _HEX.match(text):
        raise ValueError(f'"{text}" is no colour; write it as #rgb or #rrggbb')
    return "#" + "".join(2 * one for one in text[1:]) if len(text) == 4 else text


Colour = Annotated[str, StringConstraints(to_lower=True, strip_whitespace=True), AfterValidator(_colour)]
"""An opaque sRGB colour, `#rrggbb`."""

Px = Annotated[float, Field(ge=0, le=400, allow_inf_nan=False)]
Width = Annotated[int, Field(ge=0, le=10_000)]


class ButtonPadding(Model):
    """Inside a button, left and right of what it says, in CSS pixels."""

    s: Px = 10
    m: Px = 16
    l: Px = 22  # noqa: E741 - the sizes' own names
    xl: Px = 28


class PlaceLook(Model):
    """Lengths are CSS pixels. A colour that a state does not name is that of the normal state."""

    font: Words | None = None
    size: float = Field(default=16, ge=6, le=96)
    weight: int = Field(default=400, ge=100, le=900)
    letter_spacing: float = Field(default=0, ge=-10, le=40)
    case: Case = "none"

    text: Colour = "#1d2a30"
    ground: Colour = "#fffdf8"
    line: Line = "none"
    hover_text: Colour | None = None
    hover_ground: Colour | None = None
    hover_line: Line = "underline"
    current_text: Colour | None = None
    current_ground: Colour | None = None
    current_line: Line = "thick"
    open_text: Colour | None = None
    open_ground: Colour | None = None
    open_line: Line = "none"
    accent: Colour = "#c9ab82"
    accent_text: Colour = "#1d2a30"
    below_text: Colour = "#1d2a30"
    below_ground: Colour = "#ffffff"

    gap: Px = 24
    padding: Px = 0
    inner_gap: Px = 6
    gutter: Px = 24
    reserved: Px = 0
    max: Width | None = None
    icon_size: Px = 20
    icon_side: Literal["start", "end"] = "start"
    caret_width: Px = 8
    badge_size: float = Field(default=12, ge=6, le=60)
    badge_padding: Px = 8
    button_padding: ButtonPadding = ButtonPadding()

    align: Literal["start", "centre", "end", "fill"] = "start"
    direction: Literal["ltr", "rtl", "reversed"] | None = None
    overflow: Literal["wrap", "scroll", "drawer"] = "wrap"
    drawer_below: Width | None = None
    opens: Opens = "drop-down"
    effect: Literal["none", "fade", "slide"] = "none"
    folded: bool = False
    remember: bool = False

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        if self.remember and not self.folded:
            raise ValueError("remember goes with folded: only entries that start folded have something to remember")
        if self.drawer_below is not None and self.overflow != "drawer":
            raise ValueError("drawer_below goes with overflow drawer")
        return self

    def adjusted(self, changes: Mapping[str, JsonValue]) -> "PlaceLook":
        """This look with some of its keys set otherwise; None is a key's default. Checked as a whole."""
        merged = {**self.to_json(), **changes}
        return PlaceLook.model_validate({key: value for key, value in merged.items() if value is not None})

    def colours(self, state: State) -> tuple[str, str, Line]:
        """Text, ground and line of a state."""
        if state == "normal":
            return self.text, self.ground, self.line
        text = cast(str | None, getattr(self, f"{state}_text")) or self.text
        ground = cast(str | None, getattr(self, f"{state}_ground")) or self.ground
        return text, ground, cast(Line, getattr(self, f"{state}_line"))


class Scrolled(Model):
    """How a fixed header looks once the page is scrolled; what is absent stays."""

    height: Px | None = None
    text: Colour | None = None
    ground: Colour | None = None


PLAIN_LOOK = PlaceLook()
