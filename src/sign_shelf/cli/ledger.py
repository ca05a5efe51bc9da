"""Commands over the ledger. What they run is imported when they do."""

from typing import TYPE_CHECKING

import typer

from sign_shelf.cli.people import with_database

if TYPE_CHECKING:
    from sign_shelf.store.database import Database

ledger = typer.Typer(no_args_is_help=True, help="What was done, line by line.")


@ledger.callback()
def _group() -> None:
    """What was done, line by line."""


@ledger.command("verify")
def verify() -> None:
    """Whether every line is what was written, and none is gone: names the first that is not, and ends with 1."""
    from sign_shelf.store import ledger_seals

    async def run(database: "Database") -> None:
        async with database.transaction() as session:
            found = await ledger_seals.check(session)
        if found.broken is not None:
            print(f"{found.broken} The {found.lines} sealed before it are as they were.")
            raise typer.Exit(1)
        waits = f"; {found.waiting} not sealed yet" if found.waiting else ""
        print(f"{found.lines} lines, all as they were written{waits}. The last seal is {found.last}.")

    with_database(run)
