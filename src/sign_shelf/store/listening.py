"""What PostgreSQL tells as it happens (LISTEN and NOTIFY)."""

import asyncio
import contextlib
from collections.abc import AsyncIterator, Callable
from typing import Literal

import psycopg
import structlog
from psycopg import sql
from pydantic import SecretStr

from sign_shelf.store.database import DatabaseAway

log = structlog.get_logger()

Channel = Literal["live_site", "change_moved", "worked_on"]


async def told(address: SecretStr, channel: Channel) -> AsyncIterator[str]:
    """What is told there; first something empty, once it is listened to. Raises DatabaseAway."""
    try:
        connection = await psycopg.AsyncConnection.connect(address.get_secret_value(), autocommit=True)
        async with connection:
            await connection.execute(sql.SQL("LISTEN {}").format(sql.Identifier(channel)))
            yield ""
            async for notice in connection.notifies():
                yield notice.payload
    except psycopg.Error as exc:
        raise DatabaseAway(f"Nobody tells of {channel}: {exc}") from exc


@contextlib.asynccontextmanager
async def listening(
    address: SecretStr, channel: Channel, heard: Callable[[str], None], deaf: Callable[[], None]
) -> AsyncIterator[None]:
    """For as long as this lasts what is told there is `heard`; first something empty, each time that it is listened to anew. `deaf`
    is called whenever nobody listens any more."""
    task = asyncio.create_task(_listen(address, channel, heard, deaf))
    try:
        yield
    finally:
        task.cancel()
        with contextlib.suppress(asyncio.CancelledError):
            await task


async def _listen(address: SecretStr, channel: Channel, heard: Callable[[str], None], deaf: Callable[[], None]) -> None:
    while True:
        try:
            async for payload in told(address, channel):
                heard(payload)
        except DatabaseAway as away:
            log.warning("nobody_listens", channel=channel, says=str(away))
        finally:
            deaf()
        await asyncio.sleep(1)
