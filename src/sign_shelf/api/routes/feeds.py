"""What is ahead as iCalendar and what went live as Atom, at an address that only its person knows."""

from datetime import datetime

from fastapi import APIRouter, Request, Response
from pydantic import SecretStr

from sign_shelf.api.guards import Config, Db, Now, Someone
from sign_shelf.api.models import Answer
from sign_shelf.api.problems import NotSignedIn
from sign_shelf.desk import feeds
from sign_shelf.desk.permission import Person
from sign_shelf.store.database import Database

router = APIRouter(prefix="/api/feeds", tags=["feeds"])


class FeedsOut(Answer):
    """Since when one has an address; it is told once, when it is made."""

    made_at: datetime | None


class FeedAddressOut(Answer):
    """`calendar` is read by calendar programs (RFC 5545), `live` by feed readers (RFC 4287). Whoever knows them may read them."""

    calendar: str
    live: str


@router.get("")
async def mine(database: Db, person: Someone) -> FeedsOut:
    return FeedsOut(made_at=await feeds.kept(database, person))


@router.post("", status_code=201)
async def make(request: Request, database: Db, person: Someone, settings: Config, now: Now) -> FeedAddressOut:
    """A new address; the one before ends."""
    token = (await feeds.make(database, person, now)).get_secret_value()
    base = f"{settings.address or str(request.base_url)}api/feeds/{token}"
    return FeedAddressOut(calendar=f"{base}/ahead.ics", live=f"{base}/live.atom")


@router.delete("", status_code=204)
async def end(database: Db, person: Someone) -> None:
    """Nobody reads anything by the address any more."""
    await feeds.end(database, person)


@router.get("/{token}/ahead.ics", response_class=Response)
async def ahead(token: str, database: Db, settings: Config, now: Now) -> Response:
    """Every moment that is still to come, of all sites that the address's person may look at."""
    person = await _whose(database, token)
    body = await feeds.calendar(database, person, shelf=settings.address, now=now)
    return Response(body, media_type="text/calendar; charset=utf-8", headers={"cache-control": "private, max-age=300"})


@router.get("/{token}/live.atom", response_class=Response)
async def live(token: str, request: Request, database: Db, settings: Config, now: Now) -> Response:
    """What went live, and what came back, the newest first."""
    person = await _whose(database, token)
    itself = f"{settings.address}{request.url.path[1:]}" if settings.address else ""
    body = await feeds.went_live(database, person, shelf=settings.address, itself=itself, now=now)
    return Response(
        body, media_type="application/atom+xml; charset=utf-8", headers={"cache-control": "private, max-age=300"}
    )


async def _whose(database: Database, token: str) -> Person:
    """Whether it was never made or was withdrawn, the answer is the same."""
    person = await feeds.whose(database, SecretStr(token))
    if person is None:
        raise NotSignedIn("This address is of nobody.", remedy="Make a new one in the calendar.")
    return person
