"""Menu documents in other formats: one table of what can be read and written."""

from sign_shelf.core.formats.incoming import IncomingMenu
from sign_shelf.core.formats.pasted import read_pasted
from sign_shelf.core.formats.reading import READABLE, Readable, read_menus
from sign_shelf.core.formats.writing import WRITABLE, Writable, Written, write_menu

__all__ = [
    "READABLE",
    "WRITABLE",
    "IncomingMenu",
    "Readable",
    "Writable",
    "Written",
    "read_menus",
    "read_pasted",
    "write_menu",
]
