"""Sitemaps (sitemaps.org protocol 0.9): plain and gzipped, and indexes of them, read in bounded memory."""

import tempfile
import zlib
from collections.abc import AsyncIterator, Iterator
from typing import IO
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import iterparse

from sign_shelf.core.basics.address import normal, origin
from sign_shelf.core.errors import SourceRefused
from sign_shelf.outside.apart import apart
from sign_shelf.outside.fetch import Fetcher

MAX_ADDRESSES = 50_000
MAX_BYTES = 50 * 1024 * 1024
"""Both limits are the protocol's own for one file; here they hold for a whole site."""

MAX_SITEMAPS = 50
_PIECE = 65_536
_IN_MEMORY = 1024 * 1024


def unpacked(source: IO[bytes], where: str) -> IO[bytes]:
    """The file itself, or what it holds where it is gzip. Raises SourceRefused where that is over 50 MiB or broken."""
    source.seek(0)
    magic = source.read(2)
    source.seek(0)
    if magic != b"\x1f\x8b":
        return source
    target = tempfile.SpooledTemporaryFile(max_size=_IN_MEMORY)  # noqa: SIM115 - the caller closes it
    inflater = zlib.decompressobj(wbits=31)
    size = 0
    try:
        while piece := source.read(_PIECE):
            while piece:
                out = inflater.decompress(piece, _PIECE)
                size += len(out)
                if size > MAX_BYTES:
                    raise SourceRefused(f"The gzip file unpacks to more than {MAX_BYTES} bytes.", where=where)
                target.write(out)
                piece = inflater.unconsumed_tail
    except SourceRefused:
        target.close()
        raise
    except zlib.error as exc:
        target.close()
        raise SourceRefused(f"The gzip file is broken: {exc}", where=where) from exc
    if not inflater.eof:
        target.close()
        raise SourceRefused("The gzip file is broken: it ends too early.", where=where)
    target.seek(0)
    return target


def locations(source: IO[bytes], where: str) -> Iterator[tuple[str, str]]:
    """`("url" or "sitemap", address)` for each entry. Raises SourceRefused for anything that is no sound sitemap."""
    path: list[Element] = []
    try:
        for event, element in iterparse(source, events=("start", "end"), forbid_dtd=True):
            if event == "start":
                path.append(element)
                if len(path) > 20:
                    raise SourceRefused("The sitemap nests too deep.", where=where)
                continue
            path.pop()
            name = element.tag.rpartition("}")[2]
            parent = path[-1].tag.rpartition("}")[2] if path else ""
            if name == "loc" and parent in {"url", "sitemap"} and element.text:
                yield parent, element.text.strip()
            if parent in {"urlset", "sitemapindex"}:
                path[-1].clear()
    except DefusedXmlException as exc:
        raise SourceRefused(
            "The sitemap declares a document type or entities, which no sitemap needs.", where=where
        ) from exc
    except ParseError as exc:
        raise SourceRefused(f"The sitemap is not well-formed XML: {exc}", where=where) from exc


def read_file(file: str, where: str, home_url: str, most: int) -> tuple[list[str], list[str]]:
    """The pages on the site at `home_url` and the further sitemaps that the file names, at most so many of each."""
    pages: list[str] = []
    sitemaps: list[str] = []
    with open(file, "rb") as raw, unpacked(raw, where) as source:
        for kind, address in locations(source, where):
            url = normal(address, home_url)
            if kind == "sitemap":
                sitemaps.append(url or address)
            elif url is not None and origin(url) == origin(home_url):
                pages.append(url)
            if len(pages) >= most or len(sitemaps) > MAX_SITEMAPS:
                break
    return pages, sitemaps


async def read_sitemaps(fetcher: Fetcher, start: list[str], home_url: str) -> AsyncIterator[str]:
    """The pages of the site at `home_url` in these sitemaps and those that they name; at most 50 000. Raises
    SourceRefused."""
    waiting = list(dict.fromkeys(start))
    seen: set[str] = set()
    given = 0
    while waiting and given < MAX_ADDRESSES:
        url = waiting.pop(0)
        if url in seen:
            raise SourceRefused("The sitemap index leads back to a sitemap that was read already.", where=url)
        seen.add(url)
        if len(seen) > MAX_SITEMAPS:
            raise SourceRefused(f"The site names more than {MAX_SITEMAPS} sitemaps.", where=url)
        with tempfile.NamedTemporaryFile() as raw:
            answer = await fetcher.save(url, raw, max_bytes=MAX_BYTES)
            if answer.status != 200:
                raise SourceRefused(f"The sitemap is answered with {answer.status}.", where=url)
            raw.flush()
            pages, sitemaps = await apart(url, read_file, raw.name, url, home_url, MAX_ADDRESSES - given)
        waiting += sitemaps
        given += len(pages)
        for page in pages:
            yield page
