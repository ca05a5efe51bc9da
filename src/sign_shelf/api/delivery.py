"""`GET /live/{site}/{location}`: menus for sites that ask. See docs/delivery.md.

It stands before the application: a site's visitors wait for it. What was answered is kept in memory until it may
change, or until PostgreSQL tells that something else is live. While nobody listens, nothing is kept.
"""

import asyncio
import contextlib
import hashlib
import hmac
from collections.abc import AsyncIterator
from dataclasses import dataclass
from datetime import UTC, datetime
from time import time
from typing import cast, get_args
from urllib.parse import parse_qsl

import psycopg
import structlog
from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import ASGIApp, Receive, Scope, Send

from sign_shelf.api.problems import problem
from sign_shelf.api.signed_facts import vouched
from sign_shelf.core.delivery import holds_until, menu_html, menu_json
from sign_shelf.core.errors import ResolveRefused
from sign_shelf.core.menu import Device
from sign_shelf.core.moments import Moments
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.site import SiteDocument
from sign_shelf.store import live, sites
from sign_shelf.store.database import Database

log = structlog.get_logger()

PREFIX = "/live/"
_MOST_KEPT = 20_000
_PARAMETERS = frozenset({"device", "language", "page", "key", "facts"})
_CORS = [
    (b"access-control-allow-origin", b"*"),
    (b"access-control-expose-headers", b"ETag"),
]
_HTML, _JSON = b"text/html; charset=utf-8", b"application/json"


@dataclass(slots=True)
class _Kept:
    etag: bytes
    caching: bytes
    """Who may keep it: what is for visitors with facts of their own is for their browsers alone."""
    headers: list[tuple[bytes, bytes]]
    body: bytes
    until: float


@dataclass(frozen=True)
class _Live:
    facts_key: str
    prepared: Prepared
    moments: Moments


class DeliveryFirst:
    """Hands what begins with /live/ to the delivery, and everything else on."""

    def __init__(self, app: ASGIApp, delivery: "Delivery") -> None:
        self.app = app
        self.delivery = delivery

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        answers = scope["type"] == "http" and scope["path"].startswith(PREFIX)
        await (self.delivery if answers else self.app)(scope, receive, send)


