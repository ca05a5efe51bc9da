"""Signing in, and what people settle of their own account."""

from datetime import datetime, timedelta
from typing import cast
from uuid import UUID

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field, SecretStr

from sign_shelf.api.entrance import BROWSER_COOKIE, COOKIE
from sign_shelf.api.guards import Config, Db, From, Now, Someone, Token
from sign_shelf.api.models import Answer, PersonOut, SignInBody
from sign_shelf.desk import authenticator, people, second_factor, sign_in
from sign_shelf.desk.permission import Person, Scope, may
from sign_shelf.settings import Settings
from sign_shelf.store.tables import SessionRow

router = APIRouter(prefix="/api/session", tags=["session"])

_BROWSER_DAYS = 400
"""As long as browsers keep a cookie at most (RFC 6265bis)."""


class PasswordBody(BaseModel):
    old: str = Field(max_length=1_000)
    new: str = Field(max_length=1_000)


class TokenBody(BaseModel):
    """`scope`: what the program may, of all that one may oneself. `only_at`: the keys of the sites that it is kept to; empty for
    none."""

    name: str = Field(max_length=200)
    scope: Scope = "all"
    only_at: list[str] = Field(default=[], max_length=100)
    days: int = Field(default=90, ge=1, le=366)


class TokenOut(Answer):
    token: str
    """Told this once."""


class SignedInOut(Answer):
    """A sign-in that goes on: of a browser, or with a name, of a program."""

    id: UUID
    name: str
    browser: str
    address: str
    since: datetime
    seen_at: datetime | None
    until: datetime
    here: bool
    scope: Scope
    only_at: list[str]


def _out(person: Person) -> PersonOut:
    return PersonOut(
        id=person.id,
        name=person.name,
        email=person.email,
        role=person.role,
        may_edit=may(person, "edit"),
        may_edit_at={site: may(person, "edit", site) for site in person.at_sites},
        may_keys=may(person, "keys"),
        may_people=may(person, "people"),
    )


def signed_in_out(rows: list[SessionRow], here: SecretStr | None) -> list[SignedInOut]:
    mine = sign_in.token_hash(here) if here else ""
    return [
        SignedInOut(
            id=row.id, name=row.name, browser=row.browser, address=row.address, since=row.created_at,
            seen_at=row.seen_at, until=row.expires_at, here=row.token_hash == mine, scope=cast(Scope, row.scope),
            only_at=row.only_at,
        )
        for row in rows
    ]  # fmt: skip


def is_secure(request: Request, settings: Settings) -> bool:
    return settings.secure_cookies or request.url.scheme == "https"


def keep_signed_in(response: Response, found: sign_in.SignedIn, request: Request, settings: Settings) -> None:
    """In the browser that asks."""
    for name, value, days in (
        (COOKIE, found.token, settings.session_days),
        (BROWSER_COOKIE, found.mark, _BROWSER_DAYS),
    ):
        response.set_cookie(
            name, value.get_secret_value(), max_age=days * 86_400, httponly=True, samesite="lax",
            secure=is_secure(request, settings), path="/",
        )  # fmt: skip


@router.post("")
async def sign_in_(
    body: SignInBody, request: Request, response: Response, database: Db, now: Now, settings: Config, asked: From
) -> PersonOut:
    found = await sign_in.sign_in(
        database, email=body.email, password=body.password, asked=asked, now=now,
        lasts=timedelta(days=settings.session_days), code=body.code,
    )  # fmt: skip
    keep_signed_in(response, found, request, settings)
    return _out(found.person)


@router.get("")
async def who(person: Someone) -> PersonOut:
    return _out(person)


@router.delete("", status_code=204)
async def sign_out(request: Request, response: Response, database: Db, token: Token, settings: Config) -> None:
    if token:
        await sign_in.sign_out(database, token)
    response.delete_cookie(COOKIE, path="/", httponly=True, samesite="lax", secure=is_secure(request, settings))


@router.put("/password", status_code=204)
async def change_password(body: PasswordBody, database: Db, person: Someone, token: Token, now: Now) -> None:
    """One's own password. Every other sign-in of the account ends."""
    await people.change_password(database, person, old=body.old, new=body.new, keep=token, now=now)


@router.get("/sign-ins")
async def my_sign_ins(database: Db, person: Someone, token: Token, now: Now) -> list[SignedInOut]:
    """Where one is signed in, and the tokens of one's programs."""
    return signed_in_out(await people.sign_ins(database, person, person.id, now), token)


@router.delete("/sign-ins", status_code=204)
async def end_others(database: Db, person: Someone, token: Token, now: Now) -> None:
    """Ends all but the one that asks."""
    await people.end_sign_ins(database, person, person.id, only=None, but=token, now=now)


@router.delete("/sign-ins/{sign_in_id}", status_code=204)
async def end_one(sign_in_id: UUID, database: Db, person: Someone, now: Now) -> None:
    await people.end_sign_ins(database, person, person.id, only=sign_in_id, but=None, now=now)


@router.post("/tokens", status_code=201)
async def new_token(body: TokenBody, database: Db, person: Someone, asked: From, now: Now) -> TokenOut:
    """A token by which a program may do so much of what one may oneself."""
    token = await people.new_token(
        database, person, name=body.name, scope=body.scope, only_at=body.only_at, days=body.days, asked=asked, now=now
    )
    return TokenOut(token=token.get_secret_value())


class SecondFactorOut(Answer):
    on: bool


class PasswordOnlyBody(BaseModel):
    password: str = Field(max_length=1_000)


class SecondFactorBegunOut(Answer):
    """`secret` is for authenticators that have no camera, `uri` for those on the same machine; `picture` is an SVG."""

    secret: str
    uri: str
    picture: str


class CodeBody(BaseModel):
    code: str = Field(max_length=40)


class SpareOut(Answer):
    spare: list[str]
    """Told this once; each counts once."""


@router.get("/second-factor")
async def second_factor_(database: Db, person: Someone) -> SecondFactorOut:
    async with database.transaction() as session:
        return SecondFactorOut(on=await authenticator.is_on(session, person.id))


@router.post("/second-factor")
async def begin_second_factor(body: PasswordOnlyBody, database: Db, person: Someone, now: Now) -> SecondFactorBegunOut:
    """What an authenticator is to count with. It counts once a code of it was shown."""
    begun = await second_factor.begin(database, person, password=body.password, now=now)
    return SecondFactorBegunOut(secret=begun.secret.get_secret_value(), uri=begun.uri, picture=begun.picture)


@router.put("/second-factor")
async def turn_on_second_factor(body: CodeBody, database: Db, person: Someone, token: Token, now: Now) -> SpareOut:
    """Every other sign-in of the account ends, and every token: they were made without a second factor."""
    return SpareOut(spare=await second_factor.turn_on(database, person, code=body.code, keep=token, now=now))


@router.delete("/second-factor", status_code=204)
async def turn_off_second_factor(body: CodeBody, database: Db, person: Someone, now: Now) -> None:
    await second_factor.turn_off(database, person, code=body.code, now=now)
