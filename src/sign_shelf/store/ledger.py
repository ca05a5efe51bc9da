"""The ledger: written in the transaction of the act that it tells of."""

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlmodel import col, select

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
    session: Session, *, site_id: UUID | None, before: int | None, limit: int
) -> list[tuple[LedgerRow, str | None, str | None]]:
    """Newest first: the line, the person's name, the site's key."""
    query = (
        select(LedgerRow, PersonRow.name, SiteRow.key)
        .outerjoin(PersonRow, col(PersonRow.id) == LedgerRow.person_id)
        .outerjoin(SiteRow, col(SiteRow.id) == LedgerRow.site_id)
        .order_by(col(LedgerRow.id).desc())
        .limit(limit)
    )
    if site_id is not None:
        query = query.where(LedgerRow.site_id == site_id)
    if before is not None:
        query = query.where(col(LedgerRow.id) < before)
    return [(row, name, key) for row, name, key in await session.exec(query)]
