"""The one door to the network: http(s) only, addresses resolved and pinned, private ranges refused, all limited."""

import asyncio
import ssl
from collections.abc import AsyncIterator, Mapping
from contextlib import asynccontextmanager
from dataclasses import dataclass, replace
from functools import cache
from types import MappingProxyType, TracebackType
from typing import IO, Self
from weakref import WeakValueDictionary

import httpcore
import httpx

from sign_shelf.core.basics.address import host_of, normal
from sign_shelf.core.errors import NoAnswer, SourceRefused, TooLarge
from sign_shelf.outside.dialling import CheckedDialler
from sign_shelf.outside.unpacking import unpacker
from sign_shelf.settings import Settings

MAX_REDIRECTS = 5
PAGE_BYTES = 4 * 1024 * 1024
PER_HOST = 6
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
    return httpx.create_ssl_context(trust_env=False)


class GuardedTransport(httpx.AsyncHTTPTransport):
    """httpx's own transport over connections that are dialled only after a check."""

    def __init__(
        self, allowed_private_hosts: frozenset[str], tls: ssl.SSLContext | None, standing: Mapping[str, tuple[str, int]]
    ) -> None:
        super().__init__(trust_env=False)
        # httpx has no way to hand a network backend to the pool that it makes.
        self._pool = httpcore.AsyncConnectionPool(
            ssl_context=tls or _usual_authorities(),
            max_connections=64,
            max_keepalive_connections=64,
            keepalive_expiry=5.0,
            network_backend=CheckedDialler(allowed_private_hosts, standing),
        )

    async def handle_async_request(self, request: httpx.Request) -> httpx.Response:
        if request.url.scheme not in {"http", "https"}:
            raise SourceRefused(f'Only http and https are read, not "{request.url.scheme}".', where=str(request.url))
        return await super().handle_async_request(request)


class Fetcher:
    """Fetches with limits on size, time, redirects, and connections a host."""

    def __init__(
        self,
        allowed_private_hosts: frozenset[str] = frozenset(),
        *,
        timeout_s: float = 15.0,
        tls: ssl.SSLContext | None = None,
        standing: Mapping[str, tuple[str, int]] | None = None,
    ) -> None:
        """`tls` has the authorities that certificates are checked by; the usual ones if None. `standing`: address and port of
        names that are not looked up."""
        self._timeout_s = timeout_s
        self._client = httpx.AsyncClient(
            transport=GuardedTransport(allowed_private_hosts, tls, standing or {}),
            timeout=httpx.Timeout(timeout_s, connect=min(5.0, timeout_s)),
            headers={"user-agent": _USER_AGENT, "accept-encoding": "identity"},
            trust_env=False,
        )
        self._pace: WeakValueDictionary[str, asyncio.Semaphore] = WeakValueDictionary()

    @classmethod
    def configured(cls, settings: Settings) -> Self:
        tls = None
        if settings.authorities is not None:
            tls = httpx.create_ssl_context(trust_env=False)
            tls.load_verify_locations(settings.authorities)
        return cls(settings.allowed_private_hosts, tls=tls, standing=settings.standing)

    async def __aenter__(self) -> "Fetcher":
        return self

    async def __aexit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        await self._client.aclose()

    async def get(self, url: str, *, max_bytes: int = PAGE_BYTES) -> Fetched:
        """The answer to a GET, whatever its status. Raises SourceRefused for all that is no answer."""
        async with self._answer("GET", url) as (final, response):
            body = bytearray()
            async for chunk in _limited(response, final, max_bytes):
                body += chunk
            return Fetched(final, response.status_code, dict(response.headers), bytes(body))

    async def save(
        self, url: str, into: IO[bytes], *, max_bytes: int, headers: Mapping[str, str] | None = None
    ) -> Fetched:
        """As `get`, with the body written to `into` piece by piece."""
        async with self._answer("GET", url, headers or {}) as (final, response):
            async for chunk in _limited(response, final, max_bytes):
                into.write(chunk)
            return Fetched(final, response.status_code, dict(response.headers), b"")

    async def send(self, method: str, url: str, *, headers: Mapping[str, str], body: bytes | None) -> Fetched:
        """One request to a client site's own interface; redirects are not followed."""
        async with self._one(method, url, headers, body) as response:
            chunks = bytearray()
            async for chunk in _limited(response, url, PAGE_BYTES):
                chunks += chunk
            return Fetched(url, response.status_code, dict(response.headers), bytes(chunks))

    async def ask(
        self, method: str, url: str, *, page: bool = False, headers: Mapping[str, str] | None = None
    ) -> Fetched:
        """One request; redirects are not followed. Of the body nothing is read but, where `page`, a page of HTML."""
        async with self._one(method, url, headers or {}, None) as response:
            came = Fetched(url, response.status_code, dict(response.headers), b"")
            if not (page and response.is_success and came.is_html):
                return came
            return replace(came, body=b"".join([chunk async for chunk in _limited(response, url, PAGE_BYTES)]))

    @asynccontextmanager
    async def _answer(
        self, method: str, url: str, headers: Mapping[str, str] = MappingProxyType({})
    ) -> AsyncIterator[tuple[str, httpx.Response]]:
        at = url
        for _ in range(MAX_REDIRECTS + 1):
            async with self._one(method, at, headers, None) as response:
                goal = response.headers.get("location")
                if not (response.is_redirect and goal):
                    yield at, response
                    return
            next_ = normal(goal, at)
            if next_ is None:
                raise SourceRefused(f'A redirect leads to "{goal[:200]}", which is no http or https address.', where=at)
            at = next_
        raise SourceRefused(f"More than {MAX_REDIRECTS} redirects, last to {at}.", where=url)

    @asynccontextmanager
    async def _one(
        self, method: str, url: str, headers: Mapping[str, str], body: bytes | None
    ) -> AsyncIterator[httpx.Response]:
        pace = self._pace.setdefault(host_of(url), asyncio.Semaphore(PER_HOST))
        try:
            async with (
                pace,
                asyncio.timeout(self._timeout_s * 2),
                self._client.stream(method, url, headers=dict(headers), content=body) as response,
            ):
                yield response
        except TimeoutError as exc:
            raise NoAnswer("The site took too long to answer.", where=url, remedy="Try again later.") from exc
        except (httpx.HTTPError, httpx.InvalidURL) as exc:
            raise NoAnswer(f"No usable answer: {exc or type(exc).__name__}", where=url) from exc


async def _limited(response: httpx.Response, url: str, max_bytes: int) -> AsyncIterator[bytes]:
    """The body, with its one coding undone. The limit holds for what comes and for what it unpacks to."""
    unpack = unpacker(response.headers.get("content-encoding", ""), url)
    too_large = TooLarge(f"The answer is larger than {max_bytes} bytes.", where=url)
    came = given = 0
    async for chunk in response.aiter_raw():
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
