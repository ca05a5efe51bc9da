"""Releases and their steps."""

from collections.abc import Iterable, Sequence
from datetime import datetime
from uuid import UUID

from sqlalchemy import delete
from sqlalchemy.dialects.postgresql import distinct_on
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import ChangeRow, ReleaseRow, ReleaseStepRow

BY_JOBS = ("waiting", "sending", "putting back")
BY_HAND = "by hand"
"""A person carries it out, on a site that can only be looked at."""
UNFINISHED = (*BY_JOBS, BY_HAND)
OVER = ("live", "failed")
"""States that a release keeps for good; the database sees to it (migration 0033)."""


async def release_by_id(session: Session, release_id: UUID, *, lock: bool = False) -> ReleaseRow | None:
    query = select(ReleaseRow).where(ReleaseRow.id == release_id)
    locked = query.with_for_update(key_share=True).execution_options(populate_existing=True)
    return (await session.exec(locked if lock else query)).first()


async def steps_of(session: Session, release_id: UUID) -> list[ReleaseStepRow]:
    query = select(ReleaseStepRow).where(ReleaseStepRow.release_id == release_id).order_by(col(ReleaseStepRow.position))
    return list(await session.exec(query))


async def newest(session: Session, site_ids: Iterable[UUID], *, state: str | None = None) -> dict[UUID, ReleaseRow]:
    """The newest release of each site; of those in this state, where one is given."""
    query = (
        select(ReleaseRow)
        .ext(distinct_on(col(ReleaseRow.site_id)))
        .where(col(ReleaseRow.site_id).in_(list(site_ids)))
        .order_by(col(ReleaseRow.site_id), col(ReleaseRow.asked_at).desc())
    )
    rows = await session.exec(query.where(ReleaseRow.state == state) if state is not None else query)
    return {row.site_id: row for row in rows}


async def last_reversal(session: Session, change_id: UUID) -> str | None:
    """The kind of the change's newest release that took it off a site again."""
    query = (
        select(ReleaseRow.kind)
        .where(ReleaseRow.change_id == change_id, ReleaseRow.kind != "put live")
        .order_by(col(ReleaseRow.asked_at).desc())
        .limit(1)
    )
    return (await session.exec(query)).first()


async def to_carry_out(session: Session) -> dict[UUID, str]:
    """By site, the title of the change that waits for a person there."""
    query = select(ReleaseRow.site_id, ChangeRow.title).join(ChangeRow, col(ChangeRow.id) == ReleaseRow.change_id)
    return dict((await session.exec(query.where(ReleaseRow.state == BY_HAND))).all())


async def lived_between(session: Session, site_id: UUID, begins: datetime, ends: datetime) -> Sequence[ReleaseRow]:
    """What went live at the site in that time, in that order."""
    query = select(ReleaseRow).where(
        ReleaseRow.site_id == site_id, ReleaseRow.state == "live", col(ReleaseRow.finished_at) >= begins,
        col(ReleaseRow.finished_at) < ends,
    )  # fmt: skip
    return list(await session.exec(query.order_by(col(ReleaseRow.finished_at))))


async def sent_to(session: Session, site_id: UUID, location: str, device: str) -> set[str]:
    """The hashes of all that was ever sent to a place: what the site then shows is our own, whether or not it answered."""
    query = (
        select(ReleaseStepRow.hash)
        .join(ReleaseRow, col(ReleaseRow.id) == ReleaseStepRow.release_id)
        .where(
            ReleaseRow.site_id == site_id,
            ReleaseStepRow.location == location,
            ReleaseStepRow.device == device,
            col(ReleaseStepRow.sends) > 0,
        )
    )
    return set(await session.exec(query))


async def under_way(session: Session, change_id: UUID, site_id: UUID) -> bool:
    query = select(ReleaseRow.id).where(
        ReleaseRow.change_id == change_id,
        ReleaseRow.site_id == site_id,
        col(ReleaseRow.state).in_(UNFINISHED),
    )
    return (await session.exec(query.limit(1))).first() is not None


async def any_under_way(session: Session, change_id: UUID) -> bool:
    """At whichever site."""
    query = select(ReleaseRow.id).where(ReleaseRow.change_id == change_id, col(ReleaseRow.state).in_(UNFINISHED))
    return (await session.exec(query.limit(1))).first() is not None


async def last_waiting(session: Session, site_id: UUID) -> ReleaseRow | None:
    """The one of the site's releases that ends last of those that are not over yet."""
    query = select(ReleaseRow).where(ReleaseRow.site_id == site_id, col(ReleaseRow.state).in_(UNFINISHED))
    return (await session.exec(query.order_by(col(ReleaseRow.asked_at).desc()).limit(1))).first()


async def forget_steps(session: Session, release_id: UUID) -> None:
    """Those of a release that waited, before anything was sent."""
    await session.exec(delete(ReleaseStepRow).where(col(ReleaseStepRow.release_id) == release_id))


async def unfinished(session: Session, before: datetime) -> list[ReleaseRow]:
    """Releases asked for before the moment that a job is to end."""
    query = select(ReleaseRow).where(col(ReleaseRow.state).in_(BY_JOBS), ReleaseRow.asked_at < before)
    return list(await session.exec(query))
