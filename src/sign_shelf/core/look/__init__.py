"""The look of a location: what a template says of it, how it is exported, and whether it can be read and tapped."""

from sign_shelf.core.look.legible import Contrast, TapArea, contrast_ratio, contrasts, tap_areas
from sign_shelf.core.look.model import (
    PLAIN_LOOK,
    STATES,
    Colour,
    Opens,
    PlaceLook,
    Px,
    Scrolled,
    State,
    Width,
)

__all__ = [
    "PLAIN_LOOK",
    "STATES",
    "Colour",
    "Contrast",
    "Opens",
    "PlaceLook",
    "Px",
    "Scrolled",
    "State",
    "TapArea",
    "Width",
    "contrast_ratio",
    "contrasts",
    "tap_areas",
]
