from typing import Any
from uuid import UUID

from fastapi import APIRouter

from sign_shelf.api.guards import Db, Net, Now, Once, Someone
from sign_shelf.api.models import TakeInBody, TakeInOut
from sign_shelf.core.model.documents import read
from sign_shelf.desk import connect, take_in
from sign_shelf.desk.permission import Person

router = APIRouter(prefix="/api/take-ins", tags=["take-ins"])


async def _out(database: Db, person: Person, take_in_id: UUID) -> TakeInOut:
    row = await take_in.look(database, person, take_in_id)
    return TakeInOut(
        id=row.id,
        url=row.url,
        state=row.state,
        doing=row.progress["doing"],
        done=row.progress["done"],
        of=row.progress["of"],
        says=row.says,
        site=None,
        proposal=row.proposal,
    )


@router.post("", status_code=202)
async def begin(body: TakeInBody, database: Db, person: Someone, key: Once, now: Now) -> TakeInOut:
    """Begins to read the site at an address. The answer comes at once; a job does the reading."""
    return await _out(
        database, person, await take_in.begin(database, person, body.url.strip(), request_key=key, now=now)
    )


@router.get("/{take_in_id}")
async def look(take_in_id: UUID, database: Db, person: Someone) -> TakeInOut:
    return await _out(database, person, take_in_id)


@router.post("/{take_in_id}/confirm")
async def confirm(
    take_in_id: UUID, body: dict[str, Any], database: Db, fetcher: Net, person: Someone, now: Now
) -> TakeInOut:
    """Keeps the site as read, with what the person settled. Asking twice keeps it once."""
    settled = read(take_in.Confirmation, body, what="confirmation")
    if settled.secret:
        settled = settled.model_copy(update={"secret": connect.checked_secret(settled.secret)})
    site = await take_in.confirm(database, fetcher, person, take_in_id, settled, now)
    return (await _out(database, person, take_in_id)).model_copy(update={"site": site})
