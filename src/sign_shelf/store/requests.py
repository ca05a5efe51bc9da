"""Creates that are carried out once, however often they are asked for (Idempotency-Key)."""

from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import text

from sign_shelf.core.errors import Refusal
from sign_shelf.store.database import Session
from sign_shelf.store.tables import RequestRow


@dataclass(frozen=True)
class RequestKey:
    """What a client calls a create, so that asking for it again does nothing more."""

    key: str
    request: str = ""
    """The digest of the whole request that it came with. Empty: asked by the program itself, whose keys name one act each."""


async def once(
    session: Session,
    person_id: UUID,
    key: RequestKey,
    act: Callable[[], Awaitable[dict[str, Any]]],
    *,
    at: datetime,
) -> dict[str, Any]:
    """What `act` answered the first time this person used the key. Two at once wait for each other. Raises Refusal where the key came
    with another request before."""
    await (await session.connection()).execute(
        text("SELECT pg_advisory_xact_lock(hashtextextended(:key, 0))"), {"key": f"{person_id} {key.key}"}
    )
    earlier = await session.get(RequestRow, (person_id, key.key))
    if earlier is not None:
        if earlier.asked != key.request:
            raise Refusal(
                "This Idempotency-Key came with another request before.", remedy="Use a new key for a new request."
            )
        return earlier.answer
    answer = await act()
    session.add(RequestRow(person_id=person_id, key=key.key, asked=key.request, answer=answer, at=at))
    return answer
