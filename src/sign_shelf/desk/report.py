"""A client's month: gathered from releases, findings, placeholders and what is scheduled."""

import asyncio
import re
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

from sign_shelf.core.basics.clock import clock_of, said_day, said_moment
from sign_shelf.core.changes.foretold import brought
from sign_shelf.core.changes.state import Contents
from sign_shelf.core.drawing.report import Changed, Comes, Found, Month, client_report, month_report
from sign_shelf.core.errors import NotFound, Refusal
from sign_shelf.core.model.menu import Link, MenuDocument, PendingTarget, walk
from sign_shelf.core.outline.called import title
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import board, facts_of, visible_sites
from sign_shelf.desk.schedule import Ahead, all_ahead
from sign_shelf.store import changes, findings, people, releases, reviews, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ReleaseRow, SiteRow

_MONTH = re.compile(r"(\d{4})-(0[1-9]|1[0-2])")


async def report(database: Database, person: Person, site_key: str, month: str, now: datetime) -> str:
    """The HTML of it. Raises Refusal for a month that is none, or is not begun yet."""
    told = await _month(database, person, site_key, month, await all_ahead(database, person), now)
    return await asyncio.to_thread(month_report, told)


async def report_of_client(database: Database, person: Person, client: str, month: str, now: datetime) -> str:
    """The same of all sites of a client at which the person may look. Raises NotFound where there is none."""
    async with database.transaction() as session:
        sites = [row for row in await visible_sites(session, person) if facts_of(row).client == client]
    if not sites:
        raise NotFound(
            f'No site is one of "{client}".', where="client", remedy="Say in the settings of its sites whose they are."
        )
    ahead = await all_ahead(database, person)
    by_name = sorted(sites, key=lambda row: row.name.casefold())
    months = [await _month(database, person, row.key, month, ahead, now) for row in by_name]
    return await asyncio.to_thread(client_report, client, months)


async def _month(
    database: Database, person: Person, site_key: str, month: str, ahead: Sequence[Ahead], now: datetime
) -> Month:
    found = _MONTH.fullmatch(month)
    async with database.transaction() as session:
        live = await board(session, person, site_key, "live")
        site, facts = live.site, facts_of(live.site)
        zone = ZoneInfo(facts.zone)
        begins = datetime(int(found[1]), int(found[2]), 1, tzinfo=zone) if found else None
        if found is None or begins is None or begins > now:
            raise Refusal(f'"{month}" is no month that has begun.', where="month", remedy="Write one like 2026-11.")
        ends = datetime(begins.year + begins.month // 12, begins.month % 12 + 1, 1, tzinfo=zone)
        language, clock = facts.languages[0], clock_of(facts.zone)

        def said(moment: datetime) -> str:
            return said_moment(clock.now(moment))

        changed = [
            await _changed(session, site, row, language, said)
            for row in await releases.lived_between(session, site.id, begins, ends)
        ]
        gone = await findings.findings(session, [site.id], gone_since=begins)
        there = await findings.findings(session, [site.id])
    comes = [
        Comes(said_moment(one.reading), f"{one.title}: {_OUTCOME.get(one.event.comes, '')}{f'; {one.says}' if one.says else ''}",
              tuple(one.does[:20]))
        for one in ahead if one.site.id == site.id
    ]  # fmt: skip
    return Month(
        site=site.name, base=site.base, language=language, called=f"{begins:%B %Y}", written=said(now),
        changed=changed,
        mended=[
            Found(row.found["says"], f"since {said(row.since)}, gone {said(row.gone_at)}")
            for row in gone if row.gone_at is not None and row.gone_at < ends.astimezone(UTC)
        ],
        there=[Found(row.found["says"], f"since {said(row.since)}") for row in there if row.severity != "note"],
        waiting=[one for menu in live.menus.values() for one in _waiting(menu.document, language)],
        comes=comes,
    )  # fmt: skip


_OUTCOME = {"goes": "goes live", "ends": "comes back"}


async def _changed(session: Session, site: SiteRow, row: ReleaseRow, language: str, said: object) -> Changed:
    assert callable(said)
    change = await changes.change_by_id(session, row.change_id)
    assert change is not None
    sides = [await states.contents(session, name) for name in (row.before, row.target)]
    does = await asyncio.to_thread(brought, *sides, language=language)
    who = await people.people_by_id(session, {one for one in (row.asked_by,) if one is not None})
    by = next((one.name for one in who.values()), "the shelf itself, at its moment")
    agreed = tuple(dict.fromkeys(await reviews.agreed(session, row.change_id)))
    return Changed(
        title=change.title, why=change.why, at=said(row.finished_at), by=by, agreed=agreed, does=does,
        menus=tuple(_sides(*sides)),
    )  # fmt: skip


def _sides(before: Contents, after: Contents) -> Iterator[tuple[str, MenuDocument | None, MenuDocument | None]]:
    for key in sorted({*before.menus, *after.menus}):
        was, now = before.menus.get(key), after.menus.get(key)
        if was != now:
            named = now or was
            assert named is not None
            yield named.name, was, now


def _waiting(menu: MenuDocument, language: str) -> Iterator[Found]:
    for _, item in walk(menu.items):
        if isinstance(item, Link) and isinstance(item.target, PendingTarget):
            owed = item.target.pending
            until = f"by {said_day(owed.due)}" if owed.due else ""
            yield Found(
                f"{title(item, language)}, in {menu.name}", ", ".join(one for one in (owed.owner or "", until) if one)
            )
