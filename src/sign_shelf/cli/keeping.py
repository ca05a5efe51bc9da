"""The whole database in one file, and back: with PostgreSQL's own programs."""

import os
import subprocess
from pathlib import Path
from typing import Annotated

import typer

from sign_shelf.core.errors import Refusal


def backup(
    file: Annotated[Path, typer.Argument(help="Where it is kept; a file that is there is replaced at the end.")],
) -> None:
    """The whole database in one file. People may work meanwhile: it is as it was at one moment."""
    draft = file.with_name(f"{file.name}.part")
    try:
        draft.parent.mkdir(parents=True, exist_ok=True)
    except OSError as failed:
        raise Refusal(f"{file.parent} cannot be made: {failed.strerror}.", where="FILE") from failed
    try:
        _run("pg_dump", "--format=custom", "--no-owner", "--no-privileges", f"--file={draft}", _address())
        draft.replace(file)
    finally:
        draft.unlink(missing_ok=True)
    typer.echo(f"Kept in {file}: {file.stat().st_size} bytes. What seals its secrets (SIGN_SHELF_KEY) is not in it.")


def restore(
    file: Annotated[Path, typer.Argument(help="What was kept by backup.")],
    over: Annotated[
        bool, typer.Option("--over", help="Everything that is in the database now is gone afterwards.")
    ] = False,
) -> None:
    """Puts a backup into an empty database, whole or not at all. The server and the workers are to be stopped."""
    if not file.is_file():
        raise Refusal(f"There is no file {file}.", where="FILE", remedy="Name one that `sign-shelf backup` made.")
    address = _address()
    found = _run(
        "psql", "-XAtq", "-c", "SELECT count(*) FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind = 'r'", address
    )  # fmt: skip
    if found.strip() != "0" and not over:
        raise Refusal(
            f"The database is not empty: it has {found.strip()} tables.", where="SIGN_SHELF_DATABASE",
            remedy="Name an empty database, or write --over, which takes away what is in this one.",
        )  # fmt: skip
    # What is there goes in the same transaction in which the backup comes in: where that fails, it stays.
    script = _run("pg_restore", "--no-owner", "--no-privileges", "--file=-", str(file))
    begin = "DROP SCHEMA public CASCADE; CREATE SCHEMA public;\n" if found.strip() != "0" else ""
    _run(
        "psql", "-Xq", "--single-transaction", "-v", "ON_ERROR_STOP=1", "-o", os.devnull, address, given=begin + script
    )
    typer.echo(
        f"Restored from {file}. Start the server and the workers with the SIGN_SHELF_KEY that sealed its secrets."
    )


def _address() -> str:
    from sign_shelf.settings import configured

    return configured().database.get_secret_value()


def _run(program: str, *words: str, given: str | None = None) -> str:
    try:
        done = subprocess.run([program, *words], input=given, capture_output=True, text=True, check=False)
    except FileNotFoundError as missing:
        raise Refusal(
            f"{program} is not installed.",
            remedy="Install Debian's postgresql-client, in the server's version or a newer one.",
        ) from missing
    if done.returncode != 0:
        last = (done.stderr.strip() or done.stdout.strip()).splitlines()
        raise Refusal(
            f"{program} could not do it: {last[0] if last else 'it says nothing'}", where="SIGN_SHELF_DATABASE"
        )
    return done.stdout
