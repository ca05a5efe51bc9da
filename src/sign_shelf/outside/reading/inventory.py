"""The pages of a site: found through robots.txt and sitemaps, or by following the home page's links."""

import asyncio
import re
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from urllib.parse import unquote, urljoin, urlsplit
from urllib.robotparser import RobotFileParser

from selectolax.lexbor import LexborHTMLParser

from sign_shelf.core.address import normal, origin
from sign_shelf.core.errors import SourceRefused
from sign_shelf.core.formats.html_tree import parse, tidy_words
from sign_shelf.core.ids import ReadableIds
from sign_shelf.core.site import Page
from sign_shelf.outside.fetch import Fetched, Fetcher
from sign_shelf.outside.reading.page import ReadPage, read_page
from sign_shelf.outside.reading.sitemap import read_sitemaps

OPENED = 150
"""Pages that are opened for their titles and parts; the others are named after their addresses."""

_AGENT = "SignShelf"
_AT_ONCE = 6
_NOT_PAGES = re.compile(
    r"\.(?:css|js|png|jpe?g|gif|svg|webp|avif|ico|pdf|epub|zip|gz|xml|json|txt|mp[34]|woff2?|docx?|xlsx?)$", re.I
)

Progress = Callable[[str, int, int | None], Awaitable[None]]
"""Called with what is being done, how many are done, and of how many where that is known."""


@dataclass
class Inventory:
    home: ReadPage
    home_tree: LexborHTMLParser
    addresses: list[str]
    opened: dict[str, ReadPage]
    notes: list[str] = field(default_factory=list)
    from_sitemap: bool = False


def is_html(answer: Fetched) -> bool:
    return answer.content_type in {"text/html", "application/xhtml+xml", ""}


async def read_inventory(fetcher: Fetcher, home_url: str, home: Fetched, progress: Progress) -> Inventory:
    tree = parse(home.body, home_url)
    front = read_page(home.url, tree)
    found = Inventory(front, tree, [home_url], {home_url: front})
    robots = await _robots(fetcher, home_url, found.notes)
    await _from_sitemaps(fetcher, home_url, robots, found, progress)
    await _open(fetcher, home_url, robots, found, progress)
    return found


async def _robots(fetcher: Fetcher, home_url: str, notes: list[str]) -> RobotFileParser:
    robots = RobotFileParser()
    robots.parse([])
    try:
        answer = await fetcher.get(urljoin(home_url, "/robots.txt"), max_bytes=512 * 1024)
        if answer.status == 200 and not answer.body.lstrip().startswith(b"<"):
            robots.parse(answer.body.decode("utf-8", "replace").splitlines())
    except SourceRefused as exc:
        notes.append(f"robots.txt: {exc.says}")
    return robots


async def _from_sitemaps(
    fetcher: Fetcher, home_url: str, robots: RobotFileParser, found: Inventory, progress: Progress
) -> None:
    named = robots.site_maps()
    sitemaps = [urljoin(home_url, address) for address in named or ["/sitemap.xml"]]
    known = set(found.addresses)
    try:
        async for address in read_sitemaps(fetcher, sitemaps):
            url = normal(address, home_url)
            if url is None or origin(url) != origin(home_url) or url in known:
                continue
            known.add(url)
            found.addresses.append(url)
            if len(known) % 1_000 == 0:
                await progress("reading sitemaps", len(known), None)
        found.from_sitemap = True
    except SourceRefused as exc:
        if named or "404" not in exc.says:
            found.notes.append(f"{exc.where or 'sitemap'}: {exc.says}")


