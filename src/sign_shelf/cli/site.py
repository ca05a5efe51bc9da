"""Commands over client sites: read one, take one in."""

import asyncio
import sys
from datetime import UTC, datetime
from typing import Annotated

import typer
from pydantic import SecretStr

from sign_shelf.cli.files import write_json
from sign_shelf.core.basics.address import name_of
from sign_shelf.core.outline import format_outline
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.reading import ReadSite, read_site

app = typer.Typer(no_args_is_help=True, help="Client sites.")


async def _told(doing: str, done: int, of: int | None) -> None:
    if sys.stderr.isatty():
        print(f"\r\033[K{doing} {done}{f' of {of}' if of else ''}", end="", file=sys.stderr, flush=True)


async def _read(url: str) -> ReadSite:
    # Whoever types an address at a terminal may well mean a machine of their own: that host, and no other, is allowed.
    host = name_of(url if "://" in url else f"https://{url}")
    async with Fetcher(frozenset({host})) as fetcher:
        found = await read_site(fetcher, url, progress=_told)
    if sys.stderr.isatty():
        print("\r\033[K", end="", file=sys.stderr)
    for note in found.notes:
        print(f"note: {note}", file=sys.stderr)
    return found


@app.command("read")
def read_(url: str) -> None:
    """The proposal for a site, as JSON, without keeping anything."""
    write_json(asyncio.run(_read(url)).model_dump(mode="json", by_alias=True, exclude_defaults=True))


@app.command("add")
def add(
    url: str,
    key: Annotated[str | None, typer.Option(help="The site's key; made from its name otherwise.")] = None,
    name: Annotated[str | None, typer.Option()] = None,
    zone: Annotated[str | None, typer.Option(help="IANA time zone.")] = None,
    secret: Annotated[str | None, typer.Option(help="The signing key, from the site's back office.")] = None,
    yes: Annotated[bool, typer.Option("--yes", help="Keep it without asking.")] = False,
) -> None:
    """Reads a site, shows what was found, and puts it on the shelf."""
    from sign_shelf.desk import take_in
    from sign_shelf.desk.connect import checked_secret
    from sign_shelf.settings import configured
    from sign_shelf.store.database import Database

    settings = configured()

    async def run() -> None:
        found = await _read(url)
        print(f"{found.name}: {len(found.pages)} pages, {len(found.menus)} menus, connection {found.connection}")
        for menu in found.menus:
            print(
                f"\n# {menu.title} ({menu.where})\n{format_outline(menu.document, language=found.languages[0])}", end=""
            )
        if not yes and not typer.confirm("\nPut this site on the shelf?"):
            raise typer.Exit(1)
        settled = take_in.Confirmation(
            key=key, name=name, zone=zone, secret=checked_secret(SecretStr(secret)) if secret else None
        )
        async with Database.configured(settings) as database, database.transaction() as session:
            kept = await take_in.keep_site(session, database.seals, found, settled, None, datetime.now(UTC))
        print(f"On the shelf as {kept.key}.")

    asyncio.run(run())


@app.command("try")
def try_(
    url: str,
    secret: Annotated[
        str | None, typer.Option(help="The signing key, from the site's back office: writes are tried with it as well.")
    ] = None,
    json_: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
) -> None:
    """Whether a site keeps the site protocol: what fails, and why. Exit 1 where anything fails. Nothing that hangs there is another
    afterwards."""
    from sign_shelf.desk.connect import checked_secret
    from sign_shelf.outside.conformance import Tried, try_site

    key = checked_secret(SecretStr(secret)) if secret else None
    home = url if "://" in url else f"https://{url}"

    async def run() -> list[Tried]:
        told = []
        async with Fetcher(frozenset({name_of(home)})) as fetcher:
            async for one in try_site(fetcher, home, key, datetime.now(UTC)):
                if not json_:
                    print(f"{one.outcome:9} {one.check}{f': {one.says}' if one.says else ''}", flush=True)
                told.append(one)
        return told

    told = asyncio.run(run())
    if json_:
        write_json([{"check": one.check, "outcome": one.outcome, "says": one.says} for one in told])
    raise typer.Exit(1 if any(one.outcome == "fails" for one in told) else 0)
