"""Invitations: somebody is sent a link by which they make their own account, with the role that was meant for them."""

import secrets
from collections.abc import Sequence
from datetime import datetime, timedelta
from uuid import UUID

from pydantic import SecretStr

from sign_shelf.core.errors import Clash, NotFound, Refusal
from sign_shelf.desk.passwords import checked_password, hashed
from sign_shelf.desk.people import checked_email, checked_name
from sign_shelf.desk.permission import ROLES, Person, require
from sign_shelf.desk.sign_in import token_hash
from sign_shelf.store import invitations, ledger, people
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import InvitationRow, PersonRow

LASTS = timedelta(days=7)


async def invite(
    database: Database, by: Person, *, email: str, name: str, role: str, now: datetime
) -> tuple[InvitationRow, SecretStr]:
    """With the link's token, told this once. One for the same address that goes on is over. Raises Clash where they have an account."""
    require(by, "people", "people")
    if role not in ROLES:
        raise Refusal(f'There is no role "{role}".', where="role", remedy=f"Roles are {', '.join(ROLES)}.")
    wanted, called = checked_email(email), checked_name(name)
    token = SecretStr(secrets.token_urlsafe(32))
    async with database.transaction() as session:
        if await people.person_by_email(session, wanted):
            raise Clash(f"There is an account for {wanted} already.", where="email", remedy="Take another address.")
        await invitations.end_all_for(session, wanted, now)
        row = InvitationRow(
            token_hash=token_hash(token), email=wanted, name=called, role=role, made_by=by.id, made_at=now, until=now + LASTS
        )  # fmt: skip
        session.add(row)
        _tell(session, f"Invited {called}, {role}", by.id, now)
        await session.flush()
        return row, token


async def going_on(database: Database, by: Person, now: datetime) -> Sequence[InvitationRow]:
    require(by, "people", "people")
    async with database.transaction() as session:
        return await invitations.going_on(session, now)


async def withdraw(database: Database, by: Person, invitation: UUID, now: datetime) -> None:
    require(by, "people", "people")
    async with database.transaction() as session:
        row = await session.get(InvitationRow, invitation, with_for_update=True)
        if row is None or row.over_at is not None:
            raise NotFound("There is no such invitation.", where=f"invitations/{invitation}",
                           remedy="It may have been taken up already.")  # fmt: skip
        row.over_at = now
        session.add(row)
        _tell(session, f"Withdrew the invitation of {row.name}", by.id, now)


async def looked_at(database: Database, token: SecretStr, now: datetime) -> tuple[InvitationRow, str]:
    """With who sent it. Raises NotFound, the same for one that never was, is over or has ended."""
    async with database.transaction() as session:
        row = await _going_on(session, token, now)
        by = await people.person_by_id(session, row.made_by) if row.made_by else None
        return row, by.name if by is not None else ""


async def take_up(database: Database, token: SecretStr, *, name: str, password: str, now: datetime) -> PersonRow:
    """The account. Raises NotFound, and Refusal for a bad password or name."""
    async with database.transaction() as session:
        row = await _going_on(session, token, now)
    called = checked_name(name)
    kept = await hashed(await checked_password(password, row.email, called))
    async with database.transaction() as session:
        return await _made(session, await _going_on(session, token, now, lock=True), called, kept, now)


async def taken_up_elsewhere(session: Session, email: str, name: str, now: datetime) -> PersonRow | None:
    """By whom an identity provider vouches for: they have no password of ours. None where nobody invited them."""
    row = await invitations.by_email(session, email, now)
    return await _made(session, row, name or row.name, "", now) if row is not None else None


async def _made(session: Session, row: InvitationRow, name: str, password_hash: str, now: datetime) -> PersonRow:
    if await people.person_by_email(session, row.email):
        raise Clash(f"There is an account for {row.email} already.", where="email", remedy="Sign in with it.")
    person = PersonRow(email=row.email, name=name, password_hash=password_hash, role=row.role, created_at=now)
    session.add(person)
    row.over_at = now
    session.add(row)
    await session.flush()
    _tell(session, f"{name} took up their invitation, {row.role}", person.id, now)
    return person


async def _going_on(session: Session, token: SecretStr, now: datetime, *, lock: bool = False) -> InvitationRow:
    row = await invitations.by_token(session, token_hash(token), lock=lock)
    if row is None or row.over_at is not None or row.until <= now:
        raise NotFound("This invitation leads nowhere any more.", remedy="Ask whoever sent it for another.")
    return row


def _tell(session: Session, says: str, by: UUID, now: datetime) -> None:
    ledger.write(session, "account", says, at=now, person_id=by)
