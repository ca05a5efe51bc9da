"""Reading a known site's pages once more: what changed is read, of the rest is asked whether it did.

What is asked in one reading is bounded; what was not asked for longest comes first, so that in time all is.
"""

import asyncio
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from time import monotonic
from typing import Literal

from protego import Protego

from sign_shelf.core.basics.address import normal, origin, path_of
from sign_shelf.core.errors import NoAnswer, SourceRefused
from sign_shelf.core.inventory import Answered, Reading
from sign_shelf.outside.apart import apart
from sign_shelf.outside.fetch import MAX_REDIRECTS, Fetched, Fetcher, only_if_changed
from sign_shelf.outside.reading.inventory import READ_BYTES, READ_S, Followed, Progress, sitemaps_of
from sign_shelf.outside.reading.page import ReadPage, open_page
from sign_shelf.outside.reading.robots import AGENT, read_robots
from sign_shelf.outside.reading.sitemap import SitemapFile, read_sitemaps

ASKED = 600
"""Pages that one reading asks for."""
_AT_ONCE = 6
_FOR_GOOD = {301, 308}


@dataclass(frozen=True)
class Kept:
    """By what a page is asked for only if it changed; `listed_in` is the sitemap that names it, `changed` its `lastmod` there."""

    etag: str | None = None
    modified: str | None = None
    listed_in: str = ""
    changed: str = ""


@dataclass(frozen=True)
class Before:
    """`pages` by absolute address: those that were not asked for longest first."""

    pages: Mapping[str, Kept]
    sitemaps: Mapping[str, SitemapFile] = field(default_factory=dict)


@dataclass(frozen=True)
class Asked:
    status: int | None
    answered: Answered
    kept: Kept


@dataclass
class Again:
    """`asked` and `listed` by path. `from_sitemap`: whether the site names its pages; "broken" where it did and what stands
    there now is no sitemap."""

    asked: dict[str, Asked] = field(default_factory=dict)
    listed: dict[str, Kept] = field(default_factory=dict)
    sitemaps: list[SitemapFile] = field(default_factory=list)
    from_sitemap: Literal["yes", "no", "broken"] = "no"
    titles: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)

    def reading(self) -> Reading:
        return Reading({path: one.answered for path, one in self.asked.items()}, tuple(self.listed))


async def read_again(fetcher: Fetcher, home_url: str, before: Before, progress: Progress) -> Again:
    """Raises SourceRefused where the home page does not answer: then nothing is known of the others either."""
    again = Again()
    home, page = await _ask(fetcher, home_url, before.pages.get(home_url, Kept()))
    if home.answered.answer not in {"page", "unchanged", "moved"}:
        raise SourceRefused(f"The home page is answered with {home.status or 'nothing that helps'}.", where=home_url)
    again.asked[path_of(home_url)] = home
    robots = await _robots(fetcher, home_url, again)
    await _list(fetcher, home_url, robots, before, again)
    await _look(fetcher, home_url, robots, before, again, page, progress)
    return again


async def _robots(fetcher: Fetcher, home_url: str, again: Again) -> Protego:
    try:
        return await read_robots(fetcher, home_url)
    except SourceRefused as exc:
        again.notes.append(f"robots.txt: {exc.says}")
        return Protego.parse("")


async def _list(fetcher: Fetcher, home_url: str, robots: Protego, before: Before, again: Again) -> None:
    sitemaps, _ = sitemaps_of(robots, home_url)
    try:
        async for listed in read_sitemaps(fetcher, sitemaps, home_url, before.sitemaps):
            again.sitemaps.append(listed.file)
            url = listed.file.url
            pages = listed.pages
            if pages is None:
                pages = {page: kept.changed for page, kept in before.pages.items() if kept.listed_in == url}
            for page, changed in pages.items():
                again.listed.setdefault(path_of(page), Kept(listed_in=url, changed=changed))
        again.from_sitemap = "yes"
    except NoAnswer as exc:
        again.notes.append(f"{exc.where or 'sitemap'}: {exc.says}")
    except SourceRefused as exc:
        if before.sitemaps:
            again.from_sitemap = "broken"
            again.notes.append(f"{exc.where or 'sitemap'}: {exc.says}")
    if again.from_sitemap != "yes":
        again.listed.clear()
        again.sitemaps = list(before.sitemaps.values())


