"""The guarded client: private addresses, redirects, sizes and slowness are all refused with a reason."""

import asyncio
import contextlib
import gzip
import ssl
import tracemalloc
import zlib
from pathlib import Path

import brotli
import pytest
import uvicorn
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import PlainTextResponse, RedirectResponse, Response
from starlette.routing import Route

from sign_shelf.core.errors import SourceRefused
from sign_shelf.demo.cluster import free_port
from sign_shelf.demo.stand_ins.certificate import certificate
from sign_shelf.outside.dialling import is_public
from sign_shelf.outside.fetch import PAGE_BYTES, Fetcher
from tests.serving import serving


@pytest.mark.parametrize(
    ("address", "public"),
    [
        ("127.0.0.1", False), ("10.1.2.3", False), ("172.16.0.1", False), ("192.168.1.1", False), ("169.254.169.254", False),
        ("0.0.0.0", False), ("::1", False), ("fe80::1", False), ("::ffff:127.0.0.1", False), ("fd00::1", False),
        ("224.0.0.1", False), ("100.64.0.1", False), ("93.184.216.34", True), ("2606:2800:220:1::1", True),
        ("64:ff9b::7f00:1", False), ("64:ff9b::5db8:d822", True), ("64:ff9b:1::a00:1", False), ("2002:7f00:1::1", False),
        ("2002:5db8:d822::1", True), ("::127.0.0.1", False), ("::ffff:0:10.0.0.1", False), ("2001:0:5db8:d822::80ff:fffe", False),
        ("fe80::5efe:127.0.0.1", False), ("2606:2800:220:1:0:5efe:a00:1", False), ("::ffff:93.184.216.34", True), ("240.0.0.1", False),
    ],
)  # fmt: skip
def test_private_addresses_are_known(address: str, public: bool) -> None:
    assert is_public(address) is public


@pytest.mark.parametrize("url", ["http://127.0.0.1:1/", "http://localhost:1/", "http://[::1]:1/", "http://0x7f.1:1/"])
async def test_private_hosts_are_refused_before_any_connection(url: str) -> None:
    async with Fetcher() as fetcher:
        with pytest.raises(SourceRefused, match="private address|not known"):
            await fetcher.get(url)


async def test_limits_hold(fetcher: Fetcher) -> None:
    """Redirects to private hosts, redirect loops, too much, too slow, and other schemes."""
    port = free_port()

    async def answer(request: Request) -> Response:
        match request.path_params["what"]:
            case "inside":
                return RedirectResponse("http://localhost:9/secret")
            case "loop":
                return RedirectResponse("/loop")
            case "file":
                return RedirectResponse("file:///etc/passwd")
            case "torn":
                return Response(status_code=302, headers={"location": "//["})
            case "big":
                return PlainTextResponse("x" * 5_000_000)
            case "slow":
                await asyncio.sleep(3)
        return PlainTextResponse("fine")

    with serving(Starlette(routes=[Route("/{what}", answer)]), port):
        base = f"http://127.0.0.1:{port}/"
        assert (await fetcher.get(base + "ok")).body == b"fine"
        for what, says in [
            ("inside", "private address"),
            ("loop", "redirects"),
            ("file", "no http or https address"),
            ("torn", "no http or https address"),
            ("big", "larger than"),
        ]:
            with pytest.raises(SourceRefused, match=says):
                await fetcher.get(base + what)
        async with Fetcher(frozenset({"127.0.0.1"}), timeout_s=0.2) as hasty:
            with pytest.raises(SourceRefused, match="No usable answer|too long"):
                await hasty.get(base + "slow")


def bomb(pack: object, size: int = 100_000_000) -> bytes:
    """Zeros, packed: little comes, much would be made of it."""
    return pack(b"\0" * size)  # type: ignore[operator, no-any-return]


PACKED = {
    "gzip": lambda: bomb(gzip.compress),
    "deflate": lambda: bomb(zlib.compress),
    "br": lambda: bomb(lambda data: brotli.compress(data, quality=1)),
}


