"""What PostgreSQL tells as it happens (LISTEN and NOTIFY)."""

from collections.abc import AsyncIterator
from typing import Literal

import psycopg
from psycopg import sql
from pydantic import SecretStr

from sign_shelf.store.database import DatabaseAway

Channel = Literal["live_site", "change_moved"]


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
