"""What was seen of a site's pages: compared with what was known of them, and where new ones belong in menus."""

from sign_shelf.core.inventory.compare import Compared, News, NewsKind, compared, doubt
from sign_shelf.core.inventory.naming import shared_ending
from sign_shelf.core.inventory.placing import Placing, placing
from sign_shelf.core.inventory.seen import Answered, KnownPage, Reading, SeenPage

__all__ = [
    "Answered",
    "Compared",
    "KnownPage",
    "News",
    "NewsKind",
    "Placing",
    "Reading",
    "SeenPage",
    "compared",
    "doubt",
    "placing",
    "shared_ending",
]  # fmt: skip
