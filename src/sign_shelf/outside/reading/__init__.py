"""Reading a client site: its sitemaps, its pages, its navigations, and what they propose."""

from sign_shelf.outside.reading.site import ReadSite, read_site

__all__ = ["ReadSite", "read_site"]
