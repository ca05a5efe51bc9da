"""Sites that ask the shelf for their menus: told when something else is to be had, and held against what their visitors get."""

import asyncio
import json
from datetime import datetime
from urllib.parse import urljoin

from sign_shelf.core.errors import SiteRefused
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.protocol.shown import missing, navigations
from sign_shelf.core.resolve import Prepared
from sign_shelf.desk import as_visitors
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.desk.put_live import whole
from sign_shelf.outside import webhooks
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import keys, sites
from sign_shelf.store.database import Database
from sign_shelf.store.tables import ReleaseRow, SiteRow

CHANGED = "menus.changed"


async def let_it_ask(database: Database, fetcher: Fetcher, site: SiteRow, release: ReleaseRow, now: datetime) -> None:
    """The site is given what is to be live and told so, and its home page must show it: raises SiteRefused where it does not. Then it is
    given what is live as before."""
    async with database.transaction() as session:
        kept = await sites.site_by_id(session, site.id, lock=True)
        kept.trying_state = release.target
        session.add(kept)
        document = await whole(session, kept, release.target)
    deaf = await ping(database, fetcher, site, release.id.hex, now)
    try:
        await _refuse_what_is_not_shown(database, fetcher, site, document, now)
    except SiteRefused as refused:
        if deaf is None:
            raise
        says = f"{refused.says} When it was told that something changed: {deaf}"
        raise type(refused)(says, where=refused.where, remedy=refused.remedy) from refused


async def ping(database: Database, fetcher: Fetcher, site: SiteRow, name: str, now: datetime) -> str | None:
    """Tells a site that wants to know that something else is to be had; the same `name`, the same message. Why it was not taken; None
    where it was, and where the site wants none."""
    address = facts_of(site).can.ping
    # A document that was brought in may name any host: the site's own alone is told.
    if address is None or urljoin(address, "/") != urljoin(site.base, "/"):
        return None
    async with database.transaction() as session:
        signing = await keys.keys_of(session, database.seals, site.id, ["signing"], now)
    if not signing:
        return "The site's signing key is missing; enter it on the site's page."
    body = json.dumps({"type": CHANGED, "timestamp": now.isoformat(), "data": {"site": site.key}}).encode()
    answer = await webhooks.send(fetcher, address, [one.secret for one in signing], id=f"msg_{name}", body=body, at=now)
    return None if answer.kind == "taken" else answer.says


async def _refuse_what_is_not_shown(
    database: Database, fetcher: Fetcher, site: SiteRow, document: SiteDocument, now: datetime
) -> None:
    """The home page shows every place as its visitors get it, on each device and as each audience that it can be read as."""
    base, language = document.site.base, document.site.languages[0]
    word = await as_visitors.our_word(database, site, document, now)
    came = await as_visitors.visits(fetcher, document, word, now)

    def wrong() -> str | None:
        found = [
            (visit, navigations(visit.page.body, language=language, base=base, seen_at=document.site.seen_at))
            for visit in came
        ]
        for place in as_visitors.shown(Prepared(document), found, now):
            says = missing(place.title, place.given, place.found, language=language, base=base)
            if says is not None and place.certain:
                usual = place.device == "desktop" and not place.audience
                return says if usual else f"To {place.audience or f'visitors with a {place.device}'}: {says}"
        return None

    says = await asyncio.to_thread(wrong)
    if says is not None:
        raise SiteRefused(
            f"The home page is not as it was given: {says}", where=base,
            remedy="Look whether the site asks for its menus, then put the draft live again.",
        )  # fmt: skip
