"""The changes of a site: begun, named, worked in, brought up to what is live, withdrawn."""

from datetime import datetime
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from sign_shelf.api.documents import Menu
from sign_shelf.api.guards import Db, Now, Once, Someone
from sign_shelf.api.models import Answer
from sign_shelf.core.changes.life import Life
from sign_shelf.core.compare.both import Choice
from sign_shelf.desk import changes
from sign_shelf.desk import leave_out as leaving

router = APIRouter(prefix="/api", tags=["changes"])


class ChangeLine(Answer):
    id: UUID
    title: str
    why: str
    state: Life
    author: str | None
    created_at: datetime
    working: bool
    behind: bool


class ChangeBody(BaseModel):
    title: str = Field(max_length=400)
    why: str = Field(default="", max_length=4_000)


class WorkBody(BaseModel):
    change: UUID | None
    """None: in a change of one's own, once one begins to edit."""


class BegunOut(Answer):
    change: UUID


class LeftOutBody(BaseModel):
    menu: str = Field(max_length=200)


class LeftOutOut(Answer):
    change: UUID
    title: str


class ConflictOut(Answer):
    """What a change and what is live do not agree on; `key` is what a choice names."""

    key: str
    menu: str | None
    kind: str
    title: str
    """What it is about, in words, as all that follows."""
    field: str | None
    ours: str
    theirs: str


class ChoicesBody(BaseModel):
    choices: dict[str, Choice] = Field(default={}, max_length=10_000)
    """ours: the change; theirs: what is live; both, of an entry's own words: theirs beside ours."""


@router.get("/sites/{site}/changes")
async def at_site(site: str, database: Db, person: Someone) -> list[ChangeLine]:
    return [
        ChangeLine(
            id=one.row.id,
            title=one.row.title,
            why=one.row.why,
            state=one.row.state,
            author=one.author,
            created_at=one.row.created_at,
            working=one.working,
            behind=one.behind,
        )
        for one in await changes.at_site(database, person, site)
    ]


@router.post("/sites/{site}/changes", status_code=201)
async def begin(site: str, body: ChangeBody, database: Db, person: Someone, key: Once, now: Now) -> BegunOut:
    """A new change that sets out from what is live; one works in it from now on. The same key begins it once."""
    return BegunOut(
        change=await changes.begin(
            database, person, site, title=body.title, why=body.why, request_key=key, now=now
        )
    )  # fmt: skip


@router.put("/sites/{site}/work", status_code=204)
async def work_in(site: str, body: WorkBody, database: Db, person: Someone) -> None:
    """In which change one works at the site, wherever an address does not say otherwise."""
    await changes.work_in(database, person, site, body.change)


@router.put("/changes/{change}", status_code=204)
async def name(change: UUID, body: ChangeBody, database: Db, person: Someone, now: Now) -> None:
    await changes.name(database, person, change, title=body.title, why=body.why, now=now)


@router.post("/changes/{change}/withdraw", status_code=204)
async def withdraw(change: UUID, database: Db, person: Someone, now: Now) -> None:
    """The change is over and does nothing."""
    await changes.withdraw(database, person, change, now)


@router.get("/sites/{site}/changes/{change}/conflicts")
async def conflicts(site: str, change: UUID, database: Db, person: Someone) -> list[ConflictOut]:
    """What the change and what is live by now do not agree on."""
    return conflicts_out(await changes.conflicts(database, person, site, change))


class SettlingOut(Answer):
    """A menu that the change and what is live do not agree on, as each has it, and what comes of the choices so far; null where it is
    not there."""

    menu: str
    ours: Menu | None
    theirs: Menu | None
    result: Menu | None


@router.post("/sites/{site}/changes/{change}/settling")
async def settling(site: str, change: UUID, body: ChoicesBody, database: Db, person: Someone) -> list[SettlingOut]:
    """What would come of these choices; nothing is kept."""
    return [
        SettlingOut(menu=one.key, ours=one.ours, theirs=one.theirs, result=one.result)
        for one in await changes.settling(database, person, site, change, body.choices)
    ]


@router.post("/sites/{site}/changes/{change}/catch-up")
async def catch_up(
    site: str, change: UUID, body: ChoicesBody, database: Db, person: Someone, now: Now
) -> list[ConflictOut]:
    """The change sets out from what is live now. What is still not agreed on: then nothing is kept."""
    return conflicts_out(await changes.catch_up(database, person, site, change, body.choices, now))


@router.post("/sites/{site}/changes/{change}/left-out", status_code=201)
async def leave_out(
    site: str, change: UUID, body: LeftOutBody, database: Db, person: Someone, key: Once, now: Now
) -> LeftOutOut:
    """What the change does to the menu goes over into a change of its own, and the rest goes without it. The same key does
    it once."""
    made = await leaving.leave_out(database, person, site, change, body.menu, request_key=key, now=now)
    return LeftOutOut.model_validate(made)


def conflicts_out(found: changes.Told) -> list[ConflictOut]:
    return [
        ConflictOut(
            key=one.key, menu=one.menu, kind=one.conflict.kind, title=words.title, field=words.field, ours=words.ours,
            theirs=words.theirs,
        )
        for one, words in found
    ]  # fmt: skip
