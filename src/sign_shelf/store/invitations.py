"""Invitations that were sent."""

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import ColumnElement, update
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import InvitationRow


async def by_token(session: Session, token_hash: str, *, lock: bool = False) -> InvitationRow | None:
    query = select(InvitationRow).where(InvitationRow.token_hash == token_hash)
    return (await session.exec(query.with_for_update() if lock else query)).first()


async def by_email(session: Session, email: str, now: datetime) -> InvitationRow | None:
    """One that goes on, locked."""
    query = select(InvitationRow).where(InvitationRow.email == email, *_goes_on(now))
    return (await session.exec(query.with_for_update())).first()


async def going_on(session: Session, now: datetime) -> Sequence[InvitationRow]:
    return list(await session.exec(select(InvitationRow).where(*_goes_on(now)).order_by(col(InvitationRow.made_at))))


def _goes_on(now: datetime) -> tuple[ColumnElement[bool], ColumnElement[bool]]:
    return col(InvitationRow.over_at).is_(None), col(InvitationRow.until) > now


async def end_all_for(session: Session, email: str, now: datetime) -> None:
    gone = update(InvitationRow).where(col(InvitationRow.email) == email, col(InvitationRow.over_at).is_(None))
    await session.exec(gone.values(over_at=now))
