"""Sitemaps: large ones in bounded memory, hostile ones refused with the reason."""

import gzip
import io
import tracemalloc

import pytest
from starlette.applications import Starlette
from starlette.responses import PlainTextResponse, Response
from starlette.routing import Route

from sign_shelf.core.errors import SourceRefused
from sign_shelf.demo.cluster import free_port
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.reading.sitemap import MAX_ADDRESSES, locations, read_sitemaps, unpacked
from tests.serving import serving

NS = 'xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"'


def urlset(count: int, prefix: str = "https://a.example/") -> bytes:
    rows = "".join(f"<url><loc>{prefix}{n}</loc><lastmod>2026-01-01</lastmod></url>" for n in range(count))
    return f'<?xml version="1.0"?><urlset {NS}>{rows}</urlset>'.encode()


def index(*names: str) -> bytes:
    rows = "".join(f"<sitemap><loc>{name}</loc></sitemap>" for name in names)
    return f"<sitemapindex {NS}>{rows}</sitemapindex>".encode()


def test_fifty_thousand_addresses_need_little_memory() -> None:
    source = io.BytesIO(urlset(50_000))
    tracemalloc.start()
    found = sum(1 for entry in locations(source, "x") if entry.kind == "url")
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert found == 50_000
    assert peak < 4 * 1024 * 1024


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (
            b'<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><urlset><url><loc>&b;</loc></url></urlset>',
            "entities",
        ),
        (b'<!DOCTYPE x SYSTEM "file:///etc/passwd"><urlset/>', "document type"),
        (b"<urlset><url>", "not well-formed"),
        (b"<a>" * 100 + b"</a>" * 100, "too deep"),
        (b"\xff\xfe\x00", "not well-formed"),
        (b"", "not well-formed"),
    ],
)
def test_hostile_xml_is_refused(data: bytes, says: str) -> None:
    with pytest.raises(SourceRefused, match=says):
        list(locations(io.BytesIO(data), "x"))


def test_a_gzip_bomb_stops_at_the_limit() -> None:
    bomb = gzip.compress(b"\0" * (60 * 1024 * 1024))
    tracemalloc.start()
    with pytest.raises(SourceRefused, match="unpacks to more than"):
        unpacked(io.BytesIO(bomb), "x")
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert peak < 8 * 1024 * 1024
    with pytest.raises(SourceRefused, match="broken"):
        unpacked(io.BytesIO(gzip.compress(b"x" * 100)[:10] + b"junkjunkjunk"), "x")


async def test_indexes_and_gzip_are_followed_and_loops_refused(fetcher: Fetcher) -> None:
    port = free_port()
    base = f"http://127.0.0.1:{port}/"
    files = {
        "index.xml": index(f"{base}one.xml", f"{base}two.xml.gz"),
        "one.xml": urlset(3, base),
        "two.xml.gz": gzip.compress(urlset(2, f"{base}b/")),
        "other.xml": urlset(2, "https://elsewhere.example/"),
        "loop.xml": index(f"{base}loop.xml"),
        "many.xml": index(*(f"{base}big.xml?{n}" for n in range(2))),
        "big.xml": urlset(40_000, base),
    }

    async def serve(request: object) -> Response:
        name = request.path_params["name"]  # type: ignore[attr-defined]
        return Response(files[name]) if name in files else PlainTextResponse("no", 404)

    with serving(Starlette(routes=[Route("/{name}", serve)]), port):

        async def read(name: str) -> list[str]:
            return [
                address
                async for listed in read_sitemaps(fetcher, [base + name], base)
                for address in listed.pages or ()
            ]

        assert len(await read("index.xml")) == 5
        assert await read("other.xml") == [], "pages of other sites are none of this one's"
        assert len(await read("many.xml")) == MAX_ADDRESSES
        with pytest.raises(SourceRefused, match="leads back"):
            await read("loop.xml")
        with pytest.raises(SourceRefused, match="404"):
            await read("missing.xml")
