"""How a site and the shelf know each other: what the site can do, and their keys. What a key is, is told once, when it is
made."""

from datetime import datetime, timedelta
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, Net, Now, Someone
from sign_shelf.api.models import Answer, SecretBody
from sign_shelf.core.model.site import Abilities
from sign_shelf.desk import connect, connections

router = APIRouter(prefix="/api/sites/{site}", tags=["keys"])


class NewKeyBody(BaseModel):
    old_counts_hours: int = Field(default=24, ge=0, le=24 * 30)
    """For how long the one before counts as well."""


class NewKeyOut(Answer):
    kind: Literal["delivery", "facts"]
    key: str
    old_counts_until: datetime


@router.put("/secret", status_code=204)
async def keep_secret(site: str, body: SecretBody, database: Db, fetcher: Net, person: Someone, now: Now) -> None:
    """The signing key from the site's back office, kept once the site takes it. One that was there before signs along for a
    day."""
    await connect.keep_secret(database, fetcher, person, site, body.secret, now)


class ConnectionOut(Answer):
    """How the site gets its menus now, and what is known for the ways in which it could. `remote` without what is secret in it."""

    kind: Literal["endpoint", "repository", "fetch", "observe"]
    signing: bool
    delivery: bool
    remote: str | None
    branch: str | None
    folder: str | None
    ping: bool
    vouched: bool


class TriedOut(Answer):
    """`check` in the imperative: what the site, or the repository, does."""

    check: str
    outcome: Literal["ok", "fails", "not tried"]
    says: str


@router.get("/connection")
async def connection(site: str, database: Db, fetcher: Net, person: Someone) -> ConnectionOut:
    return ConnectionOut.model_validate(await connections.known(database, person, site), from_attributes=True)


@router.post("/connection/try")
async def try_out(
    site: str, body: connections.Wanted, database: Db, fetcher: Net, person: Someone, now: Now
) -> list[TriedOut]:
    """Tries such a connection out, and changes nothing."""
    found = await connections.try_out(database, fetcher, person, site, body, now)
    return [TriedOut(check=one.check, outcome=one.outcome, says=one.says) for one in found]


@router.put("/connection", status_code=204)
async def use(site: str, body: connections.Wanted, database: Db, fetcher: Net, person: Someone, now: Now) -> None:
    """From now on the site gets its menus so."""
    await connections.use(database, fetcher, person, site, body, now)


@router.post("/abilities")
async def ask_abilities(site: str, database: Db, fetcher: Net, person: Someone, now: Now) -> Abilities:
    """What the site says that it can do, read again from its discovery."""
    return await connect.ask_abilities(database, fetcher, person, site, now)


@router.post("/keys/{kind}", status_code=201)
async def new_key(
    site: str, kind: connect.Made, body: NewKeyBody, database: Db, person: Someone, now: Now
) -> NewKeyOut:
    """A new key for a site that asks: to ask with, or to sign visitors' facts with."""
    counts = timedelta(hours=body.old_counts_hours)
    made = await connect.new_key(database, person, site, kind, old_counts=counts, now=now)
    return NewKeyOut(kind=kind, key=made.get_secret_value(), old_counts_until=now + counts)
