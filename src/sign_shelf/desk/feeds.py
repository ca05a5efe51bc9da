"""What is ahead as a calendar, and what went live as a feed, for programs that know one address and no password."""

import secrets
from collections.abc import Iterator, Sequence
from datetime import datetime
from itertools import groupby

from pydantic import SecretStr

from sign_shelf.core.basics.clock import moment_of
from sign_shelf.core.formats.live_atom import FeedEntry, live_atom
from sign_shelf.core.formats.moments_ics import CalendarMoment, moments_ics
from sign_shelf.desk.permission import Person, may, require
from sign_shelf.desk.schedule import Ahead, all_ahead
from sign_shelf.desk.sign_in import person_of, token_hash
from sign_shelf.store import feeds, ledger, people, sites
from sign_shelf.store.database import Database

MOST = 200
"""Lines of what went live."""


async def kept(database: Database, person: Person) -> datetime | None:
    """Since when the person has an address."""
    async with database.transaction() as session:
        row = await feeds.feed_of(session, person.id)
        return row.made_at if row is not None else None


async def make(database: Database, person: Person, now: datetime) -> SecretStr:
    """A new address; the one before ends. Told this once."""
    require(person, "own account", "session/feeds")
    token = SecretStr(secrets.token_urlsafe(32))
    async with database.transaction() as session:
        await feeds.put(session, person.id, token_hash(token), now)
    return token


async def end(database: Database, person: Person) -> None:
    require(person, "own account", "session/feeds")
    async with database.transaction() as session:
        await feeds.forget(session, person.id)


async def whose(database: Database, token: SecretStr) -> Person | None:
    """None for one that was never made, was withdrawn, or is of somebody who is kept out."""
    async with database.transaction() as session:
        row = await feeds.person_of_token(session, token_hash(token))
        return person_of(row, await people.roles_of(session, row.id)) if row is not None else None


async def calendar(database: Database, person: Person, *, shelf: str, now: datetime) -> bytes:
    """Of all sites that the person may look at."""
    found = sorted(await all_ahead(database, person), key=lambda one: (one.event.change, one.site.key, one.event.at))
    return moments_ics(_moments(found, shelf), now=now, called="Sign Shelf: what goes live")


def _moments(found: Sequence[Ahead], shelf: str) -> Iterator[CalendarMoment]:
    for (change, site), some in groupby(found, key=lambda one: (one.event.change, one.site.key)):
        events = list(some)
        first = events[0]
        end = next((one for one in events if one.event.comes == "ends"), None)
        goes = next((one for one in events if one.event.comes == "goes"), None)
        begins = moment_of(goes.event.at) if goes is not None else first.since or moment_of(first.event.at)
        troubles = [one.says for one in events if one.says]
        yield CalendarMoment(
            name=f"{change}.{site}", title=f"{first.title}: {first.site.name}", begins=begins,
            ends=moment_of(end.event.at) if end is not None else None,
            says=(*troubles, *(first.does[:10] if goes is not None else ())), sure=not troubles,
            link=f"{shelf}changes?change={change}" if shelf else "",
        )  # fmt: skip


async def went_live(database: Database, person: Person, *, shelf: str, itself: str, now: datetime) -> bytes:
    """Of all sites that the person may look at, the newest first."""
    async with database.transaction() as session:
        hidden = {row.id for row in await sites.all_sites(session) if not may(person, "look", row.key)}
        lines = await ledger.lines(session, site_id=None, before=None, limit=MOST, hidden=hidden, actions=["live"])
    entries = [
        FeedEntry(
            name=f"ledger:{row.id}", title=f"{site}: {row.says}" if site else row.says, at=row.at, by=by or "the shelf itself",
            link=f"{shelf}changes?change={row.detail['change']}" if shelf and "change" in row.detail else "",
        )
        for row, by, site in lines
    ]  # fmt: skip
    return live_atom(entries, called="Sign Shelf: what went live", itself=itself, now=now)
