"""Working out what is to be told: at once whatever stops releases, and once a day what each person wants to know."""

import hashlib
from collections.abc import Sequence
from datetime import datetime, timedelta

from sign_shelf.core.model.documents import read
from sign_shelf.core.notices import AtOnce, Stays, Wishes, next_daily
from sign_shelf.desk.digest import Digests, cause_of
from sign_shelf.desk.notices import KEPT, expect
from sign_shelf.store import notices
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ChannelRow, FindingRow, SiteRow

QUIET = timedelta(seconds=20)
"""What is found while addresses are being asked comes in one notice: it waits until nothing came for so long,"""
AT_LATEST = timedelta(minutes=2)
"""but no longer than this."""
AGAIN_AFTER = timedelta(days=1)
"""What goes and comes back is not told of at once again before."""
MOST = 200
"""Causes in one notice."""


async def tell(database: Database, now: datetime) -> int:
    """Writes down the notices that are due, for somebody to send. How many there are."""
    async with database.transaction() as session:
        await expect(session, now)
    return await _tell_at_once(database, now) + await _tell_daily(database, now)


async def _tell_at_once(database: Database, now: datetime) -> int:
    async with database.transaction() as session:
        rows = await notices.untold(session, now - AGAIN_AFTER)
        if not rows or not _has_settled([row.since for row in rows], now):
            return 0
        digests = await Digests.of(session, now)
        made = 0
        for channel in await notices.channels(session):
            wishes = read(Wishes, channel.wishes)
            before = await _told_lately(session, channel, now)
            told = [
                one for one in await digests.causes(rows, digests.visible(channel.person_id, wishes.at_once_of))
                if (one.code, one.cause) not in before
            ]  # fmt: skip
            if channel.off_at is None and told:
                said = AtOnce(causes=tuple(cause_of(one) for one in told[:MOST]))
                await notices.put(session, channel.id, f"stop {_named(rows)}", said.model_dump(mode="json"), now)
                made += 1
        await notices.now_told(session, rows, now)
    return made


def _has_settled(since: Sequence[datetime], now: datetime) -> bool:
    return now - max(since) >= QUIET or now - min(since) >= AT_LATEST


def _named(rows: Sequence[FindingRow]) -> str:
    """What it is about, so that it is told once: whoever comes upon the same findings tells nothing else."""
    names = sorted(f"{row.site_id} {row.fingerprint} {row.since.isoformat()}" for row in rows)
    return hashlib.sha256("\n".join(names).encode()).hexdigest()[:24]


async def _told_lately(session: Session, channel: ChannelRow, now: datetime) -> set[tuple[str, str]]:
    """One dead address may be found at one site after the other: it is still one."""
    return {
        (one["code"], one["cause"])
        for row in await notices.told(session, channel.id, 50)
        if row.said["type"] == "findings.stop" and row.made_at > now - AGAIN_AFTER
        for one in row.said["causes"]
    }


async def tell_of_change(session: Session, site: SiteRow, said: Stays, name: str, now: datetime) -> None:
    """Everybody who may look at the site and wants to know at once. `name` is what it is about: nobody is told twice of that."""
    await expect(session, now)
    digests = await Digests.of(session, now)
    for channel in await notices.channels(session):
        wishes = read(Wishes, channel.wishes)
        if channel.off_at is None and site.id in digests.visible(channel.person_id, wishes.at_once_of):
            await notices.put(session, channel.id, f"stays {name}", said.model_dump(mode="json"), now)


async def _tell_daily(database: Database, now: datetime) -> int:
    async with database.transaction() as session:
        due = await notices.daily_due(session, now)
        if not due:
            return 0
        digests = await Digests.of(session, now)
        made = 0
        for channel in due:
            wishes = read(Wishes, channel.wishes)
            said = await digests.daily(channel.person_id, wishes, channel.daily_at or channel.made_at)
            if channel.off_at is None and not said.is_empty:
                await notices.put(session, channel.id, f"daily {said.day}", said.model_dump(mode="json"), now)
                made += 1
            channel.daily_at, channel.daily_due_at = now, next_daily(wishes, now)
            session.add(channel)
        # Once a day is often enough.
        await notices.forget_old(session, now - KEPT)
    return made
