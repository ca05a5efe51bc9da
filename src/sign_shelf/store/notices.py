"""Where people get notices, which there are, and what became of each."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import delete, update
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import ChannelRow, FindingRow, NoticeRow, PersonRow, SiteRow

OPEN = ("waiting", "going")


async def without_mail(session: Session) -> Sequence[PersonRow]:
    """People who have an account, and nobody yet knows what they want to be told."""
    known = select(ChannelRow.person_id).where(ChannelRow.kind == "mail")
    return list(await session.exec(select(PersonRow).where(col(PersonRow.id).not_in(known))))


async def add(session: Session, values: Iterable[Mapping[str, Any]]) -> None:
    """Channels; one that is there already stays as it is."""
    for one in values:
        await session.exec(insert(ChannelRow).values(dict(one)).on_conflict_do_nothing())


async def channels(session: Session, person_id: UUID | None = None) -> Sequence[ChannelRow]:
    """The person's, or everybody's who may sign in: the mail first, then in the order in which they were made."""
    query = select(ChannelRow).join(PersonRow, col(PersonRow.id) == ChannelRow.person_id)
    query = query.where(
        ChannelRow.person_id == person_id if person_id is not None else col(PersonRow.disabled_at).is_(None)
    )
    return list(await session.exec(query.order_by(ChannelRow.kind, col(ChannelRow.made_at), col(ChannelRow.id))))


async def channel(session: Session, channel_id: UUID, *, lock: bool = False) -> ChannelRow | None:
    return await session.get(ChannelRow, channel_id, with_for_update=lock or None)


async def forget(session: Session, channel_id: UUID) -> None:
    """The channel, and all that was told over it."""
    await session.exec(delete(NoticeRow).where(col(NoticeRow.channel_id) == channel_id))
    await session.exec(delete(ChannelRow).where(col(ChannelRow.id) == channel_id))


async def daily_due(session: Session, now: datetime) -> Sequence[ChannelRow]:
    """Channels of people who may sign in, over which the daily notice is due; nobody else has them meanwhile."""
    query = select(ChannelRow).join(PersonRow, col(PersonRow.id) == ChannelRow.person_id)
    query = query.where(col(ChannelRow.daily_due_at) <= now, col(PersonRow.disabled_at).is_(None))
    return list(await session.exec(query.order_by(col(ChannelRow.id)).with_for_update(of=ChannelRow, skip_locked=True)))


async def put(session: Session, channel_id: UUID, key: str, said: Mapping[str, Any], now: datetime) -> None:
    """To be told over the channel as soon as may be, unless that was told of already."""
    row = NoticeRow(channel_id=channel_id, key=key, said=dict(said), made_at=now, due_at=now)
    await session.exec(insert(NoticeRow).values(row.model_dump()).on_conflict_do_nothing())


async def due(session: Session, now: datetime) -> Sequence[UUID]:
    """Notices that are to be sent now, or of which it is not known whether they were; those that wait longest first."""
    query = select(NoticeRow.id).where(col(NoticeRow.state).in_(OPEN), NoticeRow.due_at <= now)
    return list(await session.exec(query.order_by(col(NoticeRow.due_at)).limit(500)))


async def notice(session: Session, notice_id: UUID, *, lock: bool = False) -> NoticeRow | None:
    return await session.get(NoticeRow, notice_id, with_for_update=lock or None)


async def became(session: Session, notice_id: UUID, values: Mapping[str, Any]) -> None:
    await session.exec(update(NoticeRow).where(col(NoticeRow.id) == notice_id).values(dict(values)))


async def turn_off(session: Session, channel_id: UUID, at: datetime) -> None:
    await session.exec(update(ChannelRow).where(col(ChannelRow.id) == channel_id).values(off_at=at, daily_due_at=None))


async def told(session: Session, channel_id: UUID, limit: int) -> Sequence[NoticeRow]:
    """What was told over the channel, the newest first."""
    query = select(NoticeRow).where(NoticeRow.channel_id == channel_id).order_by(col(NoticeRow.made_at).desc())
    return list(await session.exec(query.limit(limit)))


async def untold(session: Session, again_after: datetime) -> Sequence[FindingRow]:
    """What stops releases and nobody was told of, or was before it went and came back, which must be longer ago than
    `again_after`: who flaps is told of once a while."""
    again = (col(FindingRow.told_at) < FindingRow.since) & (col(FindingRow.told_at) < again_after)
    query = select(FindingRow).join(SiteRow, col(SiteRow.id) == FindingRow.site_id)
    query = query.where(
        col(SiteRow.archived_at).is_(None), FindingRow.severity == "stop", col(FindingRow.gone_at).is_(None),
        col(FindingRow.told_at).is_(None) | again,
    )  # fmt: skip
    return list(await session.exec(query.order_by(FindingRow.code, FindingRow.cause, col(FindingRow.since))))


async def now_told(session: Session, rows: Iterable[FindingRow], now: datetime) -> None:
    for row in rows:
        row.told_at = now
        session.add(row)
    await session.flush()


async def forget_old(session: Session, before: datetime) -> None:
    """Notices that are over, longer ago than anybody asks for."""
    await session.exec(delete(NoticeRow).where(col(NoticeRow.state).not_in(OPEN), col(NoticeRow.made_at) < before))
