"""The pages of a site: found through robots.txt and sitemaps, or by following the home page's links.

A site may be of any size and mean no good: what one reading opens, follows, fetches and lasts is bounded, and the
reading says where it stopped.
"""

import asyncio
import re
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from time import monotonic

from protego import Protego

from sign_shelf.core.basics.address import normal, origin, path_of
from sign_shelf.core.errors import SourceRefused
from sign_shelf.core.formats.html_tree import tidy_words
from sign_shelf.core.formats.navigation import FoundNavigation
from sign_shelf.core.inventory import Answered, Reading, compared, shared_ending
from sign_shelf.core.model.site import Page
from sign_shelf.outside.apart import apart
from sign_shelf.outside.fetch import Fetched, Fetcher
from sign_shelf.outside.reading.page import ReadPage, open_page
from sign_shelf.outside.reading.robots import AGENT, read_robots
from sign_shelf.outside.reading.sitemap import read_sitemaps

OPENED = 150
"""Pages that are opened for their titles and parts; the others are named after their addresses."""

FOLLOWED = 20_000
"""Addresses that are kept from links, where no sitemap names the pages."""

READ_BYTES = 200 * 1024 * 1024
READ_S = 300.0
"""What opening pages may fetch, and how long it may take, all pages of one reading together."""

_AT_ONCE = 6
_NOT_PAGES = re.compile(
    r"\.(?:css|js|png|jpe?g|gif|svg|webp|avif|ico|pdf|epub|zip|gz|xml|json|txt|mp[34]|woff2?|docx?|xlsx?)$", re.I
)

Progress = Callable[[str, int, int | None], Awaitable[None]]
"""Called with what is being done, how many are done, and of how many where that is known."""


@dataclass
class Inventory:
    home: ReadPage
    navigations: list[FoundNavigation]
    addresses: dict[str, None]
    """In the order in which they were found."""
    opened: dict[str, ReadPage]
    notes: list[str] = field(default_factory=list)
    from_sitemap: bool = False

    def note(self, says: str) -> None:
        if len(self.notes) < 50 and says not in self.notes:
            self.notes.append(says)


async def read_inventory(fetcher: Fetcher, home_url: str, home: Fetched, progress: Progress) -> Inventory:
    front, navigations = await apart(home_url, open_page, home.url, home.body, navigations=True)
    found = Inventory(front, navigations, {home_url: None}, {home_url: front})
    robots = await _robots(fetcher, home_url, found)
    await _from_sitemaps(fetcher, home_url, robots, found, progress)
    await _open(fetcher, home_url, robots, found, progress)
    return found


async def _robots(fetcher: Fetcher, home_url: str, found: Inventory) -> Protego:
    try:
        return await read_robots(fetcher, home_url)
    except SourceRefused as exc:
        found.note(f"robots.txt: {exc.says}")
        return Protego.parse("")


async def _from_sitemaps(
    fetcher: Fetcher, home_url: str, robots: Protego, found: Inventory, progress: Progress
) -> None:
    named = list(robots.sitemaps)
    sitemaps, wrong = sitemaps_of(robots, home_url)
    for address in wrong:
        found.note(f'robots.txt names "{address}" as a sitemap, which is no address')
    try:
        async for listed in read_sitemaps(fetcher, sitemaps, home_url):
            found.addresses.update(dict.fromkeys(listed.pages or ()))
            await progress("reading sitemaps", len(found.addresses), None)
        found.from_sitemap = True
    except SourceRefused as exc:
        if named or "404" not in exc.says:
            found.note(f"{exc.where or 'sitemap'}: {exc.says}")


def sitemaps_of(robots: Protego, home_url: str) -> tuple[list[str], list[str]]:
    """Where the site's sitemaps are, the usual place where it names none; and what it names that is no address."""
    named = list(robots.sitemaps) or ["/sitemap.xml"]
    found = [(address, normal(address, home_url)) for address in named]
    return [url for _, url in found if url], [tidy_words(address)[:80] for address, url in found if url is None]


async def _open(fetcher: Fetcher, home_url: str, robots: Protego, found: Inventory, progress: Progress) -> None:
    """Opens pages: those of the sitemap, or, without one, those that links lead to from the home page onwards."""
    follow = Followed(home_url, dict(found.addresses))
    waiting = [url for url in found.addresses if url != home_url]
    if not found.from_sitemap or len(waiting) < 2:
        waiting += follow.new(found.home)
    at, fetched, until = 0, 0, monotonic() + READ_S
    while at < len(waiting) and len(found.opened) < OPENED:
        if fetched > READ_BYTES:
            found.note(f"Reading stopped after {READ_BYTES // 1024 // 1024} MB of pages.")
            break
        if monotonic() > until:
            found.note(f"Reading stopped after {READ_S / 60:.0f} minutes.")
            break
        batch = waiting[at : at + _AT_ONCE]
        at += len(batch)
        allowed = [url for url in batch if robots.can_fetch(url, AGENT)]
        if len(allowed) < len(batch):
            found.note(f"robots.txt asks not to read {next(url for url in batch if url not in allowed)}")
        answers = await asyncio.gather(*(_page(fetcher, url) for url in allowed))
        for url, (page, size) in zip(allowed, answers, strict=True):
            fetched += size
            if page is None:
                found.addresses.pop(url, None)
                continue
            found.opened[url] = page
            found.addresses.setdefault(url)
            if not found.from_sitemap:
                waiting += follow.new(page)
        await progress("opening pages", len(found.opened), min(OPENED, len(found.addresses) + len(waiting) - at))
    if follow.full:
        found.note(f"More than {FOLLOWED} addresses are linked; the others are left out.")
    if left := len(waiting) - at:
        found.note(f"{len(found.opened)} pages were opened; {left} more are known by address only.")
        if not found.from_sitemap:
            found.addresses.update(dict.fromkeys(waiting[at:]))


class Followed:
    """The pages of the site that links lead to, each once, up to a bound."""

    def __init__(self, home_url: str, known: dict[str, None]) -> None:
        self._home = home_url
        self._origin = origin(home_url)
        self._known = known
        self.full = False

    def new(self, page: ReadPage) -> list[str]:
        new = []
        for link in page.links:
            url = normal(link, page.url)
            if url is None or url in self._known or origin(url) != self._origin:
                continue
            if _NOT_PAGES.search(path_of(url).partition("?")[0]) or _same_as_home(url, self._home):
                continue
            if len(self._known) >= FOLLOWED:
                self.full = True
                break
            self._known[url] = None
            new.append(url)
        return new


def _same_as_home(url: str, home_url: str) -> bool:
    """`/index.html` is the home page under its file's name."""
    return url.endswith("/index.html") and url.removesuffix("index.html") == home_url


async def _page(fetcher: Fetcher, url: str) -> tuple[ReadPage | None, int]:
    """The page, and how many bytes it took."""
    try:
        answer = await fetcher.get(url)
        if answer.status != 200 or not answer.is_html:
            return None, len(answer.body)
        page, _ = await apart(url, open_page, answer.url, answer.body)
        return page, len(answer.body)
    except SourceRefused:
        return None, 0


def pages_of(found: Inventory, home_url: str, language: str) -> tuple[Page, ...]:
    """The inventory as pages, parents by path, titles without the ending that all of them share."""
    answers = {path_of(url): Answered("page", page.seen()) for url, page in found.opened.items()}
    listed = tuple(path_of(url) for url in found.addresses)
    ending = shared_ending([page.title for page in found.opened.values()])
    reading = Reading(answers, listed)
    return compared((), reading, language=language, ending=ending, home=path_of(home_url)).pages
