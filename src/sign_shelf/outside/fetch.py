"""The one door to the network: http(s) only, addresses resolved and pinned, private ranges refused, all limited."""

import asyncio
import ipaddress
import socket
from collections import defaultdict
from collections.abc import AsyncIterator, Mapping
from contextlib import asynccontextmanager
from dataclasses import dataclass
from types import TracebackType
from typing import IO
from urllib.parse import urljoin, urlsplit

import httpx

from sign_shelf.core.errors import SourceRefused

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
    def content_type(self) -> str:
        return self.headers.get("content-type", "").split(";")[0].strip().lower()


def is_public(address: str) -> bool:
    ip = ipaddress.ip_address(address.split("%")[0])
    mapped = getattr(ip, "ipv4_mapped", None)
    ip = mapped or ip
    return ip.is_global and not ip.is_multicast


class GuardedTransport(httpx.AsyncBaseTransport):
    """Resolves a request's host itself, refuses private addresses, and connects to the very address it checked."""

    def __init__(self, allowed_private_hosts: frozenset[str]) -> None:
        self._allowed = allowed_private_hosts
        self._inner = httpx.AsyncHTTPTransport(limits=httpx.Limits(max_connections=64, max_keepalive_connections=16))

    async def handle_async_request(self, request: httpx.Request) -> httpx.Response:
        if request.url.scheme not in {"http", "https"}:
            raise SourceRefused(f'Only http and https are read, not "{request.url.scheme}".', where=str(request.url))
        host = request.url.host
        address = await self._address(host, request.url.port, str(request.url))
        request.url = request.url.copy_with(host=address)
        request.extensions = {**request.extensions, "sni_hostname": host}
        return await self._inner.handle_async_request(request)

    async def _address(self, host: str, port: int | None, where: str) -> str:
        try:
            found = await asyncio.get_running_loop().getaddrinfo(host, None, type=socket.SOCK_STREAM)
        except (OSError, UnicodeError) as exc:
            raise SourceRefused(f'The host "{host}" is not known.', where=where, remedy="Check its spelling.") from exc
        addresses = list(dict.fromkeys(entry[4][0] for entry in found))
        if host.lower() not in self._allowed and f"{host.lower()}:{port}" not in self._allowed:
            private = [str(address) for address in addresses if not is_public(str(address))]
            if private:
                raise SourceRefused(
                    f'"{host}" is at {private[0]}, a private address, which is not read.',
                    where=where,
                    remedy="If the site really stands there, name the host in SIGN_SHELF_PRIVATE_HOSTS.",
                )
        return str(addresses[0])

    async def aclose(self) -> None:
        await self._inner.aclose()


class Fetcher:
    """Fetches with limits on size, time, redirects, and connections a host."""

    def __init__(self, allowed_private_hosts: frozenset[str] = frozenset(), *, timeout_s: float = 15.0) -> None:
        self._timeout_s = timeout_s
        self._client = httpx.AsyncClient(
            transport=GuardedTransport(allowed_private_hosts),
            timeout=httpx.Timeout(timeout_s, connect=5.0),
            headers={"user-agent": _USER_AGENT, "accept-encoding": "identity"},
            trust_env=False,
        )
        self._pace: dict[str, asyncio.Semaphore] = defaultdict(lambda: asyncio.Semaphore(PER_HOST))

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

    async def save(self, url: str, into: IO[bytes], *, max_bytes: int) -> Fetched:
        """As `get`, with the body written to `into` piece by piece."""
        async with self._answer("GET", url) as (final, response):
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

    @asynccontextmanager
    async def _answer(self, method: str, url: str) -> AsyncIterator[tuple[str, httpx.Response]]:
        at = url
        for _ in range(MAX_REDIRECTS + 1):
            async with self._one(method, at, {}, None) as response:
                goal = response.headers.get("location")
                if not (response.is_redirect and goal):
                    yield at, response
                    return
            at = urljoin(at, goal)
        raise SourceRefused(f"More than {MAX_REDIRECTS} redirects, last to {at}.", where=url)

    @asynccontextmanager
    async def _one(
        self, method: str, url: str, headers: Mapping[str, str], body: bytes | None
    ) -> AsyncIterator[httpx.Response]:
        host = urlsplit(url).netloc
        try:
            async with (
                self._pace[host],
                asyncio.timeout(self._timeout_s * 2),
                self._client.stream(method, url, headers=dict(headers), content=body) as response,
            ):
                yield response
        except TimeoutError as exc:
            raise SourceRefused("The site took too long to answer.", where=url, remedy="Try again later.") from exc
        except (httpx.HTTPError, httpx.InvalidURL) as exc:
            raise SourceRefused(f"No usable answer: {exc or type(exc).__name__}", where=url) from exc


async def _limited(response: httpx.Response, url: str, max_bytes: int) -> AsyncIterator[bytes]:
    read = 0
    async for chunk in response.aiter_bytes(65_536):
        read += len(chunk)
        if read > max_bytes:
            raise SourceRefused(f"The answer is larger than {max_bytes} bytes.", where=url)
        yield chunk
