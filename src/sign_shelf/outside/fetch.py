"""The one door to the network: http(s) only, addresses resolved and pinned, private ranges refused, all limited."""

import asyncio
import ssl
from collections.abc import AsyncIterator, Mapping
from contextlib import asynccontextmanager
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from functools import cache
from pathlib import Path
from types import MappingProxyType, TracebackType
from typing import IO, Self
from weakref import WeakValueDictionary

import aiohttp
import certifi
from yarl import URL

from sign_shelf.core.basics.address import host_of, normal
from sign_shelf.core.errors import NoAnswer, SourceRefused, TooLarge
from sign_shelf.outside.dialling import CheckedResolver, is_address
from sign_shelf.outside.repository import Allowed
from sign_shelf.outside.unpacking import unpacker
from sign_shelf.settings import Settings

MAX_REDIRECTS = 5
PAGE_BYTES = 4 * 1024 * 1024
PER_HOST = 6
CONNECTIONS = 64
HEADER_BYTES = 32 * 1024
_LEADS_ON = frozenset({301, 302, 303, 307, 308})
_FOR_ONE_HOST = frozenset({"sign-shelf-facts"})
"""Headers that are for the host that was asked, not for one that it sends us on to."""
_USER_AGENT = "SignShelf/0.1 (menu inventory)"


@dataclass(frozen=True)
class Fetched:
    """`url` is where the answer came from, after redirects."""

    url: str
    status: int
    headers: Mapping[str, str]
    body: bytes

    @property
    def is_html(self) -> bool:
        return self.content_type in {"text/html", "application/xhtml+xml", ""}

    @property
    def wait_s(self) -> float | None:
        """Retry-After in seconds, or until a date (RFC 9110, 10.2.3); None where it is neither."""
        says = self.headers.get("retry-after", "").strip()
        if says.isdecimal() and len(says) < 10:
            return float(says)
        try:
            return max(0.0, (parsedate_to_datetime(says) - datetime.now(UTC)).total_seconds())
        except (ValueError, TypeError):
            return None

    @property
    def content_type(self) -> str:
        return self.headers.get("content-type", "").split(";")[0].strip().lower()


def only_if_changed(etag: str | None, modified: str | None) -> dict[str, str]:
    """The headers of a conditional request (RFC 9110, 13.1): an entity tag, or else a date."""
    if etag:
        return {"if-none-match": etag}
    return {"if-modified-since": modified} if modified else {}


@cache
def _usual_authorities() -> ssl.SSLContext:
    """Reading them takes longer than many a job."""
    return ssl.create_default_context(cafile=certifi.where())


