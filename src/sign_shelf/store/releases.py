"""Releases and their steps."""

from datetime import datetime
from uuid import UUID

from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import ReleaseRow, ReleaseStepRow


async def release_by_id(session: Session, release_id: UUID, *, lock: bool = False) -> ReleaseRow | None:
    query = select(ReleaseRow).where(ReleaseRow.id == release_id)
    return (await session.exec(query.with_for_update() if lock else query)).first()


async def steps_of(session: Session, release_id: UUID) -> list[ReleaseStepRow]:
    query = select(ReleaseStepRow).where(ReleaseStepRow.release_id == release_id).order_by(col(ReleaseStepRow.position))
    return list(await session.exec(query))


async def went_live(session: Session, menu_id: UUID) -> dict[int, datetime]:
    """When revisions of the menu went live and were verified, by the revision's id."""
    query = (
        select(ReleaseStepRow.revision_id, ReleaseRow.finished_at)
        .join(ReleaseRow, col(ReleaseRow.id) == ReleaseStepRow.release_id)
        .where(ReleaseStepRow.menu_id == menu_id, ReleaseRow.state == "live")
    )
    return {revision: at for revision, at in await session.exec(query) if at is not None and revision is not None}


async def newest_release(session: Session, site_id: UUID) -> ReleaseRow | None:
    query = select(ReleaseRow).where(ReleaseRow.site_id == site_id).order_by(col(ReleaseRow.asked_at).desc())
    return (await session.exec(query.limit(1))).first()


async def newest_live(session: Session, site_id: UUID) -> ReleaseRow | None:
    query = select(ReleaseRow).where(ReleaseRow.site_id == site_id, ReleaseRow.state == "live")
    return (await session.exec(query.order_by(col(ReleaseRow.finished_at).desc()).limit(1))).first()


async def unfinished(session: Session, before: datetime) -> list[ReleaseRow]:
    """Releases asked for before the moment that are neither live nor failed."""
    query = select(ReleaseRow).where(col(ReleaseRow.state).in_(["waiting", "sending"]), ReleaseRow.asked_at < before)
    return list(await session.exec(query))
