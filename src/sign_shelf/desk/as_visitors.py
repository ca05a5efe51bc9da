"""A site's home page as its visitors get it: on each of its devices, and as each audience where the site believes our word of who asks.

Whoever asks with the header `Sign-Shelf-Facts` is taken for whom it says, by a site that hands it on as the `facts` of delivery
(docs/delivery.md): it is signed with the site's own key, so nobody else can.
"""

import asyncio
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, TypeVar

from pydantic import SecretStr

from sign_shelf.core.errors import SiteAway, SiteRefused
from sign_shelf.core.model.facts import FactValue
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.protocol.on_the_page import OnThePage
from sign_shelf.core.protocol.signed_facts import signed
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.resolve.resolved import ResolvedMenu
from sign_shelf.outside.fetch import Fetched, Fetcher
from sign_shelf.store import keys
from sign_shelf.store.database import Database
from sign_shelf.store.tables import SiteRow

MOST_AUDIENCES = 12
HOLDS = timedelta(minutes=2)
"""For how long our word counts."""
_DEVICE = {
    "phone": {"sec-ch-ua-mobile": "?1"},
    "tablet": {"sec-ch-ua-mobile": "?0"},
    "desktop": {"sec-ch-ua-mobile": "?0"},
}
"""User-Agent Client Hints (W3C)."""
_WIDTH = {"phone": "390", "tablet": "820", "desktop": "1280"}
Navigation = TypeVar("Navigation")


@dataclass(frozen=True, kw_only=True)
class Visit:
    """`audience` is empty for somebody of whom nothing is known."""

    device: Device
    audience: str
    facts: Mapping[str, FactValue]
    page: Fetched


async def visits(fetcher: Fetcher, document: SiteDocument, key: SecretStr | None, now: datetime) -> list[Visit]:
    """First somebody with a wide screen of whom nothing is known, then the other devices, then the audiences where `key` says who they
    are. Raises SourceRefused, and SiteRefused where there is no page."""
    base = document.site.base
    asked: list[tuple[Device, str, Mapping[str, FactValue]]] = [("desktop", "", {})]
    asked += [(device, "", {}) for device in ("tablet", "phone") if device in document.template.devices]
    if key is not None:
        asked += [("desktop", name, facts) for name, facts in list(document.audiences.items())[:MOST_AUDIENCES]]

    async def visit(device: Device, audience: str, facts: Mapping[str, FactValue]) -> Visit:
        headers = _DEVICE[device] | {"sec-ch-viewport-width": _WIDTH[device]}
        if audience and key is not None:
            headers["sign-shelf-facts"] = signed(facts, key, until=now + HOLDS)
        page = await fetcher.get(base, headers=headers, mobile=device == "phone")
        if page.status != 200:
            kind = SiteAway if page.status >= 500 else SiteRefused
            raise kind(f"The site's home page is answered with {page.status}.", where=base)
        if not page.is_html:
            raise SiteRefused("The site's home page is no HTML.", where=base)
        return Visit(device=device, audience=audience, facts=facts, page=page)

    return list(await asyncio.gather(*(visit(*one) for one in asked)))


async def our_word(database: Database, site: SiteRow, document: SiteDocument, now: datetime) -> SecretStr | None:
    """What facts are signed with, where the site believes us."""
    if not document.site.can.vouched:
        return None
    async with database.transaction() as session:
        found = await keys.keys_of(session, database.seals, site.id, ["facts"], now)
    return found[0].secret if found else None


@dataclass(frozen=True, kw_only=True)
class Shown:
    """A place as one visitor is to get it, with the navigations that may be it on the page that this visitor got; `surely`: the one that
    stands where the place is known to be. `certain`: whether that page is
    another than somebody with a wide screen gets; where it is not, the place may be made by scripts, out of our sight."""

    location: str
    title: str
    device: Device
    audience: str
    given: ResolvedMenu
    found: Sequence[Any]
    surely: bool
    certain: bool


def shown(whole: Prepared, came: Sequence[tuple[Visit, OnThePage[Navigation]]], now: datetime) -> Iterator[Shown]:
    """Each place that is in a page's HTML from the start, on each device whose visitors get something of their own there, and for each
    audience that does."""
    document = whole.site
    at, language = whole.clock.now(now), document.site.languages[0]
    home = next((page.ref for page in document.pages if page.path == "/"), None)
    wide: dict[str, ResolvedMenu] = {}
    first = came[0][1] if came else None
    for visit, found in came:
        certain = not visit.audience and (visit.device == "desktop" or found != first)
        for location in document.template.locations:
            if not location.readable or location.shape == "section" or visit.device not in location.devices:
                continue
            lens = Lens(device=visit.device, language=language, at=at, page=home, facts=dict(visit.facts))
            given = whole.resolve(location.key, lens)
            usual = wide.setdefault(location.key, given) if visit.device == "desktop" else wide.get(location.key)
            own = visit is came[0][0] or usual is None or given.items != usual.items
            if own or certain:
                yield Shown(
                    location=location.key, title=location.title, device=visit.device, audience=visit.audience, given=given,
                    found=found.of(location.key), surely=location.key in found.at, certain=certain or bool(visit.audience),
                )  # fmt: skip