class Fetcher:
    """Fetches with limits on size, time, redirects, and connections a host."""

    def __init__(
        self,
        allowed_private_hosts: frozenset[str] = frozenset(),
        *,
        timeout_s: float = 15.0,
        tls: ssl.SSLContext | None = None,
        standing: Mapping[str, tuple[str, int]] | None = None,
        repositories: Path | None = None,
    ) -> None:
        """`tls` has the authorities that certificates are checked by; the usual ones if None. `standing`: address and port of
        names that are not looked up. `repositories`: the folder in which Git repositories may lie."""
        self.repositories = Allowed(allowed_private_hosts, repositories)
        self._timeout_s = timeout_s
        self._connect_s = min(5.0, timeout_s)
        self._tls = tls
        self._names = CheckedResolver(allowed_private_hosts, standing, within_s=self._connect_s)
        self._opened: aiohttp.ClientSession | None = None
        self._pace: WeakValueDictionary[str, asyncio.Semaphore] = WeakValueDictionary()

    @classmethod
    def configured(cls, settings: Settings) -> Self:
        tls = None
        if settings.authorities is not None:
            tls = ssl.create_default_context(cafile=certifi.where())
            tls.load_verify_locations(settings.authorities)
        return cls(
            settings.allowed_private_hosts, tls=tls, standing=settings.standing, repositories=settings.repositories
        )

    async def __aenter__(self) -> "Fetcher":
        return self

    async def __aexit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._opened is not None:
            await self._opened.close()

    @property
    def _client(self) -> aiohttp.ClientSession:
        """Opened by the first request: a session belongs to the event loop that it is opened in."""
        if self._opened is None:
            self._opened = aiohttp.ClientSession(
                connector=aiohttp.TCPConnector(
                    ssl=self._tls or _usual_authorities(),
                    limit=CONNECTIONS,
                    keepalive_timeout=5.0,
                    use_dns_cache=False,
                    resolver=self._names,
                ),
                timeout=aiohttp.ClientTimeout(total=None, sock_connect=self._connect_s, sock_read=self._timeout_s),
                headers={"user-agent": _USER_AGENT, "accept-encoding": "identity"},
                skip_auto_headers=["content-type"],
                cookie_jar=aiohttp.DummyCookieJar(),
                auto_decompress=False,
                max_line_size=HEADER_BYTES,
                max_field_size=HEADER_BYTES,
            )
        return self._opened

    async def get(
        self, url: str, *, max_bytes: int = PAGE_BYTES, headers: Mapping[str, str] | None = None, mobile: bool = False
    ) -> Fetched:
        """The answer to a GET, whatever its status; `mobile`: as a telephone asks. Raises SourceRefused for all that is no answer."""
        who = {"user-agent": f"{_USER_AGENT} Mobile"} if mobile else {}
        async with self._answer("GET", url, {**(headers or {}), **who}) as (final, response):
            body = bytearray()
            async for chunk in _limited(response, final, max_bytes):
                body += chunk
            return Fetched(final, response.status, _headers(response), bytes(body))

    async def save(
        self, url: str, into: IO[bytes], *, max_bytes: int, headers: Mapping[str, str] | None = None
    ) -> Fetched:
        """As `get`, with the body written to `into` piece by piece."""
        async with self._answer("GET", url, headers or {}) as (final, response):
            async for chunk in _limited(response, final, max_bytes):
                into.write(chunk)
            return Fetched(final, response.status, _headers(response), b"")

    async def send(self, method: str, url: str, *, headers: Mapping[str, str], body: bytes | None) -> Fetched:
        """One request to a client site's own interface; redirects are not followed."""
        async with self._one(method, url, headers, body) as response:
            chunks = bytearray()
            async for chunk in _limited(response, url, PAGE_BYTES):
                chunks += chunk
            return Fetched(url, response.status, _headers(response), bytes(chunks))

    async def ask(
        self, method: str, url: str, *, page: bool = False, headers: Mapping[str, str] | None = None
    ) -> Fetched:
        """One request; redirects are not followed. Of the body nothing is read but, where `page`, a page of HTML."""
        async with self._one(method, url, headers or {}, None) as response:
            came = Fetched(url, response.status, _headers(response), b"")
            if not (page and 200 <= came.status < 300 and came.is_html):
                return came
            return replace(came, body=b"".join([chunk async for chunk in _limited(response, url, PAGE_BYTES)]))

    @asynccontextmanager
    async def _answer(
        self, method: str, url: str, headers: Mapping[str, str] = MappingProxyType({})
    ) -> AsyncIterator[tuple[str, aiohttp.ClientResponse]]:
        at = url
        for _ in range(MAX_REDIRECTS + 1):
            async with self._one(method, at, headers, None) as response:
                goal = _headers(response).get("location")
                if not (response.status in _LEADS_ON and goal):
                    yield at, response
                    return
            next_ = normal(goal, at)
            if next_ is None:
                raise SourceRefused(f'A redirect leads to "{goal[:200]}", which is no http or https address.', where=at)
            if host_of(next_) != host_of(at):
                headers = {name: value for name, value in headers.items() if name not in _FOR_ONE_HOST}
            at = next_
        raise SourceRefused(f"More than {MAX_REDIRECTS} redirects, last to {at}.", where=url)

    @asynccontextmanager
    async def _one(
        self, method: str, url: str, headers: Mapping[str, str], body: bytes | None
    ) -> AsyncIterator[aiohttp.ClientResponse]:
        pace = self._pace.setdefault(host_of(url), asyncio.Semaphore(PER_HOST))
        try:
            goal = URL(url)
            if goal.scheme not in {"http", "https"}:
                raise SourceRefused(f'Only http and https are read, not "{goal.scheme}".', where=url)
            if goal.host and is_address(goal.host):
                self._names.refuse_private(goal.host, goal.port or 0, [goal.host])
            async with (
                pace,
                asyncio.timeout(self._timeout_s * 2),
                self._client.request(method, goal, headers=headers, data=body, allow_redirects=False) as response,
            ):
                yield response
        except TimeoutError as exc:
            raise NoAnswer("The site took too long to answer.", where=url, remedy="Try again later.") from exc
        except (aiohttp.ClientError, ValueError) as exc:
            raise NoAnswer(f"No usable answer: {exc or type(exc).__name__}", where=url) from exc


def _headers(response: aiohttp.ClientResponse) -> dict[str, str]:
    """By their names in small letters; what came more than once is one list (RFC 9110, 5.3). Bytes that are no UTF-8 are
    taken for Latin-1, so that every value can be stored."""
    found: dict[str, str] = {}
    for raw_name, raw in response.raw_headers:
        name = raw_name.decode("latin-1").lower()
        try:
            value = raw.decode()
        except UnicodeDecodeError:
            value = raw.decode("latin-1")
        found[name] = f"{found[name]}, {value}" if name in found else value
    return found


async def _limited(response: aiohttp.ClientResponse, url: str, max_bytes: int) -> AsyncIterator[bytes]:
    """The body, with its one coding undone. The limit holds for what comes and for what it unpacks to."""
    unpack = unpacker(_headers(response).get("content-encoding", ""), url)
    too_large = TooLarge(f"The answer is larger than {max_bytes} bytes.", where=url)
    came = given = 0
    async for chunk in response.content.iter_any():
        came += len(chunk)
        if came > max_bytes:
            raise too_large
        for piece in unpack(chunk):
            given += len(piece)
            if given > max_bytes:
                raise too_large
            yield piece
            # A small chunk may unpack to many pieces: others have their turn between them.
            await asyncio.sleep(0)
