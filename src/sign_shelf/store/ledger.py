"""The ledger: written in the transaction of the act that it tells of."""

from collections.abc import Collection
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import false
from sqlmodel import col, or_, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import LedgerRow, PersonRow, SiteRow


def write(
    session: Session,
    action: str,
    says: str,
    *,
    at: datetime,
    person_id: UUID | None = None,
    site_id: UUID | None = None,
    **detail: Any,
) -> None:
    session.add(LedgerRow(at=at, person_id=person_id, site_id=site_id, action=action, says=says, detail=detail))


async def lines(
    session: Session,
    *,
    site_id: UUID | None,
    before: int | None,
    limit: int,
    hidden: Collection[UUID] = (),
    siteless: bool = True,
    personal: Collection[str] = (),
    own: UUID | None = None,
    who: str | None = None,
    menu: str | None = None,
    actions: Collection[str] = (),
    since: datetime | None = None,
    until: datetime | None = None,
) -> list[tuple[LedgerRow, str | None, str | None]]:
    """Newest first: the line, the person's name, the site's key; without those of the `hidden` sites, without those of no site unless
    `siteless`, and of the `personal` actions only what the person `own` did. Those by a person of that name, about that menu, of one of
    these actions, from `since` up to just before `until`."""
    query = (
        select(LedgerRow, PersonRow.name, SiteRow.key)
        .outerjoin(PersonRow, col(PersonRow.id) == LedgerRow.person_id)
        .outerjoin(SiteRow, col(SiteRow.id) == LedgerRow.site_id)
        .order_by(col(LedgerRow.id).desc())
        .limit(limit)
    )
    if site_id is not None:
        query = query.where(LedgerRow.site_id == site_id)
    if hidden:
        query = query.where(or_(col(LedgerRow.site_id).is_(None), col(LedgerRow.site_id).not_in(hidden)))
    mine = col(LedgerRow.person_id) == own if own is not None else false()
    if not siteless:
        query = query.where(or_(col(LedgerRow.site_id).is_not(None), mine))
    if personal:
        query = query.where(or_(col(LedgerRow.action).not_in(list(personal)), mine))
    if who is not None:
        query = query.where(col(PersonRow.name) == who)
    if menu is not None:
        query = query.where(col(LedgerRow.detail)["menu"].astext == menu)
    if actions:
        query = query.where(col(LedgerRow.action).in_(list(actions)))
    if since is not None:
        query = query.where(col(LedgerRow.at) >= since)
    if until is not None:
        query = query.where(col(LedgerRow.at) < until)
    if before is not None:
        query = query.where(col(LedgerRow.id) < before)
    return [(row, name, key) for row, name, key in await session.exec(query)]
