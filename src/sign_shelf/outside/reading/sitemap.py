"""Sitemaps (sitemaps.org protocol 0.9): plain and gzipped, and indexes of them, read in bounded memory."""

import tempfile
import zlib
from collections.abc import AsyncIterator, Iterator, Mapping
from dataclasses import dataclass
from typing import IO, Literal
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import iterparse

from sign_shelf.core.basics.address import normal, origin
from sign_shelf.core.errors import SourceRefused
from sign_shelf.outside.apart import apart
from sign_shelf.outside.fetch import Fetcher, only_if_changed

MAX_ADDRESSES = 50_000
MAX_BYTES = 50 * 1024 * 1024
"""Both limits are the protocol's own for one file; here they hold for a whole site."""

MAX_SITEMAPS = 50
LONGEST_DATE = 40
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


@dataclass(frozen=True)
class Entry:
    """`changed` is its `lastmod` as written; empty where it has none."""

    kind: Literal["url", "sitemap"]
    address: str
    changed: str = ""


def locations(source: IO[bytes], where: str) -> Iterator[Entry]:
    """Each entry of the sitemap. Raises SourceRefused for anything that is no sound sitemap."""
    path: list[Element] = []
    address = changed = ""
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
            words = (element.text or "").strip()
            if name == "loc" and parent in {"url", "sitemap"}:
                address = address or words
            elif name == "lastmod" and parent in {"url", "sitemap"}:
                changed = words[:LONGEST_DATE]
            elif name in {"url", "sitemap"}:
                if address:
                    yield Entry("url" if name == "url" else "sitemap", address, changed)
                address = changed = ""
            if parent in {"urlset", "sitemapindex"}:
                path[-1].clear()
    except DefusedXmlException as exc:
        raise SourceRefused(
            "The sitemap declares a document type or entities, which no sitemap needs.", where=where
        ) from exc
    except ParseError as exc:
        raise SourceRefused(f"The sitemap is not well-formed XML: {exc}", where=where) from exc


@dataclass(frozen=True)
class SitemapFile:
    """One file as it was read: by what it is asked for again, and which further files it names."""

    url: str
    etag: str | None = None
    modified: str | None = None
    sitemaps: tuple[str, ...] = ()


@dataclass(frozen=True)
class Listed:
    """`pages` by absolute address with their `lastmod`, None where the file is as it was."""

    file: SitemapFile
    pages: Mapping[str, str] | None


def read_file(file: str, where: str, home_url: str, most: int) -> tuple[dict[str, str], list[str]]:
    """The pages on the site at `home_url`, with when they changed, and the further sitemaps that the file names, at most so
    many of each."""
    pages: dict[str, str] = {}
    sitemaps: list[str] = []
    with open(file, "rb") as raw, unpacked(raw, where) as source:
        for entry in locations(source, where):
            url = normal(entry.address, home_url)
            if entry.kind == "sitemap":
                sitemaps.append(url or entry.address)
            elif url is not None and origin(url) == origin(home_url):
                pages[url] = entry.changed
            if len(pages) >= most or len(sitemaps) > MAX_SITEMAPS:
                break
    return pages, sitemaps


async def read_sitemaps(
    fetcher: Fetcher, start: list[str], home_url: str, before: Mapping[str, SitemapFile] | None = None
) -> AsyncIterator[Listed]:
    """These sitemaps and those that they name, with the pages of the site at `home_url`; at most 50 000. A file that was read
    `before` is asked for only where it changed. Raises SourceRefused."""
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
        kept = (before or {}).get(url)
        with tempfile.NamedTemporaryFile() as raw:
            asked = only_if_changed(kept.etag, kept.modified) if kept is not None else {}
            answer = await fetcher.save(url, raw, max_bytes=MAX_BYTES, headers=asked)
            if answer.status == 304 and kept is not None:
                waiting += kept.sitemaps
                yield Listed(kept, None)
                continue
            if answer.status != 200:
                raise SourceRefused(f"The sitemap is answered with {answer.status}.", where=url)
            raw.flush()
            pages, sitemaps = await apart(url, read_file, raw.name, url, home_url, MAX_ADDRESSES - given)
        waiting += sitemaps
        given += len(pages)
        file = SitemapFile(url, answer.headers.get("etag"), answer.headers.get("last-modified"), tuple(sitemaps))
        yield Listed(file, pages)
