"""What the checks find in a site's menus."""

from datetime import UTC, date, datetime
from enum import StrEnum
from typing import Annotated

import typer

from sign_shelf.cli.files import read_site, write_json
from sign_shelf.cli.links import AllowPrivate, Pause, Timeout, asked
from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.errors import InvalidDocument, Problem


class CheckFormat(StrEnum):
    json = "json"
    text = "text"
    sarif = "sarif"


class LinksAsked(StrEnum):
    no = "no"
    live = "live"


def check(
    site: Annotated[str, typer.Argument(help="The site document.")],
    today: Annotated[
        str | None, typer.Option(help="The day on the site's calendar, such as 2027-02-12; today where it is absent.")
    ] = None,
    links: Annotated[LinksAsked, typer.Option(help="live: every address is asked as well.")] = LinksAsked.no,
    allow_private: AllowPrivate = None,
    timeout: Timeout = 15.0,
    pause: Pause = 120.0,
    only: Annotated[str | None, typer.Option(help="Codes of findings, separated by commas.")] = None,
    format: Annotated[CheckFormat, typer.Option()] = CheckFormat.json,
) -> None:
    """What the checks find in the site's menus. Exit 1 where they find anything."""
    from sign_shelf.core.checks import Checked, SiteView
    from sign_shelf.core.checks.sarif import sarif
    from sign_shelf.core.resolve import Prepared
    from sign_shelf.outside.fonts import shipped_fonts
    from sign_shelf.settings import STATIC

    document = read_site(site)
    day = _day(today) if today else clock_of(document.site.zone).now(datetime.now(UTC))[:10]
    answers = (
        asked(document, private=allow_private or (), timeout_s=timeout, pause_s=pause)
        if links is LinksAsked.live
        else None
    )
    wanted = {code.strip() for code in only.split(",")} if only else None
    fonts = shipped_fonts(STATIC / "fonts") if (STATIC / "fonts" / "fonts.json").is_file() else None
    checked = Checked.of(SiteView(Prepared(document), day, answers or {}, fonts))
    found = [finding for finding in checked.findings() if wanted is None or finding.code in wanted]
    if format is CheckFormat.json:
        write_json([finding.to_json() for finding in found])
    elif format is CheckFormat.sarif:
        write_json(sarif(found, file=site))
    else:
        for one in found:
            typer.echo(f"{one.severity} {one.menu or one.location or '-'} {one.number or '-'}: {one.says} ({one.code})")
    raise typer.Exit(1 if found else 0)


def _day(given: str) -> str:
    try:
        return date.fromisoformat(given).isoformat()
    except ValueError:
        raise InvalidDocument(
            [Problem(where="--today", says=f'"{given}" is no day; write one like 2027-02-12')]
        ) from None
