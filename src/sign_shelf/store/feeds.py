"""Addresses of feeds, by the hashes of their tokens."""

from datetime import datetime
from uuid import UUID

from sqlalchemy import delete
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import FeedRow, PersonRow


async def feed_of(session: Session, person_id: UUID) -> FeedRow | None:
    return await session.get(FeedRow, person_id)


async def put(session: Session, person_id: UUID, token_hash: str, now: datetime) -> None:
    """In place of the one before."""
    values = {"token_hash": token_hash, "made_at": now}
    statement = insert(FeedRow).values({"person_id": person_id, **values})
    await session.exec(statement.on_conflict_do_update(index_elements=["person_id"], set_=values))


async def forget(session: Session, person_id: UUID) -> None:
    await session.exec(delete(FeedRow).where(col(FeedRow.person_id) == person_id))


async def person_of_token(session: Session, token_hash: str) -> PersonRow | None:
    query = select(PersonRow).join(FeedRow, col(FeedRow.person_id) == PersonRow.id)
    query = query.where(FeedRow.token_hash == token_hash, col(PersonRow.disabled_at).is_(None))
    return (await session.exec(query)).first()
