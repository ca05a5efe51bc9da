from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query

from sign_shelf.api import views
from sign_shelf.api.guards import Db, In, Now, RequestKey, Someone
from sign_shelf.api.models import GoingOutPage, MenuGoesOut, ReleaseOut
from sign_shelf.desk import going_out, put_live
from sign_shelf.desk.permission import Person

router = APIRouter(prefix="/api", tags=["releases"])


async def _out(database: Db, person: Person, release_id: UUID) -> ReleaseOut:
    release, steps, site = await put_live.look(database, person, release_id)
    return views.release_out(release, steps, site.key, site.base)


@router.get("/sites/{site}/going-out")
async def goes(site: str, database: Db, person: Someone, view: In, now: Now) -> GoingOutPage:
    """What would go live if the change were put live now: whose edits, where and for whom, and what stands against it."""
    found = await going_out.going_out(database, person, site, view=view, now=now)
    name = views.change_name(found.change)
    assert name is not None
    return GoingOutPage(
        change=name,
        target=found.target,
        menus=[MenuGoesOut.of(one, by) for one, by in found.menus],
        site=found.site,
    )  # fmt: skip


@router.post("/sites/{site}/releases", status_code=202)
async def ask(
    site: str,
    database: Db,
    person: Someone,
    view: In,
    key: RequestKey,
    now: Now,
    told: Annotated[str | None, Query(max_length=100, description="The target that the person was told of.")] = None,
) -> ReleaseOut:
    """Puts the site's draft live. The answer comes at once; the release is carried out by a job."""
    release = await put_live.ask(database, person, site, view=view, told=told, request_key=key, now=now)
    return await _out(database, person, release)


@router.get("/releases/{release}")
async def release(release: UUID, database: Db, person: Someone) -> ReleaseOut:
    return await _out(database, person, release)
