"""Who is in a change with one, as it happens."""

import asyncio
import contextlib
from collections.abc import AsyncIterator
from dataclasses import asdict
from datetime import UTC, datetime
from time import monotonic
from uuid import UUID

import orjson
from fastapi import APIRouter, Request
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, Now, Someone, Token
from sign_shelf.api.models import Answer
from sign_shelf.api.streams import LASTS_S, Streams
from sign_shelf.core.errors import Refusal
from sign_shelf.desk import sign_in, there

router = APIRouter(prefix="/api/there", tags=["changes"])
_TOGETHER_S = 0.1
"""What happens within it is told once."""


class MeetsIn(BaseModel):
    title: str = Field(max_length=500)
    field: str = Field(default="", max_length=100)
    ours: str = Field(max_length=2_000)
    theirs: str = Field(max_length=2_000)


class WhereBody(BaseModel):
    """`page` is chosen by the page. Where it is on no menu, or on no line, these are empty. `meets`: what the person is asked to choose
    about, where what they typed met what somebody saved."""

    page: UUID
    site: str = Field(default="", max_length=200)
    menu: str = Field(default="", max_length=200)
    item: str = Field(default="", max_length=200)
    meets: list[MeetsIn] = Field(default=[], max_length=20)


class PageBody(BaseModel):
    page: UUID


class MeetsOut(Answer):
    title: str
    field: str
    ours: str
    theirs: str


class SomebodyOut(Answer):
    page: UUID
    person: UUID
    name: str
    site: str
    menu: str
    item: str
    meets: list[MeetsOut]


class ThereOut(Answer):
    """What each event `there` of the stream says. `heads` name what the change wants at each site: where one is another than before,
    somebody saved."""

    people: list[SomebodyOut]
    heads: dict[str, str]


@router.put("/{change}", status_code=204)
async def be_there(change: UUID, body: WhereBody, database: Db, person: Someone, now: Now) -> None:
    """Said again every 20 seconds while the page is open."""
    await there.be_there(
        database, person, change, page=body.page, site=body.site, menu=body.menu, item=body.item, now=now,
        meets=[there.Meets(**one.model_dump()) for one in body.meets],
    )  # fmt: skip


@router.post("/{change}/gone", status_code=204)
async def leave(change: UUID, body: PageBody, database: Db, person: Someone) -> None:
    """As a page says when it is closed."""
    await there.leave(database, person, body.page)


@router.get(
    "/{change}", response_class=StreamingResponse,
    responses={200: {"model": ThereOut, "content": {"text/event-stream": {}}}},
)  # fmt: skip
async def told(
    change: UUID, request: Request, database: Db, person: Someone, token: Token, now: Now
) -> StreamingResponse:
    """Server-sent events: `there` with everybody who is in the change, whenever that or what it wants is another."""
    streams: Streams = request.app.state.streams
    streams.refuse_more(person.id)
    first = await there.there(database, person, change, now)

    async def events() -> AsyncIterator[bytes]:
        before = None
        now_there = first
        ends = monotonic() + LASTS_S
        with streams.of(change, person.id) as woken:
            while not streams.stopped and monotonic() < ends:
                yield _event(now_there) if now_there != before else b": still here\n\n"
                before = now_there
                with contextlib.suppress(TimeoutError):
                    async with asyncio.timeout(streams.pause_s):
                        await woken.wait()
                        await asyncio.sleep(_TOGETHER_S)
                woken.clear()
                at = datetime.now(UTC)
                try:
                    whoever = await sign_in.who(database, token, at) if token else None
                    if whoever is None:
                        return
                    now_there = await there.there(database, whoever, change, at)
                except Refusal:
                    # Begun anew by the browser, it says why.
                    return

    return StreamingResponse(
        events(), media_type="text/event-stream", headers={"cache-control": "no-store", "x-accel-buffering": "no"}
    )


def _event(told_: there.There) -> bytes:
    return b"event: there\ndata: %b\n\n" % orjson.dumps(asdict(told_))
