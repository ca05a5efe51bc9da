"""Signing in and out: server-side sessions, and pauses that grow with every try that did not succeed.

A try is counted before its password is looked at, under a lock: however many come at once, no more are tried than may
be. It counts against the account and against the network address; in a browser in which the person signed in before it
counts against that browser alone, so that nobody can be locked out by what others try.
"""

import hashlib
import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from ipaddress import ip_address, ip_network
from typing import cast
from uuid import UUID

from pydantic import SecretStr

from sign_shelf.core.errors import NotAllowed, Refusal
from sign_shelf.desk import authenticator
from sign_shelf.desk.passwords import matches
from sign_shelf.desk.permission import Person, Role, Scope
from sign_shelf.store import people
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import KnownBrowserRow, PersonRow, SessionRow, TryRow

WINDOW = timedelta(hours=1)
_SEEN_AGAIN = timedelta(minutes=1)


@dataclass(frozen=True)
class Pauses:
    """So many tries without a pause; then one second, two, four, … up to the longest."""

    free: int
    longest_s: int

    def after(self, tries: int) -> timedelta:
        over = tries - self.free
        return timedelta(seconds=min(2 ** min(over, 20), self.longest_s) if over >= 0 else 0)


# An account's pauses stay short: they slow down who guesses, and hold up who knows the password hardly at all.
ACCOUNT = Pauses(free=5, longest_s=30)
ADDRESS = Pauses(free=30, longest_s=600)
BROWSER = Pauses(free=10, longest_s=60)


class TooManyTries(Refusal):
    code = "too-many-tries"

    def __init__(self, again_in_s: int) -> None:
        super().__init__("Too many failed sign-ins.", remedy=f"Try again in {again_in_s} seconds.")
        self.again_in_s = again_in_s


@dataclass(frozen=True)
class Asked:
    """Where a sign-in comes from. `mark` is what a browser shows in which somebody signed in before."""

    address: str
    browser: str = ""
    mark: SecretStr | None = None


@dataclass(frozen=True)
class SignedIn:
    token: SecretStr
    mark: SecretStr
    person: Person


def person_of(row: PersonRow, at_sites: Mapping[str, str], by: SessionRow | None = None) -> Person:
    person = Person(
        id=row.id, name=row.name, email=row.email, role=cast(Role, row.role),
        at_sites=cast(Mapping[str, Role], at_sites),
    )  # fmt: skip
    if by is None:
        return person
    return replace(person, token=by.name, scope=cast(Scope, by.scope), only_at=frozenset(by.only_at))


def token_hash(token: SecretStr) -> str:
    return hashlib.sha256(token.get_secret_value().encode("utf-8", "replace")).hexdigest()


async def sign_in(
    database: Database, *, email: str, password: SecretStr, asked: Asked, now: datetime, lasts: timedelta,
    code: str = "",
) -> SignedIn:  # fmt: skip
    """A new session. Raises NotAllowed or TooManyTries; CodeWanted where the password is right and the account has a second factor."""
    wanted = email.strip().lower()[:300]
    async with database.transaction() as session:
        row = await people.person_by_email(session, wanted)
        known = row is not None and asked.mark is not None
        known = known and await people.knows_browser(session, row.id, token_hash(asked.mark))  # type: ignore[union-attr, arg-type]
        mine = await _count(session, wanted, asked, known=known, now=now)
    good = await matches(row.password_hash if row else None, password.get_secret_value())
    async with database.transaction() as session:
        if not good or row is None or row.disabled_at is not None:
            raise NotAllowed("E-mail address and password do not match.", remedy="Check both and try again.")
        wants_code = await authenticator.is_on(session, row.id)
        if wants_code and code and not await authenticator.takes(database.seals, session, row.id, code, now):
            # It counts as a try: who has the password must not be able to guess codes.
            raise authenticator.WrongCode
        await people.forget_tries(session, mine, now)
        if not (wants_code and not code):
            return await _begun(session, row, mine, asked=asked, known=known, now=now, lasts=lasts)
    raise authenticator.CodeWanted


