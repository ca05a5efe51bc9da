"""How a site is reached: the keys that it and we know each other by."""

from base64 import b64decode
from datetime import datetime, timedelta
from secrets import token_urlsafe
from typing import Literal

from pydantic import SecretStr

from sign_shelf.core.errors import Refusal
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import site_row
from sign_shelf.store import keys, ledger
from sign_shelf.store.database import Database

MIN_KEY_BYTES = 24
OLD_COUNTS = timedelta(hours=24)
Made = Literal["delivery", "facts"]


def checked_secret(secret: SecretStr) -> SecretStr:
    """The key in the form of the Standard Webhooks scheme: `whsec_` and at least 24 bytes in base64. Raises Refusal."""
    wanted = secret.get_secret_value().strip()
    prefix, _, key = wanted.partition("_")
    try:
        size = len(b64decode(key, validate=True)) if key.isascii() else 0
    except ValueError:
        size = 0
    if prefix != "whsec" or size < MIN_KEY_BYTES:
        raise Refusal(
            "This is no signing key.",
            where="secret",
            remedy="It begins with whsec_ and is found in the site's back office; copy it whole.",
        )
    return SecretStr(wanted)


async def keep_secret(database: Database, person: Person, site_key: str, secret: SecretStr, now: datetime) -> None:
    """The signing key from the site's back office. One that was there before signs along for a day."""
    where = f"sites/{site_key}/secret"
    require(person, "take in", where, site_key)
    wanted = checked_secret(secret)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)
        if await keys.has_key(session, site.id, "signing"):
            require(person, "keys", where, site_key)
        await keys.keep_key(
            session, database.seals, site.id, "signing", wanted, now=now, old_until=now + OLD_COUNTS
        )  # fmt: skip
        ledger.write(
            session, "connect", f"Entered the signing key of {site.name}", at=now, person_id=person.id, site_id=site.id
        )


async def new_key(
    database: Database, person: Person, site_key: str, kind: Made, *, old_counts: timedelta, now: datetime
) -> SecretStr:
    """A new key for the site to ask with, or to sign visitors' facts with; told this once. The one before counts for so
    long."""
    require(person, "keys", f"sites/{site_key}/keys/{kind}", site_key)
    made = SecretStr(token_urlsafe(32))
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)
        await keys.keep_key(session, database.seals, site.id, kind, made, now=now, old_until=now + old_counts)
        hours = int(old_counts.total_seconds() // 3600)
        says = f"Made a new {kind} key for {site.name}; one from before counts for {hours} hours"
        ledger.write(session, "connect", says, at=now, person_id=person.id, site_id=site.id)
    return made
