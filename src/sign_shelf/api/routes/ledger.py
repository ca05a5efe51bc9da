"""Who did what, read in pages and taken out whole."""

import csv
import io
import json
from collections.abc import AsyncIterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Depends, Query
from fastapi.responses import StreamingResponse

from sign_shelf.api.guards import Db, Someone
from sign_shelf.api.models import LedgerOut
from sign_shelf.core.formats.csv import guarded
from sign_shelf.desk.log_readers import PERSONAL, readable
from sign_shelf.desk.permission import Person, may
from sign_shelf.desk.portfolio import site_row
from sign_shelf.store import changes, ledger, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import LedgerRow

router = APIRouter(prefix="/api/ledger", tags=["ledger"])
PAGE = 500


@dataclass(frozen=True, kw_only=True)
class Asked:
    site: str | None
    who: str | None
    menu: str | None
    action: list[str]
    since: datetime | None
    until: datetime | None


async def asked(
    site: str | None = None,
    who: Annotated[str | None, Query(max_length=200, description="The name of the person who did it.")] = None,
    menu: Annotated[str | None, Query(max_length=100, description="The key of a menu.")] = None,
    action: Annotated[list[str], Query(max_length=40, description="What was done: any of these.")] = [],  # noqa: B006
    since: datetime | None = None,
    until: Annotated[datetime | None, Query(description="Up to just before this moment.")] = None,
) -> Asked:
    return Asked(site=site, who=who, menu=menu, action=action, since=since, until=until)


Lines = Annotated[Asked, Depends(asked)]


@router.get("")
async def lines(
    database: Db,
    person: Someone,
    wanted: Lines,
    before: Annotated[int | None, Query(ge=1, le=2**62)] = None,
    limit: Annotated[int, Query(ge=1, le=PAGE)] = 100,
) -> list[LedgerOut]:
    """Who did what, newest first; `before` a line's id for what came earlier."""
    async with database.transaction() as session:
        return await _page(session, person, wanted, before, limit)


@router.get("/export/{form}", response_class=StreamingResponse)
async def export(form: Literal["csv", "jsonl"], database: Db, person: Someone, wanted: Lines) -> StreamingResponse:
    """All of it as a table (RFC 4180), or as an object a line (JSON lines), newest first."""
    async with database.transaction() as session:
        # What cannot be asked for is told before anything is sent.
        first = await _page(session, person, wanted, None, PAGE)
    media = "text/csv; charset=utf-8" if form == "csv" else "application/jsonl"
    return StreamingResponse(
        _written(form, database, person, wanted, first), media_type=media,
        headers={"content-disposition": f'attachment; filename="ledger.{form}"'},
    )  # fmt: skip


async def _written(
    form: str, database: Database, person: Person, wanted: Asked, found: list[LedgerOut]
) -> AsyncIterator[str]:
    if form == "csv":
        yield _row(list(LedgerOut.model_fields))
    while found:
        told = [line.model_dump(mode="json") for line in found]
        yield "".join(
            _row([guarded(str(value)) if value is not None else "" for value in line.values()])
            if form == "csv" else json.dumps(line, ensure_ascii=False) + "\n"
            for line in told
        )  # fmt: skip
        if len(found) < PAGE:
            return
        async with database.transaction() as session:
            found = await _page(session, person, wanted, found[-1].id, PAGE)


def _row(cells: Sequence[str]) -> str:
    out = io.StringIO(newline="")
    csv.writer(out, lineterminator="\r\n").writerow(cells)
    return out.getvalue()


async def _page(session: Session, person: Person, wanted: Asked, before: int | None, limit: int) -> list[LedgerOut]:
    site_id = (await site_row(session, person, wanted.site)).id if wanted.site else None
    hidden = {row.id for row in await sites.all_sites(session) if not may(person, "look", row.key)}
    may_read = readable(person)
    found = await ledger.lines(
        session, site_id=site_id, before=before, limit=limit, hidden=hidden, siteless=may_read.of_everybody,
        personal=() if may_read.of_accounts else PERSONAL, own=may_read.own, who=wanted.who, menu=wanted.menu,
        actions=wanted.action, since=wanted.since, until=wanted.until,
    )  # fmt: skip
    told_of = {UUID(row.detail["change"]) for row, _, _ in found if row.detail.get("change")}
    why = {row.id: row.why for row in await changes.changes_by_id(session, told_of)}
    return [_line(row, name, key, why) for row, name, key in found]


def _line(row: LedgerRow, name: str | None, key: str | None, why: dict[UUID, str]) -> LedgerOut:
    change = UUID(row.detail["change"]) if row.detail.get("change") else None
    return LedgerOut(
        id=row.id or 0, at=row.at, person=name, site=key, menu=row.detail.get("menu"), change=change,
        why=why.get(change, "") if change is not None else "",
        release=row.detail.get("release"), action=row.action, says=row.says,
    )  # fmt: skip
