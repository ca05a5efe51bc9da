"""`GET /live/{site}/{location}`: menus for sites that ask. See docs/delivery.md.

It stands before the application: a site's visitors wait for it. What was answered is kept in memory until it may
change, or until PostgreSQL tells that something else is live or another key counts. While nobody listens, nothing is
kept. What is kept is bounded by its bytes, and named by what was meant, not by how it was asked: queries without end
that mean the same are kept once.
"""

import asyncio
import contextlib
import hashlib
import hmac
from collections.abc import AsyncIterator, Awaitable, Callable
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from functools import cached_property
from time import time
from typing import TypeVar, cast, get_args
from urllib.parse import parse_qsl

from cachetools import LRUCache
from pydantic import SecretStr
from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import ASGIApp, Receive, Scope, Send

from sign_shelf.api.entrance import SafeHeaders, bearer_of, odd_address
from sign_shelf.api.problems import problem, refusal_response
from sign_shelf.core.basics.text import LANGUAGE
from sign_shelf.core.errors import Refusal, ResolveRefused
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.protocol.delivery import holds_until, menu_html, menu_json
from sign_shelf.core.protocol.signed_facts import NOTHING, vouched
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.visitors.moments import Moments
from sign_shelf.store import live
from sign_shelf.store.database import Database, DatabaseAway
from sign_shelf.store.listening import listening
from sign_shelf.store.replica import Replica
from sign_shelf.store.seals import site_key

PREFIX = "/live/"
KEPT_BYTES = 64 * 1024 * 1024
NAMES_BYTES = 4 * 1024 * 1024
MOST_SITES = 64
LONGEST_NAME = 2_000
"""Bytes of an address and its headers beyond which a request is read anew each time."""
_PARAMETERS = frozenset({"device", "language", "page", "key", "facts"})
_CORS = [
    (b"access-control-allow-origin", b"*"),
    (b"access-control-expose-headers", b"ETag"),
]
_HTML, _JSON = b"text/html; charset=utf-8", b"application/json"

Raw = tuple[bytes, ...]
Found = TypeVar("Found")


@dataclass(slots=True)
class _Kept:
    etag: bytes
    caching: bytes
    """Who may keep it: what is for visitors with facts of their own is for their browsers alone."""
    headers: list[tuple[bytes, bytes]]
    body: bytes
    until: float


@dataclass(frozen=True)
class _Meant:
    """What a request means once it was let in."""

    site: str
    location: str
    lens: Lens
    html: bool
    private: bool
    until: float | None
    """When what the visitor's facts were vouched for is over, or the key that was shown."""

    @cached_property
    def name(self) -> tuple[object, ...]:
        facts = tuple(sorted(self.lens.facts.items()))
        return self.site, self.location, self.lens.device, self.lens.language, self.lens.page, facts, self.html


@dataclass(frozen=True)
class _Live:
    prepared: Prepared
    moments: Moments


class DeliveryFirst:
    """Hands what begins with /live/ to the delivery, and everything else on."""

    def __init__(self, app: ASGIApp, delivery: "Delivery", host: str) -> None:
        """`host`: the name under which alone menus are asked for, where there is one; under it there is nothing else."""
        self.app = app
        self.delivery = delivery
        self.host = host.lower()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        answers = scope["type"] == "http" and scope["path"].startswith(PREFIX)
        if self.host and scope["type"] == "http":
            here = Headers(scope=scope).get("host", "").partition(":")[0].lower() == self.host
            if here != answers and not scope["path"].startswith("/api/health"):
                says = "Menus are asked for under another host name." if answers else "Only menus are asked for here."
                refusal = problem(421, "misdirected", says, where=scope["path"][:200])
                await SafeHeaders(refusal)(scope, receive, send)
                return
        await (self.delivery if answers else self.app)(scope, receive, send)


