"""Whether a menu fits in its place: from real text measures, at every viewport width. See docs/fit.md."""

from sign_shelf.core.fit.bar import NARROWEST, WIDEST, Container, Fit, FitItem, FitRequest, fit, zones
from sign_shelf.core.fit.fonts import Family, FontFile, FontSet
from sign_shelf.core.fit.place import SIDE_BY_SIDE, Suggestion, request_of, suggestions

__all__ = [
    "NARROWEST",
    "SIDE_BY_SIDE",
    "WIDEST",
    "Container",
    "Family",
    "Fit",
    "FitItem",
    "FitRequest",
    "FontFile",
    "FontSet",
    "Suggestion",
    "fit",
    "request_of",
    "suggestions",
    "zones",
]
