"""Waiting for a state, never for a time."""

import threading
import time
from collections.abc import Callable

TICK_S = 0.05


def _rest() -> None:
    threading.Event().wait(TICK_S)


def eventually(holds: Callable[[], object], within_s: float = 60.0, rest: Callable[[], object] = _rest) -> None:
    """Waits until `holds` is true; fails where it is not within the time. Between two looks, `rest` passes the time."""
    ends = time.monotonic() + within_s
    while time.monotonic() < ends:
        if holds():
            return
        rest()
    raise AssertionError(f"not within {within_s} s")
