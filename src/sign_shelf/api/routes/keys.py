"""The keys that a site and the shelf know each other by. What they are is told once, when one is made."""

from datetime import datetime, timedelta
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, Now, Someone
from sign_shelf.api.models import Answer, SecretBody
from sign_shelf.desk import connect

router = APIRouter(prefix="/api/sites/{site}", tags=["keys"])


class NewKeyBody(BaseModel):
    old_counts_hours: int = Field(default=24, ge=0, le=24 * 30)
    """For how long the one before counts as well."""


class NewKeyOut(Answer):
    kind: Literal["delivery", "facts"]
    key: str
    old_counts_until: datetime


@router.put("/secret", status_code=204)
async def keep_secret(site: str, body: SecretBody, database: Db, person: Someone, now: Now) -> None:
    """The signing key from the site's back office. One that was there before signs along for a day."""
    await connect.keep_secret(database, person, site, body.secret, now)


@router.post("/keys/{kind}", status_code=201)
async def new_key(
    site: str, kind: connect.Made, body: NewKeyBody, database: Db, person: Someone, now: Now
) -> NewKeyOut:
    """A new key for a site that asks: to ask with, or to sign visitors' facts with."""
    counts = timedelta(hours=body.old_counts_hours)
    made = await connect.new_key(database, person, site, kind, old_counts=counts, now=now)
    return NewKeyOut(kind=kind, key=made.get_secret_value(), old_counts_until=now + counts)
