"""How long the event loop was held by one piece of work, and by what: whatever holds it, holds everybody up."""

import asyncio
import contextlib
import sys
import threading
import traceback
from collections import deque
from collections.abc import AsyncIterator
from time import monotonic, thread_time

import structlog

log = structlog.get_logger()

LIMIT_MS = 50
_EVERY_S = 0.01
REMEMBERED_S = 300.0


class LoopWatch:
    """Looks a hundred times a second, at the loop's own processor time: a machine that is busy with others does not
    count, our own work does."""

    def __init__(self) -> None:
        self._held: deque[tuple[float, float]] = deque(maxlen=1_000)
        self._seen = monotonic()
        self._where = ""

    def longest_ms(self, within_s: float = REMEMBERED_S) -> float:
        """At most five minutes back; what is below 5 ms is not told."""
        since = monotonic() - within_s
        return max((ms for at, ms in self._held if at > since), default=0.0)

    @contextlib.asynccontextmanager
    async def watching(self) -> AsyncIterator[None]:
        task = asyncio.create_task(self._watch())
        over = threading.Event()
        threading.Thread(target=self._look, args=(threading.get_ident(), over), daemon=True).start()
        try:
            yield
        finally:
            over.set()
            task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await task

    async def _watch(self) -> None:
        before = thread_time()
        while True:
            await asyncio.sleep(_EVERY_S)
            now = thread_time()
            held = (now - before) * 1_000
            before, self._seen = now, monotonic()
            # Late while it only waited for something to do: it was the machine's doing, and not ours.
            if held > 5 and not self._where.startswith("select:"):
                self._held.append((monotonic(), held))
                if held > LIMIT_MS:
                    log.warning("loop_held", ms=round(held), where=self._where)
            self._where = ""

    def _look(self, loop_thread: int, over: threading.Event) -> None:
        """From beside: what the loop is at, while it is late."""
        while not over.wait(_EVERY_S * 3):
            frame = sys._current_frames().get(loop_thread)
            if frame is not None and not self._where and monotonic() - self._seen > _EVERY_S * 4:
                inner = traceback.extract_stack(frame)[-6:]
                self._where = " < ".join(f"{one.name}:{one.lineno}" for one in reversed(inner))