class Delivery:
    """Answers from memory what may not have changed, else from what is live."""

    def __init__(self, database_address: SecretStr) -> None:
        self.database: Database | None = None
        self.replica: Replica | None = None
        self.listening = False
        self._told = 0
        self._address = database_address
        self._kept: LRUCache[tuple[object, ...], _Kept] = LRUCache(
            KEPT_BYTES, getsizeof=lambda one: len(one.body) + 1_000
        )
        self._meant: LRUCache[Raw, _Meant] = LRUCache(NAMES_BYTES, getsizeof=lambda _: 1_000)
        self._live: LRUCache[str, tuple[tuple[str, int], _Live]] = LRUCache(MOST_SITES)
        self._loading: dict[str, asyncio.Lock] = {}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        # The application's own, where nobody watches for it.
        self.database = self.database or scope["app"].state.database
        accept = authorization = if_none_match = b""
        for name, value in scope["headers"]:
            if name == b"accept":
                accept = value
            elif name == b"authorization":
                authorization = value
            elif name == b"if-none-match":
                if_none_match = value
        raw = (scope["raw_path"], scope["query_string"], accept, authorization)
        meant = self._meant.get(raw) if scope["method"] in {"GET", "HEAD"} else None
        kept = self._kept.get(meant.name) if meant else None
        until = min(kept.until, meant.until or kept.until) if meant and kept else 0.0
        if kept is None or until <= time():
            try:
                made = await self._make(scope, raw)
            except Refusal as refusal:
                made = refusal_response(refusal)
            if isinstance(made, Response):
                made.headers.setdefault("access-control-allow-origin", "*")
                await SafeHeaders(made)(scope, receive, send)
                return
            kept, until = made, made.until
        age = (b"cache-control", b"%b, max-age=%d" % (kept.caching, max(int(until - time()), 0)))
        if if_none_match and kept.etag in if_none_match:
            await send({"type": "http.response.start", "status": 304, "headers": [*kept.headers[2:], age]})
            await send({"type": "http.response.body", "body": b""})
            return
        await send({"type": "http.response.start", "status": 200, "headers": [*kept.headers, age]})
        await send({"type": "http.response.body", "body": b"" if scope["method"] == "HEAD" else kept.body})

    async def _make(self, scope: Scope, raw: Raw) -> _Kept | Response:
        if (odd := odd_address(scope)) is not None:
            return odd
        if scope["method"] == "OPTIONS":
            allow = {"access-control-allow-methods": "GET, HEAD", "access-control-allow-headers": "Authorization"}
            return Response(status_code=204, headers=allow)
        if scope["method"] not in {"GET", "HEAD"}:
            return problem(405, "not-allowed", "Menus are only read here.", remedy="Use GET.")
        site_key, _, location = scope["path"][len(PREFIX) :].partition("/")
        asked = dict(parse_qsl(scope["query_string"].decode("latin-1"), keep_blank_values=True))
        if unknown := sorted(set(asked) - _PARAMETERS):
            known = ", ".join(sorted(_PARAMETERS))
            return problem(
                422,
                "invalid",
                f'"{unknown[0][:80]}" is not asked for here.',
                where="query",
                remedy=f"There are {known}.",
            )
        if (device := asked.get("device", "desktop")) not in get_args(Device):
            return problem(
                422, "invalid", f'"{device[:80]}" is no device.', where="device", remedy="phone, tablet or desktop"
            )
        headers = Headers(scope=scope)
        bearer = bearer_of(headers)
        shown = bearer.get_secret_value() if bearer else asked.get("key", "")
        # What was read before another site went live, or another key counted, is not kept.
        told = self._told
        now = datetime.now(UTC)
        let_in = await self._let_in(site_key, shown, now)
        if let_in is None:
            return problem(
                401, "not-signed-in", "No site answers to this key.", where=f"live/{site_key[:80]}",
                remedy="Send the site's delivery key: Authorization: Bearer …, or ?key=…",
            )  # fmt: skip
        found, facts_keys, until = let_in
        meant = self._read(found, site_key, location, asked, headers.get("accept", ""), facts_keys, until, now)
        kept = self._kept.get(meant.name)
        if kept is None or kept.until <= time():
            try:
                kept = await asyncio.to_thread(_menu, found, meant, now)
            except ResolveRefused as refusal:
                return problem(
                    404, "not-found", refusal.says, where=f"live/{site_key}/{location[:80]}", remedy=refusal.remedy
                )
        if self.listening and told == self._told:
            self._kept[meant.name] = kept
            if sum(map(len, raw)) <= LONGEST_NAME:
                self._meant[raw] = meant
        return replace(kept, until=min(kept.until, meant.until or kept.until))

    def _read(
        self, found: _Live, site_key: str, location: str, asked: dict[str, str], accept: str, facts_keys: list[SecretStr],
        until: float | None, now: datetime,
    ) -> _Meant:  # fmt: skip
        site = found.prepared.site
        language = asked.get("language", "")
        known = NOTHING
        for key in facts_keys:
            known = known if known.facts else vouched(asked.get("facts", ""), key, site.all_facts(), now)
        ends = [one for one in (until, known.until) if one is not None]
        return _Meant(
            site=site_key,
            location=location,
            lens=Lens(
                device=cast(Device, asked.get("device", "desktop")),
                # What is no language gets what one gets that the site does not speak.
                language=language if LANGUAGE.fullmatch(language) and len(language) <= 35 else site.site.languages[0],
                at=found.moments.clock.now(now),
                page=_page(site, asked.get("page")),
                facts=known.facts,
            ),
            html=_prefers_html(accept),
            private="facts" in asked,
            until=min(ends, default=None),
        )

    async def _let_in(self, key: str, shown: str, now: datetime) -> tuple[_Live, list[SecretStr], float | None] | None:
        """The live site for whoever shows its key, what visitors' facts are signed with, and until when the shown key
        counts. Reads the site itself only when another one is live."""
        assert self.database is not None

        async def delivered(database: Database) -> live.Delivered | None:
            async with database.transaction() as session:
                return await live.delivered(session, key, now)

        told = await self._from_either(delivered)
        if told is None:
            return None
        opened = [
            (kind, self.database.seals.open(sealed, site_key(told.site_id, kind)), until)
            for kind, sealed, until in told.keys
        ]
        mine = [(one, until) for kind, one, until in opened if kind == "delivery"]
        match = next(
            (until for one, until in mine if hmac.compare_digest(one.get_secret_value().encode(), shown.encode())),
            False,
        )
        if match is False:
            return None
        facts = [one for kind, one, _ in opened if kind == "facts"]
        return await self._site(key, told), facts, match.timestamp() if isinstance(match, datetime) else None

    async def _site(self, key: str, told: live.Delivered) -> _Live:
        assert self.database is not None
        async with self._loading.setdefault(key, asyncio.Lock()):
            kept = self._live.get(key)
            name = told.state, told.inventory
            if kept is not None and kept[0] == name:
                return kept[1]

            async def given(database: Database) -> live.GivenTexts:
                async with database.transaction() as session:
                    return await live.given_texts(session, told)

            texts = await self._from_either(given)
            found = await asyncio.to_thread(_prepared, texts)
            self._live[key] = (name, found)
        return found

    async def _from_either(self, read: Callable[[Database], Awaitable[Found]]) -> Found:
        """Read from the replica while it is known to have what was told last, else from the database itself."""
        assert self.database is not None
        if self.replica is not None and self.listening and self.replica.caught_up:
            try:
                return await read(self.replica.database)
            except DatabaseAway:
                self.replica.is_away()
        return await read(self.database)

    @contextlib.asynccontextmanager
    async def watching(self, database: Database, replica: Database | None = None) -> AsyncIterator[None]:
        """Answers from this database or its replica, and listens to it for as long as this lasts."""
        self.database = database
        self.replica = Replica(replica, database) if replica is not None else None
        try:
            async with listening(self._address, "live_site", self._heard, self._deaf):
                yield
        finally:
            if self.replica is not None:
                await self.replica.close()
                self.replica = None

    def _heard(self, site: str) -> None:
        self._forget(site)
        self.listening = True
        if self.replica is not None:
            self.replica.told()

    def _deaf(self) -> None:
        self.listening = False
        self._forget()
        if self.replica is not None:
            self.replica.caught_up = False

    def _forget(self, site: str = "") -> None:
        """What is kept of the site, or of all."""
        self._told += 1
        for name in [name for name in self._kept if not site or name[0] == site]:
            del self._kept[name]
        for raw in [raw for raw, meant in self._meant.items() if not site or meant.site == site]:
            del self._meant[raw]


