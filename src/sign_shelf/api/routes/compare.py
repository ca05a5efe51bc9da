"""The same place of several sites side by side."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, In, Now, Once, Someone
from sign_shelf.api.models import Answer
from sign_shelf.core.model.menu import Device
from sign_shelf.desk import across

router = APIRouter(prefix="/api/compare", tags=["sites"])


class ColumnOut(Answer):
    site: str
    name: str
    location: str | None
    location_title: str | None
    menu: str | None
    menu_name: str | None


class AcrossCell(Answer):
    """`sure` from 0 to 1: how sure it is that it is what the row is about."""

    item: str
    number: str
    label: str
    leads_to: str
    sure: float


class AcrossRow(Answer):
    """`cells` in the order of the columns; `lacking`: columns that lack what most of them have."""

    level: int
    cells: list[AcrossCell | None]
    lacking: list[int]


class AcrossOut(Answer):
    columns: list[ColumnOut]
    rows: list[AcrossRow]


class BringBody(BaseModel):
    site: str = Field(max_length=200)
    menu: str = Field(max_length=200)
    item: str = Field(max_length=200)
    to_site: str = Field(max_length=200)
    to_menu: str = Field(max_length=200)


class BroughtOut(Answer):
    change: UUID
    notes: list[str]


@router.get("")
async def compared(
    database: Db, person: Someone, view: In, site: Annotated[list[str], Query(max_length=across.MOST_SITES)],
    location: Annotated[str, Query(max_length=200)], device: Device = "desktop",
) -> AcrossOut:  # fmt: skip
    """Entry by entry, matched by what they say and where they lead."""
    found = await across.compared(database, person, site, location, device, view)
    return AcrossOut(
        columns=[ColumnOut.model_validate(vars(one)) for one in found.columns],
        rows=[
            AcrossRow(
                level=row.level, lacking=list(row.lacking()),
                cells=[AcrossCell.model_validate(vars(cell)) if cell is not None else None for cell in row.cells],
            )
            for row in found.rows
        ],
    )  # fmt: skip


@router.post("/bring", status_code=201)
async def bring(body: BringBody, database: Db, person: Someone, view: In, key: Once, now: Now) -> BroughtOut:
    """A copy of an entry of one site in the menu of another, in the change there."""
    done = await across.bring_over(database, person, **body.model_dump(), request_key=key, now=now, view=view)
    return BroughtOut(**done)
