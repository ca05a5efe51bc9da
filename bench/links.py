"""Asking 10 000 addresses on 50 hosts that answer in 50 ms, and the same with clients alone under the same limits."""

import asyncio
import multiprocessing
import resource
from collections.abc import Iterable
from multiprocessing.connection import Connection
from time import perf_counter

import aiohttp
import httpx

from sign_shelf.core.basics.address import host_of
from sign_shelf.outside.fetch import PER_HOST, Fetcher
from sign_shelf.outside.links import AT_ONCE, LinkAsker, check_all

HOSTS, ADDRESSES, LATENCY_S = 50, 10_000, 0.05
_ANSWER = b"HTTP/1.1 200 OK\r\ncontent-type: text/html\r\ncontent-length: 0\r\n\r\n"


def link_lines() -> list[tuple[str, str, str, str, str]]:
    ours, theirs = multiprocessing.Pipe()
    serving = multiprocessing.get_context("spawn").Process(target=_serve, args=[theirs], daemon=True)
    serving.start()
    try:
        hosts: list[str] = ours.recv()
        addresses = [f"http://{hosts[at % HOSTS]}/page-{at}" for at in range(ADDRESSES)]
        begin = perf_counter()
        asyncio.run(_bare(addresses))
        bare_s = perf_counter() - begin
        begin = perf_counter()
        asyncio.run(_bare_aiohttp(addresses))
        aiohttp_s = perf_counter() - begin
        before = _peak_mb()
        begin = perf_counter()
        asyncio.run(_checked(addresses, hosts))
        ours_s = perf_counter() - begin
    finally:
        serving.kill()
        serving.join()
    ideal_s = ADDRESSES * LATENCY_S / AT_ONCE
    return [
        (
            "link checker",
            f"{ADDRESSES:,} addresses, {HOSTS} hosts, {LATENCY_S * 1000:.0f} ms".replace(",", " "),
            f"{ours_s:.1f} s, {ours_s / ideal_s:.2f} × (latency × count ÷ {AT_ONCE} at once); "
            f"{_peak_mb() - before:.0f} MB more than before",
            f"asyncio and httpx alone: {bare_s:.1f} s; and aiohttp: {aiohttp_s:.1f} s",
            "≤ 1.3 ×, ≤ 1.1 × the yardstick, < 250 MB",
        )
    ]


def _peak_mb() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


async def _checked(addresses: Iterable[str], hosts: Iterable[str]) -> None:
    async with Fetcher(frozenset(hosts)) as fetcher:
        async for address, found in check_all(LinkAsker(fetcher, hosts), addresses, pause_s=0):
            assert found.verdict == "ok", (address, found)


async def _bare(addresses: Iterable[str]) -> None:
    room = asyncio.Semaphore(AT_ONCE)
    paces: dict[str, asyncio.Semaphore] = {}

    async def ask(client: httpx.AsyncClient, address: str) -> None:
        async with paces.setdefault(host_of(address), asyncio.Semaphore(PER_HOST)), room:
            answer = await client.head(address)
            assert answer.status_code == 200

    limits = httpx.Limits(max_connections=64, max_keepalive_connections=64, keepalive_expiry=5)
    async with httpx.AsyncClient(limits=limits, trust_env=False) as client:
        await asyncio.gather(*(ask(client, address) for address in addresses))


async def _bare_aiohttp(addresses: Iterable[str]) -> None:
    room = asyncio.Semaphore(AT_ONCE)
    paces: dict[str, asyncio.Semaphore] = {}

    async def ask(client: aiohttp.ClientSession, address: str) -> None:
        async with (
            paces.setdefault(host_of(address), asyncio.Semaphore(PER_HOST)),
            room,
            client.head(address, allow_redirects=False) as answer,
        ):
            assert answer.status == 200

    connector = aiohttp.TCPConnector(limit=64, keepalive_timeout=5, use_dns_cache=False)
    async with aiohttp.ClientSession(connector=connector, cookie_jar=aiohttp.DummyCookieJar()) as client:
        await asyncio.gather(*(ask(client, address) for address in addresses))


def _serve(told: Connection) -> None:
    asyncio.run(_answering(told))


async def _answering(told: Connection) -> None:
    async def answer(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        try:
            while await reader.readuntil(b"\r\n\r\n"):
                await asyncio.sleep(LATENCY_S)
                writer.write(_ANSWER)
                await writer.drain()
        except (asyncio.IncompleteReadError, ConnectionError):
            writer.close()

    servers = [await asyncio.start_server(answer, f"127.0.1.{at + 1}", 0) for at in range(HOSTS)]
    told.send([":".join(map(str, one.sockets[0].getsockname())) for one in servers])
    await asyncio.Event().wait()
