from typing import Annotated

from fastapi import APIRouter, Query

from sign_shelf.api import views
from sign_shelf.api.guards import Db, Now, Someone
from sign_shelf.api.models import PageOut, SecretBody, SitePage
from sign_shelf.core.tree import targeted_pages
from sign_shelf.desk import connect
from sign_shelf.desk.portfolio import Board, board, site_row
from sign_shelf.store import releases, sites
from sign_shelf.store.database import Session

router = APIRouter(prefix="/api/sites/{site}", tags=["sites"])


async def whole_site_page(session: Session, found: Board) -> SitePage:
    pages = await sites.count_pages(session, found.site.id)
    steps = await releases.steps_of(session, found.release.id) if found.release else []
    return views.site_page(found, pages=pages, steps=steps)


@router.get("")
async def site(site: str, database: Db, person: Someone) -> SitePage:
    async with database.transaction() as session:
        return await whole_site_page(session, await board(session, site))


@router.get("/pages")
async def pages(
    site: str,
    database: Db,
    person: Someone,
    words: Annotated[str, Query(max_length=200)] = "",
    limit: Annotated[int, Query(ge=1, le=500)] = 20,
    places: Annotated[bool, Query(description="Whether to tell which menus lead to each page.")] = False,
) -> list[PageOut]:
    """Pages of the inventory that hold all the words in title, address or type."""
    async with database.transaction() as session:
        row = await site_row(session, site)
        pages = await sites.search_pages(session, row.id, words.replace("\0", ""), limit)
        # Reading every menu takes far longer than finding pages, and who types in a search waits for it at every key.
        menus = (await board(session, site)).menus if places else {}
    targeted = {key: set(targeted_pages(menu.document.items)) for key, menu in menus.items()}
    return [
        PageOut(
            ref=page.ref,
            path=page.path,
            title=page.title,
            type=page.type,
            state=page.state,
            parts=list(page.parts),
            places=[menus[key].document.name for key, refs in targeted.items() if page.ref in refs],
        )
        for page in pages
    ]


@router.put("/secret", status_code=204)
async def keep_secret(site: str, body: SecretBody, database: Db, person: Someone, now: Now) -> None:
    """The signing key that the site was set up with."""
    await connect.keep_secret(database, person, site, body.secret, now)
