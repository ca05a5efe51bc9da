"""The legal line that the agency shares, followed by the small sites of the demo: live in its first version, with a second one made.

Two sites have adjustments of their own, and one has no telephone.
"""

from datetime import UTC, datetime

from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.tree import rebuilt, remove
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.sharing import shared_key
from sign_shelf.demo.stand_ins.content import cafe_details
from sign_shelf.desk import edit, hang, put_live, sharing, site_settings
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import board
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store.database import Database
from sign_shelf.store.requests import RequestKey

FIRST = """\
Privacy -> @privacy
House rules -> @house-rules
"Call us: {site.phone}" -> tel:{site.phone}
"""
SECOND = """\
Privacy -> @privacy
Accessibility -> @accessibility
"Call {site.name}: {site.phone}" -> tel:{site.phone}
"""


async def share_legal(database: Database, person: Person) -> None:
    """Follows it at all of them; what was asked to go live there goes once a worker runs."""
    cafes = cafe_details()
    now = datetime.now(UTC)
    async with Fetcher(frozenset({"127.0.0.1"})) as fetcher:
        for site, details in cafes.items():
            set_out = await site_settings.settings(database, person, site)
            await site_settings.keep(
                database, fetcher, person, site, expected=set_out.hash, wanted={"details": details, "client": "Cinderfield Repair Cafés"}, policy={}, pages={}, now=now
            )  # fmt: skip
    key = await sharing.begin(
        database,
        person,
        sharing.written("Legal", FIRST, "en"),
        language="en",
        request_key=RequestKey("demo-legal"),
        now=now,
    )
    change = await sharing.follow(database, person, key, list(cafes), request_key=RequestKey("demo-follow"), now=now)
    menu = shared_key(key)
    for site in cafes:
        async with database.transaction() as session:
            has = (await board(session, person, site, change)).menus[menu]
        own = _adjusted(site, has.document)
        if own != has.document:
            await edit.save_menu(
                database, person, site, menu, view=change, expected=has.hash, document=own, now=now
            )  # fmt: skip
        await hang.hang(
            database, person, site, view=change, location="legal", device="desktop", menu_key=menu, now=now
        )  # fmt: skip
        await put_live.ask(database, person, site, view=change, request_key=RequestKey(f"demo-live-{site}"), now=now)
    await sharing.save(database, person, key, "Legal", SECOND, expected=1, now=datetime.now(UTC))


def _adjusted(site: str, document: MenuDocument) -> MenuDocument:
    match site:
        case "cinderfield-hythe":
            return document.with_items(
                tuple(
                    rebuilt(
                        item, lambda one: {"label": {"en": "Rules of the workshop"}} if one.id == "house-rules" else {}
                    )
                    for item in document.items
                )
            )
        case "cinderfield-brill":
            more = parse_outline("Our insurance -> @find").items
            return document.with_items((*remove(document.items, "house-rules"), *more))
        case _:
            return document
