"""Commands of the demo. What they run is imported when they do: other commands need not wait for it."""

import asyncio
import sys
from pathlib import Path
from typing import Annotated

import typer

LOCAL = Path(".local")


def stand_ins(
    folder: Annotated[Path, typer.Option(help="Where ports, keys and written menus are kept.")] = LOCAL / "stand-ins",
) -> None:
    """The stand-in client sites, each on a loopback port of its own."""
    from sign_shelf.demo.stand_ins.content import all_contents
    from sign_shelf.demo.stand_ins.elsewhere import elsewhere_of
    from sign_shelf.demo.stand_ins.server import make_stand_ins, serve_stand_ins

    sites = make_stand_ins(folder)
    elsewhere = elsewhere_of(all_contents(), folder / "elsewhere")
    for site in sites:
        print(f"{site.content.name}: {site.base}", flush=True)
    print(f"{', '.join(elsewhere.hosts)}: https on port {elsewhere.port}", flush=True)
    asyncio.run(serve_stand_ins(sites, elsewhere))


stand_ins.__name__ = "stand-ins"


def demo(
    port: Annotated[int, typer.Option()] = 8400,
    folder: Annotated[Path, typer.Option(help="Where the demo keeps its data.")] = LOCAL,
) -> None:
    """Everything at once: database, stand-in sites, worker and server, with the demo portfolio."""
    from sign_shelf.demo.run import DemoFailed, run_demo

    try:
        run_demo(folder.resolve(), port)
    except DemoFailed as failed:
        print(failed, file=sys.stderr)
        raise typer.Exit(1) from failed
