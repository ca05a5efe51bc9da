"""Whether a menu fits in its place: from real text measures, at every viewport width. See docs/fit.md."""

from sign_shelf.core.fit.bar import NARROWEST, WIDEST, Container, Fit, FitItem, FitRequest, fit, zones
from sign_shelf.core.fit.fonts import Family, FontFile, FontSet

__all__ = [
    "NARROWEST",
    "WIDEST",
    "Container",
    "Family",
    "Fit",
    "FitItem",
    "FitRequest",
    "FontFile",
    "FontSet",
    "fit",
    "zones",
]
