"""Refusals as problem details (RFC 9457): one table from error class to status."""

import json
from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from sign_shelf.core.errors import Clash, NotAllowed, NotFound, Refusal, SiteRefused, StaleWrite
from sign_shelf.desk.sign_in import TooManyTries

log = structlog.get_logger()

MEDIA_TYPE = "application/problem+json"


class ProblemAnswer(JSONResponse):
    """It names what was sent, so it holds what no text can hold as an escape."""

    media_type = MEDIA_TYPE

    def render(self, content: Any) -> bytes:
        return json.dumps(content, ensure_ascii=False, separators=(",", ":")).encode(errors="backslashreplace")


class NotSignedIn(Refusal):
    code = "not-signed-in"


class PreconditionMissing(Refusal):
    code = "precondition-missing"


class CrossSite(Refusal):
    code = "cross-site"


_STATUS: dict[type[Refusal], int] = {
    NotSignedIn: 401,
    NotAllowed: 403,
    CrossSite: 403,
    NotFound: 404,
    Clash: 409,
    SiteRefused: 409,
    StaleWrite: 412,
    PreconditionMissing: 428,
    TooManyTries: 429,
}


def problem(
    status: int, code: str, says: str, *, where: str | None = None, remedy: str | None = None, **extras: Any
) -> JSONResponse:
    body: dict[str, Any] = {
        "type": f"urn:sign-shelf:problem:{code}",
        "title": code.replace("-", " ").capitalize(),
        "status": status,
        "detail": says,
        **({"where": where} if where else {}),
        **({"remedy": remedy} if remedy else {}),
        **extras,
    }
    return ProblemAnswer(body, status)


def refusal_response(refusal: Refusal) -> JSONResponse:
    status = next((status for kind, status in _STATUS.items() if isinstance(refusal, kind)), 422)
    return problem(
        status, refusal.code, refusal.says, where=refusal.where, remedy=refusal.remedy, **dict(refusal.extras())
    )


def install(app: FastAPI) -> None:
    @app.exception_handler(Refusal)
    async def refused(_: Request, error: Refusal) -> JSONResponse:
        return refusal_response(error)

    @app.exception_handler(RequestValidationError)
    async def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        problems = [
            {"where": ".".join(str(step) for step in one["loc"]), "says": str(one["msg"])} for one in error.errors()
        ]
        return problem(
            422, "invalid-request", problems[0]["says"], where=problems[0]["where"], problems=problems,
            remedy="The interface's description is at /api/openapi.json.",
        )  # fmt: skip

    @app.exception_handler(UnicodeEncodeError)
    async def half(_: Request, error: UnicodeEncodeError) -> JSONResponse:
        # JSON can write half of a surrogate pair, which no other form of text can hold.
        half = f"\\u{ord(error.object[error.start]):04x}"
        return problem(
            422, "invalid", f"The request has {half} in it: half of a character.",
            remedy="Send the whole character, or leave it out.",
        )  # fmt: skip

    @app.exception_handler(HTTPException)
    async def http(_: Request, error: HTTPException) -> JSONResponse:
        return problem(error.status_code, "http", str(error.detail))

    @app.exception_handler(Exception)
    async def unexpected(request: Request, error: Exception) -> JSONResponse:
        log.error("unexpected", path=request.url.path, exc_info=error)
        return problem(500, "unexpected", "Something went wrong on the server; it has been written to its log.")
