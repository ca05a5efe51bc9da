from uuid import UUID

from fastapi import APIRouter

from sign_shelf.api import views
from sign_shelf.api.guards import Db, Now, RequestKey, Someone
from sign_shelf.api.models import ReleaseOut
from sign_shelf.desk import put_live

router = APIRouter(prefix="/api", tags=["releases"])


async def _out(database: Db, release_id: UUID) -> ReleaseOut:
    release, steps, site = await put_live.look(database, release_id)
    return views.release_out(release, steps, site.key, site.base)


@router.post("/sites/{site}/releases", status_code=202)
async def ask(site: str, database: Db, person: Someone, key: RequestKey, now: Now) -> ReleaseOut:
    """Puts the site's draft live. The answer comes at once; the release is carried out by a job."""
    return await _out(database, await put_live.ask(database, person, site, request_key=key, now=now))


@router.get("/releases/{release}")
async def release(release: UUID, database: Db, person: Someone) -> ReleaseOut:
    return await _out(database, release)
