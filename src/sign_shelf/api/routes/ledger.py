from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query

from sign_shelf.api.guards import Db, Someone
from sign_shelf.api.models import LedgerOut
from sign_shelf.desk.permission import may
from sign_shelf.desk.portfolio import site_row
from sign_shelf.store import ledger, sites

router = APIRouter(prefix="/api/ledger", tags=["ledger"])


@router.get("")
async def lines(
    database: Db,
    person: Someone,
    site: str | None = None,
    before: Annotated[int | None, Query(ge=1, le=2**62)] = None,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
    who: Annotated[str | None, Query(max_length=200, description="The name of the person who did it.")] = None,
    menu: Annotated[str | None, Query(max_length=100, description="The key of a menu.")] = None,
    action: Annotated[list[str], Query(max_length=40, description="What was done: any of these.")] = [],  # noqa: B006
    since: datetime | None = None,
    until: Annotated[datetime | None, Query(description="Up to just before this moment.")] = None,
) -> list[LedgerOut]:
    """Who did what, newest first; `before` a line's id for what came earlier."""
    async with database.transaction() as session:
        site_id = (await site_row(session, person, site)).id if site else None
        hidden = {row.id for row in await sites.all_sites(session) if not may(person, "look", row.key)}
        found = await ledger.lines(
            session, site_id=site_id, before=before, limit=limit, hidden=hidden, who=who, menu=menu, actions=action,
            since=since, until=until,
        )  # fmt: skip
    return [
        LedgerOut(
            id=row.id or 0,
            at=row.at,
            person=name,
            site=key,
            action=row.action,
            says=row.says,
            menu=row.detail.get("menu"),
        )
        for row, name, key in found
    ]
