"""Signing in by an identity provider (OpenID Connect). What is kept meanwhile is sealed in a cookie of ten minutes."""

from contextlib import suppress
from datetime import timedelta
from typing import Annotated
from urllib.parse import urlsplit

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import SecretStr, ValidationError

from sign_shelf.api.guards import Config, Db, From, Now
from sign_shelf.api.models import Answer
from sign_shelf.api.routes.session import is_secure, keep_signed_in
from sign_shelf.core.errors import NotFound, Refusal
from sign_shelf.desk.vouched_for import sign_in_vouched_for
from sign_shelf.outside.identity_provider import Asked, IdentityProvider
from sign_shelf.settings import Settings

router = APIRouter(prefix="/api/session/elsewhere", tags=["session"])
_COOKIE = "sign_shelf_elsewhere"
_REFUSED = "sign_shelf_refused"
_PATH = "/api/session/elsewhere"
_WITHIN_S = 600


class ElsewhereOut(Answer):
    """What the identity provider is called; null where there is none. `refused`: why nobody came in by it just now, told once."""

    name: str | None
    refused: str | None


def _provider(request: Request, settings: Settings) -> IdentityProvider:
    if not settings.identity_issuer:
        raise NotFound("There is no identity provider.", remedy="Sign in with a password.")
    base = settings.address or str(request.base_url)
    return IdentityProvider(settings, f"{base}api/session/elsewhere/end")


@router.get("")
async def elsewhere(request: Request, response: Response, settings: Config, database: Db) -> ElsewhereOut:
    refused = None
    if _REFUSED in request.cookies:
        response.delete_cookie(_REFUSED, path=_PATH)
        with suppress(Refusal):
            refused = database.seals.open(request.cookies[_REFUSED]).get_secret_value()
    return ElsewhereOut(name=(settings.identity_name or None) if settings.identity_issuer else None, refused=refused)


@router.get("/begin", include_in_schema=False)
async def begin(
    request: Request, settings: Config, database: Db, back: Annotated[str, Query(max_length=2_000)] = "/"
) -> RedirectResponse:
    try:
        address, kept = await _provider(request, settings).asked(_own(back))
    except Refusal as refused:
        return _refused(refused, database)
    answer = RedirectResponse(address, status_code=303)
    sealed = database.seals.seal(SecretStr(kept.model_dump_json()))
    answer.set_cookie(
        _COOKIE, sealed, max_age=_WITHIN_S, httponly=True, samesite="lax", secure=is_secure(request, settings),
        path=_PATH,
    )  # fmt: skip
    return answer


@router.get("/end", include_in_schema=False)
async def end(
    request: Request, settings: Config, database: Db, asked: From, now: Now,
    code: Annotated[str, Query(max_length=4_000)] = "", state: Annotated[str, Query(max_length=200)] = "",
    error_description: Annotated[str, Query(max_length=400)] = "",
) -> RedirectResponse:  # fmt: skip
    try:
        kept = _kept(request, database)
        if not code or state != kept.state:
            says = error_description or "The identity provider's answer is not to what was asked here"
            raise NotFound(f"{says.rstrip('.')}.", remedy="Begin again.")
        found = await _provider(request, settings).vouched_for(code, kept)
        signed = await sign_in_vouched_for(
            database, found, asked=asked, now=now, lasts=timedelta(days=settings.session_days)
        )
    except Refusal as refused:
        answer = _refused(refused, database)
    else:
        answer = RedirectResponse(kept.back, status_code=303)
        keep_signed_in(answer, signed, request, settings)
    answer.delete_cookie(_COOKIE, path=_PATH)
    return answer


def _kept(request: Request, database: Db) -> Asked:
    try:
        sealed = database.seals.open(request.cookies.get(_COOKIE, ""))
        return Asked.model_validate_json(sealed.get_secret_value())
    except (Refusal, ValidationError) as exc:
        raise NotFound("That took too long, or began in another browser.", remedy="Begin again.") from exc


def _own(back: str) -> str:
    """An address of ours: nobody is led elsewhere by a link to the sign-in."""
    parts = urlsplit(back)
    ours = back.startswith("/") and not back.startswith(("//", "/\\")) and not parts.scheme and not parts.netloc
    return back if ours else "/"


def _refused(refused: Refusal, database: Db) -> RedirectResponse:
    """Back to the sign-in, which tells why. Sealed, as what stands in an address could be anybody's words."""
    answer = RedirectResponse("/", status_code=303)
    sealed = database.seals.seal(SecretStr(f"{refused.says} {refused.remedy or ''}".strip()))
    answer.set_cookie(_REFUSED, sealed, max_age=_WITHIN_S, httponly=True, samesite="lax", path=_PATH)
    return answer
