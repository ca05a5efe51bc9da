"""Accounts: made, their passwords changed, disabled; and the sign-ins of each, listed and ended."""

import re
from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from uuid import UUID

from pydantic import SecretStr

from sign_shelf.core.errors import Clash, NotFound, Refusal
from sign_shelf.desk import sign_in
from sign_shelf.desk.access_ends import end_access
from sign_shelf.desk.passwords import checked_password, hashed
from sign_shelf.desk.permission import ROLES, Person, Scope, may, refuse_programs, require
from sign_shelf.store import ledger, people, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import PersonRow, SessionRow

_EMAIL = re.compile(r"[^\s@<>\"(),:;\[\]\\\x00-\x20\x7f]{1,64}@[A-Za-z0-9]([A-Za-z0-9.-]{0,250}[A-Za-z0-9])?")


def checked_email(email: str) -> str:
    wanted = email.strip().lower()
    if not _EMAIL.fullmatch(wanted) or ".." in wanted:
        raise Refusal(
            f'"{email[:80]}" is no e-mail address.', where="email", remedy="Write one like ines@quillfen.example"
        )
    return wanted


def checked_name(name: str) -> str:
    wanted = name.strip()
    if not wanted or len(wanted) > 200 or not wanted.isprintable():
        raise Refusal("A name has 1 to 200 signs, on one line.", where="name", remedy="Write a shorter one.")
    return wanted


async def add_person(
    database: Database, *, email: str, name: str, password: str, role: str, now: datetime, by: Person | None = None
) -> Person:
    """A new account; `by` None: at the command line of the machine itself. Raises Clash for a taken address and Refusal
    for an unknown role, a bad password or what is no address."""
    if by is not None:
        require(by, "people", "people")
    if role not in ROLES:
        raise Refusal(f'There is no role "{role}".', where="role", remedy=f"Roles are {', '.join(ROLES)}.")
    wanted, called = checked_email(email), checked_name(name)
    kept = await hashed(await checked_password(password, wanted, called))
    async with database.transaction() as session:
        if await people.person_by_email(session, wanted):
            raise Clash(f"There is an account for {wanted} already.", where="email", remedy="Take another address.")
        row = PersonRow(email=wanted, name=called, password_hash=kept, role=role, created_at=now)
        session.add(row)
        _tell(session, f"Added the account of {called}, {role}", by, now)
        return sign_in.person_of(row, {})


async def everybody(database: Database, by: Person) -> list[tuple[PersonRow, Mapping[str, str]]]:
    """With their roles at single sites, by the sites' keys."""
    require(by, "people", "people")
    async with database.transaction() as session:
        at_sites = await people.given_at_sites(session)
        return [(row, at_sites.get(row.id, {})) for row in await people.everybody(session)]


async def give_role(
    database: Database, by: Person, person_id: UUID, *, role: str | None, site_key: str | None, now: datetime
) -> None:
    """A role everywhere, or at one site; None there: the one that they have everywhere. Nobody changes their own."""
    where = f"people/{person_id}"
    require(by, "people", where)
    if by.id == person_id:
        raise Clash("You cannot change your own role.", where=where, remedy="Ask another owner.")
    if role not in ROLES and not (role is None and site_key is not None):
        raise Refusal(f'There is no role "{role}".', where="role", remedy=f"Roles are {', '.join(ROLES)}.")
    async with database.transaction() as session:
        row = await _person(session, person_id, lock=True)
        if site_key is None:
            assert role is not None
            row.role = role
            session.add(row)
            _tell(session, f"{row.name} is {role} from now on", by, now)
            return
        site = await sites.site_by_key(session, site_key)
        if site is None:
            raise NotFound(f'There is no site "{site_key}" on the shelf.', where=f"sites/{site_key}")
        await people.give_role(session, person_id, site.id, role)
        _tell(session, f"{row.name} is {role or row.role} at {site.name} from now on", by, now)


async def change_password(
    database: Database, person: Person, *, old: str, new: str, keep: SecretStr | None, now: datetime
) -> None:
    """One's own. Every other sign-in of the account ends, programs' tokens too; `keep` is the one that goes on.

    A wrong old password counts as a failed sign-in. Raises NotAllowed, also for a program, and TooManyTries.
    """
    require(person, "own account", "session/password")
    refuse_programs(person, "change a password", "session/password")
    await checked_password(new, person.email, person.name)
    await sign_in.confirm(database, person, password=old, now=now)
    kept = await hashed(new)
    async with database.transaction() as session:
        row = await _person(session, person.id, lock=True)
        row.password_hash = kept
        session.add(row)
        await end_access(session, person.id, "password changed", but=keep)
        _tell(session, f"{person.name} changed their password", person, now)


