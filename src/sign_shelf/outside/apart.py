"""Reading what strangers wrote, in a process of its own: it holds nobody up, and what takes too long is ended."""

import asyncio
import atexit
import multiprocessing
from collections.abc import Callable
from concurrent.futures import TimeoutError as TookTooLong
from functools import lru_cache
from typing import ParamSpec, TypeVar

from pebble import ProcessExpired, ProcessPool

from sign_shelf.core.errors import Refusal, SourceRefused

LONGEST_S = 20.0
P = ParamSpec("P")
R = TypeVar("R")


@lru_cache(maxsize=1)
def _pool() -> ProcessPool:
    # A fork of a process with threads may stand still for ever; a spawned one begins clean.
    pool = ProcessPool(max_workers=1, context=multiprocessing.get_context("spawn"))

    @atexit.register
    def end() -> None:
        pool.stop()  # type: ignore[no-untyped-call]
        pool.join(5)

    return pool


async def apart(where: str, work: Callable[P, R], *args: P.args, **kwargs: P.kwargs) -> R:
    """What `work` answers. Raises SourceRefused where it took over 20 s or its process died, and its own Refusals."""
    try:
        return await asyncio.wrap_future(_pool().schedule(_told, args=[work, *args], kwargs=kwargs, timeout=LONGEST_S))
    except TookTooLong as exc:
        raise SourceRefused(f"It took more than {LONGEST_S:.0f} s to read.", where=where) from exc
    except ProcessExpired as exc:
        raise SourceRefused("It could not be read: reading it needed too much.", where=where) from exc
    except _Refused as exc:
        raise SourceRefused(exc.says, where=exc.where, remedy=exc.remedy) from exc


class _Refused(Exception):
    """A refusal on its way between processes."""

    def __init__(self, says: str, where: str | None, remedy: str | None) -> None:
        super().__init__(says, where, remedy)
        self.says, self.where, self.remedy = says, where, remedy


def _told(work: Callable[P, R], *args: P.args, **kwargs: P.kwargs) -> R:
    try:
        return work(*args, **kwargs)
    except Refusal as refusal:
        raise _Refused(refusal.says, refusal.where, refusal.remedy) from None
