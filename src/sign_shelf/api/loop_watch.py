"""How long the event loop was held by one piece of work: whatever holds it, holds everybody up."""

import asyncio
import contextlib
from collections import deque
from collections.abc import AsyncIterator
from time import monotonic, thread_time

import structlog

log = structlog.get_logger()

LIMIT_MS = 50
_EVERY_S = 0.01
_REMEMBERED_S = 300.0


class LoopWatch:
    """Looks a hundred times a second, at the loop's own processor time: a machine that is busy with others does not
    count, our own work does."""

    def __init__(self) -> None:
        self._held: deque[tuple[float, float]] = deque(maxlen=1_000)

    @property
    def longest_ms(self) -> float:
        """Within the last five minutes; what is below 5 ms is not told."""
        since = monotonic() - _REMEMBERED_S
        return max((ms for at, ms in self._held if at > since), default=0.0)

    @contextlib.asynccontextmanager
    async def watching(self) -> AsyncIterator[None]:
        task = asyncio.create_task(self._watch())
        try:
            yield
        finally:
            task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await task

    async def _watch(self) -> None:
        before = thread_time()
        while True:
            await asyncio.sleep(_EVERY_S)
            now = thread_time()
            held = (now - before) * 1_000
            before = now
            if held > 5:
                self._held.append((monotonic(), held))
            if held > LIMIT_MS:
                log.warning("loop_held", ms=round(held))
