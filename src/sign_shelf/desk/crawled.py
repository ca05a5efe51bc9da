"""A site's home page as crawlers get it, read whenever something else is live there and whenever its pages are read."""

from datetime import datetime
from uuid import UUID

import structlog

from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.crawled import LivePage, read_live
from sign_shelf.core.errors import SourceRefused
from sign_shelf.core.formats.html_tree import parse
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.outside.apart import apart
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import looks, sites
from sign_shelf.store.database import Database

log = structlog.get_logger()


def _read(url: str, body: bytes, at: str) -> LivePage:
    return read_live(url, parse(body, url), at)


async def read_home(database: Database, fetcher: Fetcher, site_id: UUID, state: str, now: datetime) -> None:
    """`state` is what is live. Where the page does not answer well nothing is known, and nothing is found wrong by it."""
    async with database.transaction() as session:
        site = await sites.site_by_id(session, site_id)
    page = None
    try:
        answer = await fetcher.get(site.base)
        if answer.status == 200 and answer.is_html:
            page = await apart(site.base, _read, answer.url, answer.body, clock_of(facts_of(site).zone).now(now))
    except SourceRefused:
        pass
    except Exception:
        # Whatever a stranger's page can make go wrong keeps nothing else from being looked at.
        log.exception("home_not_read", site=site.key)
    async with database.transaction() as session:
        await looks.saw_home(session, site_id, state, page, now)
