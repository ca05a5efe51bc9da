"""Whether a look can be read and tapped: contrast and target size as WCAG 2.2 has them.

Sources: WCAG 2.2, success criteria 1.4.3 (contrast, minimum), 1.4.11 (non-text contrast) and 2.5.8 (target size,
minimum), and its definitions of relative luminance, contrast ratio and large-scale text.
"""

from dataclasses import dataclass
from typing import Literal

from sign_shelf.core.look.model import STATES, PlaceLook, State

SMALLEST_TAP = 24.0
"""CSS pixels that a target needs in both directions (2.5.8)."""

LINE_HEIGHT = 1.4
"""Line height of entries, as strip.css has it."""

Pair = Literal["text", "button", "below"]
Tapped = Literal["entry", "button s", "button m", "button l", "button xl"]


@dataclass(frozen=True, slots=True)
class Contrast:
    """Two colours that must be told apart: text on its ground, in a state. `needed` follows from the text's size."""

    pair: Pair
    state: State
    text: str
    ground: str
    ratio: float
    needed: float

    @property
    def passes(self) -> bool:
        return self.ratio >= self.needed


@dataclass(frozen=True, slots=True)
class TapArea:
    """How high an entry is to tap, in CSS pixels."""

    what: Tapped
    height: float

    @property
    def passes(self) -> bool:
        return self.height >= SMALLEST_TAP


def relative_luminance(colour: str) -> float:
    """Of an sRGB colour `#rrggbb`: 0 (black) to 1 (white)."""
    channels = [int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]
    red, green, blue = (one / 12.92 if one <= 0.04045 else ((one + 0.055) / 1.055) ** 2.4 for one in channels)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast_ratio(one: str, other: str) -> float:
    """From 1 (the same) to 21 (black on white), whichever is lighter."""
    darker, lighter = sorted((relative_luminance(one), relative_luminance(other)))
    return (lighter + 0.05) / (darker + 0.05)


def is_large(size: float, weight: int) -> bool:
    """Large-scale text: 18 pt, or 14 pt and bold; a point is 4/3 CSS pixels."""
    return size >= 24 or (size >= 18 + 2 / 3 and weight >= 700)


def contrasts(look: PlaceLook) -> list[Contrast]:
    """Every pair of colours that the look sets text in: each state, buttons, and the levels below."""
    needed = 3.0 if is_large(look.size, look.weight) else 4.5
    found = []
    for state in STATES:
        text, ground, _ = look.colours(state)
        found.append(Contrast("text", state, text, ground, contrast_ratio(text, ground), needed))
    button = contrast_ratio(look.accent_text, look.accent)
    found.append(Contrast("button", "normal", look.accent_text, look.accent, button, needed))
    below = contrast_ratio(look.below_text, look.below_ground)
    found.append(Contrast("below", "normal", look.below_text, look.below_ground, below, needed))
    return found


def tap_areas(look: PlaceLook) -> list[TapArea]:
    """The height of an entry and of a button of each size, as strip.css lays them out."""
    line = look.size * LINE_HEIGHT
    return [
        TapArea("entry", line + 2 * ENTRY_BLOCK),
        *(TapArea(what, line + 2 * block) for what, block in BUTTON_BLOCK.items()),
    ]


ENTRY_BLOCK = 2.0
BUTTON_BLOCK: dict[Tapped, float] = {"button s": 2, "button m": 6, "button l": 8, "button xl": 10}
"""Above and below the words, in CSS pixels, as strip.css has it."""
