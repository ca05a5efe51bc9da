import asyncio
from collections import Counter

from fastapi import APIRouter

from sign_shelf.api import views
from sign_shelf.api.guards import Db, In, Now, Someone
from sign_shelf.api.lens import Seen
from sign_shelf.api.models import ShelfBoard
from sign_shelf.core.resolve import Prepared
from sign_shelf.desk.portfolio import boards, visible_sites
from sign_shelf.store import changes, sites

router = APIRouter(prefix="/api/shelf", tags=["shelf"])


@router.get("")
async def shelf(database: Db, person: Someone, view: In, now: Now, seen: Seen) -> list[ShelfBoard]:
    """Every site with its signs, as the lens's visitor gets them."""
    async with database.transaction() as session:
        found = await boards(session, person, await visible_sites(session, person), view)
        under_way = Counter(
            part.site_id for _, part, _ in await changes.changes_at(session, [one.site.id for one in found])
        )
        pages = await sites.pages_of_sites(session, [one.site.id for one in found])

    def drawn() -> list[ShelfBoard]:
        answers = []
        for board in found:
            prepared = Prepared(board.document(pages.get(board.site.id, ())))
            others = under_way[board.site.id] - (board.change is not None)
            answers.append(views.shelf_board(board, prepared, seen.of(prepared.site, now), others))
        return answers

    return await asyncio.to_thread(drawn)
