"""Who sees what on a site, why, and when it changes."""

import asyncio
from datetime import timedelta
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response

from sign_shelf.api.guards import Db, In, Now, Someone
from sign_shelf.api.lens import Seen, what_comes, whole_site
from sign_shelf.api.models import Answer
from sign_shelf.core.basics.clock import Reading, clock_of, moment_of, read_reading
from sign_shelf.core.formats.matrix_csv import matrix_csv
from sign_shelf.core.model.menu import Device
from sign_shelf.core.visitors.ever_seen import EverSeen, ever_seen
from sign_shelf.core.visitors.moments import Cause
from sign_shelf.core.visitors.timeline import LONGEST_TIMELINE, Trouble, timeline
from sign_shelf.core.visitors.trace import TraceStep, trace
from sign_shelf.core.visitors.who_sees import Column, Matrix, SeenCell, who_sees
from sign_shelf.desk.portfolio import facts_of, site_row

router = APIRouter(prefix="/api/sites/{site}", tags=["visitors"])

MOST_TOLD = 30
"""Causes of one change that are told of: a window over a whole menu has as many as the menu has entries."""


class SeenRow(Answer):
    """`cells` are numbers into the matrix's list of cells, one for each column."""

    menu: str
    item: str
    label: str
    level: int
    parent: bool
    cells: list[int]
    ever: Literal["seen", "never", "not decided"]
    never: str
    """Why nobody ever sees it."""


class WarnedOut(Answer):
    kind: Literal["opens-empty", "seen-by-nobody", "together", "only-one", "never"]
    item: str
    says: str


class MatrixOut(Answer):
    at: str
    columns: tuple[Column, ...]
    rows: list[SeenRow]
    cells: list[SeenCell]
    warnings: list[WarnedOut]


class StretchOut(Answer):
    """`more` causes than the first that are told."""

    begins: str
    ends: str | None
    entries: int
    causes: tuple[Cause, ...]
    more: int


class PlaceLineOut(Answer):
    location: str
    title: str
    device: Device
    stretches: list[StretchOut]


class NotchOut(Answer):
    at: str
    says: list[str]


class TimelineOut(Answer):
    """Readings of the site's clock."""

    now: str
    begins: str
    ends: str
    places: list[PlaceLineOut]
    notches: list[NotchOut]
    troubles: tuple[Trouble, ...]


def _matrix_out(matrix: Matrix, ever: list[EverSeen], at: str) -> MatrixOut:
    numbers: dict[SeenCell, int] = {}
    rows = []
    answers = {one.item: one for one in ever}
    for row in matrix.rows:
        told = answers.get(row.item)
        rows.append(
            SeenRow(
                menu=row.menu,
                item=row.item,
                label=row.label,
                level=row.level,
                parent=row.parent,
                cells=[numbers.setdefault(cell, len(numbers)) for cell in row.cells],
                ever=told.answer if told else "seen",
                never=told.because if told else "",
            )
        )
    never = {row.item for row in rows if row.ever == "never"}
    gone = [
        WarnedOut(kind="never", item=row.item, says=f"{row.label} is never seen by anybody: {row.never}")
        for row in rows
        if row.ever == "never"
    ]
    others = [
        WarnedOut(kind=one.kind, item=one.item, says=one.says)
        for one in matrix.warnings
        if one.kind != "seen-by-nobody" or one.item not in never
    ]
    return MatrixOut(
        at=at,
        columns=matrix.columns,
        rows=rows,
        cells=list(numbers),
        warnings=[*gone, *others],
    )


@router.get("/places/{location}/audiences")
async def matrix(site: str, location: str, database: Db, person: Someone, view: In, now: Now, seen: Seen) -> MatrixOut:
    """Every entry of the place for every audience on every device, in the lens's language, at its moment, on its page."""
    prepared = await whole_site(database, person, site, view, seen.when(now))
    document = prepared.site
    lens = seen.of(document, now)

    def worked_out() -> MatrixOut:
        found = who_sees(prepared, location, at=lens.at, languages=[lens.language], page=lens.page)
        return _matrix_out(found, ever_seen(prepared, lens.at), lens.at)

    return await asyncio.to_thread(worked_out)


@router.get("/places/{location}/audiences.csv", response_class=Response)
async def matrix_file(
    site: str, location: str, database: Db, person: Someone, view: In, now: Now, seen: Seen
) -> Response:
    """The same as a table, in every language of the site."""
    prepared = await whole_site(database, person, site, view, seen.when(now))
    document = prepared.site
    lens = seen.of(document, now)
    found = await asyncio.to_thread(
        lambda: who_sees(
            prepared, location, at=lens.at, languages=document.site.languages, page=lens.page
        )
    )  # fmt: skip
    named = f'attachment; filename="{site}-{location}-audiences.csv"'
    return Response(matrix_csv(found), media_type="text/csv; charset=utf-8", headers={"content-disposition": named})


@router.get("/places/{location}/trace")
async def traced(
    site: str, location: str, item: str, database: Db, person: Someone, view: In, now: Now, seen: Seen
) -> list[TraceStep]:
    """Why the lens's visitor gets the entry, or not: every step of resolving it."""
    prepared = await whole_site(database, person, site, view, seen.when(now))
    document = prepared.site
    return list(trace(prepared, location, seen.of(document, now), item))


@router.get("/timeline")
async def times(
    site: str,
    database: Db,
    person: Someone,
    view: In,
    now: Now,
    seen: Seen,
    days: Annotated[int, Query(ge=1, le=LONGEST_TIMELINE.days)] = 366,
    since: Annotated[
        str | None, Query(max_length=22, description="A reading of the site's clock; now if absent.")
    ] = None,
) -> TimelineOut:
    """When what the lens's visitor gets changes by itself, place by place."""
    prepared = await whole_site(database, person, site, view)
    then = await what_comes(database, person, site, view)
    document = prepared.site
    clock = prepared.clock
    first = moment_of(clock.instant(clock.checked(since, where="since") if since else clock.now(now)))
    last = first + timedelta(days=days)
    lens = seen.of(document, now)
    found = await asyncio.to_thread(timeline, prepared, first, last, lens, then=then)
    titles = {one.key: one.title for one in document.template.locations}
    return TimelineOut(
        now=clock.now(now),
        begins=clock.now(first),
        ends=clock.now(last),
        places=[
            PlaceLineOut(
                location=line.location,
                title=titles[line.location],
                device=line.device,
                stretches=[
                    StretchOut(
                        begins=one.begins,
                        ends=one.ends,
                        entries=one.entries,
                        causes=one.causes[:MOST_TOLD],
                        more=max(len(one.causes) - MOST_TOLD, 0),
                    )
                    for one in line.stretches
                ],
            )
            for line in found.places
        ],
        notches=[
            NotchOut(at=at, says=list(dict.fromkeys(cause.says for cause in causes))[:MOST_TOLD])
            for at, causes in found.notches
        ],
        troubles=found.troubles,
    )


@router.get("/clock")
async def reading(site: str, at: Annotated[str, Query(max_length=22)], database: Db, person: Someone) -> Reading:
    """Whether the site's clock shows the reading, and what may be meant where it does not, or twice."""
    async with database.transaction() as session:
        clock = clock_of(facts_of(await site_row(session, person, site)).zone)
    return clock.reading(read_reading(at, where="at"))
