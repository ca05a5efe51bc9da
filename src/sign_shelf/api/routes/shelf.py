from fastapi import APIRouter

from sign_shelf.api import views
from sign_shelf.api.guards import Db, Someone
from sign_shelf.api.models import ShelfBoard
from sign_shelf.core.menu import Device
from sign_shelf.desk.portfolio import boards
from sign_shelf.store import sites

router = APIRouter(prefix="/api/shelf", tags=["shelf"])


@router.get("")
async def shelf(database: Db, person: Someone, device: Device = "desktop") -> list[ShelfBoard]:
    """Every site with its signs, as the lens's device gets them."""
    async with database.transaction() as session:
        found = await boards(session, await sites.all_sites(session))
    return [views.shelf_board(board, device) for board in found]
