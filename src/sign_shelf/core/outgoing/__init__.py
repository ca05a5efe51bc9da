"""What goes out with a release, told before anything is sent: so that nothing goes live that nobody meant."""

from sign_shelf.core.outgoing.told import MenuGoes, Reached, goes_out, stops
from sign_shelf.core.outgoing.whose import Turn, whose

__all__ = ["MenuGoes", "Reached", "Turn", "goes_out", "stops", "whose"]
