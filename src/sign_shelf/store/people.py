"""People and their sign-ins."""

from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import delete, func
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import AttemptRow, PersonRow, SessionRow


async def person_by_email(session: Session, email: str) -> PersonRow | None:
    return (await session.exec(select(PersonRow).where(PersonRow.email == email.strip().lower()))).first()


async def people_by_id(session: Session, ids: set[UUID]) -> dict[UUID, PersonRow]:
    rows = await session.exec(select(PersonRow).where(col(PersonRow.id).in_(ids)))
    return {row.id: row for row in rows}


async def person_of_token(session: Session, token_hash: str, now: datetime) -> PersonRow | None:
    """Who is signed in with the token; None where it is unknown or over."""
    query = (
        select(PersonRow)
        .join(SessionRow, col(SessionRow.person_id) == PersonRow.id)
        .where(SessionRow.token_hash == token_hash, col(SessionRow.expires_at) > now)
    )
    return (await session.exec(query)).first()


async def end_session(session: Session, token_hash: str) -> None:
    await session.exec(delete(SessionRow).where(col(SessionRow.token_hash) == token_hash))


async def failures_since(session: Session, email: str, address: str, since: datetime) -> tuple[int, int]:
    """Failed sign-ins for the account, and from the network address."""

    async def count(condition: object) -> int:
        query = select(func.count()).select_from(AttemptRow).where(col(AttemptRow.at) > since, condition)  # type: ignore[arg-type]
        return int((await session.exec(query)).one())

    return await count(AttemptRow.email == email), await count(AttemptRow.address == address)


async def forget_failures(session: Session, email: str, now: datetime) -> None:
    """The account's own, after a good sign-in, and everybody's older than a day."""
    old = col(AttemptRow.at) < now - timedelta(days=1)
    await session.exec(delete(AttemptRow).where((col(AttemptRow.email) == email) | old))
