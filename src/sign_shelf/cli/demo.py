"""Commands of the demo. What they run is imported when they do: other commands need not wait for it."""

import asyncio
import sys
from pathlib import Path
from typing import Annotated

import typer

LOCAL = Path(".local")


def stand_ins(
    folder: Annotated[Path, typer.Option(help="Where ports, keys and written menus are kept.")] = LOCAL / "stand-ins",
    mail_port: Annotated[int | None, typer.Option(help="Where letters are taken, and kept. No mail without.")] = None,
) -> None:
    """The stand-in client sites, each on a loopback port of its own, and a mail server that hands nothing on."""
    from sign_shelf.demo.stand_ins.content import all_contents, whole_demo
    from sign_shelf.demo.stand_ins.elsewhere import elsewhere_of
    from sign_shelf.demo.stand_ins.mail import mail_sink
    from sign_shelf.demo.stand_ins.server import make_stand_ins, serve_stand_ins
    from sign_shelf.outside.mail_sink import FOLDER

    sites = make_stand_ins(folder, contents=whole_demo())
    elsewhere = elsewhere_of(all_contents(), folder / "elsewhere")
    for site in sites:
        print(f"{site.content.name}: {site.base}", flush=True)
    print(f"{', '.join(elsewhere.hosts)}: https on port {elsewhere.port}", flush=True)
    mail = mail_sink(folder / FOLDER, mail_port) if mail_port is not None else None
    asyncio.run(serve_stand_ins(sites, elsewhere, mail))


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
