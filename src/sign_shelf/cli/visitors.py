"""Commands over a site document, for the visitors it may have: resolve, reach, audiences, timeline. What needs
numbers is imported by the commands that do."""

from dataclasses import asdict, replace
from datetime import UTC, datetime
from enum import StrEnum
from typing import Annotated

import typer

from sign_shelf.cli.files import read_bytes, read_site, write_json
from sign_shelf.core.basics.clock import clock_of, moment_of
from sign_shelf.core.errors import Refusal
from sign_shelf.core.model.documents import parse_json
from sign_shelf.core.model.facts import Visitor, read_visitor
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.protocol.delivery import item_json
from sign_shelf.core.resolve import Lens, Prepared, resolve


class DeviceName(StrEnum):
    phone = "phone"
    tablet = "tablet"
    desktop = "desktop"


SiteFile = Annotated[str, typer.Argument(help="The site document, or - for standard input.")]
At = Annotated[
    str | None, typer.Option(help="Wall-clock time of the site, such as 2027-04-01T04:00; now where it is absent.")
]
Language = Annotated[str | None, typer.Option(help="The site's first one where it is absent.")]
Audience = Annotated[str | None, typer.Option(help="One of the document's audiences.")]
Facts = Annotated[str | None, typer.Option(help="A JSON file with the visitor's facts.")]


def resolve_(
    site: SiteFile,
    location: Annotated[str, typer.Option()],
    device: Annotated[DeviceName, typer.Option()],
    at: At = None,
    width: Annotated[
        int | None, typer.Option(help="The viewport's width in CSS pixels, for fold-ins by width.")
    ] = None,
    language: Language = None,
    page: Annotated[str | None, typer.Option(help="The reference of the page the visitor is on.")] = None,
    audience: Audience = None,
    facts: Facts = None,
) -> None:
    """What one visitor gets in one location, and why the rest is left out."""
    document = read_site(site)
    lens = _lens(document, device.value, at=at, language=language, audience=audience, facts=facts)
    found = resolve(document, location, replace(lens, page=page, width=width))
    write_json(
        {
            "items": [item_json(item) for item in found.items],
            "hidden": [one._asdict() for one in found.hidden],
            "source": asdict(found.source),
        }
    )


resolve_.__name__ = "resolve"


def reach_(
    site: SiteFile,
    device: Annotated[DeviceName, typer.Option()] = DeviceName.desktop,
    audience: Audience = None,
    at: At = None,
    language: Language = None,
) -> None:
    """How many choices every page is from the home page, and by which entries."""
    from sign_shelf.core.visitors.reach import reach

    document = read_site(site)
    lens = _lens(document, device.value, at=at, language=language, audience=audience)
    write_json(
        [
            {"ref": one.ref, "steps": one.steps, "via": [asdict(choice) for choice in one.via]}
            for one in reach(Prepared(document), lens)
        ]
    )


reach_.__name__ = "reach"


class TableFormat(StrEnum):
    json = "json"
    csv = "csv"


def audiences(
    site: SiteFile,
    location: Annotated[str, typer.Option()],
    at: At = None,
    page: Annotated[str | None, typer.Option(help="The reference of the page the visitor is on.")] = None,
    format: Annotated[TableFormat, typer.Option()] = TableFormat.json,
) -> None:
    """Who sees which entry of a location: every audience, on every device, in every language; and what looks wrong."""
    from sign_shelf.core.formats.matrix_csv import matrix_csv
    from sign_shelf.core.visitors.ever_seen import ever_seen
    from sign_shelf.core.visitors.who_sees import who_sees

    document = read_site(site)
    prepared = Prepared(document)
    reading = _at(document, at)
    found = who_sees(prepared, location, at=reading, languages=document.site.languages, page=page)
    if format is TableFormat.csv:
        typer.echo(matrix_csv(found), nl=False)
        return
    here = {row.item for row in found.rows}
    never = [one for one in ever_seen(prepared, reading) if one.item in here and one.answer != "seen"]
    write_json(
        {
            "location": location,
            "at": reading,
            "columns": [asdict(column) for column in found.columns],
            "rows": [asdict(row) for row in found.rows],
            "warnings": [asdict(one) for one in found.warnings],
            "never_seen": [{"item": one.item, "answer": one.answer, "because": one.because} for one in never],
        }
    )


def timeline_(
    site: SiteFile,
    from_: Annotated[str, typer.Option("--from", help="Wall-clock time of the site, such as 2027-01-01T00:00.")],
    to: Annotated[str, typer.Option()],
    location: Annotated[list[str] | None, typer.Option(help="Only this one; may be given several times.")] = None,
    audience: Audience = None,
    facts: Facts = None,
    language: Language = None,
) -> None:
    """In which stretches of time each place stays the same, what begins and ends each, and trouble ahead."""
    from sign_shelf.core.visitors.timeline import LONGEST_TIMELINE, timeline

    document = read_site(site)
    prepared = Prepared(document)
    first, last = (
        moment_of(prepared.clock.instant(_at(document, text, where=where)))
        for text, where in ((from_, "--from"), (to, "--to"))
    )
    if not first < last <= first + LONGEST_TIMELINE:
        raise Refusal(
            f"From {from_} to {to} is no stretch of at most {LONGEST_TIMELINE.days} days.", where="--to"
        )  # fmt: skip
    lens = _lens(document, "desktop", at=from_, language=language, audience=audience, facts=facts)
    write_json(asdict(timeline(prepared, first, last, lens, locations=location)))


timeline_.__name__ = "timeline"


def _lens(
    document: SiteDocument,
    device: Device,
    *,
    at: str | None,
    language: str | None,
    audience: str | None,
    facts: str | None = None,
) -> Lens:
    return Lens(
        device=device,
        language=language or document.site.languages[0],
        at=_at(document, at),
        facts=_visitor(document, audience, facts),
    )


def _at(document: SiteDocument, at: str | None, *, where: str = "--at") -> str:
    clock = clock_of(document.site.zone)
    return clock.checked(at, where=where) if at else clock.now(datetime.now(UTC))


def _visitor(document: SiteDocument, audience: str | None, facts: str | None) -> Visitor:
    """The audience's facts, with those of the file over them."""
    if audience is not None and audience not in document.audiences:
        known = ", ".join(document.audiences) or "none"
        raise Refusal(
            f'The site has no audience "{audience}".', where="--audience", remedy=f"Its audiences are {known}."
        )
    given = parse_json(read_bytes(facts), what=facts) if facts else {}
    if not isinstance(given, dict):
        raise Refusal("The facts are no JSON object.", where=facts)
    known_facts = document.all_facts()
    # A visitor's own id and the like need no declaration to stand in an address.
    loose = {name: value for name, value in given.items() if name not in known_facts and isinstance(value, str | float)}
    own = read_visitor(given, known_facts, what=facts or "facts")
    return {**(document.audiences[audience] if audience else {}), **loose, **own}
