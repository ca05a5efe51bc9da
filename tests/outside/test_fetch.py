"""The guarded client: private addresses, redirects, sizes and slowness are all refused with a reason."""

import asyncio

import pytest
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import PlainTextResponse, RedirectResponse, Response
from starlette.routing import Route

from sign_shelf.core.errors import SourceRefused
from sign_shelf.demo.cluster import free_port
from sign_shelf.outside.fetch import Fetcher, is_public
from tests.conftest import serving


@pytest.mark.parametrize(
    ("address", "public"),
    [
        ("127.0.0.1", False), ("10.1.2.3", False), ("172.16.0.1", False), ("192.168.1.1", False), ("169.254.169.254", False),
        ("0.0.0.0", False), ("::1", False), ("fe80::1", False), ("::ffff:127.0.0.1", False), ("fd00::1", False),
        ("224.0.0.1", False), ("100.64.0.1", False), ("93.184.216.34", True), ("2606:2800:220:1::1", True),
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
            ("file", "http and https"),
            ("big", "larger than"),
        ]:
            with pytest.raises(SourceRefused, match=says):
                await fetcher.get(base + what)
        async with Fetcher(frozenset({"127.0.0.1"}), timeout_s=0.2) as hasty:
            with pytest.raises(SourceRefused, match="No usable answer|too long"):
                await hasty.get(base + "slow")
