"""What would come into a site's menus: from a paste or file, another menu, or the live page. Nothing is kept."""

from collections.abc import Iterable
from typing import Annotated

from fastapi import APIRouter, Query, Request
from pydantic import StringConstraints

from sign_shelf.api.guards import Db, In, Net, Someone
from sign_shelf.api.models import (
    CopyBody,
    IncomingMenuOut,
    IncomingTable,
    IncomingTitles,
    LiveBody,
    TableColumn,
    TitledPage,
    TitleMatchOut,
)
from sign_shelf.core.formats import IncomingMenu, Readable
from sign_shelf.core.formats.table import Table
from sign_shelf.core.formats.titles import MatchedTitles
from sign_shelf.core.model.copying import already_there
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.tree import count, depth_of
from sign_shelf.desk import bring_in
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import View, board, menu_on_shelf
from sign_shelf.store.database import Database

router = APIRouter(prefix="/api/sites/{site}/incoming", tags=["incoming"])

Into = Annotated[str | None, Query(description="A menu of the site: what it has already is named.")]


async def _told(
    database: Database, person: Person, view: View, site: str, into: str | None, found: Iterable[IncomingMenu]
) -> list[IncomingMenuOut]:
    menu: MenuDocument | None = None
    if into is not None:
        async with database.transaction() as session:
            menu = menu_on_shelf(await board(session, person, site, view), into).document
    return [
        IncomingMenuOut(
            title=one.title,
            where=one.where,
            document=one.document,
            count=count(one.document.items),
            depth=depth_of(one.document.items),
            notes=list(one.notes[:200]),
            already=sorted(already_there(one.document.items, menu)) if menu else [],
            table=_table(one.table),
            titles=_titles(one.titles),
        )
        for one in found
    ]


def _table(table: Table | None) -> IncomingTable | None:
    if table is None:
        return None
    columns = [TableColumn(head=one.head, samples=list(one.samples), role=one.role) for one in table.columns]
    return IncomingTable(columns=columns, headed=table.headed, sure=table.sure)


def _titles(titles: MatchedTitles | None) -> IncomingTitles | None:
    if titles is None:
        return None
    return IncomingTitles(
        asked=titles.asked,
        matches=[
            TitleMatchOut(
                item=match.item,
                pages=[
                    TitledPage(ref=page.ref, title=next(iter(page.title.values()), page.path), path=page.path)
                    for page in match.pages
                ],
                sure=match.sure,
            )
            for match in titles.matches
        ],
    )


@router.post("/data")
async def data(
    site: str,
    request: Request,
    database: Db,
    person: Someone,
    view: In,
    format: Annotated[Readable | None, Query(description="Absent: whichever it looks like.")] = None,
    name: Annotated[str | None, Query(max_length=200)] = None,
    into: Into = None,
    columns: Annotated[
        list[Annotated[str, StringConstraints(max_length=50)]] | None,
        Query(max_length=500, description="What each column of a table is; absent: whatever it looks like."),
    ] = None,
    headed: Annotated[bool | None, Query(description="Whether the first line of a table names its columns.")] = None,
) -> list[IncomingMenuOut]:
    """The menus in the request's body: a paste or a file as it is. What cannot be read is told by line, and the rest comes
    in; which pages its words are titles of is told and not done."""
    body = await request.body()
    called = (name or "").strip() or None
    found = await bring_in.from_data(
        database, person, site, body, format, name=called, columns=columns, headed=headed
    )  # fmt: skip
    return await _told(database, person, view, site, into, found)


@router.get("/menu/{from_site}/{from_menu}")
async def menu(
    site: str, from_site: str, from_menu: str, database: Db, person: Someone, view: In, into: Into = None
) -> list[IncomingMenuOut]:
    """A copy of another menu of this or another site."""
    found = await bring_in.from_menu(database, person, site, view=view, from_site=from_site, from_menu=from_menu)
    return await _told(database, person, view, site, into, [found])


@router.post("/copy")
async def copy(site: str, body: CopyBody, database: Db, person: Someone) -> list[IncomingMenuOut]:
    """Items that were cut or copied from a menu, as copies for this site."""
    found = await bring_in.from_items(database, person, site, body.document, from_site=body.site, from_menu=body.menu)
    return await _told(database, person, None, site, None, [found])


@router.post("/live")
async def live(
    site: str, body: LiveBody, database: Db, net: Net, person: Someone, view: In, into: Into = None
) -> list[IncomingMenuOut]:
    """The navigations of a page of the site as it is now."""
    return await _told(
        database, person, view, site, into, await bring_in.from_live(database, net, person, site, body.path)
    )
