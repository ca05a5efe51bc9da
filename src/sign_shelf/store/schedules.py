"""Schedules of changes, their moments at each site, and freezes."""

from collections.abc import Iterable, Sequence
from datetime import datetime
from uuid import UUID

from sqlalchemy import delete, or_, text
from sqlmodel import col, select

from sign_shelf.store.changes import LOOKED_IN
from sign_shelf.store.database import Session
from sign_shelf.store.releases import UNFINISHED
from sign_shelf.store.tables import ChangePartRow, ChangeRow, FreezeRow, ReleaseRow, ScheduleRow

WAITING = tuple(state for state in LOOKED_IN if state not in {"going live", "missed"})
"""Where a change stands whose moment is still to come."""


async def schedule_of(session: Session, change_id: UUID) -> ScheduleRow | None:
    return await session.get(ScheduleRow, change_id)


async def schedules(session: Session, change_ids: Iterable[UUID]) -> dict[UUID, ScheduleRow]:
    rows = await session.exec(select(ScheduleRow).where(col(ScheduleRow.change_id).in_(list(change_ids))))
    return {row.change_id: row for row in rows}


async def forget(session: Session, change_id: UUID) -> None:
    await session.exec(delete(ScheduleRow).where(col(ScheduleRow.change_id) == change_id))


async def due(session: Session, now: datetime) -> Sequence[tuple[UUID, UUID]]:
    """Changes and sites whose moment has come, to go live or to come back: what ends first, then in the order of the moments."""
    goes = (
        select(ChangePartRow.change_id, ChangePartRow.site_id)
        .join(ChangeRow, col(ChangeRow.id) == ChangePartRow.change_id)
        .where(
            col(ChangePartRow.goes_at) <= now, col(ChangePartRow.live_at).is_(None), col(ChangeRow.state).in_(WAITING),
            ChangePartRow.says == "",
        )
        .order_by(col(ChangePartRow.goes_at), col(ChangePartRow.change_id))
    )  # fmt: skip
    ends = (
        select(ChangePartRow.change_id, ChangePartRow.site_id)
        .where(
            col(ChangePartRow.ends_at) <= now, col(ChangePartRow.live_at).is_not(None), col(ChangePartRow.over_at).is_(None),
            ChangePartRow.says == "", ~_under_way,
        )
        .order_by(col(ChangePartRow.ends_at), col(ChangePartRow.change_id))
    )  # fmt: skip
    return [*await session.exec(ends), *await session.exec(goes.where(~_under_way))]


_under_way = (
    select(ReleaseRow.id)
    .where(
        ReleaseRow.change_id == ChangePartRow.change_id,
        ReleaseRow.site_id == ChangePartRow.site_id,
        col(ReleaseRow.state).in_(UNFINISHED),
    )
    .exists()
)


async def waiting_at(session: Session, site_id: UUID) -> Sequence[tuple[ChangeRow, ChangePartRow]]:
    """Changes that have their moment at the site, and are to go live there."""
    query = (
        select(ChangeRow, ChangePartRow)
        .join(ChangePartRow, col(ChangePartRow.change_id) == ChangeRow.id)
        .where(
            ChangePartRow.site_id == site_id, col(ChangePartRow.goes_at).is_not(None), ChangePartRow.says == "",
            col(ChangePartRow.live_at).is_(None), col(ChangeRow.state).in_(WAITING),
        )
    )  # fmt: skip
    return list(await session.exec(query.order_by(col(ChangePartRow.goes_at), col(ChangeRow.id))))


async def lent_at(session: Session, site_id: UUID) -> Sequence[tuple[ChangeRow, ChangePartRow]]:
    """Changes that are live at the site until their end."""
    query = (
        select(ChangeRow, ChangePartRow)
        .join(ChangePartRow, col(ChangePartRow.change_id) == ChangeRow.id)
        .where(
            ChangePartRow.site_id == site_id, col(ChangePartRow.ends_at).is_not(None), ChangePartRow.says == "",
            col(ChangePartRow.live_at).is_not(None), col(ChangePartRow.over_at).is_(None),
        )
    )  # fmt: skip
    return list(await session.exec(query.order_by(col(ChangePartRow.ends_at), col(ChangeRow.id))))


async def sites_with_moments(session: Session) -> dict[UUID, str]:
    """Each with what names all that its moments come of: while that is the same, so is what is foretold."""
    rows = await (await session.connection()).execute(_MOMENTS)
    return {row.id: row.named for row in rows}


_MOMENTS = text(
    """
    SELECT site.id, concat_ws(' ', site.live_state, md5(site.particulars::text), md5(string_agg(concat_ws(' ',
        part.change_id, part.base, part.head, part.goes_at, part.ends_at, part.live_at, part.says, change.state,
        (SELECT max(verdict.id) FROM verdict WHERE verdict.change_id = part.change_id)), ',' ORDER BY part.change_id)),
      (SELECT md5(string_agg(f::text, ',' ORDER BY f.id)) FROM freeze_period f
       WHERE f.site_id IS NULL OR f.site_id = site.id)) AS named
    FROM change_part part JOIN site ON site.id = part.site_id JOIN change ON change.id = part.change_id
    WHERE (part.goes_at IS NOT NULL OR part.ends_at IS NOT NULL) AND part.over_at IS NULL
    GROUP BY site.id
    """
)


async def went_live(session: Session, change_id: UUID, site_id: UUID) -> ReleaseRow | None:
    """The release by which the change went live at the site."""
    query = select(ReleaseRow).where(
        ReleaseRow.change_id == change_id, ReleaseRow.site_id == site_id, ReleaseRow.state == "live",
        ReleaseRow.kind == "put live",
    )  # fmt: skip
    return (await session.exec(query.order_by(col(ReleaseRow.finished_at).desc()).limit(1))).first()


async def freezes(session: Session, site_id: UUID | None = None) -> Sequence[FreezeRow]:
    """Those of the agency, and those of the site; of all sites where none is named."""
    query = select(FreezeRow).order_by(col(FreezeRow.begins), col(FreezeRow.id))
    if site_id is not None:
        query = query.where(or_(col(FreezeRow.site_id).is_(None), col(FreezeRow.site_id) == site_id))
    return list(await session.exec(query))
