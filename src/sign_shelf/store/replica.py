"""A streaming replica of the database, for reads that must not be behind what was told.

What is told (`NOTIFY`) comes from the database itself, and may come before the replica has it. So it is read from only once it has replayed
what the database had written by then; until that, and while it is away, nothing is read from it.
"""

import asyncio

import structlog
from sqlalchemy import TextClause, text

from sign_shelf.store.database import Database, DatabaseAway

log = structlog.get_logger()
LOOKS_EVERY_S = 0.02
TRIES_AGAIN_EVERY_S = 2.0

_WRITTEN = text("SELECT pg_current_wal_insert_lsn()::text")
_REPLAYED = text("SELECT coalesce(pg_last_wal_replay_lsn() >= CAST(:written AS pg_lsn), false)")


class Replica:
    """`caught_up`: whether it has all that the database had when something was told last."""

    def __init__(self, database: Database, primary: Database) -> None:
        self.database = database
        self.caught_up = False
        self._primary = primary
        self._waiting: asyncio.Task[None] | None = None

    def told(self) -> None:
        """Something changed: it is not read from until it has that, too."""
        self.caught_up = False
        if self._waiting is not None:
            self._waiting.cancel()
        self._waiting = asyncio.get_running_loop().create_task(self._wait())

    def is_away(self) -> None:
        """It did not answer: it is asked again after a while."""
        if self.caught_up:
            log.warning("replica_away")
        self.told()

    async def _wait(self) -> None:
        written = None
        while True:
            pause_s = LOOKS_EVERY_S
            try:
                written = written or await self._asked(self._primary, _WRITTEN)
                self.caught_up = bool(await self._asked(self.database, _REPLAYED, written=written))
            except DatabaseAway:
                pause_s = TRIES_AGAIN_EVERY_S
            if self.caught_up:
                return
            await asyncio.sleep(pause_s)

    async def _asked(self, database: Database, what: TextClause, **given: object) -> object:
        async with database.transaction() as session:
            found: object = await (await session.connection()).scalar(what, given)
        return found

    async def close(self) -> None:
        if self._waiting is not None:
            self._waiting.cancel()
        await self.database.close()
