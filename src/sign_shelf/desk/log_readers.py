"""Who reads which lines of the activity log.

A line has an audience. Lines of a site are for who may look at the site. Lines of accounts, and of where people get their notices, are
for owners and for the person who did it. All others, such as those of templates and shared menus, are for who may look at sites everywhere.
"""

from dataclasses import dataclass
from typing import Final
from uuid import UUID

from sign_shelf.desk.permission import Person, may

PERSONAL: Final = frozenset({"account", "notices"})
"""What the log calls lines of accounts."""


@dataclass(frozen=True, kw_only=True)
class Readable:
    """What one person reads, beside the lines of sites that they may look at."""

    of_everybody: bool
    """Lines of no site."""
    of_accounts: bool
    """Everybody's personal lines."""
    own: UUID | None
    """Whose personal lines are read in any case; None: a program's token reads none."""


def readable(person: Person) -> Readable:
    return Readable(
        of_everybody=may(person, "look"), of_accounts=may(person, "people"), own=None if person.token else person.id
    )
