"""Commands over whole sites as files: generated, put on the shelf, taken out. What they run is imported when they do."""

import asyncio
import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

if TYPE_CHECKING:
    from sign_shelf.core.model.site import SiteDocument


def _text(document: "SiteDocument") -> str:
    return json.dumps(document.to_json(), ensure_ascii=False, indent=2) + "\n"


def portfolio(
    to: Annotated[Path, typer.Option(help="The folder that they are written into.")],
    sites: Annotated[int, typer.Option(min=1, max=10_000)] = 300,
    seed: Annotated[int, typer.Option()] = 1,
) -> None:
    """Generated, lifelike site documents; the same for the same seed."""
    from sign_shelf.demo.portfolio import portfolio

    to.mkdir(parents=True, exist_ok=True)
    for document in portfolio(sites, seed):
        (to / f"{document.site.key}.json").write_text(_text(document), "utf-8")


def import_(files: Annotated[list[str], typer.Argument(help="Site documents, or folders of them.")]) -> None:
    """Puts sites on the shelf from site documents. One that cannot be kept is told; the others are."""
    import sys
    from datetime import UTC, datetime

    from sign_shelf.cli.files import read_site
    from sign_shelf.core.errors import Refusal
    from sign_shelf.desk.whole_sites import put_on_shelf
    from sign_shelf.settings import configured
    from sign_shelf.store.database import Database

    named = [
        one
        for name in files
        for one in (sorted(map(str, Path(name).glob("*.json"))) if Path(name).is_dir() else [name])
    ]

    async def run() -> int:
        refused = 0
        async with Database.configured(configured()) as database:
            for name in named:
                try:
                    await put_on_shelf(database, read_site(name), datetime.now(UTC))
                except Refusal as refusal:
                    refused += 1
                    print(f"{name}: {' '.join(str(refusal).split())}", file=sys.stderr)
        return refused

    refused = asyncio.run(run())
    print(f"{len(named) - refused} of {len(named)} sites are on the shelf.")
    raise typer.Exit(1 if refused else 0)


import_.__name__ = "import"


def export(key: Annotated[str, typer.Argument(help="The site's key.")]) -> None:
    """A site as it is live, as a site document."""
    from sign_shelf.desk.whole_sites import taken_out
    from sign_shelf.settings import configured
    from sign_shelf.store.database import Database

    async def run() -> "SiteDocument":
        async with Database.configured(configured()) as database:
            return await taken_out(database, key)

    print(_text(asyncio.run(run())), end="")
