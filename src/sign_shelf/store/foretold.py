"""What sites will show from the moments ahead on."""

from collections.abc import Collection, Mapping, Sequence
from datetime import datetime
from typing import NamedTuple
from uuid import UUID

from sqlalchemy import delete
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import ForetoldStateRow


class Foretold(NamedTuple):
    at: datetime
    state: str
    says: str


async def keep(session: Session, site_id: UUID, moments: Sequence[Foretold]) -> None:
    """In their order, in place of what was known before."""
    await session.exec(delete(ForetoldStateRow).where(col(ForetoldStateRow.site_id) == site_id))
    for position, one in enumerate(moments):
        session.add(ForetoldStateRow(site_id=site_id, position=position, at=one.at, state=one.state, says=one.says))


async def forget_but(session: Session, site_ids: Collection[UUID]) -> None:
    """Of all sites but these, which have moments ahead of them."""
    await session.exec(delete(ForetoldStateRow).where(col(ForetoldStateRow.site_id).not_in(site_ids)))


async def at_moments(session: Session, moments: Mapping[UUID, datetime]) -> dict[UUID, str]:
    """The state that each of the sites will show at its moment, where that is known to be another than what is live."""
    found: dict[UUID, str] = {}
    for one in await _of(session, moments):
        if one.at <= moments[one.site_id]:
            found[one.site_id] = one.state
    return found


async def at_site(session: Session, site_id: UUID) -> list[Foretold]:
    return [Foretold(one.at, one.state, one.says) for one in await _of(session, [site_id])]


async def _of(session: Session, site_ids: Collection[UUID]) -> Sequence[ForetoldStateRow]:
    query = select(ForetoldStateRow).where(col(ForetoldStateRow.site_id).in_(list(site_ids)))
    return list(await session.exec(query.order_by(col(ForetoldStateRow.site_id), col(ForetoldStateRow.position))))
