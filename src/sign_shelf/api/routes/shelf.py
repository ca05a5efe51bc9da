"""The shelf in two steps: a line for every site, then the signs of those in sight."""

import asyncio
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, ConfigDict, Field

from sign_shelf.api import views
from sign_shelf.api.guards import Db, In, Now, Someone
from sign_shelf.api.lens import Seen
from sign_shelf.api.models import Answer, ShelfLine, SiteSigns
from sign_shelf.api.routes.sites import PRINTED
from sign_shelf.desk import report, shelf_views
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


class ShelfAt(BaseModel):
    """What the shelf's address says: which sites, in what order, how closely, named how."""

    model_config = ConfigDict(extra="forbid")
    show: Literal["wants me", "broken", "drifted", "this week", "mine"] | None = None
    order: Literal["by name", "by trouble", "by template", "by client", "by team"] | None = None
    dense: bool | None = None
    find: str | None = Field(default=None, max_length=200)


class ShelfViewOut(Answer):
    name: str
    at: ShelfAt


@router.get("/views")
async def views_kept(database: Db, person: Someone) -> list[ShelfViewOut]:
    """One's own, by name."""
    return [
        ShelfViewOut(name=row.name, at=ShelfAt.model_validate(row.at))
        for row in await shelf_views.kept(database, person)
    ]


@router.put("/views/{name}", status_code=204)
async def keep_view(name: str, body: ShelfAt, database: Db, person: Someone, now: Now) -> None:
    """Keeps a way of looking at the shelf under a name, in place of what had that name."""
    await shelf_views.keep(database, person, name, body.model_dump(exclude_none=True), now)


@router.delete("/views/{name}", status_code=204)
async def forget_view(name: str, database: Db, person: Someone) -> None:
    """It is kept no more."""
    await shelf_views.forget(database, person, name)


@router.get("/report", response_class=Response)
async def report_of_client(
    database: Db, person: Someone, now: Now,
    client: Annotated[str, Query(min_length=1, max_length=500)],
    month: Annotated[str, Query(max_length=10, description="Such as 2026-11.")],
) -> Response:  # fmt: skip
    """The month of all the sites of a client, as one page for printing."""
    page = await report.report_of_client(database, person, client, month, now)
    return Response(page, media_type="text/html", headers={"content-security-policy": PRINTED})


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
