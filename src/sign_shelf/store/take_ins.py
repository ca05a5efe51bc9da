"""Readings of sites that are to be taken in."""

from datetime import datetime
from uuid import UUID

from sqlmodel import select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import TakeInRow


async def take_in_by_id(session: Session, take_in_id: UUID, *, lock: bool = False) -> TakeInRow | None:
    return await session.get(TakeInRow, take_in_id, with_for_update=lock or None)


async def unfinished(session: Session, before: datetime) -> list[TakeInRow]:
    """Those asked for before the moment whose reading has not ended."""
    query = select(TakeInRow).where(TakeInRow.state == "reading", TakeInRow.asked_at < before)
    return list(await session.exec(query))
