"""What stands before every request: size, origin, who is asking, and the headers of every answer."""

from collections.abc import Awaitable, Callable
from datetime import UTC, datetime
from typing import Annotated
from urllib.parse import urlsplit

from fastapi import Depends, Header, Query, Request
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from sign_shelf.api.problems import CrossSite, NotSignedIn, PreconditionMissing, problem, refusal_response
from sign_shelf.core.text import LANGUAGE_PATTERN
from sign_shelf.desk import sign_in
from sign_shelf.desk.permission import Person
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database

COOKIE = "sign_shelf_session"
MAX_BODY = 20 * 1024 * 1024

# Pictures of entries lie on the client sites; whatever such an address answers can be nothing but a picture.
_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: http: https:; font-src 'self'; "
    "connect-src 'self'; frame-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
_HEADERS = {
    "content-security-policy": _POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
}


class BodyLimit:
    """Refuses bodies over the limit, whether their length was told beforehand or not."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        told = next((value for name, value in scope["headers"] if name == b"content-length"), b"0")
        refusal = problem(413, "too-large", f"The request is larger than {MAX_BODY} bytes.")
        if told.isdigit() and int(told) > MAX_BODY:
            await refusal(scope, receive, send)
            return
        read = 0

        async def counted() -> Message:
            nonlocal read
            message = await receive()
            read += len(message.get("body", b""))
            return {"type": "http.disconnect"} if read > MAX_BODY else message

        await self.app(scope, counted, send)


class NoNulls:
    """Refuses addresses with a NUL in them: nothing is called so, and PostgreSQL takes none."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and ("\0" in scope["path"] or b"%00" in scope["query_string"]):
            refusal = problem(422, "invalid", "The address has a NUL character in it.", remedy="Leave out %00.")
            await refusal(scope, receive, send)
            return
        await self.app(scope, receive, send)


async def same_origin(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
    """Unsafe methods only from our own pages or from programs: against cross-site request forgery (Fetch Metadata)."""
    if request.method not in {"GET", "HEAD", "OPTIONS"} and request.url.path.startswith("/api/"):
        site = request.headers.get("sec-fetch-site", "none")
        origin = request.headers.get("origin")
        foreign = origin is not None and urlsplit(origin).netloc != request.headers.get("host")
        if site not in {"same-origin", "none"} or foreign:
            return refusal_response(
                CrossSite("This request comes from another site.", remedy="Use Sign Shelf's own pages.")
            )
    response = await call_next(request)
    for name, value in _HEADERS.items():
        response.headers.setdefault(name, value)
    if request.url.path.startswith("/api/"):
        response.headers.setdefault("cache-control", "no-store")
    return response


def database_of(request: Request) -> Database:
    found: Database = request.app.state.database
    return found


def settings_of(request: Request) -> Settings:
    found: Settings = request.app.state.settings
    return found


def now() -> datetime:
    return datetime.now(UTC)


async def signed_in(
    request: Request, database: Annotated[Database, Depends(database_of)], at: Annotated[datetime, Depends(now)]
) -> Person:
    token = request.cookies.get(COOKIE)
    person = await sign_in.who(database, token, at) if token else None
    if person is None:
        raise NotSignedIn("Nobody is signed in.", remedy="Sign in first.")
    return person


def request_key(
    idempotency_key: Annotated[
        str | None, Header(description="Chosen by the client; the same create is carried out once.")
    ] = None,
) -> str:
    if not idempotency_key or len(idempotency_key) > 200:
        raise PreconditionMissing(
            "A create needs the header Idempotency-Key, of at most 200 characters.",
            remedy="Send any new unique text, such as a UUID.",
        )
    return idempotency_key


def expected_hash(
    if_match: Annotated[str | None, Header(description="The entity tag that the write sets out from.")] = None,
) -> str:
    if not if_match:
        raise PreconditionMissing(
            "A write needs the header If-Match.", remedy="Send the ETag that the menu was read with."
        )
    return if_match.strip().removeprefix("W/").strip('"')


def fetcher_of(request: Request) -> Fetcher:
    found: Fetcher = request.app.state.fetcher
    return found


Net = Annotated[Fetcher, Depends(fetcher_of)]
Language = Annotated[str | None, Query(pattern=LANGUAGE_PATTERN, description="A language (BCP 47).")]
Db = Annotated[Database, Depends(database_of)]
Someone = Annotated[Person, Depends(signed_in)]
Now = Annotated[datetime, Depends(now)]
RequestKey = Annotated[str, Depends(request_key)]
Expected = Annotated[str, Depends(expected_hash)]
Config = Annotated[Settings, Depends(settings_of)]
