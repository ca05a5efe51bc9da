from uuid import UUID

from fastapi import APIRouter

from sign_shelf.api import views
from sign_shelf.api.guards import Db, In, Now, RequestKey, Someone
from sign_shelf.api.models import ReleaseOut
from sign_shelf.desk import put_live
from sign_shelf.desk.permission import Person

router = APIRouter(prefix="/api", tags=["releases"])


async def _out(database: Db, person: Person, release_id: UUID) -> ReleaseOut:
    release, steps, site = await put_live.look(database, person, release_id)
    return views.release_out(release, steps, site.key, site.base)


@router.post("/sites/{site}/releases", status_code=202)
async def ask(site: str, database: Db, person: Someone, view: In, key: RequestKey, now: Now) -> ReleaseOut:
    """Puts the site's draft live. The answer comes at once; the release is carried out by a job."""
    return await _out(database, person, await put_live.ask(database, person, site, view=view, request_key=key, now=now))


@router.get("/releases/{release}")
async def release(release: UUID, database: Db, person: Someone) -> ReleaseOut:
    return await _out(database, person, release)
