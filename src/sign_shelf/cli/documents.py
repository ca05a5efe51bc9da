"""Commands over documents: outline, convert, diff, icons, fit. They need no server and no database. What needs numbers
or fonts is imported by the commands that do."""

import sys
from enum import StrEnum
from typing import Annotated

import typer

from sign_shelf.cli.files import read_bytes, read_site, read_text, write_json
from sign_shelf.core.compare import apply_to_document, diff_documents, json_patch
from sign_shelf.core.formats import Readable, Writable, read_menus, write_menu
from sign_shelf.core.model.documents import parse_json, read, read_menu
from sign_shelf.core.outline import format_outline, parse_outline

outline = typer.Typer(no_args_is_help=True, help="Menus as plain text.")

Language = Annotated[str, typer.Option(help="The language of bare labels.")]
File = Annotated[str, typer.Argument(help="A file, or - for standard input.")]


class Match(StrEnum):
    id = "id"
    content = "content"


class As(StrEnum):
    edits = "edits"
    json_patch = "json-patch"


@outline.command("parse")
def parse_(file: File, language: Language = "en") -> None:
    """An outline as a menu document."""
    write_json(parse_outline(read_text(file), language=language).to_json())


@outline.command("format")
def format_(file: File, language: Language = "en") -> None:
    """A menu document as an outline; an outline is brought to its normal form."""
    data = read_bytes(file)
    if data.removeprefix(b"\xef\xbb\xbf").lstrip()[:1] == b"{" and not data.lstrip().startswith(b"{menu "):
        document = read_menu(parse_json(data, what=file))
    else:
        document = parse_outline(read_text(file), language=language)
    typer.echo(format_outline(document, language=language), nl=False)


def convert(
    file: File,
    from_: Annotated[Readable, typer.Option("--from")],
    to: Annotated[Writable, typer.Option("--to")],
    site: Annotated[str | None, typer.Option(help="The site document, for the addresses of pages.")] = None,
    language: Language = "en",
) -> None:
    """A menu in another format. What of the input was not understood is said on standard error."""
    whole = read_site(site) if site else None
    menus = read_menus(
        read_bytes(file), from_, language=language,
        base=whole.site.base if whole else "", pages=whole.pages if whole else (),
    )  # fmt: skip
    menu, *others = menus
    for note in menu.notes:
        print(f"{note.where}: {note.says}", file=sys.stderr)
    if others:
        print(f"only the first of {len(menus)} navigations is taken: {menu.title}", file=sys.stderr)
    typer.echo(write_menu(menu.document, to, language=language, site=whole).text, nl=False)


def diff_(
    before: Annotated[str, typer.Argument(metavar="A", help="A menu document, or - for standard input.")],
    after: Annotated[str, typer.Argument(metavar="B", help="Another one.")],
    match: Annotated[Match, typer.Option(help="How items are found again.")] = Match.id,
    as_: Annotated[As, typer.Option("--as", help="Our edits, or a JSON Patch (RFC 6902).")] = As.edits,
    language: Language = "en",
) -> None:
    """The edits that lead from A to B, in the order in which they are carried out. Outlines are taken as well."""
    one, two = (read_menus(read_bytes(name), None, language=language)[0].document for name in (before, after))
    edits = diff_documents(one, two, language=language, seeds={} if match is Match.content else None)
    if as_ is As.edits:
        write_json([edit.to_json() for edit in edits])
        return
    goal = apply_to_document(one, edits) if match is Match.content else two
    write_json(json_patch(one.to_json(), goal.to_json(), edits))


diff_.__name__ = "diff"


def icons(
    words: Annotated[list[str] | None, typer.Argument(help="Words that the icon's name or subject holds.")] = None,
    limit: Annotated[int, typer.Option(min=1, max=5_000)] = 20,
) -> None:
    """Icons of the shipped set, with the words that they are found by."""
    from sign_shelf.core.icons import search_icons

    found = search_icons(" ".join(words or []), limit)
    write_json([{"name": icon.name, "words": list(icon.words)} for icon in found])


def fit_(file: File) -> None:
    """Whether a bar of entries fits, from which width, and what goes first."""
    from sign_shelf.core.fit import FitRequest, fit
    from sign_shelf.outside.fonts import shipped_fonts
    from sign_shelf.settings import STATIC

    request = read(FitRequest, parse_json(read_bytes(file), what=file), what=file)
    write_json(fit(shipped_fonts(STATIC / "fonts"), request).whole())


fit_.__name__ = "fit"
