"""What checks will find on the sites at a moment to come: with what is approved and scheduled, and on that day."""

import asyncio
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from time import monotonic
from typing import Literal
from uuid import UUID

from cachetools import LRUCache

from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.checks import Checked, SiteView
from sign_shelf.core.checks.finding import RANK
from sign_shelf.desk.findings import CausedBy, in_step, told_of
from sign_shelf.desk.fonts import every_font
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import When, boards, facts_of, visible_sites
from sign_shelf.desk.ready import ready
from sign_shelf.store import findings, links, looks
from sign_shelf.store.database import Database
from sign_shelf.store.tables import FindingRow, SiteRow

_ahead: LRUCache[UUID, Checked] = LRUCache(60)
"""What was found on sites for a moment to come last: for another day of the same state only what reads the clock is run again."""

WITHIN_S = 15.0

Becomes = Literal["comes", "stays", "goes"]


@dataclass(frozen=True)
class Ahead:
    """What one cause will bring about, against what it brings about now."""

    line: CausedBy
    becomes: Becomes


async def ahead(
    database: Database, person: Person, *, when: When, site: str | None, now: datetime
) -> tuple[list[Ahead], int]:
    """Of all sites that the person may look at, or of one; what is waived is left out. What comes first, then the gravest. Where the
    moment of a site is over, it has what it has now. And at how many sites it was not looked for, as there was no more time: what they
    have now is told of them."""
    fonts = await every_font(database)
    async with database.transaction() as session:
        rows = {row.id: row for row in await visible_sites(session, person) if site is None or row.key == site}
        now_there = await findings.findings(session, rows)
    then = [row for row in now_there if when(rows[row.site_id]) is None]
    known = {(row.site_id, row.fingerprint): row for row in now_there}
    ends, unlooked = monotonic() + WITHIN_S, 0
    for row in rows.values():
        moment = when(row)
        if moment is None:
            continue
        if monotonic() > ends:
            unlooked += 1
            then += [one for one in now_there if one.site_id == row.id]
            continue
        async with database.transaction() as session:
            (board,) = await boards(session, None, [row], "live", when)
            view = SiteView(
                await ready(session, board), clock_of(facts_of(row).zone).now(moment)[:10],
                await links.links_of(session, row.id), fonts, await looks.live_pages(session, row.id, row.live_state),
                *await in_step(session, board),
            )  # fmt: skip
        then += await asyncio.to_thread(_found, row, view, known, moment)
    async with database.transaction() as session:
        told_then = await told_of(session, rows, then, now)
        told_now = await told_of(session, rows, now_there, now)
    lines = {(one.code, one.cause): Ahead(one, "comes") for one in told_then if not one.waived}
    for one in told_now:
        named = one.code, one.cause
        if one.waived:
            lines.pop(named, None)
        elif named in lines:
            lines[named] = Ahead(lines[named].line, "stays")
        else:
            lines[named] = Ahead(one, "goes")
    return sorted(lines.values(), key=_rank), unlooked


_ORDER: dict[Becomes, int] = {"comes": 0, "goes": 1, "stays": 2}


def _rank(one: Ahead) -> tuple[int, int, int, str]:
    return _ORDER[one.becomes], RANK[one.line.severity], -len(one.line.uses), one.line.cause


def _found(
    site: SiteRow, view: SiteView, known: Mapping[tuple[UUID, str], FindingRow], moment: datetime
) -> list[FindingRow]:
    before = _ahead.get(site.id)
    checked = before.again(view) if before is not None else Checked.of(view)
    _ahead[site.id] = checked
    rows = []
    for one in checked.findings():
        code, cause = findings.line_of(one, site.key)
        old = known.get((site.id, one.fingerprint()))
        rows.append(FindingRow(
            site_id=site.id, fingerprint=one.fingerprint(), code=code, severity=one.severity, cause=cause, menu=one.menu,
            item=one.item, found=one.to_json(), since=old.since if old else moment, back=old.back if old else 0,
        ))  # fmt: skip
    return rows
