"""What was seen of a site's pages: compared with what was known of them, and where new ones belong in menus."""

from sign_shelf.core.inventory.compare import Compared, News, NewsKind, compared, doubt
from sign_shelf.core.inventory.naming import parent_of, shared_ending, stem_of
from sign_shelf.core.inventory.placing import Placing, placing
from sign_shelf.core.inventory.seen import KnownPage, Look, Reading, SeenPage

__all__ = [
    "Compared", "KnownPage", "Look", "News", "NewsKind", "Placing", "Reading", "SeenPage", "compared", "doubt", "parent_of",
    "placing", "shared_ending", "stem_of",
]  # fmt: skip
