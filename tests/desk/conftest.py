"""What tests of the desk share: a clock that is moved by hand, a server that answers oddly, sites that lead to it."""

from collections.abc import AsyncIterator, Iterator, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from sign_shelf.core.model.documents import read
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.desk.whole_sites import put_on_shelf
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store.database import Database
from tests.constants import LOOPBACK
from tests.odd_server import Odd, odd_server

NOON = datetime.now(UTC).replace(hour=12, minute=0) - timedelta(days=12)
"""Before anything that the interface is asked now."""


class Clock:
    """Stands still until it is moved."""

    def __init__(self) -> None:
        self.at = NOON

    def __call__(self) -> datetime:
        return self.at

    def on(self, **by: float) -> None:
        self.at += timedelta(**by)


@pytest.fixture
def clock() -> Clock:
    return Clock()


@pytest.fixture
def odd() -> Iterator[Odd]:
    with odd_server() as server:
        yield server


@pytest.fixture
async def quick() -> AsyncIterator[Fetcher]:
    async with Fetcher(LOOPBACK, timeout_s=1) as opened:
        yield opened


async def on_shelf(
    database: Database, key: str, menus: dict[str, list[str]], waits: Sequence[tuple[str, Any]] = (), **site: Any
) -> None:
    """A site whose menus lead to these addresses, hung one in each of its places; in the first of them `waits` lead nowhere yet."""
    places = [
        {"key": menu, "title": menu.capitalize(), "shape": "line", "depth": 3, "devices": ["desktop"]} for menu in menus
    ]
    document = {
        "format": "sign-shelf/site", "version": 1,
        "site": {"key": key, "name": key.capitalize(), "base": f"https://{key}.example/"} | site,
        "template": {"key": f"t-{key}", "devices": {"desktop": [0, None]}, "locations": places},
        "menus": {menu: {"format": "sign-shelf/menu", "version": 1, "name": menu.capitalize(), "items": [
            {"id": f"{menu}-{at}", "kind": "link", "label": {"en": f"Entry {at}"}, "target": {"url": one}}
            for at, one in enumerate(addresses)] + [
            {"id": f"waits-{at}", "kind": "link", "label": {"en": label}, "target": {"pending": pending}}
            for at, (label, pending) in enumerate(waits if menu == next(iter(menus)) else ())]}
            for menu, addresses in menus.items()},
        "placements": [{"location": menu, "device": "desktop", "menu": menu} for menu in menus],
        "pages": [{"ref": "home", "path": "/"}, {"ref": "fares", "path": "/fares", "title": {"en": "Entry 0"}}],
    }  # fmt: skip
    await put_on_shelf(database, read(SiteDocument, document), NOON)
