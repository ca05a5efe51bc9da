"""A whole documentation site of Debian's, served on loopback: what the link checker finds wrong is what a walk through its files,
made here with lxml alone, finds wrong; nothing less, nothing more."""

import itertools
import re
import shutil
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import unquote, urldefrag, urljoin, urlsplit

import lxml.html
import pytest
from starlette.applications import Starlette
from starlette.routing import Mount
from starlette.staticfiles import StaticFiles

from sign_shelf.demo import cluster as clusters
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.links import LinkAsker, check_all
from tests.constants import LOOPBACK
from tests.serving import serving

DEVELOPERS = Path("/usr/share/developers-reference")
GIT = Path("/usr/share/doc/git/html")


def links_of(folder: Path, base: str) -> Iterator[tuple[str, str | None]]:
    """Every address on the site that a page of it leads to, and what is wrong with it by the files."""
    parts: dict[Path, set[str]] = {}

    def parts_of(file: Path) -> set[str]:
        if file not in parts:
            tree = lxml.html.parse(str(file), parser=lxml.html.HTMLParser(encoding="utf-8")).getroot()
            parts[file] = {*tree.xpath("//@id"), *tree.xpath("//a/@name")}
        return parts[file]

    for page in sorted(folder.glob("*.html")):
        own = urljoin(base, page.relative_to(folder).as_posix())
        for href in (
            lxml.html.parse(str(page), parser=lxml.html.HTMLParser(encoding="utf-8")).getroot().xpath("//a/@href")
        ):
            address, part = urldefrag(urljoin(own, href.strip()))
            if urlsplit(address).netloc != urlsplit(base).netloc:
                continue
            file = folder / unquote(urlsplit(address).path).lstrip("/")
            file = file / "index.html" if file.is_dir() else file
            if not file.is_file():
                wrong = "gone"
            else:
                named = {part, unquote(part)}
                there = not part or part == "top" or file.suffix != ".html" or bool(named & parts_of(file))
                wrong = None if there else "missing-part"
            yield f"{address}#{part}" if part else address, wrong


def damaged(folder: Path) -> Path:
    """A copy in which every ninth part has another name, and one page is missing."""
    shutil.copytree(DEVELOPERS, folder, ignore=shutil.ignore_patterns("*.pdf", "*.epub", "l10n.html"))
    count = itertools.count(1)
    for page in folder.glob("*.html"):
        page.write_text(re.sub(r' id="', lambda at: at[0] if next(count) % 9 else ' id="not-', page.read_text("utf-8")))
    return folder


async def found_wrong(folder: Path) -> tuple[dict[str, str], dict[str, str]]:
    """What the link checker finds of all that the site's pages lead to on it, and what the walk does."""
    port = clusters.free_port()
    base = f"http://127.0.0.1:{port}/"
    expected = dict(links_of(folder, base))
    assert len(expected) > 400
    app = Starlette(routes=[Mount("/", StaticFiles(directory=folder, html=True, follow_symlink=True))])
    with serving(app, port):
        async with Fetcher(LOOPBACK) as fetcher:
            asker = LinkAsker(fetcher, {f"127.0.0.1:{port}"})
            found = {address: one async for address, one in check_all(asker, expected, pause_s=0)}
    told = {address: one.verdict for address, one in found.items() if one.verdict not in {"ok", "redirect"}}
    return dict(told), {address: says for address, says in expected.items() if says is not None}


@pytest.mark.parametrize(("folder", "kinds"), [(DEVELOPERS, set[str]()), (GIT, {"gone"})])
async def test_all_that_is_broken_is_found_and_nothing_is_invented(folder: Path, kinds: set[str]) -> None:
    told, expected = await found_wrong(folder)
    assert told == expected
    assert set(told.values()) == kinds


async def test_missing_parts_and_pages_are_found_where_they_were_taken_out(tmp_path: Path) -> None:
    told, expected = await found_wrong(damaged(tmp_path / "site"))
    assert told == expected
    assert Counter(told.values())["missing-part"] > 20
    assert Counter(told.values())["gone"] > 5
