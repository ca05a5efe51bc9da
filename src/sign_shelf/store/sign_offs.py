"""Links for clients, by the hashes of their tokens, and what was said by them."""

from collections.abc import Iterable, Sequence
from uuid import UUID

from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import SignOffRow, SignOffSaidRow


async def by_token(session: Session, token_hash: str, *, lock: bool = False) -> SignOffRow | None:
    query = select(SignOffRow).where(SignOffRow.token_hash == token_hash)
    return (await session.exec(query.with_for_update(key_share=True) if lock else query)).first()


async def by_id(session: Session, sign_off_id: UUID) -> SignOffRow | None:
    return await session.get(SignOffRow, sign_off_id)


async def of_change(session: Session, change_id: UUID) -> Sequence[SignOffRow]:
    """The first that was made first."""
    query = select(SignOffRow).where(SignOffRow.change_id == change_id)
    return list(await session.exec(query.order_by(col(SignOffRow.made_at), col(SignOffRow.id))))


async def said(session: Session, sign_off_ids: Iterable[UUID]) -> Sequence[SignOffSaidRow]:
    """In the order in which it was said."""
    query = select(SignOffSaidRow).where(col(SignOffSaidRow.sign_off_id).in_(list(sign_off_ids)))
    return list(await session.exec(query.order_by(col(SignOffSaidRow.id))))
