"""The shelf in two steps: a line for every site, then the signs of those in sight."""

import asyncio
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query

from sign_shelf.api import views
from sign_shelf.api.guards import Db, In, Now, Someone
from sign_shelf.api.lens import Seen
from sign_shelf.api.models import Answer, ShelfLine, SiteSigns
from sign_shelf.desk.permission import may
from sign_shelf.desk.portfolio import boards, unknown_change, visible_sites
from sign_shelf.desk.ready import ready, ready_for_signs
from sign_shelf.store import changes, sites
from sign_shelf.store import shelf as lines

router = APIRouter(prefix="/api/shelf", tags=["shelf"])

AT_ONCE = 30
"""Sites of which the signs are drawn at once."""


@router.get("")
async def shelf(
    database: Db, person: Someone, view: In,
    away: Annotated[bool, Query(description="Those that are put away, in place of the others.")] = False,
) -> list[ShelfLine]:  # fmt: skip
    """Every site that one may look at, by name, with how much there is of it."""
    async with database.transaction() as session:
        change = view if isinstance(view, UUID) else None
        if change is not None and await changes.change_by_id(session, change) is None:
            raise unknown_change(change)
        found = await lines.lines(session, person=None if view == "live" else person.id, change=change)
    return [
        views.shelf_line(one) for one in found if may(person, "look", one.key) and (one.archived_at is not None) == away
    ]


class SiteName(Answer):
    key: str
    name: str


@router.get("/sites")
async def names(database: Db, person: Someone) -> list[SiteName]:
    """Which sites there are, by name: what is needed to choose one."""
    async with database.transaction() as session:
        rows = await visible_sites(session, person)
    named = [SiteName(key=row.key, name=row.name) for row in rows]
    return sorted(named, key=lambda one: (one.name.casefold(), one.key))


@router.get("/signs")
async def signs(
    database: Db, person: Someone, view: In, now: Now, seen: Seen,
    site: Annotated[list[str], Query(min_length=1, max_length=AT_ONCE)],
) -> list[SiteSigns]:  # fmt: skip
    """The signs of these sites, as the lens's visitor gets them. A site that is not there any more has none."""
    async with database.transaction() as session:
        rows = await sites.sites_by_key(session, [key for key in site if may(person, "look", key)])
        found = await boards(session, person, rows, view, seen.when(now))
        # Where the visitor is on a page, what stands above it counts too, and whatever else a rule asks.
        prepared = (
            {one.site.id: await ready(session, one) for one in found}
            if seen.page
            else await ready_for_signs(session, found)
        )

    def drawn() -> list[SiteSigns]:
        answers = []
        for board in found:
            whole = prepared[board.site.id]
            answers.append(views.site_signs(board, whole, seen.of(whole.site, now)))
        return answers

    return await asyncio.to_thread(drawn)
