"""Creates that are carried out once, however often they are asked for (Idempotency-Key)."""

import hashlib
import json
from collections.abc import Awaitable, Callable
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import text

from sign_shelf.core.errors import Clash
from sign_shelf.store.database import Session
from sign_shelf.store.tables import RequestRow


async def once(
    session: Session,
    person_id: UUID,
    key: str,
    asked: dict[str, Any],
    act: Callable[[], Awaitable[dict[str, Any]]],
    *,
    at: datetime,
) -> dict[str, Any]:
    """What `act` answered the first time this person used the key. Two at once wait for each other."""
    mark = hashlib.sha256(json.dumps(asked, sort_keys=True).encode()).hexdigest()
    await (await session.connection()).execute(
        text("SELECT pg_advisory_xact_lock(hashtextextended(:key, 0))"), {"key": f"{person_id} {key}"}
    )
    earlier = await session.get(RequestRow, (person_id, key))
    if earlier is not None:
        if earlier.asked != mark:
            raise Clash(
                "This Idempotency-Key came with another request before.", remedy="Use a new key for a new request."
            )
        return earlier.answer
    answer = await act()
    session.add(RequestRow(person_id=person_id, key=key, asked=mark, answer=answer, at=at))
    return answer
