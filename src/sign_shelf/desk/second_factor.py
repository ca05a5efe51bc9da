"""A second factor for accounts with a password: codes that an authenticator counts (TOTP, RFC 6238), and spare ones for when it is
lost. Set up by who knows the password, on once a code was shown, off again with a code or by an owner."""

import io
import secrets
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

import pyotp
import segno
from pydantic import SecretStr

from sign_shelf.core.errors import Clash, NotFound
from sign_shelf.desk import sign_in
from sign_shelf.desk.access_ends import end_access
from sign_shelf.desk.authenticator import STEP_S, WrongCode, hashed, step_of, takes
from sign_shelf.desk.permission import Person, refuse_programs, require
from sign_shelf.store import ledger, people, seals
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import SecondFactorRow

SPARE = 8
WHERE = "session/second-factor"


@dataclass(frozen=True)
class Begun:
    secret: SecretStr
    uri: str
    """For authenticators: otpauth://totp/…"""
    picture: str
    """The same to be read by a camera, as SVG."""


async def begin(database: Database, person: Person, *, password: str, now: datetime) -> Begun:
    """Anew each time, until a code was shown. Raises Clash where one is on, NotAllowed and TooManyTries for the password."""
    require(person, "own account", WHERE)
    refuse_programs(person, "change a second factor", WHERE)
    await sign_in.confirm(database, person, password=password, now=now)
    secret = SecretStr(pyotp.random_base32())
    async with database.transaction() as session:
        row = await session.get(SecondFactorRow, person.id, with_for_update=True)
        if row is not None and row.since is not None:
            raise Clash("You have a second factor already.", where=WHERE, remedy="Take it off first.")
        row = row or SecondFactorRow(person_id=person.id, sealed="", made_at=now)
        row.sealed, row.made_at = database.seals.seal(secret, seals.second_factor(person.id)), now
        session.add(row)
    uri = pyotp.TOTP(secret.get_secret_value(), interval=STEP_S).provisioning_uri(
        name=person.email, issuer_name="Sign Shelf"
    )
    drawn = io.BytesIO()
    segno.make(uri, error="m").save(drawn, kind="svg", scale=4, border=2, xmldecl=False, svgclass=None, lineclass=None)
    return Begun(secret, uri, drawn.getvalue().decode())


async def turn_on(database: Database, person: Person, *, code: str, keep: SecretStr | None, now: datetime) -> list[str]:
    """Spare codes, told this once. Whatever was signed in without a second factor ends, but for `keep`. Raises NotAllowed for a code
    that is not the authenticator's."""
    require(person, "own account", WHERE)
    refuse_programs(person, "change a second factor", WHERE)
    async with database.transaction() as session:
        row = await session.get(SecondFactorRow, person.id, with_for_update=True)
        if row is None or row.since is not None:
            raise Clash("No second factor is being set up.", where=WHERE, remedy="Begin anew.")
        step = step_of(database.seals, row, code, now)
        if step is None:
            raise WrongCode
        spare = [secrets.token_hex(5) for _ in range(SPARE)]
        row.since, row.last_step, row.spare = now, step, [hashed(one) for one in spare]
        session.add(row)
        await end_access(session, person.id, "second factor on", but=keep)
        ledger.write(session, "account", f"{person.name} signs in with a second factor from now on", at=now,
                     person_id=person.id)  # fmt: skip
        return spare


async def turn_off(database: Database, person: Person, *, code: str, now: datetime) -> None:
    """With a code; a stolen session has none. Raises NotAllowed, TooManyTries and NotFound."""
    require(person, "own account", WHERE)
    refuse_programs(person, "change a second factor", WHERE)
    subject = f"second factor {person.id}"
    async with database.transaction() as session:
        await sign_in.counted(session, [(subject, sign_in.ACCOUNT)], now)
    async with database.transaction() as session:
        if not await takes(database.seals, session, person.id, code, now):
            raise WrongCode
        await people.forget_subjects(session, [subject])
        await _end(session, person.id)
        ledger.write(session, "account", f"{person.name} signs in without a second factor from now on", at=now,
                     person_id=person.id)  # fmt: skip


async def take_off(database: Database, by: Person | None, person_id: UUID, now: datetime) -> None:
    """Another's, who has lost it. `by` None: at the command line of the machine itself."""
    if by is not None:
        require(by, "people", f"people/{person_id}")
    async with database.transaction() as session:
        row = await people.person_by_id(session, person_id)
        if row is None or not await _end(session, person_id):
            raise NotFound("There is no second factor to take off.", where=f"people/{person_id}")
        ledger.write(session, "account", f"Took off the second factor of {row.name}", at=now,
                     person_id=by.id if by else None)  # fmt: skip


async def _end(session: Session, person_id: UUID) -> bool:
    row = await session.get(SecondFactorRow, person_id, with_for_update=True)
    if row is None:
        return False
    await session.delete(row)
    return True
