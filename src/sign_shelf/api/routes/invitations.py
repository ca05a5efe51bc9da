"""Invitations: sent and withdrawn by who looks after people, taken up by whoever has the link."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Path, Request
from pydantic import BaseModel, Field, SecretStr

from sign_shelf.api.guards import Config, Db, Now, Someone
from sign_shelf.api.models import Answer
from sign_shelf.desk import invitations as desk

router = APIRouter(prefix="/api", tags=["people"])
LinkToken = Annotated[str, Path(max_length=200)]


class InvitationBody(BaseModel):
    email: str = Field(max_length=320)
    name: str = Field(max_length=200)
    role: str = Field(max_length=40)


class InvitationOut(Answer):
    id: UUID
    email: str
    name: str
    role: str
    made_at: datetime
    until: datetime


class InvitationMadeOut(Answer):
    id: UUID
    address: str
    """Told this once."""
    until: datetime


class InvitedOut(Answer):
    """What somebody is invited to."""

    email: str
    name: str
    role: str
    by: str
    until: datetime


class TakenUpBody(BaseModel):
    name: str = Field(max_length=200)
    password: str = Field(max_length=1_000)


class TakenUpOut(Answer):
    email: str


@router.post("/people/invitations", status_code=201)
async def invite(
    body: InvitationBody, request: Request, database: Db, person: Someone, settings: Config, now: Now
) -> InvitationMadeOut:
    """A link by which somebody makes their own account, for a week."""
    row, token = await desk.invite(database, person, email=body.email, name=body.name, role=body.role, now=now)
    base = settings.address or str(request.base_url)
    return InvitationMadeOut(id=row.id, address=f"{base}invitation/{token.get_secret_value()}", until=row.until)


@router.get("/people/invitations")
async def going_on(database: Db, person: Someone, now: Now) -> list[InvitationOut]:
    """Those that nobody has taken up yet."""
    return [
        InvitationOut(id=row.id, email=row.email, name=row.name, role=row.role, made_at=row.made_at, until=row.until)
        for row in await desk.going_on(database, person, now)
    ]


@router.delete("/people/invitations/{invitation}", status_code=204)
async def withdraw(invitation: UUID, database: Db, person: Someone, now: Now) -> None:
    await desk.withdraw(database, person, invitation, now)


@router.get("/invitations/{token}")
async def look(token: LinkToken, database: Db, now: Now) -> InvitedOut:
    """Open to whoever has the link."""
    row, by = await desk.looked_at(database, SecretStr(token), now)
    return InvitedOut(email=row.email, name=row.name, role=row.role, by=by, until=row.until)


@router.post("/invitations/{token}", status_code=201)
async def take_up(token: LinkToken, body: TakenUpBody, database: Db, now: Now) -> TakenUpOut:
    """The account, with a password of one's own."""
    made = await desk.take_up(database, SecretStr(token), name=body.name, password=body.password, now=now)
    return TakenUpOut(email=made.email)
