"""Accounts, for who looks after them."""

from datetime import datetime
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, Now, Someone, Token
from sign_shelf.api.models import Answer
from sign_shelf.api.routes.session import SignedInOut, signed_in_out
from sign_shelf.desk import people, second_factor
from sign_shelf.store import people as accounts

router = APIRouter(prefix="/api/people", tags=["people"])


class AccountOut(Answer):
    id: UUID
    name: str
    email: str
    role: str
    at_sites: dict[str, str]
    """Roles at single sites, in place of `role`."""
    since: datetime
    disabled_at: datetime | None
    second_factor: bool


class AccountBody(BaseModel):
    email: str = Field(max_length=320)
    name: str = Field(max_length=200)
    role: str = Field(max_length=40)
    password: str = Field(max_length=1_000)


class NewPasswordBody(BaseModel):
    password: str = Field(max_length=1_000)


class RoleBody(BaseModel):
    role: str | None = Field(max_length=40)
    """None, at a site: the role that they have everywhere."""


class DisabledBody(BaseModel):
    disabled: bool


@router.get("")
async def everybody(database: Db, person: Someone) -> list[AccountOut]:
    async with database.transaction() as session:
        with_codes = await accounts.with_second_factor(session)
    return [
        AccountOut(
            id=row.id,
            name=row.name,
            email=row.email,
            role=row.role,
            at_sites=dict(at_sites),
            since=row.created_at,
            disabled_at=row.disabled_at,
            second_factor=row.id in with_codes,
        )
        for row, at_sites in await people.everybody(database, person)
    ]


@router.post("", status_code=201)
async def add(body: AccountBody, database: Db, person: Someone, now: Now) -> AccountOut:
    made = await people.add_person(
        database, email=body.email, name=body.name, password=body.password, role=body.role, now=now, by=person
    )
    return AccountOut(
        id=made.id,
        name=made.name,
        email=made.email,
        role=made.role,
        at_sites={},
        since=now,
        disabled_at=None,
        second_factor=False,
    )


@router.put("/{person_id}/password", status_code=204)
async def reset_password(person_id: UUID, body: NewPasswordBody, database: Db, person: Someone, now: Now) -> None:
    """Another password for the account; every sign-in of it ends."""
    await people.reset_password(database, person, person_id, new=body.password, now=now)


@router.put("/{person_id}/role", status_code=204)
async def give_role(person_id: UUID, body: RoleBody, database: Db, person: Someone, now: Now) -> None:
    """The person's role, wherever they have no other."""
    await people.give_role(database, person, person_id, role=body.role, site_key=None, now=now)


@router.put("/{person_id}/role/{site}", status_code=204)
async def give_role_at_site(
    person_id: UUID, site: str, body: RoleBody, database: Db, person: Someone, now: Now
) -> None:
    """The person's role at one site."""
    await people.give_role(database, person, person_id, role=body.role, site_key=site, now=now)


@router.put("/{person_id}/disabled", status_code=204)
async def disable(person_id: UUID, body: DisabledBody, database: Db, person: Someone, now: Now) -> None:
    """Whether the person is kept out; then every sign-in of theirs ends."""
    await people.disable(database, person, person_id, disabled=body.disabled, now=now)


@router.delete("/{person_id}/second-factor", status_code=204)
async def take_off_second_factor(person_id: UUID, database: Db, person: Someone, now: Now) -> None:
    """Of who has lost it."""
    await second_factor.take_off(database, person, person_id, now)


@router.get("/{person_id}/sign-ins")
async def sign_ins(person_id: UUID, database: Db, person: Someone, token: Token, now: Now) -> list[SignedInOut]:
    return signed_in_out(await people.sign_ins(database, person, person_id, now), token)


@router.delete("/{person_id}/sign-ins", status_code=204)
async def end_all(person_id: UUID, database: Db, person: Someone, now: Now) -> None:
    await people.end_sign_ins(database, person, person_id, only=None, but=None, now=now)


@router.delete("/{person_id}/sign-ins/{sign_in_id}", status_code=204)
async def end_one(person_id: UUID, sign_in_id: UUID, database: Db, person: Someone, now: Now) -> None:
    await people.end_sign_ins(database, person, person_id, only=sign_in_id, but=None, now=now)
