"""Refusals as problem details (RFC 9457): one table from error class to status."""

import json
from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from sign_shelf.core.errors import Busy, Clash, NotAllowed, NotFound, Refusal, SiteRefused, StaleWrite
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
    Busy: 503,
}


class ProblemOut(BaseModel):
    """What is wrong, where, why, and what would work (RFC 9457)."""

    type: str
    title: str
    status: int
    detail: str
    where: str | None = None
    remedy: str | None = None


_REFUSED = {
    401: "nobody is signed in",
    403: "the person may not do this here, or the request comes from another site",
    404: "there is no such thing",
    405: "the address takes other methods",
    408: "the body did not come in time",
    409: "what is there already does not go with it",
    412: "somebody saved in between; carries the merge worked out",
    413: "the body is larger than the route takes",
    421: "asked under another host name than this is answered under",
    422: "the request cannot be understood or carried out as it is",
    428: "a header is missing that the write needs",
    429: "too many tries; Retry-After says when to try again",
}


def described() -> dict[str, Any]:
    """The answers that any route may give, for the published description."""
    content = {MEDIA_TYPE: {"schema": {"$ref": "#/components/schemas/ProblemOut"}}}
    refused = "; ".join(f"{status}: {says}" for status, says in _REFUSED.items())
    retry = {"description": "Seconds.", "schema": {"type": "integer"}}
    return {
        "Refused": {"description": f"Refused. {refused}.", "content": content},
        "NotNow": {
            "description": "Not now: the database is away, or there is too much to do.",
            "content": content,
            "headers": {"Retry-After": retry},
        },
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
    answer = problem(
        status, refusal.code, refusal.says, where=refusal.where, remedy=refusal.remedy, **dict(refusal.extras())
    )
    if isinstance(refusal, Busy | TooManyTries):
        answer.headers["retry-after"] = str(refusal.again_in_s)
    return answer


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

    @app.exception_handler(HTTPException)
    async def http(_: Request, error: HTTPException) -> JSONResponse:
        return problem(error.status_code, "http", str(error.detail))

    @app.exception_handler(MemoryError)
    async def too_much(_: Request, error: MemoryError) -> JSONResponse:
        return refusal_response(
            Busy("This needs more memory than one request may have.", remedy="Ask for less at once.")
        )

    @app.exception_handler(Exception)
    async def unexpected(request: Request, error: Exception) -> JSONResponse:
        log.error("unexpected", path=request.url.path[:500], exc_info=error)
        return problem(500, "unexpected", "Something went wrong on the server; it has been written to its log.")
