"""Links for clients: made and withdrawn by the agency, looked at and answered by whoever has one."""

from typing import Annotated
from urllib.parse import parse_qs
from uuid import UUID

from fastapi import APIRouter, Path, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import BaseModel, Field, SecretStr

from sign_shelf.api.guards import Config, Db, Now, Someone
from sign_shelf.api.models import Answer
from sign_shelf.core.drawing.client_page import Typed, client_page, nowhere_page
from sign_shelf.core.errors import Refusal
from sign_shelf.desk import sign_off

router = APIRouter(tags=["sign-offs"])
LinkToken = Annotated[str, Path(max_length=200)]


class SignOffBody(BaseModel):
    """`sites` are keys; none: all that the change touches."""

    for_whom: str = Field(max_length=400)
    sites: list[str] = Field(default=[], max_length=1_000)
    days: int = 14


class SignOffMadeOut(Answer):
    id: UUID
    address: str
    """Told this once."""


@router.post("/api/changes/{change}/sign-offs", status_code=201)
async def make(
    change: UUID, body: SignOffBody, request: Request, database: Db, person: Someone, settings: Config, now: Now
) -> SignOffMadeOut:
    """A link for somebody at the client: who has it sees what the change does, and says yes or no."""
    made, token = await sign_off.make(
        database, person, change, for_whom=body.for_whom, sites=body.sites, days=body.days, now=now
    )
    base = settings.address or str(request.base_url)
    return SignOffMadeOut(id=made, address=f"{base}sign-off/{token.get_secret_value()}")


@router.delete("/api/changes/{change}/sign-offs/{link}", status_code=204)
async def withdraw(change: UUID, link: UUID, database: Db, person: Someone, now: Now) -> None:
    """It leads nowhere from now on."""
    await sign_off.withdraw(database, person, change, link, now)


@router.get("/sign-off/{token}", include_in_schema=False)
async def look(token: LinkToken, database: Db, now: Now) -> Response:
    return await _page(database, token, now)


@router.post("/sign-off/{token}", include_in_schema=False)
async def say(token: LinkToken, request: Request, database: Db, now: Now) -> Response:
    try:
        given = parse_qs((await request.body()).decode("utf-8", "replace"), max_num_fields=20)
    except ValueError:
        # More than a form of ours has.
        given = {}
    name, says, verdict, content = (given.get(field, [""])[0] for field in ("name", "says", "verdict", "content"))
    try:
        taken = await sign_off.say(
            database, SecretStr(token), name=name, verdict=verdict, says=says, content=content, now=now
        )
    except Refusal as refused:
        return await _page(database, token, now, Typed(name=name, says=says, problem=refused.says))
    if not taken:
        return _nowhere()
    # Read anew, it is not sent a second time.
    return RedirectResponse(f"/sign-off/{token}#said", status_code=303)


async def _page(database: Db, token: str, now: Now, typed: Typed = Typed()) -> Response:
    found = await sign_off.look(database, SecretStr(token), now)
    if found is None:
        return _nowhere()
    status = 422 if typed.problem else 200
    return HTMLResponse(client_page(found, typed), status_code=status, headers={"cache-control": "no-store"})


def _nowhere() -> Response:
    return HTMLResponse(nowhere_page(), status_code=404, headers={"cache-control": "no-store"})
