"""Accounts and signing in: Argon2id, server-side sessions, a limit on failures."""

import asyncio
import hashlib
import secrets
from datetime import datetime, timedelta
from typing import cast

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError

from sign_shelf.core.errors import Clash, NotAllowed, Refusal
from sign_shelf.desk.permission import ROLES, Person, Role
from sign_shelf.store import ledger, people
from sign_shelf.store.database import Database
from sign_shelf.store.tables import AttemptRow, PersonRow, SessionRow

_HASHER = PasswordHasher()
_NOBODY = _HASHER.hash(secrets.token_hex(16))
"""Checked against where no account exists, so that the time taken tells nothing."""

WINDOW = timedelta(minutes=15)
FAILURES_FOR_ACCOUNT = 5
FAILURES_FROM_ADDRESS = 30


class TooManyTries(Refusal):
    code = "too-many-tries"


def _person(row: PersonRow) -> Person:
    return Person(id=row.id, name=row.name, email=row.email, role=cast(Role, row.role))


def token_hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


async def add_person(database: Database, *, email: str, name: str, password: str, role: str, now: datetime) -> Person:
    """A new account. Raises Clash for a taken address and Refusal for an unknown role or a short password."""
    if role not in ROLES:
        raise Refusal(f'There is no role "{role}".', remedy=f"Roles are {', '.join(ROLES)}.")
    if len(password) < 10:
        raise Refusal("The password has fewer than 10 characters.", remedy="Take a longer one.")
    hashed = await asyncio.to_thread(_HASHER.hash, password)
    async with database.transaction() as session:
        if await people.person_by_email(session, email):
            raise Clash(f"There is an account for {email} already.")
        row = PersonRow(email=email.strip().lower(), name=name, password_hash=hashed, role=role, created_at=now)
        session.add(row)
        ledger.write(session, "account", f"Added the account of {name}", at=now)
        return _person(row)


async def sign_in(
    database: Database, *, email: str, password: str, address: str, now: datetime, lasts: timedelta
) -> tuple[str, Person]:
    """A new session's token, and who signed in. Raises NotAllowed or TooManyTries."""
    wanted = email.strip().lower()[:300]
    async with database.transaction() as session:
        for_account, from_address = await people.failures_since(session, wanted, address, now - WINDOW)
        row = await people.person_by_email(session, wanted)
    if for_account >= FAILURES_FOR_ACCOUNT or from_address >= FAILURES_FROM_ADDRESS:
        raise TooManyTries("Too many failed sign-ins.", remedy="Wait a quarter of an hour, then try again.")
    good = await asyncio.to_thread(_matches, row.password_hash if row else _NOBODY, password[:1_000])
    async with database.transaction() as session:
        if not good or row is None:
            session.add(AttemptRow(email=wanted, address=address, at=now))
            await session.commit()
            raise NotAllowed("E-mail address and password do not match.", remedy="Check both and try again.")
        await people.forget_failures(session, wanted, now)
        token = secrets.token_urlsafe(32)
        session.add(SessionRow(token_hash=token_hash(token), person_id=row.id, created_at=now, expires_at=now + lasts))
        return token, _person(row)


def _matches(hashed: str, password: str) -> bool:
    try:
        return _HASHER.verify(hashed, password)
    except (VerifyMismatchError, InvalidHashError):
        return False


async def who(database: Database, token: str, now: datetime) -> Person | None:
    async with database.transaction() as session:
        row = await people.person_of_token(session, token_hash(token), now)
        return _person(row) if row else None


async def sign_out(database: Database, token: str) -> None:
    async with database.transaction() as session:
        await people.end_session(session, token_hash(token))
