"""The command line. Exit 0 good, 1 findings, 2 unusable input with a one-line reason on standard error."""

import sys

import typer

from sign_shelf.cli import demo, documents, merging, people, rules, server, site, visitors, whole_sites
from sign_shelf.core.errors import Refusal

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False, rich_markup_mode=None)
app.add_typer(documents.outline, name="outline")
app.add_typer(rules.app, name="rules")
app.add_typer(site.app, name="site")
app.add_typer(people.person, name="person")
app.add_typer(people.key, name="key")
for command in (
    documents.convert,
    documents.diff_,
    merging.merge,
    documents.check,
    documents.icons,
    documents.fit_,
    visitors.resolve_,
    visitors.reach_,
    visitors.audiences,
    visitors.timeline_,
    server.serve,
    server.worker,
    server.migrate_,
    whole_sites.portfolio,
    whole_sites.import_,
    whole_sites.export,
    demo.stand_ins,
    demo.demo,
):
    app.command()(command)
app.command(hidden=True)(server.serve_processes)


def main() -> None:
    try:
        app()
    except Refusal as refusal:
        print(" ".join(str(refusal).split()), file=sys.stderr)
        sys.exit(2)
    except BrokenPipeError:
        sys.exit(1)


__all__ = ["app", "main"]
