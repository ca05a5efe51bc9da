"""Seasons, and which of them are to come again."""

from collections.abc import Iterable, Sequence
from datetime import datetime
from uuid import UUID

from sqlalchemy import text, update
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import ScheduleRow, SeasonRow


async def season(session: Session, season_id: UUID, *, lock: bool = False) -> SeasonRow | None:
    return await session.get(SeasonRow, season_id, with_for_update={"key_share": True} if lock else None)


async def seasons(session: Session, ids: Iterable[UUID]) -> dict[UUID, SeasonRow]:
    rows = await session.exec(select(SeasonRow).where(col(SeasonRow.id).in_(list(ids))))
    return {row.id: row for row in rows}


async def comes_again(session: Session, kept: ScheduleRow) -> bool:
    row = await season(session, kept.season_id) if kept.season_id is not None else None
    return row is not None and row.over_at is None


async def over(session: Session, season_id: UUID, now: datetime) -> None:
    """It comes no more."""
    await session.exec(update(SeasonRow).where(col(SeasonRow.id) == season_id).values(over_at=now))


async def going_on(session: Session) -> Sequence[tuple[SeasonRow, ScheduleRow]]:
    """Those that come again, each with its newest occurrence."""
    query = (
        select(SeasonRow, ScheduleRow)
        .join(ScheduleRow, col(ScheduleRow.season_id) == SeasonRow.id)
        .where(col(SeasonRow.over_at).is_(None))
        .order_by(col(SeasonRow.id), col(ScheduleRow.years))
    )
    newest = {row.id: (row, kept) for row, kept in await session.exec(query)}
    return list(newest.values())


async def newest(session: Session, season_id: UUID) -> ScheduleRow | None:
    query = select(ScheduleRow).where(ScheduleRow.season_id == season_id)
    return (await session.exec(query.order_by(col(ScheduleRow.years).desc()).limit(1))).first()


async def to_come_again(session: Session, now: datetime) -> list[UUID]:
    """Of which the newest occurrence is over: it came back, was withdrawn, or its time has passed without it."""
    rows = await (await session.connection()).execute(_OVER, {"now": now})
    return [row.id for row in rows]


_OVER = text(
    """
    SELECT season.id FROM season JOIN LATERAL
      (SELECT change_id FROM schedule WHERE season_id = season.id ORDER BY years DESC LIMIT 1) newest ON true
    JOIN change ON change.id = newest.change_id
    WHERE season.over_at IS NULL AND (change.state IN ('ended', 'withdrawn') OR
      (change.state NOT IN ('scheduled', 'going live', 'live') AND
       (SELECT max(ends_at) FROM change_part WHERE change_id = change.id) < :now))
    """
)