class Delivery:
    """Answers from memory what may not have changed, else from what is live."""

    def __init__(self, database_address: str) -> None:
        self.database: Database | None = None
        self.listening = False
        self._told = 0
        self._address = database_address
        self._kept: dict[tuple[bytes, ...], _Kept] = {}
        self._live: dict[str, tuple[tuple[str, str], _Live]] = {}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        accept = authorization = if_none_match = b""
        for name, value in scope["headers"]:
            if name == b"accept":
                accept = value
            elif name == b"authorization":
                authorization = value
            elif name == b"if-none-match":
                if_none_match = value
        wanted = (scope["raw_path"], scope["query_string"], accept, authorization)
        kept = self._kept.get(wanted) if scope["method"] in {"GET", "HEAD"} else None
        if kept is None or kept.until <= time():
            told = self._told
            made = await self._make(scope)
            if isinstance(made, Response):
                await made(scope, receive, send)
                return
            kept = made
            # What was read before another site went live is not kept.
            if self.listening and told == self._told:
                if len(self._kept) >= _MOST_KEPT:
                    self._kept.clear()
                self._kept[wanted] = kept
        age = (b"cache-control", b"%b, max-age=%d" % (kept.caching, max(int(kept.until - time()), 0)))
        if if_none_match and kept.etag in if_none_match:
            await send({"type": "http.response.start", "status": 304, "headers": [*kept.headers[2:], age]})
            await send({"type": "http.response.body", "body": b""})
            return
        await send({"type": "http.response.start", "status": 200, "headers": [*kept.headers, age]})
        await send({"type": "http.response.body", "body": b"" if scope["method"] == "HEAD" else kept.body})

    async def _make(self, scope: Scope) -> _Kept | Response:
        if scope["method"] == "OPTIONS":
            allow = {"access-control-allow-methods": "GET, HEAD", "access-control-allow-headers": "Authorization"}
            return Response(status_code=204, headers={"access-control-allow-origin": "*", **allow})
        if scope["method"] not in {"GET", "HEAD"}:
            return problem(405, "not-allowed", "Menus are only read here.", remedy="Use GET.")
        site_key, _, location = scope["path"][len(PREFIX) :].partition("/")
        asked = dict(parse_qsl(scope["query_string"].decode("latin-1"), keep_blank_values=True))
        if unknown := sorted(set(asked) - _PARAMETERS):
            known = ", ".join(sorted(_PARAMETERS))
            return problem(
                422, "invalid", f'"{unknown[0]}" is not asked for here.', where="query", remedy=f"There are {known}."
            )
        headers = Headers(scope=scope)
        shown = headers.get("authorization", "").removeprefix("Bearer ") or asked.get("key", "")
        found = await self._site(site_key, shown)
        if found is None:
            return problem(
                401, "not-signed-in", "No site answers to this key.", where=f"live/{site_key}",
                remedy="Send the site's delivery key: Authorization: Bearer …, or ?key=…",
            )  # fmt: skip
        return self._menu(found, location, asked, headers.get("accept", ""))

    def _menu(self, found: _Live, location: str, asked: dict[str, str], accept: str) -> _Kept | Response:
        site = found.prepared.site
        device = asked.get("device", "desktop")
        if device not in get_args(Device):
            return problem(
                422, "invalid", f'"{device}" is no device.', where="device", remedy="phone, tablet or desktop"
            )
        language = asked.get("language", site.site.languages[0])
        now = datetime.now(UTC)
        known = vouched(asked.get("facts", ""), found.facts_key, site.all_facts(), now)
        lens = Lens(
            device=cast(Device, device),
            language=language,
            at=found.moments.clock.now(now),
            page=_page(site, asked.get("page")),
            facts=known.facts,
        )
        try:
            got = found.prepared.resolve(location, lens)
        except ResolveRefused as refusal:
            return problem(
                404, "not-found", refusal.says, where=f"live/{site.site.key}/{location}", remedy=refusal.remedy
            )
        place = site.template.location(location)
        html = _prefers_html(accept)
        body = (
            menu_html(place.title if place else location, got, language=language)
            if html
            else menu_json(site, location, got, device=device, language=language)
        )
        etag = b'"' + hashlib.sha256(body).hexdigest()[:32].encode() + b'"'
        headers = [
            (b"content-type", _HTML if html else _JSON),
            (b"content-length", str(len(body)).encode()),
            (b"etag", etag),
            (b"vary", b"Accept"),
            (b"x-content-type-options", b"nosniff"),
            *_CORS,
        ]
        until = holds_until(found.moments, now).timestamp()
        caching = b"private" if "facts" in asked else b"public"
        return _Kept(etag, caching, headers, body, min(until, known.until or until))

    async def _site(self, key: str, shown: str) -> _Live | None:
        """The live site for whoever shows its key. Reads one row, and the site itself only when another one is live."""
        assert self.database is not None
        async with self.database.transaction() as session:
            told = await live.delivered(session, key)
            if told is None or not hmac.compare_digest(told.key.encode(), shown.encode()) or told.hash is None:
                return None
            kept = self._live.get(key)
            if kept is not None and kept[0] == (told.hash, told.facts_key):
                return kept[1]
            row = await sites.site_by_key(session, key)
            document = await live.live_document(session, row.id) if row else None
        if document is None:
            return None
        found = _Live(told.facts_key, Prepared(document), Moments(document))
        self._live[key] = ((told.hash, told.facts_key), found)
        return found

    @contextlib.asynccontextmanager
    async def watching(self, database: Database) -> AsyncIterator[None]:
        """Answers from this database, and listens to it for as long as this lasts."""
        self.database = database
        task = asyncio.create_task(self._listen())
        try:
            yield
        finally:
            task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await task

    async def _listen(self) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(self._address, autocommit=True) as connection:
                    await connection.execute("LISTEN live_site")
                    self._forget()
                    self.listening = True
                    async for told in connection.notifies():
                        self._forget(told.payload)
            except psycopg.Error as exc:
                log.warning("nobody_listens_for_live_sites", says=str(exc))
            finally:
                self.listening = False
                self._forget()
            await asyncio.sleep(1)

    def _forget(self, site: str = "") -> None:
        """What is kept of the site, or of all."""
        self._told += 1
        begins = f"{PREFIX}{site}/".encode() if site else PREFIX.encode()
        self._kept = {key: one for key, one in self._kept.items() if not key[0].startswith(begins)}


def _page(site: SiteDocument, asked: str | None) -> str | None:
    """The page's reference; a visitor's page may be named by its path as well."""
    if asked is None:
        return None
    return next((page.ref for page in site.pages if asked in {page.ref, page.path}), asked)


def _prefers_html(accept: str) -> bool:
    """Whether HTML stands in Accept with a higher quality than JSON (RFC 9110, 12.5.1)."""
    qualities = {"text/html": 0.0, "application/json": 0.0}
    for piece in accept.split(","):
        kind, *parameters = (part.strip() for part in piece.split(";"))
        quality = next((part[2:] for part in parameters if part.startswith("q=")), "1")
        if kind.lower() in qualities:
            with contextlib.suppress(ValueError):
                qualities[kind.lower()] = float(quality)
    return qualities["text/html"] > qualities["application/json"]
