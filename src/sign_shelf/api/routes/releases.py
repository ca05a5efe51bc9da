from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from sign_shelf.api import views
from sign_shelf.api.guards import Db, In, Now, Once, Someone
from sign_shelf.api.models import Answer, GoingOutPage, MenuGoesOut, ReleaseOut, ReleaseState
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import AnyItem, Labelled, Link, PageTarget, walk
from sign_shelf.core.outline.writing import target_text
from sign_shelf.core.protocol.placed import PlacedMenu
from sign_shelf.desk import by_hand, going_out, put_live, sending
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
    key: Once,
    now: Now,
    told: Annotated[str | None, Query(max_length=100, description="The target that the person was told of.")] = None,
) -> ReleaseOut:
    """Puts the site's draft live. The answer comes at once; the release is carried out by a job."""
    release = await put_live.ask(database, person, site, view=view, told=told, request_key=key, now=now)
    return await _out(database, person, release)


@router.get("/releases/{release}")
async def release(release: UUID, database: Db, person: Someone) -> ReleaseOut:
    return await _out(database, person, release)


class ToDoEditOut(Answer):
    key: str
    says: str
    done: bool


class HangsOut(Answer):
    """An entry as it is to hang, `level` 1 at the top."""

    level: int
    label: str
    address: str | None


class ToDoPlaceOut(Answer):
    """`read`: the place was read back on the page and shows it. `says`: what the page showed instead, when it was last looked at."""

    step: UUID
    location: str
    title: str
    device: str
    says: str
    read: bool
    edits: list[ToDoEditOut]
    hangs: list[HangsOut]


class ByHandOut(Answer):
    """What a person carries out on a site that can only be looked at."""

    release: UUID
    site: str
    site_name: str
    live_page: str
    state: ReleaseState
    says: str
    places: list[ToDoPlaceOut]


class TickBody(BaseModel):
    step: UUID
    key: str = Field(min_length=1, max_length=500)
    done: bool


@router.get("/releases/{release}/by-hand")
async def by_hand_list(release: UUID, database: Db, person: Someone) -> ByHandOut:
    """Place by place and entry by entry, with what hangs there once it is done."""
    row, site, found = await by_hand.list_to_do(database, person, release)
    return ByHandOut(
        release=row.id, site=site.key, site_name=site.name, live_page=site.base, state=row.state, says=row.says, places=[_place(one) for one in found]
    )  # fmt: skip


def _place(todo: by_hand.ToDo) -> ToDoPlaceOut:
    step, ticked = todo.step, todo.ticked
    placed = read(PlacedMenu, step.placed)
    return ToDoPlaceOut(
        step=step.id, location=step.location, title=todo.title, device=step.device, says=step.says,
        read=step.state == "verified" and step.says != by_hand.BY_WORD,
        edits=[ToDoEditOut(key=one.key, says=todo.task(one), done=one.key in ticked) for one in todo.edits],
        hangs=[
            HangsOut(level=depth, label=_label(item), address=_address(item, placed)) for depth, item in walk(placed.menu.items)
        ],
    )  # fmt: skip


def _label(item: AnyItem) -> str:
    return next(iter(item.label.values()), "") if isinstance(item, Labelled) else f"({item.kind})"


def _address(item: AnyItem, placed: PlacedMenu) -> str | None:
    if not isinstance(item, Link):
        return None
    if isinstance(item.target, PageTarget) and item.target.page in placed.pages:
        return placed.pages[item.target.page].path
    return target_text(item.target)


@router.put("/releases/{release}/by-hand", status_code=204)
async def tick(release: UUID, body: TickBody, database: Db, person: Someone, now: Now) -> None:
    """One edit is done on the site, or is not after all."""
    await by_hand.tick(database, person, release, body.step, body.key, body.done, now)


@router.post("/releases/{release}/by-hand/look", status_code=202)
async def look_again(release: UUID, database: Db, person: Someone) -> None:
    """Reads the site as its visitors get it; where it shows everything, the release is live."""
    await by_hand.look_again(database, person, release)


@router.post("/releases/{release}/by-hand/give-up", status_code=204)
async def give_up(release: UUID, database: Db, person: Someone, now: Now) -> None:
    """It is not carried out; its edits stay in their change."""
    await sending.give_up(database, person, release, now)
