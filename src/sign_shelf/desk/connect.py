"""How a site is reached: its signing key."""

from base64 import b64decode
from datetime import datetime

from sign_shelf.core.errors import Refusal
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import site_row
from sign_shelf.store import ledger
from sign_shelf.store.database import Database

MIN_KEY_BYTES = 24


def checked_secret(secret: str) -> str:
    """The key in the form of the Standard Webhooks scheme: `whsec_` and at least 24 bytes in base64. Raises Refusal."""
    wanted = secret.strip()
    prefix, _, key = wanted.partition("_")
    try:
        size = len(b64decode(key, validate=True))
    except ValueError:
        size = 0
    if prefix != "whsec" or size < MIN_KEY_BYTES:
        raise Refusal(
            "This is no signing key.",
            where="secret",
            remedy="It begins with whsec_ and is found in the site's back office; copy it whole.",
        )
    return wanted


async def keep_secret(database: Database, person: Person, site_key: str, secret: str, now: datetime) -> None:
    require(person, "take in", f"sites/{site_key}/secret")
    wanted = checked_secret(secret)
    async with database.transaction() as session:
        site = await site_row(session, site_key, lock=True)
        site.secret = wanted
        session.add(site)
        ledger.write(
            session, "connect", f"Entered the signing key of {site.name}", at=now, person_id=person.id, site_id=site.id
        )