def _prepared(texts: live.GivenTexts) -> _Live:
    document = live.read_given(texts)
    return _Live(Prepared(document), Moments(document))


def _menu(found: _Live, meant: _Meant, now: datetime) -> _Kept:
    """Raises ResolveRefused."""
    site = found.prepared.site
    location = site.site.location_of(meant.location)
    got = found.prepared.resolve(location, meant.lens)
    place = site.template.location(location)
    body = (
        menu_html(place.title if place else meant.location, got, language=meant.lens.language)
        if meant.html
        else menu_json(site, meant.location, got, device=meant.lens.device, language=meant.lens.language)
    )
    etag = b'"' + hashlib.sha256(body).hexdigest()[:32].encode() + b'"'
    headers = [
        (b"content-type", _HTML if meant.html else _JSON),
        (b"content-length", str(len(body)).encode()),
        (b"etag", etag),
        (b"vary", b"Accept"),
        (b"x-content-type-options", b"nosniff"),
        # Whoever opens it by itself gets a page that can do nothing.
        (b"content-security-policy", b"sandbox; default-src 'none'"),
        (b"referrer-policy", b"same-origin"),
        *_CORS,
    ]
    return _Kept(
        etag, b"private" if meant.private else b"public", headers, body, holds_until(found.moments, now).timestamp()
    )


def _page(site: SiteDocument, asked: str | None) -> str | None:
    """The page's reference; a visitor's page may be named by its path as well. All that the site does not have are one."""
    if asked is None:
        return None
    return next((page.ref for page in site.pages if asked in {page.ref, page.path}), "#unknown")


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
