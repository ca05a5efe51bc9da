from datetime import timedelta

from fastapi import APIRouter, Request, Response

from sign_shelf.api.guards import COOKIE, Config, Db, Now, Someone
from sign_shelf.api.models import PersonOut, SignInBody
from sign_shelf.desk import sign_in
from sign_shelf.desk.permission import Person, may

router = APIRouter(prefix="/api/session", tags=["session"])


def _out(person: Person) -> PersonOut:
    return PersonOut(name=person.name, email=person.email, role=person.role, may_edit=may(person, "edit"))


@router.post("")
async def sign_in_(
    body: SignInBody, request: Request, response: Response, database: Db, now: Now, settings: Config
) -> PersonOut:
    address = request.client.host if request.client else "unknown"
    token, person = await sign_in.sign_in(
        database, email=body.email, password=body.password, address=address, now=now,
        lasts=timedelta(days=settings.session_days),
    )  # fmt: skip
    response.set_cookie(
        COOKIE, token, max_age=settings.session_days * 86_400, httponly=True, samesite="lax",
        secure=request.url.scheme == "https", path="/",
    )  # fmt: skip
    return _out(person)


@router.get("")
async def who(person: Someone) -> PersonOut:
    return _out(person)


@router.delete("", status_code=204)
async def sign_out(request: Request, response: Response, database: Db) -> None:
    if token := request.cookies.get(COOKIE):
        await sign_in.sign_out(database, token)
    response.delete_cookie(COOKIE, path="/")
