"""The command line. Exit 0 good, 1 findings, 2 unusable input with a one-line reason on standard error.

A command's module, and with it all that the command is made of, is imported when the command is called.
"""

import importlib
import sys
from collections.abc import Mapping
from typing import Annotated, NamedTuple

import typer
from typer.core import TyperGroup
from typer.main import get_command

from sign_shelf.cli.remote import Server, use
from sign_shelf.core.errors import Refusal


class _Where(NamedTuple):
    module: str
    name: str
    says: str | None
    """The first sentence of its description; None where it is not listed."""


COMMANDS: Mapping[str, _Where] = {
    "outline": _Where("documents", "outline", "Menus as plain text."),
    "convert": _Where("documents", "convert", "A menu in another format."),
    "diff": _Where(
        "documents", "diff_", "The edits that lead from A to B, in the order in which they are carried out."
    ),
    "merge": _Where("merging", "merge", "Both sides' edits on top of BASE, with what they do not agree on."),
    "check": _Where("checks", "check", "What the checks find in the site's menus."),
    "links": _Where("links", "links", "Whether the addresses in the site's menus answer."),
    "sweep": _Where(
        "sweeps", "sweep", "Entries of many menus found by a query, and the same edit made of all of them."
    ),
    "icons": _Where("documents", "icons", "Icons of the shipped set, with the words that they are found by."),
    "fit": _Where("documents", "fit_", "Whether a bar of entries fits, from which width, and what goes first."),
    "rules": _Where("rules", "app", "Rules: who sees an item."),
    "resolve": _Where("visitors", "resolve_", "What one visitor gets in one location, and why the rest is left out."),
    "reach": _Where("visitors", "reach_", "How many choices every page is from the home page."),
    "audiences": _Where("visitors", "audiences", "Who sees which entry of a location."),
    "timeline": _Where("visitors", "timeline_", "In which stretches of time each place stays the same."),
    "put-live": _Where("remote", "put_live", "Puts live at the site what was done in the change, on a server."),
    "site": _Where("site", "app", "Client sites."),
    "serve": _Where("server", "serve", "The web server."),
    "worker": _Where("server", "worker", "The background worker."),
    "serve-processes": _Where("server", "serve_processes", None),
    "migrate": _Where("server", "migrate_", "Brings the database to the newest schema."),
    "backup": _Where("keeping", "backup", "The whole database in one file."),
    "restore": _Where("keeping", "restore", "Puts a backup into an empty database, whole or not at all."),
    "portfolio": _Where("whole_sites", "portfolio", "Generated, lifelike site documents; the same for the same seed."),
    "import": _Where("whole_sites", "import_", "Puts sites on the shelf from site documents."),
    "export": _Where("whole_sites", "export", "A site as it is live, as a site document."),
    "person": _Where("people", "person", "Accounts."),
    "ledger": _Where("ledger", "ledger", "What was done, line by line."),
    "key": _Where("people", "key", "The key that secrets are sealed with."),
    "stand-ins": _Where("demo", "stand_ins", "The stand-in client sites, each on a loopback port of its own."),
    "demo": _Where("demo", "demo", "Everything at once: database, stand-in sites, worker and server."),
}


class _Commands(TyperGroup):
    def list_commands(self, ctx: typer.Context) -> list[str]:  # type: ignore[override]
        return [name for name, where in COMMANDS.items() if where.says is not None]

    def get_command(self, ctx: typer.Context, cmd_name: str):  # type: ignore[no-untyped-def, override]
        where = COMMANDS.get(cmd_name)
        if where is None:
            return None
        found = getattr(importlib.import_module(f"{__name__}.{where.module}"), where.name)
        if isinstance(found, typer.Typer):
            found.rich_markup_mode = None
            group = get_command(found)
            group.name = cmd_name
            return group
        alone = typer.Typer(add_completion=False, rich_markup_mode=None)
        alone.command(cmd_name)(found)
        return get_command(alone)

    def format_commands(self, ctx, formatter) -> None:  # type: ignore[no-untyped-def]
        with formatter.section("Commands"):
            formatter.write_dl([(name, where.says) for name, where in COMMANDS.items() if where.says is not None])


app = typer.Typer(
    cls=_Commands, no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False, rich_markup_mode=None
)


@app.callback()
def sign_shelf(
    server: Annotated[
        str | None,
        typer.Option(
            help="A running server: sites are named by their keys then, in place of documents. Its token: SIGN_SHELF_TOKEN."
        ),
    ] = None,
    change: Annotated[
        str | None, typer.Option("--in", help="The change, by its id, that is looked in there; live: as it is live.")
    ] = None,
) -> None:
    """Looks after the navigation menus of many client sites."""
    if server is None and change is not None:
        raise Refusal("--in names a change on a server.", remedy="Write --server URL too.")
    use(Server(server, change) if server is not None else None)


def main() -> None:
    try:
        app()
    except Refusal as refusal:
        print(" ".join(str(refusal).split()), file=sys.stderr)
        sys.exit(2)
    except BrokenPipeError:
        sys.exit(1)


__all__ = ["app", "main"]