async def _begun(
    session: Session, row: PersonRow, mine: Mapping[str, int], *, asked: Asked, known: bool, now: datetime, lasts: timedelta
) -> SignedIn:  # fmt: skip
    # Of the address this try alone: one's own account must not buy more tries at others.
    own = [subject for subject in mine if not subject.startswith("address ")]
    await people.forget_subjects(session, own)
    return await signed_in(session, row, asked=asked, known=known, now=now, lasts=lasts)


async def signed_in(
    session: Session, row: PersonRow, *, asked: Asked, known: bool, now: datetime, lasts: timedelta
) -> SignedIn:
    """A new session of somebody of whom it is known that it is they."""
    mark = asked.mark if known and asked.mark else SecretStr(secrets.token_urlsafe(32))
    if not known:
        session.add(KnownBrowserRow(mark_hash=token_hash(mark), person_id=row.id, at=now))
    token = await begin_session(session, row.id, now=now, lasts=lasts, asked=asked)
    return SignedIn(token, mark, person_of(row, await people.roles_of(session, row.id)))


async def confirm(database: Database, person: Person, *, password: str, now: datetime) -> None:
    """That whoever is signed in knows the password: a stolen session must not be able to guess it. Raises NotAllowed and
    TooManyTries."""
    subject = f"confirm {person.id}"
    async with database.transaction() as session:
        row = await people.person_by_id(session, person.id)
        await counted(session, [(subject, ACCOUNT)], now)
    if row is None or not await matches(row.password_hash, password):
        raise NotAllowed("That is not your password.", where="old", remedy="Write the one that you sign in with.")
    async with database.transaction() as session:
        await people.forget_subjects(session, [subject])


async def begin_session(
    session: Session,
    person_id: UUID,
    *,
    now: datetime,
    lasts: timedelta,
    asked: Asked,
    name: str = "",
    scope: Scope = "all",
    only_at: Sequence[str] = (),
) -> SecretStr:
    """The token of a new sign-in; with a name, of a program's."""
    token = SecretStr(secrets.token_urlsafe(32))
    row = SessionRow(
        token_hash=token_hash(token), person_id=person_id, name=name, browser=asked.browser[:200],
        address=asked.address[:100], created_at=now, expires_at=now + lasts, seen_at=now, scope=scope,
        only_at=sorted(only_at),
    )  # fmt: skip
    session.add(row)
    return token


async def _count(session: Session, email: str, asked: Asked, *, known: bool, now: datetime) -> dict[str, int]:
    """Counts the try before it is made. Raises TooManyTries, which counts for nothing."""
    if known and asked.mark is not None:
        mine = [(f"browser {token_hash(asked.mark)}", BROWSER)]
    else:
        mine = [(f"account {email}", ACCOUNT), (f"address {_network(asked.address)}", ADDRESS)]
    return await counted(session, mine, now)


def _network(address: str) -> str:
    """Whoever has an address of IPv6 has a whole network of them (RFC 6177)."""
    try:
        found = ip_address(address)
    except ValueError:
        return address
    return str(ip_network((found, 64), strict=False)) if found.version == 6 else address


async def counted(session: Session, subjects: list[tuple[str, Pauses]], now: datetime) -> dict[str, int]:
    """The subjects, with the number of the try of each."""
    waits = 0.0
    for subject, pauses in subjects:
        tries, last = await people.tries_of(session, subject, now - WINDOW)
        if last is not None:
            waits = max(waits, (last + pauses.after(tries) - now).total_seconds())
    if waits > 0:
        raise TooManyTries(int(waits) + 1)
    rows = [TryRow(subject=subject, at=now) for subject, _ in subjects]
    session.add_all(rows)
    await session.flush()
    return {row.subject: row.id for row in rows if row.id is not None}


async def who(database: Database, token: SecretStr, now: datetime) -> Person | None:
    async with database.transaction() as session:
        found = await people.sign_in_of_token(session, token_hash(token), now)
        if found is None:
            return None
        row, person, at_sites = found
        if row.seen_at is None or now - row.seen_at > _SEEN_AGAIN:
            row.seen_at = now
            session.add(row)
        return person_of(person, at_sites, row)


async def sign_out(database: Database, token: SecretStr) -> None:
    async with database.transaction() as session:
        await people.end_session(session, token_hash(token))
