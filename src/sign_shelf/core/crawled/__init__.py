"""What of a site's navigations stands in the HTML that one gets without running scripts, and how it stands there."""

from sign_shelf.core.crawled.page import LiveNavigation, LivePage, LivePages
from sign_shelf.core.crawled.reading import read_live
from sign_shelf.core.crawled.sections import section_pages

__all__ = ["LiveNavigation", "LivePage", "LivePages", "read_live", "section_pages"]
