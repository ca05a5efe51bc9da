"""Releases worked out ahead of their moment, and what names all that they come of."""

from collections.abc import Collection, Sequence
from datetime import datetime
from typing import NamedTuple
from uuid import UUID

from sqlalchemy import ColumnElement, Text, and_, cast, delete, exists, func
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, or_, select, tuple_

from sign_shelf.store.database import Session
from sign_shelf.store.releases import UNFINISHED
from sign_shelf.store.tables import ChangePartRow, ChangeRow, ReleasePlanRow, ReleaseRow, SiteKeyRow, SiteRow

_NAMED = func.concat_ws(
    " ", SiteRow.live_state, ChangePartRow.base, ChangePartRow.head, SiteRow.inventory, SiteRow.connection,
    SiteRow.endpoint, func.md5(func.concat_ws(" ", SiteRow.name, SiteRow.base, cast(SiteRow.particulars, Text))),
    ChangePartRow.goes_at,
)  # fmt: skip
_OF_THE_PART = (
    col(ReleasePlanRow.change_id) == ChangePartRow.change_id,
    col(ReleasePlanRow.site_id) == ChangePartRow.site_id,
)


class ToPlan(NamedTuple):
    change_id: UUID
    site_id: UUID
    named: str


async def to_plan(session: Session, until: datetime) -> Sequence[ToPlan]:
    """What is to go live by then and has no plan that holds, what goes first before the rest."""
    planned = exists().where(*_OF_THE_PART, col(ReleasePlanRow.named) == _NAMED)
    query = (
        select(ChangePartRow.change_id, ChangePartRow.site_id, _NAMED)
        .join(SiteRow, col(SiteRow.id) == ChangePartRow.site_id)
        .join(ChangeRow, col(ChangeRow.id) == ChangePartRow.change_id)
        .where(_waits(until), ~planned)
        .order_by(col(ChangePartRow.goes_at), col(ChangePartRow.change_id))
    )
    return [ToPlan(*row) for row in await session.exec(query)]


def _waits(until: datetime) -> ColumnElement[bool]:
    return and_(
        col(ChangePartRow.goes_at) <= until, col(ChangePartRow.live_at).is_(None), col(ChangePartRow.says) == "",
        col(ChangeRow.state) == "scheduled", col(SiteRow.archived_at).is_(None),
    )  # fmt: skip


async def keep(session: Session, plan: ReleasePlanRow) -> None:
    values = plan.model_dump()
    put = insert(ReleasePlanRow).values(values)
    await (await session.connection()).execute(
        put.on_conflict_do_update(index_elements=["change_id", "site_id"], set_=values)
    )


async def forget(session: Session, pairs: Collection[tuple[UUID, UUID]]) -> None:
    await session.exec(delete(ReleasePlanRow).where(_among(pairs)))


async def forget_idle(session: Session) -> None:
    """Those of parts that wait for no moment any more."""
    waits = exists().where(*_OF_THE_PART, col(ChangePartRow.goes_at).is_not(None), col(ChangePartRow.live_at).is_(None))
    await session.exec(delete(ReleasePlanRow).where(~waits))


def _among(pairs: Collection[tuple[UUID, UUID]]) -> ColumnElement[bool]:
    return tuple_(col(ReleasePlanRow.change_id), col(ReleasePlanRow.site_id)).in_(list(pairs))


AtHand = tuple[ReleasePlanRow, ChangePartRow, ChangeRow, SiteRow]


async def at_hand(session: Session, pairs: Collection[tuple[UUID, UUID]], now: datetime) -> Sequence[AtHand]:
    """Those of the changes and sites whose plan holds and that are due, locked: of sites that can be written to and at which no
    release is under way. What another one has locked at this moment is left out."""
    # What is asked after both were locked is as whoever had them locked before left it.
    sites = select(SiteRow.id).where(col(SiteRow.id).in_([site for _, site in pairs]))
    locked = list(await session.exec(sites.with_for_update(key_share=True, skip_locked=True)))
    named = tuple_(col(ChangePartRow.change_id), col(ChangePartRow.site_id)).in_(list(pairs))
    parts = select(ChangePartRow.change_id, ChangePartRow.site_id).where(named, col(ChangePartRow.site_id).in_(locked))
    mine = list(await session.exec(parts.with_for_update(key_share=True, skip_locked=True)))
    if not mine:
        return []
    busy = exists().where(col(ReleaseRow.site_id) == SiteRow.id, col(ReleaseRow.state).in_(UNFINISHED))
    signs = exists().where(
        col(SiteKeyRow.site_id) == SiteRow.id, col(SiteKeyRow.kind) == "signing", col(SiteKeyRow.until).is_(None)
    )
    written = or_(
        col(SiteRow.connection) == "fetch",
        and_(col(SiteRow.connection) == "endpoint", col(SiteRow.endpoint) != "", signs),
    )
    query = (
        select(ReleasePlanRow, ChangePartRow, ChangeRow, SiteRow)
        .join(ChangePartRow, and_(*_OF_THE_PART))
        .join(ChangeRow, col(ChangeRow.id) == ReleasePlanRow.change_id)
        .join(SiteRow, col(SiteRow.id) == ReleasePlanRow.site_id)
        .where(
            _among(mine), col(ReleasePlanRow.target).is_not(None), col(ReleasePlanRow.named) == _NAMED, _waits(now), ~busy,
            written,
        )
    )  # fmt: skip
    return list(await session.exec(query))
