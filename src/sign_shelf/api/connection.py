"""A connection that is given up where a request's head does not come in time.

uvicorn ends connections that stand idle between requests, but not those on which a request was begun and not sent on.
"""

import asyncio
from typing import Any

import h11
from uvicorn.protocols.http.h11_impl import H11Protocol

HEAD_WITHIN_S = 15.0


class Connection(H11Protocol):
    _head: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        self._head = self.loop.call_later(HEAD_WITHIN_S, self._give_up)

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        whole = self.conn.their_state is not h11.IDLE or (self.cycle is not None and not self.cycle.response_complete)
        if whole:
            self._forget()
        elif self._head is None:
            self._head = self.loop.call_later(HEAD_WITHIN_S, self._give_up)

    def connection_lost(self, exc: Exception | None) -> None:
        self._forget()
        super().connection_lost(exc)

    def _forget(self) -> None:
        if self._head is not None:
            self._head.cancel()
            self._head = None

    def _give_up(self) -> None:
        self._head = None
        if not self.transport.is_closing():
            self.transport.write(
                b"HTTP/1.1 408 Request Timeout\r\nconnection: close\r\ncontent-type: text/plain\r\ncontent-length: 32\r\n\r\n"
                b"The request did not come in time"
            )
            self.transport.close()
