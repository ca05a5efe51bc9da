"""What sites show: when each was read as it is live, and where it differs from what was verified."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import delete, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import DriftRow, LiveReadingRow

USUALLY_EVERY = 60
"""Minutes."""


async def expect_readings(session: Session, first: datetime) -> None:
    """Sites that were never read as they are live are due then."""
    await (await session.connection()).execute(_EXPECT, {"first": first, "every": USUALLY_EVERY})


_EXPECT = text(
    "INSERT INTO live_reading (site_id, every_minutes, due_at, state, says, places)"
    " SELECT site.id, :every, :first, '', '', 0 FROM site"
    " WHERE NOT EXISTS (SELECT 1 FROM live_reading one WHERE one.site_id = site.id) ON CONFLICT DO NOTHING"
)


async def due(session: Session, now: datetime) -> Sequence[UUID]:
    """Sites that are to be read now, those that wait longest first. Where a release is under way, it reads itself."""
    rows = await (await session.connection()).execute(_DUE, {"now": now})
    return [row.id for row in rows]


_DUE = text(
    "SELECT site.id FROM site JOIN live_reading reading ON reading.site_id = site.id"
    " WHERE site.archived_at IS NULL AND reading.due_at <= :now AND NOT EXISTS (SELECT 1 FROM release"
    " WHERE release.site_id = site.id AND release.state IN ('waiting', 'sending', 'putting back')) ORDER BY reading.due_at"
)


async def reading_of(session: Session, site_id: UUID) -> LiveReadingRow | None:
    return await session.get(LiveReadingRow, site_id)


async def readings(session: Session, site_ids: Iterable[UUID]) -> dict[UUID, LiveReadingRow]:
    rows = await session.exec(select(LiveReadingRow).where(col(LiveReadingRow.site_id).in_(list(site_ids))))
    return {row.site_id: row for row in rows}


async def read_soon(session: Session, site_id: UUID, at: datetime) -> None:
    """Not later than then."""
    row = {"site_id": site_id, "every_minutes": USUALLY_EVERY, "due_at": at, "state": "", "says": "", "places": 0}
    done = insert(LiveReadingRow).values(row)
    await session.exec(done.on_conflict_do_update(index_elements=["site_id"], set_={"due_at": at}))


async def in_rhythm(session: Session, site_id: UUID, minutes: int, now: datetime) -> None:
    await read_soon(session, site_id, now)
    those = update(LiveReadingRow).where(col(LiveReadingRow.site_id) == site_id)
    await session.exec(those.values(every_minutes=minutes))


async def was_read(
    session: Session,
    site_id: UUID,
    state: str,
    found: Mapping[tuple[str, str, str], DriftRow],
    places: int,
    now: datetime,
) -> None:
    """These are the places that differ now. One that differed before in the same way is as old as it was."""
    before = {(row.location, row.device, row.audience): row for row in await drifts(session, [site_id])}
    for place, row in before.items():
        if place not in found:
            await session.delete(row)
    for place, row in found.items():
        known = before.get(place)
        if known is None:
            session.add(row)
            continue
        if known.edits != row.edits:
            known.edits, known.since = row.edits, now
        known.base, known.there, known.sure, known.etag = row.base, row.there, row.sure, row.etag
        known.edited_by, known.edited_at = row.edited_by, row.edited_at
        session.add(known)
    await _noted(session, site_id, now, {"state": state, "says": "", "read_at": now, "places": places})


async def was_away(session: Session, site_id: UUID, says: str, now: datetime) -> None:
    """It could not be read: what was known stays."""
    await _noted(session, site_id, now, {"says": says[:1_000]})


async def put_off(session: Session, site_id: UUID, now: datetime) -> None:
    """It is read again in its rhythm."""
    await _noted(session, site_id, now, {})


async def _noted(session: Session, site_id: UUID, now: datetime, values: Mapping[str, object]) -> None:
    row = await session.get(LiveReadingRow, site_id)
    every = row.every_minutes if row is not None else USUALLY_EVERY
    those = update(LiveReadingRow).where(col(LiveReadingRow.site_id) == site_id)
    await session.exec(those.values(due_at=now + timedelta(minutes=every), **values))


async def drifts(session: Session, site_ids: Iterable[UUID]) -> Sequence[DriftRow]:
    rows = select(DriftRow).where(col(DriftRow.site_id).in_(list(site_ids)))
    return list(
        await session.exec(rows.order_by(col(DriftRow.site_id), DriftRow.location, DriftRow.device, DriftRow.audience))
    )


async def drift_of(session: Session, site_id: UUID, location: str, device: str, audience: str = "") -> DriftRow | None:
    return await session.get(DriftRow, (site_id, location, device, audience))


async def forget(session: Session, site_id: UUID) -> None:
    """Something else is live: what was known is of no use."""
    await session.exec(delete(DriftRow).where(col(DriftRow.site_id) == site_id))