async def _open(fetcher: Fetcher, home_url: str, robots: RobotFileParser, found: Inventory, progress: Progress) -> None:
    """Opens pages: those of the sitemap, or, without one, those that links lead to from the home page onwards."""
    known = set(found.addresses)
    waiting = list(found.addresses[1:])
    if not found.from_sitemap or len(waiting) < 2:
        waiting += _follow(found.home, home_url, known)
    while waiting and len(found.opened) < OPENED:
        batch, waiting = waiting[:_AT_ONCE], waiting[_AT_ONCE:]
        allowed = [url for url in batch if robots.can_fetch(_AGENT, url)]
        if len(allowed) < len(batch):
            found.notes.append(f"robots.txt asks not to read {next(url for url in batch if url not in allowed)}")
        answers = await asyncio.gather(*(_page(fetcher, url) for url in allowed))
        for url, page in zip(allowed, answers, strict=True):
            if page is None:
                if url in found.addresses:
                    found.addresses.remove(url)
                continue
            found.opened[url] = page
            if url not in found.addresses:
                found.addresses.append(url)
            if not found.from_sitemap:
                waiting += _follow(page, home_url, known)
        await progress("opening pages", len(found.opened), min(OPENED, len(found.addresses) + len(waiting)))
    if waiting:
        found.notes.append(f"{OPENED} pages were opened; {len(waiting)} more are known by address only.")
        if not found.from_sitemap:
            found.addresses += [url for url in waiting if url not in set(found.addresses)]


def _follow(page: ReadPage, home_url: str, known: set[str]) -> list[str]:
    new = []
    for link in page.links:
        url = normal(link, page.url)
        if url and url not in known and origin(url) == origin(home_url) and not _NOT_PAGES.search(urlsplit(url).path):
            if _same_as_home(url, home_url):
                continue
            known.add(url)
            new.append(url)
    return new


def _same_as_home(url: str, home_url: str) -> bool:
    """`/index.html` is the home page under its file's name."""
    return (
        not urlsplit(url).query
        and urljoin(url, ".") == home_url
        and urlsplit(url).path.rsplit("/", 1)[-1] == "index.html"
    )


async def _page(fetcher: Fetcher, url: str) -> ReadPage | None:
    try:
        answer = await fetcher.get(url)
        if answer.status != 200 or not is_html(answer):
            return None
        return read_page(answer.url, parse(answer.body, url))
    except SourceRefused:
        return None


def pages_of(found: Inventory, home_url: str, language: str) -> tuple[Page, ...]:
    """The inventory as pages, parents by path, titles without the ending that all of them share."""
    names = ReadableIds()
    names.take("home", otherwise="home")
    ending = _shared_ending([page.title for page in found.opened.values()])
    refs: dict[str, str] = {}
    pages = []
    for url in found.addresses:
        path = _path(url)
        stem = re.sub(r"\.x?html?$", "", unquote(path)).strip("/")
        ref = "home" if url == home_url else names.take(stem, otherwise="page")
        refs[_directory(path)] = ref
        page = found.opened.get(url)
        title = page.title.removesuffix(ending).strip() if page else ""
        spoken = (page.language if page else None) or language
        pages.append(
            Page(
                ref=ref,
                path=path,
                title={spoken: title or tidy_words(stem.rsplit("/", 1)[-1].replace("-", " ").capitalize()) or "Home"},
                type=page.type if page else "page",
                language=spoken,
                parts=page.parts if page else (),
                overlays=page.overlays if page else (),
            )
        )
    return tuple(page.model_copy(update={"under": _parent(page, refs)}) for page in pages)


def _path(url: str) -> str:
    parts = urlsplit(url)
    return (parts.path or "/") + (f"?{parts.query}" if parts.query else "")


def _directory(path: str) -> str:
    return re.sub(r"/index\.x?html?$", "/", path.partition("?")[0]).rstrip("/") or "/"


def _parent(page: Page, refs: dict[str, str]) -> str | None:
    at = _directory(page.path)
    while at != "/":
        at = at.rpartition("/")[0] or "/"
        if at != "/" and at in refs and refs[at] != page.ref:
            return refs[at]
    return None


_SEPARATOR = re.compile(r"\s+(?:[-–—|·»]|::)\s+")


def _shared_ending(titles: list[str]) -> str:
    """What follows the last separator of most titles, such as " – Brackwater Ferries", separator included."""
    ends = []
    for title in titles:
        separators = list(_SEPARATOR.finditer(title))
        ends += [title[separators[-1].start() :]] if separators else []
    if not ends:
        return ""
    common = max(set(ends), key=ends.count)
    return common if ends.count(common) * 2 > len(titles) else ""
