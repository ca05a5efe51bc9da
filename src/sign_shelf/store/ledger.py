"""The ledger: written in the transaction of the act that it tells of."""

from collections.abc import Collection
from datetime import datetime
from typing import Any
from uuid import UUID

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
    session: Session, *, site_id: UUID | None, before: int | None, limit: int, hidden: Collection[UUID] = ()
) -> list[tuple[LedgerRow, str | None, str | None]]:
    """Newest first: the line, the person's name, the site's key; without those of the `hidden` sites."""
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
    if before is not None:
        query = query.where(col(LedgerRow.id) < before)
    return [(row, name, key) for row, name, key in await session.exec(query)]
