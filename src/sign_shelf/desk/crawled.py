"""A site's home page and section pages as crawlers get them, read whenever something else is live there and whenever its pages
are read."""

import asyncio
from datetime import datetime
from uuid import UUID

import structlog

from sign_shelf.core.basics.address import normal
from sign_shelf.core.crawled import LivePage, read_live, section_pages
from sign_shelf.core.errors import SourceRefused
from sign_shelf.core.formats.html_tree import parse
from sign_shelf.core.model.menu import PageTarget
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.desk.portfolio import boards
from sign_shelf.desk.ready import ready
from sign_shelf.outside.apart import apart
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import looks, sites
from sign_shelf.store.database import Database

log = structlog.get_logger()


def _read(url: str, body: bytes, at: str, page: str | None) -> LivePage:
    return read_live(url, parse(body, url), at, page)


async def read_live_pages(database: Database, fetcher: Fetcher, site_id: UUID, state: str, now: datetime) -> None:
    """`state` is what is live. Where the home page does not answer well nothing is known, and nothing is found wrong by it; a
    section page that does not is left out."""
    async with database.transaction() as session:
        (board,) = await boards(session, None, [await sites.site_by_id(session, site_id)], "live")
        whole = await ready(session, board)
    at = whole.clock.now(now)
    pages: tuple[LivePage, ...] = ()
    home = await _page(fetcher, board.site.base, at, None)
    if home is not None:
        wanted = await asyncio.to_thread(_sections, whole, at)
        read = await asyncio.gather(*(_page(fetcher, address, at, ref) for ref, address in wanted))
        pages = (home, *(one for one in read if one is not None))
    async with database.transaction() as session:
        await looks.saw_live(session, site_id, state, pages, now)


def _sections(whole: Prepared, at: str) -> list[tuple[str, str]]:
    """The section pages that are read, with their addresses."""
    site = whole.site.site
    lens = Lens(device="desktop", language=site.languages[0], at=at)
    found = [(ref, whole.addresses.href(PageTarget(page=ref))) for ref in section_pages(whole, lens)]
    return [(ref, address) for ref, href in found if href and (address := normal(href, site.base)) is not None]


async def _page(fetcher: Fetcher, address: str, at: str, ref: str | None) -> LivePage | None:
    try:
        answer = await fetcher.get(address)
        if answer.status == 200 and answer.is_html:
            return await apart(address, _read, answer.url, answer.body, at, ref)
    except SourceRefused:
        pass
    except Exception:
        # Whatever a stranger's page can make go wrong keeps nothing else from being looked at.
        log.exception("page_not_read", address=address)
    return None
