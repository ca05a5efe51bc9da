"""Views of the shelf that people keep."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from uuid import UUID

from sqlalchemy import delete
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import ShelfViewRow


async def kept_by(session: Session, person_id: UUID) -> Sequence[ShelfViewRow]:
    """In the order of their names."""
    mine = select(ShelfViewRow).where(ShelfViewRow.person_id == person_id)
    return list(await session.exec(mine.order_by(ShelfViewRow.name)))


async def keep(session: Session, person_id: UUID, name: str, at: Mapping[str, object], now: datetime) -> None:
    """In place of one of the same name."""
    await session.merge(ShelfViewRow(person_id=person_id, name=name, at=dict(at), kept_at=now))


async def forget(session: Session, person_id: UUID, name: str) -> None:
    mine = delete(ShelfViewRow).where(col(ShelfViewRow.person_id) == person_id, col(ShelfViewRow.name) == name)
    await session.exec(mine)
