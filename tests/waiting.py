"""Waiting for a state, never for a time."""

import threading
import time
from collections.abc import Callable


def eventually(holds: Callable[[], object], within_s: float = 60.0) -> None:
    """Waits until `holds` is true; fails where it is not within the time."""
    tick = threading.Event()
    ends = time.monotonic() + within_s
    while time.monotonic() < ends:
        if holds():
            return
        tick.wait(0.05)
    raise AssertionError(f"not within {within_s} s")
