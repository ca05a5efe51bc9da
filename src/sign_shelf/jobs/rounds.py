"""What a worker does again and again, only when there may be something to do: after a write to a table that matters, when its next
moment comes, and once in a while in case anything was missed."""

import asyncio
from collections.abc import Awaitable, Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime

import structlog
from pydantic import SecretStr

from sign_shelf.core.errors import Busy
from sign_shelf.store.database import Database, Session
from sign_shelf.store.listening import listening

log = structlog.get_logger()
EVERY_S = 2.0
IN_ANY_CASE_S = 30.0

NextMoment = Callable[[Session, datetime], Awaitable[datetime | None]]


@dataclass(frozen=True, kw_only=True, eq=False)
class Round:
    """`tables`: writes there wake it. `every_s`: it begins no sooner than so long after it ended."""

    run: Callable[[], Awaitable[object]]
    tables: frozenset[str]
    next_moment: NextMoment | None = None
    every_s: float = EVERY_S
    woken: asyncio.Event = field(default_factory=asyncio.Event)


async def go_round(database: Database, address: SecretStr, rounds: Sequence[Round]) -> None:
    """For ever. While the database is away, the rounds wait for it; what fails in one keeps no other from its work."""

    def wake(table: str) -> None:
        for one in rounds:
            if not table or table in one.tables:
                one.woken.set()

    async with listening(address, "worked_on", wake, deaf=lambda: None), asyncio.TaskGroup() as together:
        for one in rounds:
            together.create_task(_again_and_again(database, one))


async def _again_and_again(database: Database, one: Round) -> None:
    while True:
        one.woken.clear()
        began = datetime.now(UTC)
        moment: datetime | None = began
        try:
            await one.run()
            moment = await _next(database, one, began)
        except* Busy as away:
            log.warning("watching_waits_for_the_database", says=str(away.exceptions[0]))
        except* Exception:
            log.exception("watching_failed")
        await asyncio.sleep(one.every_s)
        waits_s = IN_ANY_CASE_S if moment is None else (moment - datetime.now(UTC)).total_seconds()
        # `asyncio.wait_for` may take a cancellation for the end of its time (before Python 3.12): the worker would never stop.
        with suppress(TimeoutError):
            async with asyncio.timeout(max(0.0, min(waits_s, IN_ANY_CASE_S))):
                await one.woken.wait()


async def _next(database: Database, one: Round, after: datetime) -> datetime | None:
    if one.next_moment is None:
        return None
    async with database.transaction() as session:
        return await one.next_moment(session, after)