async def _look(
    fetcher: Fetcher, home_url: str, robots: Protego, before: Before, again: Again, home: ReadPage | None, progress: Progress
) -> None:  # fmt: skip
    waiting = _in_turn(home_url, before, again)
    follow = None
    if again.from_sitemap == "no" and not before.sitemaps:
        follow = Followed(home_url, dict.fromkeys([home_url, *before.pages]))
        waiting += follow.new(home) if home is not None else []
    at, read, until = 0, 0, monotonic() + READ_S
    while at < min(len(waiting), ASKED) and read <= READ_BYTES and monotonic() <= until:
        batch = [url for url in waiting[at : min(at + _AT_ONCE, ASKED)] if robots.can_fetch(url, AGENT)]
        at = min(at + _AT_ONCE, ASKED)
        kept = [before.pages.get(url, Kept()) for url in batch]
        answers = await asyncio.gather(*(_ask(fetcher, url, one) for url, one in zip(batch, kept, strict=True)))
        for url, (asked, page) in zip(batch, answers, strict=True):
            again.asked[path_of(url)] = asked
            if page is not None:
                again.titles.append(page.title)
                waiting += follow.new(page) if follow is not None else []
        await progress("asking for pages", len(again.asked), min(len(waiting), ASKED))
    if (left := len(waiting) - at) > 0:
        again.notes.append(f"{len(again.asked)} pages were asked for; {left} more are next time.")
    if again.from_sitemap != "yes":
        # What the sitemap said last still tells what an answer of "as it was" means.
        again.listed |= {path_of(url): before.pages.get(url, Kept()) for url in [home_url, *before.pages, *waiting]}


def _in_turn(home_url: str, before: Before, again: Again) -> list[str]:
    """What no sitemap names any more, what it says has changed, what is new, and then what was not asked for longest."""
    known = {path_of(url): (url, kept) for url, kept in before.pages.items()}
    unlisted = [url for path, (url, _) in known.items() if path not in again.listed]
    base = origin(home_url)
    assert base is not None
    changed, new = [], []
    for path, kept in again.listed.items():
        there = known.get(path)
        if there is None:
            new.append(normal(path, home_url) or home_url)
        elif kept.changed and kept.changed != there[1].changed:
            changed.append(there[0])
    wanted = dict.fromkeys([*unlisted, *changed, *new, *before.pages])
    wanted.pop(home_url, None)
    return list(wanted)


async def _ask(fetcher: Fetcher, url: str, kept: Kept) -> tuple[Asked, ReadPage | None]:
    """The page, where it was opened."""
    at, for_good = url, True
    try:
        for hop in range(MAX_REDIRECTS + 1):
            answer = await fetcher.ask(
                "GET", at, page=True, headers=only_if_changed(kept.etag, kept.modified) if hop == 0 else {}
            )
            goal = answer.headers.get("location")
            if not (answer.status in {301, 302, 303, 307, 308} and goal):
                return await _told(url, at, for_good, answer, kept)
            for_good = for_good and answer.status in _FOR_GOOD
            next_ = normal(goal, at)
            if next_ is None or origin(next_) != origin(url):
                left = Answered("moved" if for_good else "none")
                return Asked(answer.status, left, kept), None
            at = next_
    except SourceRefused:
        pass
    return Asked(None, Answered("none"), kept), None


async def _told(url: str, at: str, for_good: bool, answer: Fetched, kept: Kept) -> tuple[Asked, ReadPage | None]:
    status = answer.status
    if status == 304 and at == url:
        return Asked(status, Answered("unchanged"), kept), None
    if status in {404, 410}:
        return Asked(status, Answered("gone"), kept), None
    if status in {401, 403}:
        return Asked(status, Answered("hidden"), kept), None
    if status != 200 or not answer.is_html:
        return Asked(status, Answered("none"), kept), None
    page, _ = await apart(at, open_page, at, answer.body)
    asked_not_to = {word.strip().lower() for word in answer.headers.get("x-robots-tag", "").split(",")}
    if {"noindex", "none"} & asked_not_to:
        page = replace(page, noindex=True)
    now = replace(kept, etag=answer.headers.get("etag"), modified=answer.headers.get("last-modified"))
    if at != url and not for_good:
        # For now it is shown elsewhere: of the page itself that says nothing.
        return Asked(status, Answered("none"), kept), None
    answered = Answered("page", page.seen()) if at == url else Answered("moved", page.seen(), to=path_of(at))
    return Asked(status, answered, now), page