@pytest.mark.parametrize("coding", PACKED)
async def test_what_unpacks_without_end_is_stopped_at_the_limit(fetcher: Fetcher, coding: str) -> None:
    """And what is small enough arrives unpacked, though it was not asked for so."""
    body, small = PACKED[coding](), b"plain words " * 20_000
    packed = {"gzip": gzip.compress, "deflate": zlib.compress, "br": brotli.compress}[coding](small)

    async def answer(request: Request) -> Response:
        sent = packed if request.url.path == "/small" else body
        return Response(sent, headers={"content-encoding": coding})

    port = free_port()
    with serving(Starlette(routes=[Route("/{what}", answer)]), port):
        base = f"http://127.0.0.1:{port}/"
        assert (await fetcher.get(base + "small")).body == small
        tracemalloc.start()
        with pytest.raises(SourceRefused, match=f"larger than {PAGE_BYTES}"):
            await fetcher.get(base + "bomb")
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        assert peak < 6 * PAGE_BYTES


@pytest.mark.parametrize("coding", ["gzip, gzip, gzip", "gzip,br", "zstd", "x" * 5_000])
async def test_one_packing_at_most_is_undone(fetcher: Fetcher, coding: str) -> None:
    async def answer(request: Request) -> Response:
        return Response(gzip.compress(gzip.compress(b"x")), headers={"content-encoding": coding})

    port = free_port()
    with (
        serving(Starlette(routes=[Route("/", answer)]), port),
        pytest.raises(SourceRefused, match="which is not undone"),
    ):
        await fetcher.get(f"http://127.0.0.1:{port}/")


@pytest.mark.parametrize("coding", ["gzip", "deflate", "br"])
async def test_broken_packing_is_told(fetcher: Fetcher, coding: str) -> None:
    async def answer(request: Request) -> Response:
        return Response(b"this is packed by nobody", headers={"content-encoding": coding})

    port = free_port()
    with serving(Starlette(routes=[Route("/", answer)]), port), pytest.raises(SourceRefused, match="packing is broken"):
        await fetcher.get(f"http://127.0.0.1:{port}/")


async def test_each_host_shows_its_own_certificate_though_they_share_an_address(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """And a name whose first address does not answer is reached at the next one."""
    shown, key = certificate(tmp_path, ["one.test"])

    async def answer(request: Request) -> Response:
        return PlainTextResponse(request.headers["host"])

    async def names(*_: object, **__: object) -> list[tuple[object, ...]]:
        return [(0, 0, 0, "", (address, 0)) for address in ("127.0.0.9", "127.0.0.1")]

    port = free_port()
    app = Starlette(routes=[Route("/", answer)])
    tls = ssl.create_default_context(cafile=str(shown))
    config = uvicorn.Config(app, host="127.0.0.1", port=port, log_level="error", lifespan="off",
                            ssl_certfile=str(shown), ssl_keyfile=str(key))  # fmt: skip
    server = uvicorn.Server(config)
    running = asyncio.create_task(server.serve())
    while not server.started:  # noqa: ASYNC110 - uvicorn tells nobody
        await asyncio.sleep(0)
    monkeypatch.setattr(asyncio.get_running_loop(), "getaddrinfo", names)
    allowed = frozenset({"one.test", "two.test"})
    async with Fetcher(allowed, timeout_s=5, tls=tls) as fetcher:
        assert (await fetcher.get(f"https://one.test:{port}/")).body.decode() == f"one.test:{port}"
        with pytest.raises(SourceRefused, match=r"certificate|two\.test"):
            await fetcher.get(f"https://two.test:{port}/")
    monkeypatch.undo()
    server.should_exit = True
    await running


async def test_connections_are_used_again_and_whatever_a_header_holds_can_be_kept(fetcher: Fetcher) -> None:
    """A HEAD is answered whole: the next request needs no new connection. Bytes of no text are read as Latin-1."""
    dialled = 0

    async def answer(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        nonlocal dialled
        dialled += 1
        with contextlib.suppress(asyncio.IncompleteReadError):
            while await reader.readuntil(b"\r\n\r\n"):
                writer.write(b'HTTP/1.1 200 OK\r\nETag: "\xff"\r\nLink: a\r\nlink: b\r\nContent-Length: 7\r\n\r\n')
        writer.close()

    server = await asyncio.start_server(answer, "127.0.0.1", 0)
    port = server.sockets[0].getsockname()[1]
    for _ in range(5):
        came = await fetcher.ask("HEAD", f"http://127.0.0.1:{port}/")
        assert (came.status, came.headers["etag"], came.headers["link"]) == (200, '"\xff"', "a, b")
        assert came.headers["etag"].encode()
    assert dialled == 1
    server.close()
