"""Finding entries in the menus of many sites by a small query, and making the same edit of all of them."""

from sign_shelf.core.sweeps.entry import SweptEntry
from sign_shelf.core.sweeps.making import Making, Swept, asks_for_pages, swept
from sign_shelf.core.sweeps.query import Sought, Term, read_query

__all__ = ["Making", "Sought", "Swept", "SweptEntry", "Term", "asks_for_pages", "read_query", "swept"]