async def reset_password(database: Database, by: Person | None, person_id: UUID, *, new: str, now: datetime) -> None:
    """Another's. Every sign-in of the account ends, and no browser is known any more."""
    if by is not None:
        require(by, "people", f"people/{person_id}")
    async with database.transaction() as session:
        row = await _person(session, person_id)
    kept = await hashed(await checked_password(new, row.email, row.name))
    async with database.transaction() as session:
        row = await _person(session, person_id, lock=True)
        row.password_hash = kept
        session.add(row)
        await end_access(session, person_id, "password reset")
        _tell(session, f"Gave {row.name} a new password", by, now)


async def disable(database: Database, by: Person | None, person_id: UUID, *, disabled: bool, now: datetime) -> None:
    """Whether the person may sign in; where not, every sign-in of theirs ends at once. Nobody disables themselves."""
    if by is not None:
        require(by, "people", f"people/{person_id}")
        if by.id == person_id:
            raise Clash(
                "You cannot disable your own account.", where=f"people/{person_id}", remedy="Ask another owner."
            )
    async with database.transaction() as session:
        row = await _person(session, person_id, lock=True)
        if (row.disabled_at is not None) == disabled:
            return
        row.disabled_at = now if disabled else None
        session.add(row)
        if disabled:
            await end_access(session, person_id, "account disabled")
        _tell(session, f"{'Disabled' if disabled else 'Enabled'} the account of {row.name}", by, now)


async def sign_ins(database: Database, by: Person, person_id: UUID, now: datetime) -> list[SessionRow]:
    """One's own, or another's for who looks after people."""
    if by.id != person_id:
        require(by, "people", f"people/{person_id}")
    async with database.transaction() as session:
        await _person(session, person_id)
        return await people.sign_ins_of(session, person_id, now)


async def end_sign_ins(
    database: Database, by: Person, person_id: UUID, *, only: UUID | None, but: SecretStr | None, now: datetime
) -> None:
    """Ends `only` one sign-in, or all but the one with the token `but`."""
    require(by, "people" if by.id != person_id else "own account", f"people/{person_id}")
    async with database.transaction() as session:
        row = await _person(session, person_id)
        if only is None:
            ended = await end_access(session, person_id, "sign-ins ended", but=but)
        else:
            ended = await people.end_sign_ins(session, person_id, only=only)
        if only is not None and not ended:
            raise NotFound("There is no such sign-in.", where=f"sign-ins/{only}", remedy="It may have ended already.")
        if ended:
            _tell(session, f"Ended {ended} sign-in{'s' if ended > 1 else ''} of {row.name}", by, now)


async def new_token(
    database: Database, person: Person, *, name: str, scope: Scope, only_at: Sequence[str], days: int,
    asked: sign_in.Asked, now: datetime,
) -> SecretStr:  # fmt: skip
    """A token by which a program may do so much of what the person may, at these sites or at all, for so many days:
    Authorization: Bearer …"""
    require(person, "own account", "session/tokens")
    called = checked_name(name)
    async with database.transaction() as session:
        known = {row.key: row.name for row in await sites.sites_by_key(session, only_at)}
        for key in only_at:
            if key not in known or not may(person, "look", key):
                raise NotFound(f'There is no site "{key}" on the shelf.', where="only_at")
        at = f" at {', '.join(sorted(known.values()))}" if known else ""
        _tell(session, f"Made the token {called} for a program: {_SCOPES[scope]}{at}, for {days} days", person, now)
        return await sign_in.begin_session(
            session, person.id, now=now, lasts=timedelta(days=days), asked=asked, name=called, scope=scope, only_at=only_at
        )  # fmt: skip


_SCOPES: Mapping[Scope, str] = {
    "look": "it may look",
    "edit": "it may edit in changes",
    "put live": "it may edit and put live",
    "all": "it may all that they may",
}


async def person_by_email(database: Database, email: str) -> PersonRow:
    """For the command line, where people are named by their address."""
    async with database.transaction() as session:
        row = await people.person_by_email(session, email)
    if row is None:
        raise NotFound(f"There is no account for {email}.", where=email, remedy="See `sign-shelf person list`.")
    return row


async def _person(session: Session, person_id: UUID, *, lock: bool = False) -> PersonRow:
    row = await people.person_by_id(session, person_id, lock=lock)
    if row is None:
        raise NotFound("There is no such person.", where=f"people/{person_id}")
    return row


def _tell(session: Session, says: str, by: Person | None, now: datetime) -> None:
    ledger.write(session, "account", says, at=now, person_id=by.id if by else None)
