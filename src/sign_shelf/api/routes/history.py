"""A menu's past, comparisons, and edits taken back."""

from typing import Annotated

from fastapi import APIRouter, Query

from sign_shelf.api.documents import Menu
from sign_shelf.api.guards import Db, In, Language, Someone
from sign_shelf.api.models import Edits, HistoryEntry, HistoryPage, TakeBackBody
from sign_shelf.desk import history as past

router = APIRouter(prefix="/api/sites/{site}/menus/{menu}", tags=["history"])

Hash = Annotated[str, Query(max_length=80)]


@router.get("/history")
async def history(
    site: str,
    menu: str,
    database: Db,
    person: Someone,
    view: In,
    language: Language = None,
    before: Annotated[int | None, Query(ge=1, le=2**62)] = None,
) -> HistoryPage:
    """Who saved what when, newest first; saves in one go are one entry."""
    found = await past.history(database, person, site, menu, view=view, language=language, before=before)
    return HistoryPage(
        entries=[
            HistoryEntry(
                revision=one.revision,
                hash=one.hash,
                before=one.before,
                since=one.since,
                at=one.at,
                by=one.by,
                saves=one.saves,
                edits=Edits.of(one.edits),
                live_at=one.live_at,
            )
            for one in found.entries
        ],
        next=found.next,
    )


@router.get("/revisions/{hash}")
async def revision(site: str, menu: str, hash: str, database: Db, person: Someone) -> Menu:
    """The menu document as it was."""
    return await past.revision(database, person, site, menu, hash)


@router.get("/comparison")
async def comparison(
    site: str, menu: str, before: Hash, after: Hash, database: Db, person: Someone, language: Language = None
) -> Edits:
    """The edits between two revisions of the menu."""
    found = await past.compare(database, person, site, menu, before=before, after=after, language=language)
    return Edits.of(found)


@router.get("/comparison/with/{other_site}/{other_menu}")
async def comparison_with(
    site: str,
    menu: str,
    other_site: str,
    other_menu: str,
    database: Db,
    person: Someone,
    view: In,
    language: Language = None,
) -> Edits:
    """The edits that lead from another menu to this one, copies known by their origin, the rest found by content."""
    found = await past.compare_with(
        database, person, site, menu, view=view, other_site=other_site, other_menu=other_menu, language=language
    )
    return Edits.of(found)


@router.post("/take-back")
async def take_back(site: str, menu: str, body: TakeBackBody, database: Db, person: Someone) -> Menu:
    """The sent document with some of its edits taken back. Nothing is saved by it."""
    return await past.take_back(
        database, person, site, menu, before=body.before, document=body.document, keys=body.keys
    )
