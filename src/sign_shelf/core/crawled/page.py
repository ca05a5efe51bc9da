"""A page of a site as crawlers get it."""

from sign_shelf.core.basics.text import PageRef
from sign_shelf.core.model.menu import Model


class LiveNavigation(Model):
    """`name` is its accessible name. `landmark`: a `nav`, or by its role. `lists`: its links stand in lists. `marks`: it leads to
    the page itself and marks that (`aria-current`); None where it does not lead there. `openers` are words of what opens a level
    and is no button, or does not say whether it is open."""

    selector: str
    name: str
    landmark: bool
    lists: bool
    marks: bool | None
    openers: tuple[str, ...]
    links: int


class LivePage(Model):
    """`links` are absolute addresses, without parts, in their order. `at` is when it was read, on the site's clock. `page`:
    the page that was asked for, None for the site's home page."""

    address: str
    page: PageRef | None = None
    at: str
    links: tuple[str, ...]
    navigations: tuple[LiveNavigation, ...]


class LivePages(Model):
    """What is known of a site: the home page first, then pages that show what its section places have."""

    pages: tuple[LivePage, ...]
