"""What of a site's navigations stands in the HTML that one gets without running scripts, and how it stands there."""

from sign_shelf.core.crawled.page import LiveNavigation, LivePage
from sign_shelf.core.crawled.reading import read_live

__all__ = ["LiveNavigation", "LivePage", "read_live"]
