"""Entries of many menus found by a query, and one change that makes the same edit of all of them."""

from collections.abc import AsyncIterator
from typing import Annotated
from uuid import UUID

import orjson
from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, Now, Once, Someone
from sign_shelf.api.models import Answer
from sign_shelf.core.sweeps import Making, SweptEntry
from sign_shelf.desk import sweep

router = APIRouter(prefix="/api/sweeps", tags=["sweeps"])
MOST = 500
"""Entries told at once."""
Asked = Annotated[
    str, Query(max_length=1_000, description="Such as host:old.example, or label:=Fares. See docs/sweeps.md.")
]


class SweptOut(Answer):
    """`label` in every language that it has one in, one below the other; `leads_to` as it stands in the menu, a page by its path."""

    site: str
    site_name: str
    menu: str
    menu_name: str
    item: str
    number: str
    kind: str
    label: str
    leads_to: str | None


class FoundOut(Answer):
    """`entries` counts all that is found, of which the first are told; `sites` are the keys of all sites at which anything is."""

    found: list[SweptOut]
    entries: int
    sites: list[str]


class ForeseenOut(SweptOut):
    """A line of the preview: what would be done to the entry in sentences, or why nothing is."""

    does: list[str]
    refused: str | None


class MakingBody(BaseModel):
    query: str = Field(max_length=1_000)
    making: Making


class PreviewBody(MakingBody):
    """`sites`: those of which it is worked out; a few at a time are told soon, whatever is found."""

    sites: list[str] | None = Field(default=None, max_length=10_000)


class NamedIn(BaseModel):
    site: str = Field(max_length=200)
    menu: str = Field(max_length=200)
    item: str = Field(max_length=200)


class SweepBody(MakingBody):
    title: str = Field(max_length=200)
    without: list[NamedIn] = Field(default=[], max_length=20_000)


class SweepOut(Answer):
    change: UUID
    title: str
    sites: list[str]
    entries: int


def _told(one: SweptEntry) -> dict[str, object]:
    leads_to = one.path or (f"@{one.page}" if one.page is not None else one.address)
    return {
        "site": one.site, "site_name": one.site_name, "menu": one.menu, "menu_name": one.menu_name, "item": one.item,
        "number": one.number, "kind": one.kind, "label": one.label, "leads_to": leads_to,
    }  # fmt: skip


@router.get("")
async def find(database: Db, person: Someone, now: Now, query: Asked) -> FoundOut:
    """At all sites that one may look at, as they are live."""
    async with database.transaction() as session:
        found = await sweep.find(session, person, query, now)
    return FoundOut(
        found=[SweptOut.model_validate(_told(one)) for one in found[:MOST]], entries=len(found),
        sites=list(dict.fromkeys(one.site for one in found)),
    )  # fmt: skip


@router.post(
    "/preview", response_class=StreamingResponse,
    responses={200: {"model": ForeseenOut, "content": {"application/jsonl": {}}}},
)  # fmt: skip
async def preview(body: PreviewBody, database: Db, person: Someone, now: Now) -> StreamingResponse:
    """What would come of each entry, a JSON line each, menu after menu as it is worked out. Nothing is kept."""
    menus = sweep.foresee(database, person, body.query, body.making, body.sites, now)
    # The first is worked out before the answer begins, so that a refusal is told as one.
    first = await anext(menus, None)

    async def lines() -> AsyncIterator[bytes]:
        if first is not None:
            yield _lines(first)
        async for one in menus:
            yield _lines(one)

    return StreamingResponse(lines(), media_type="application/jsonl", headers={"cache-control": "no-store"})


def _lines(menu: list[sweep.Foreseen]) -> bytes:
    return b"".join(
        orjson.dumps(_told(one.entry) | {"does": list(one.does), "refused": one.refused}) + b"\n" for one in menu
    )


@router.post("", status_code=201)
async def begin(body: SweepBody, database: Db, person: Someone, now: Now, key: Once) -> SweepOut:
    """One change with a part for each site, on top of what is live: reviewed once, released per site, undone as one."""
    without = {(one.site, one.menu, one.item) for one in body.without}
    done = await sweep.begin(
        database, person, body.query, body.making, title=body.title, without=without, request_key=key, now=now
    )
    return SweepOut(**done)
