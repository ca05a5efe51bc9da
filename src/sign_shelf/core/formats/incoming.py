"""What a reader of a format brings: menu documents, and what of the input was not understood."""

from dataclasses import dataclass

from sign_shelf.core.errors import Problem
from sign_shelf.core.formats.navigation import Where
from sign_shelf.core.formats.table import Table
from sign_shelf.core.formats.titles import MatchedTitles
from sign_shelf.core.model.menu import MenuDocument


@dataclass(frozen=True)
class IncomingMenu:
    """`where` names the part of a page that it came from, where the input was a page."""

    title: str
    where: Where | None
    document: MenuDocument
    notes: tuple[Problem, ...] = ()
    table: Table | None = None
    """The table that it was read from, with what each column was taken for."""
    titles: MatchedTitles | None = None
    """Which pages of the site entries without an address are called like."""
