"""What goes out with a release, told before anything is sent: so that nothing goes live that nobody meant."""

from sign_shelf.core.outgoing.brings import Brings, ReachedAnew, SeenAnew, brings
from sign_shelf.core.outgoing.told import MenuGoes, Reached, goes_out, stops
from sign_shelf.core.outgoing.whose import Turn, whose

__all__ = [
    "Brings", "MenuGoes", "Reached", "ReachedAnew", "SeenAnew", "Turn", "brings", "goes_out", "stops", "whose",
]  # fmt: skip
