"""How long the event loop was held by one turn of work, and by what: whatever holds it, holds everybody up.

A turn is what the loop does between two waits for something to do. Nothing is looked at while the loop waits.
"""

import asyncio
import contextlib
import sys
import threading
import traceback
from collections import deque
from collections.abc import AsyncIterator
from selectors import BaseSelector
from time import monotonic, thread_time
from typing import Any

import structlog

log = structlog.get_logger()

LIMIT_MS = 50
"""A turn that takes longer is logged."""
_LATE_S = 0.04
"""A turn that lasts longer is looked at while it lasts."""
_LOOKS_EVERY_S = 0.03
_PARKED_AFTER_S = 0.2
REMEMBERED_S = 300.0


class LoopWatch:
    """Measures turns by the processor time of the loop's own thread: a machine that is busy with others does not count."""

    def __init__(self) -> None:
        self._held: deque[tuple[float, float]] = deque(maxlen=1_000)
        self._turn: float | None = None
        """When the turn began that lasts; None while the loop waits."""
        self._where = ""
        self._active = threading.Event()

    def longest_ms(self, within_s: float = REMEMBERED_S) -> float:
        """At most five minutes back; turns below 5 ms are left out."""
        since = monotonic() - within_s
        return max((ms for at, ms in self._held if at > since), default=0.0)

    @contextlib.asynccontextmanager
    async def watching(self) -> AsyncIterator[None]:
        selector: BaseSelector = asyncio.get_running_loop()._selector  # type: ignore[attr-defined]
        wait = selector.select
        began = thread_time()

        def select(timeout: float | None = None) -> list[Any]:
            nonlocal began
            self._ended((thread_time() - began) * 1_000)
            found = wait(timeout)
            began, self._turn = thread_time(), monotonic()
            if not self._active.is_set():
                self._active.set()
            return found

        over = threading.Event()
        threading.Thread(target=self._look, args=(threading.get_ident(), over), daemon=True).start()
        selector.select = select  # type: ignore[method-assign]
        try:
            yield
        finally:
            selector.select = wait  # type: ignore[method-assign]
            over.set()
            self._active.set()

    def _ended(self, ms: float) -> None:
        self._turn = None
        if ms > 5:
            self._held.append((monotonic(), ms))
            if ms > LIMIT_MS:
                log.warning("loop_held", ms=round(ms), where=self._where)
        self._where = ""

    def _look(self, loop_thread: int, over: threading.Event) -> None:
        """From beside: what the loop is at, while a turn is late. Rests for as long as the loop has nothing to do."""
        idle_since = monotonic()
        while not over.wait(_LOOKS_EVERY_S):
            turn = self._turn
            if turn is None:
                if monotonic() - idle_since > _PARKED_AFTER_S:
                    self._active.clear()
                    self._active.wait()
                continue
            idle_since = monotonic()
            frame = sys._current_frames().get(loop_thread)
            if frame is not None and not self._where and idle_since - turn > _LATE_S:
                inner = traceback.extract_stack(frame)[-6:]
                self._where = " < ".join(f"{one.name}:{one.lineno}" for one in reversed(inner))
