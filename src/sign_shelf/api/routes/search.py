"""Search over everything."""

from typing import Annotated

from fastapi import APIRouter, Query

from sign_shelf.api.guards import Db, Someone
from sign_shelf.desk import search

router = APIRouter(prefix="/api/search", tags=["search"])


@router.get("")
async def everything(database: Db, person: Someone, words: Annotated[str, Query(max_length=200)]) -> search.Found:
    """Sites, menus, entries, pages and people that hold all the words: a few of each, the likeliest first."""
    return await search.everything(database, person, words)
