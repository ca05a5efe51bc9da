"""The garden that can only be looked at: what is to be live there is carried out by hand, and somebody there edits as well."""

from datetime import UTC, datetime

import httpx

from sign_shelf.core.model.menu import Link, PageTarget
from sign_shelf.core.model.tree import insert, rebuilt
from sign_shelf.core.outline import format_outline
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk import changes, edit, put_live
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import board
from sign_shelf.store.database import Database
from sign_shelf.store.requests import RequestKey

GARDEN = "ostrel"
WALKS, SALE = "Spring walks", "Plant sale"


async def spring_opening(database: Database, person: Person) -> None:
    """A change of three edits, on its way: a worker finds that they are not done yet."""
    now = datetime.now(UTC)
    made = await changes.begin(
        database, person, GARDEN, title="Spring opening", why="The walks begin on Sunday.", request_key=RequestKey("demo-spring"), now=now
    )  # fmt: skip
    async with database.transaction() as session:
        found = await board(session, person, GARDEN, made)
    key = next(
        key for key, menu in found.menus.items() if any(item.id == "in-flower-now" for item in menu.document.items)
    )
    has = found.menus[key]
    walks = {"label": {"en": WALKS}, "target": PageTarget(page="spring-walks")}
    items = tuple(rebuilt(item, lambda one: walks if one.id == "autumn-colours" else {}) for item in has.document.items)
    sale = Link(id="plant-sale", kind="link", label={"en": SALE}, target=PageTarget(page="plant-sale"))
    items = insert(items, sale, parent=None, at=2)
    await edit.save_menu(
        database, person, GARDEN, key, view=made, expected=has.hash, document=has.document.with_items(items), now=now
    )  # fmt: skip
    await put_live.ask(database, person, GARDEN, view=made, request_key=RequestKey("demo-spring-live"), now=now)


async def gardener_begins(site: StandIn, client: httpx.AsyncClient) -> None:
    """One of the edits is done in the garden's own back office, and another that nobody asked for."""
    outline = format_outline(site.content.menus["header"]).replace(
        "Autumn colours -> @autumn-colours", f"{WALKS} -> /spring-walks"
    )
    answer = await client.post(
        f"{site.base}back-office/header/desktop",
        data={"outline": f"{outline}Tea under the elm -> /visit\n", "who": "Ruru at the garden"},
        follow_redirects=True,
    )
    answer.raise_for_status()
