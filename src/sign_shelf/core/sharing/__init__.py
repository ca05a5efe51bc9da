"""Shared menus: one menu of the agency's that many sites follow, each with what is its own filled in and its own adjustments."""

from sign_shelf.core.sharing.filling import Filled, NotFilled, PageName, filled, refuse_unshareable
from sign_shelf.core.sharing.following import Followed, Rolled, followed, rolled, shared_key

__all__ = [
    "Filled",
    "Followed",
    "NotFilled",
    "PageName",
    "Rolled",
    "filled",
    "followed",
    "refuse_unshareable",
    "rolled",
    "shared_key",
]
