"""What every request passes before anything is made of it: its address, who asks, from where, and its body.

In this order, so that nobody unknown makes us read, and nobody makes us parse what cannot be kept anyway.
"""

import asyncio
import re
from datetime import UTC, datetime
from time import monotonic

from pydantic import SecretStr
from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import cookie_parser
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from sign_shelf.api.limits import body_limit, open_to_all
from sign_shelf.api.problems import CrossSite, NotSignedIn, problem, refusal_response
from sign_shelf.api.text import admitted
from sign_shelf.core.basics.address import host_of
from sign_shelf.core.errors import Refusal
from sign_shelf.desk import sign_in
from sign_shelf.desk.permission import Person
from sign_shelf.store.database import Database

COOKIE = "sign_shelf_session"
BROWSER_COOKIE = "sign_shelf_browser"

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
BODY_WITHIN_S = 15.0
"""How long a body may take to come, and for how long it may pause."""
SLOWEST = 16_384
"""Bytes a second that a body must bring on the average beyond that."""


class SafeHeaders:
    """Every answer carries the headers that keep browsers from making more of it than it is, refusals too."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    headers.setdefault(name, value)
                if scope["path"].startswith("/api/"):
                    headers.setdefault("cache-control", "no-store")
            await send(message)

        await self.app(scope, receive, with_headers)


def odd_address(scope: Scope) -> JSONResponse | None:
    """Why nothing is called so: PostgreSQL keeps no NUL."""
    if "\0" in scope["path"] or b"%00" in scope["query_string"]:
        return problem(422, "invalid", "The address has a NUL character in it.", remedy="Leave out %00.")
    return None


class SoundAddress:
    """Refuses addresses with characters in them that nothing is called by."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        refusal = odd_address(scope) if scope["type"] == "http" else None
        await (refusal or self.app)(scope, receive, send)


def bearer_of(headers: Headers) -> SecretStr | None:
    """The token of `Authorization: Bearer …` (RFC 6750); the scheme's name in any case (RFC 9110, 11.1)."""
    scheme, _, token = headers.get("authorization", "").partition(" ")
    return SecretStr(token.strip()) if scheme.lower() == "bearer" and token.strip() else None


def token_of(headers: Headers) -> SecretStr | None:
    if (token := bearer_of(headers)) is not None:
        return token
    cookie = cookie_parser(headers.get("cookie", "")).get(COOKIE)
    return SecretStr(cookie) if cookie else None


PAGE_OF = "sign-shelf-person"
"""The header in which our own pages say whose they are: nothing is done there under the name of who signed in since."""


class KnownPeople:
    """Knows who asks before a byte of a body is read, and lets nobody else beyond what is open to all.

    Writes come from our own pages, which say so (`Origin`, Fetch Metadata), or with a token, which no other site has:
    against cross-site request forgery.
    """

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or not scope["path"].startswith("/api/"):
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        try:
            if scope["method"] not in {"GET", "HEAD", "OPTIONS"} and bearer_of(headers) is None:
                _require_own_page(headers)
            if not open_to_all(scope["method"], scope["path"]):
                scope.setdefault("state", {})["person"] = await self._person(scope, headers)
        except Refusal as refusal:
            await refusal_response(refusal)(scope, receive, send)
            return
        await self.app(scope, receive, send)

    async def _person(self, scope: Scope, headers: Headers) -> Person:
        database: Database = scope["app"].state.database
        token = token_of(headers)
        person = await sign_in.who(database, token, datetime.now(UTC)) if token else None
        if person is None:
            raise NotSignedIn("Nobody is signed in.", remedy="Sign in first.")
        if headers.get(PAGE_OF, str(person.id)) != str(person.id):
            raise NotSignedIn(
                f"{person.name} is signed in now, and this page is somebody else's.",
                remedy="Sign in again as yourself.",
            )
        return person


def _require_own_page(headers: Headers) -> None:
    site = headers.get("sec-fetch-site", "same-origin")
    origin = headers.get("origin")
    if origin is None:
        raise CrossSite(
            "A write needs the header Origin, or a token.",
            remedy="Browsers send it; a program sends Authorization: Bearer … with a token of its own.",
        )
    # An origin that is none, such as "null", is nobody's own page, whatever Host is.
    if site != "same-origin" or (host_of(origin) or None) != headers.get("host", "").lower():
        raise CrossSite("This request comes from another site.", remedy="Use Sign Shelf's own pages.")


class WholeBody:
    """Reads the body whole, within its route's limit and in time; what follows gets it in one piece."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        limit = body_limit(scope["method"], scope["path"])
        told = Headers(scope=scope).get("content-length", "0")
        too_large = problem(
            413, "too-large", f"The request's body is larger than {limit} bytes.",
            where=scope["path"][:200], remedy="Send less of it at once.",
        )  # fmt: skip
        if told.isdigit() and (len(told) > 15 or int(told) > limit):
            await too_large(scope, receive, send)
            return
        try:
            body = await _read(receive, limit)
        except TimeoutError:
            late = problem(408, "too-slow", "The request's body did not come in time.", remedy="Send it again.")
            late.headers["connection"] = "close"
            await late(scope, receive, send)
            return
        if body is None:
            return
        if len(body) > limit:
            await too_large(scope, receive, send)
            return
        given = False

        async def replay() -> Message:
            nonlocal given
            if given:
                return await receive()
            given = True
            return {"type": "http.request", "body": body, "more_body": False}

        await self.app(scope, replay, send)


async def _read(receive: Receive, limit: int) -> bytes | None:
    """The body, or more than `limit` of it; None where the client is gone. Raises TimeoutError."""
    began, body = monotonic(), bytearray()
    while len(body) <= limit:
        left = began + BODY_WITHIN_S + len(body) / SLOWEST - monotonic()
        async with asyncio.timeout(min(BODY_WITHIN_S, left)):
            message = await receive()
        if message["type"] == "http.disconnect":
            return None
        body += message.get("body", b"")
        if not message.get("more_body", False):
            break
    return bytes(body)


_NOT_JSON = re.compile(r"^/api/(?:fonts|sites/[^/]+/incoming/data)$")


class SoundJson:
    """Refuses JSON that is too deep, has too many parts, or holds what cannot be kept, before objects are made of it."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or not scope["path"].startswith("/api/") or _NOT_JSON.match(scope["path"]):
            await self.app(scope, receive, send)
            return
        first = await receive()
        body = first.get("body", b"")
        refusal = admitted(body) if body else None
        if refusal is not None:
            await refusal_response(refusal)(scope, receive, send)
            return

        async def replay() -> Message:
            nonlocal first
            given, first = first, {}
            return given or await receive()

        await self.app(scope, replay, send)
