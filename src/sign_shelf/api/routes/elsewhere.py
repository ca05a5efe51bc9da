"""Signing in by an identity provider (OpenID Connect). A cookie of ten minutes keeps, sealed, what its answer has to fit.

Why nobody came in is kept by its name alone: words of a stranger, or of the provider, are never shown.
"""

import secrets
from datetime import timedelta
from typing import Annotated, Final, Literal
from urllib.parse import urlsplit

import structlog
from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import SecretStr, ValidationError

from sign_shelf.api.guards import Config, Db, From, Now
from sign_shelf.api.models import Answer
from sign_shelf.api.routes.session import is_secure, keep_signed_in
from sign_shelf.core.errors import NoAnswer, NotAllowed, NotFound, Refusal, SourceRefused
from sign_shelf.desk.vouched_for import sign_in_vouched_for
from sign_shelf.outside.identity_provider import Asked, IdentityProvider
from sign_shelf.settings import Settings
from sign_shelf.store.seals import SINGLE_SIGN_ON

router = APIRouter(prefix="/api/session/elsewhere", tags=["session"])
_COOKIE = "sign_shelf_elsewhere"
_REFUSED = "sign_shelf_refused"
_PATH = "/api/session/elsewhere"
_WITHIN = timedelta(minutes=10)

log = structlog.get_logger()

Reason = Literal["none", "away", "doubtful", "denied", "unknown", "over"]
_SAYS: Final[dict[str, str]] = {
    "none": "There is no identity provider. Sign in with a password.",
    "away": "The identity provider does not answer. Try again in a minute.",
    "doubtful": "Sign Shelf cannot verify the identity provider's answer. Try again; if it happens again, tell an owner of the agency.",
    "denied": "The identity provider did not let you in. Ask those who run it.",
    "unknown": "Nobody who may sign in here has your address. Ask an owner of the agency for an invitation.",
    "over": "That took too long, or began in another browser. Try again.",
}
"""By its reason, why nobody came in."""


class Denied(Refusal):
    """The provider says no."""


class Over(Refusal):
    """The provider's answer is to nothing that this browser asked in the last ten minutes."""


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
async def elsewhere(request: Request, response: Response, settings: Config) -> ElsewhereOut:
    refused = None
    if _REFUSED in request.cookies:
        response.delete_cookie(_REFUSED, path=_PATH)
        refused = _SAYS.get(request.cookies[_REFUSED])
    return ElsewhereOut(name=(settings.identity_name or None) if settings.identity_issuer else None, refused=refused)


@router.get("/begin", include_in_schema=False)
async def begin(
    request: Request, settings: Config, database: Db, back: Annotated[str, Query(max_length=2_000)] = "/"
) -> RedirectResponse:
    try:
        address, kept = await _provider(request, settings).asked(_own(back))
    except Refusal as refused:
        return _refused(refused)
    answer = RedirectResponse(address, status_code=303)
    sealed = database.seals.seal(SecretStr(kept.model_dump_json()), SINGLE_SIGN_ON)
    answer.set_cookie(
        _COOKIE, sealed, max_age=int(_WITHIN.total_seconds()), httponly=True, samesite="lax", secure=is_secure(request, settings),
        path=_PATH,
    )  # fmt: skip
    return answer


@router.get("/end", include_in_schema=False)
async def end(
    request: Request, settings: Config, database: Db, asked: From, now: Now,
    code: Annotated[str, Query(max_length=4_000)] = "", state: Annotated[str, Query(max_length=200)] = "",
) -> RedirectResponse:  # fmt: skip
    try:
        kept = _kept(request, database)
        if not secrets.compare_digest(state.encode(), kept.state.encode()):
            raise Over("The identity provider's answer is to another question.")
        if not code:
            raise Denied(request.query_params.get("error_description", "")[:400])
        found = await _provider(request, settings).vouched_for(code, kept)
        signed = await sign_in_vouched_for(
            database, found, asked=asked, now=now, lasts=timedelta(days=settings.session_days)
        )
    except Refusal as refused:
        answer = _refused(refused)
    else:
        answer = RedirectResponse(kept.back, status_code=303)
        keep_signed_in(answer, signed, request, settings)
    answer.delete_cookie(_COOKIE, path=_PATH)
    return answer


def _kept(request: Request, database: Db) -> Asked:
    try:
        sealed = database.seals.open(request.cookies.get(_COOKIE, ""), SINGLE_SIGN_ON, within=_WITHIN)
        return Asked.model_validate_json(sealed.get_secret_value())
    except (Refusal, ValidationError) as exc:
        raise Over("The cookie is missing, too old or not ours.") from exc


def _own(back: str) -> str:
    """An address of ours: nobody is led elsewhere by a link to the sign-in."""
    parts = urlsplit(back)
    ours = back.startswith("/") and not back.startswith(("//", "/\\")) and not parts.scheme and not parts.netloc
    return back if ours else "/"


def _reason(refused: Refusal) -> Reason:
    match refused:
        case NotFound():
            return "none"
        case NoAnswer():
            return "away"
        case SourceRefused():
            return "doubtful"
        case Denied():
            return "denied"
        case NotAllowed():
            return "unknown"
        case _:
            return "over"


def _refused(refused: Refusal) -> RedirectResponse:
    """Back to the sign-in, which says why."""
    reason = _reason(refused)
    log.warning("single_sign_on_failed", reason=reason, says=str(refused))
    answer = RedirectResponse("/", status_code=303)
    answer.set_cookie(_REFUSED, reason, max_age=int(_WITHIN.total_seconds()), httponly=True, samesite="lax", path=_PATH)
    return answer
