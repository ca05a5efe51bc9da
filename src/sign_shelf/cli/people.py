"""Commands over accounts and keys, at the machine itself. What they run is imported when they do."""

import asyncio
import getpass
import sys
from collections.abc import Awaitable, Callable
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Annotated

import typer

if TYPE_CHECKING:
    from sign_shelf.store.database import Database

person = typer.Typer(no_args_is_help=True, help="Accounts.")
key = typer.Typer(no_args_is_help=True, help="The key that secrets are sealed with.")


def with_database(work: "Callable[[Database], Awaitable[None]]") -> None:
    from sign_shelf.settings import configured
    from sign_shelf.store.database import Database

    async def run() -> None:
        async with Database.configured(configured()) as database:
            await work(database)

    asyncio.run(run())


def _password() -> str:
    """Asked for at a terminal; else the first line of standard input."""
    if sys.stdin.isatty():
        return getpass.getpass("Password, at least 12 signs: ")
    return sys.stdin.readline().rstrip("\r\n")


@person.command("add")
def add(email: str, name: str, role: Annotated[str, typer.Option()] = "editor") -> None:
    """A new account; the password is asked for, or read from standard input."""
    from sign_shelf.desk.people import add_person

    async def run(database: "Database") -> None:
        await add_person(database, email=email, name=name, password=_password(), role=role, now=datetime.now(UTC))

    with_database(run)


@person.command("list")
def list_() -> None:
    """Every account: address, name, role, and whether it is disabled."""
    from sign_shelf.store import people

    async def run(database: "Database") -> None:
        async with database.transaction() as session:
            for row in await people.everybody(session):
                print(row.email, row.name, row.role, *(["disabled"] if row.disabled_at else []), sep="\t")

    with_database(run)


@person.command("password")
def password(email: str) -> None:
    """A new password for the account; every sign-in of it ends."""
    from sign_shelf.desk import people

    async def run(database: "Database") -> None:
        row = await people.person_by_email(database, email)
        await people.reset_password(database, None, row.id, new=_password(), now=datetime.now(UTC))

    with_database(run)


@person.command("second-factor-off")
def second_factor_off(email: str) -> None:
    """Takes off the account's second factor, for who has lost it."""
    from sign_shelf.desk import people, second_factor

    async def run(database: "Database") -> None:
        row = await people.person_by_email(database, email)
        await second_factor.take_off(database, None, row.id, datetime.now(UTC))

    with_database(run)


@person.command("disable")
def disable(
    email: str, again: Annotated[bool, typer.Option("--undo", help="Let the person in again.")] = False
) -> None:
    """Keeps the person out from now on; every sign-in of theirs ends."""
    from sign_shelf.desk import people

    async def run(database: "Database") -> None:
        row = await people.person_by_email(database, email)
        await people.disable(database, None, row.id, disabled=not again, now=datetime.now(UTC))

    with_database(run)


@key.command("make")
def make() -> None:
    """A new key for SIGN_SHELF_KEY."""
    from sign_shelf.store.seals import new_seal_key

    print(new_seal_key())


@key.command("replace")
def replace() -> None:
    """Seals every secret with the first key of SIGN_SHELF_KEY=new,old; afterwards the old one is not needed any more."""
    from sign_shelf.store import keys

    async def run(database: "Database") -> None:
        async with database.transaction() as session:
            print(f"{await keys.seal_anew(session, database.seals)} secrets sealed anew.")

    with_database(run)
