"""Streams of server-sent events (HTML Living Standard, 9.2): woken by what PostgreSQL tells, bounded in number and length, ended
when the server stops."""

import asyncio
import contextlib
from collections import Counter
from collections.abc import AsyncIterator, Iterator
from uuid import UUID

from pydantic import SecretStr

from sign_shelf.core.errors import Busy
from sign_shelf.store.listening import listening

MOST = 400
MOST_OF_ONE = 12
LASTS_S = 600.0
"""Then the browser begins it anew, and it is seen whether they are still signed in."""
STILL_S = 15.0
"""Within which something is sent, so that nobody between takes it for dead."""
UNTOLD_S = 1.0
"""How often it is looked where nobody tells."""


class Streams:
    def __init__(self, address: SecretStr) -> None:
        self._address = address
        self._open: dict[UUID, set[asyncio.Event]] = {}
        self._of: Counter[UUID] = Counter()
        self._loop: asyncio.AbstractEventLoop | None = None
        self.listening = False
        self.stopped = False

    @property
    def pause_s(self) -> float:
        return STILL_S if self.listening else UNTOLD_S

    def refuse_more(self, person: UUID) -> None:
        """Raises Busy where there are too many."""
        if self.stopped or self._of.total() >= MOST or self._of[person] >= MOST_OF_ONE:
            raise Busy("Too many pages are told of what happens just now.")

    @contextlib.contextmanager
    def of(self, change: UUID, person: UUID) -> Iterator[asyncio.Event]:
        """Set whenever the change moves, or somebody in it."""
        woken = asyncio.Event()
        self._open.setdefault(change, set()).add(woken)
        self._of[person] += 1
        try:
            yield woken
        finally:
            self._of[person] -= 1
            self._open[change].discard(woken)
            if not self._open[change]:
                del self._open[change]

    def _wake(self, change: UUID | None = None) -> None:
        for events in [self._open.get(change, set())] if change else self._open.values():
            for one in events:
                one.set()

    def stop(self) -> None:
        """From a signal's handler: every stream ends."""
        self.stopped = True
        if self._loop is not None:
            self._loop.call_soon_threadsafe(self._wake)

    @contextlib.asynccontextmanager
    async def watching(self) -> AsyncIterator[None]:
        self._loop = asyncio.get_running_loop()
        async with listening(self._address, "change_moved", self._heard, self._deaf):
            yield

    def _heard(self, change: str) -> None:
        self.listening = True
        self._wake(UUID(change) if change else None)

    def _deaf(self) -> None:
        self.listening = False
        self._wake()
