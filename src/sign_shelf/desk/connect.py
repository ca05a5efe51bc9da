"""How a site is reached: the keys that it and we know each other by."""

from base64 import b64decode
from collections.abc import Iterable
from datetime import datetime, timedelta
from secrets import token_urlsafe
from typing import Literal, cast

from pydantic import SecretStr

from sign_shelf.core.errors import Refusal, SiteRefused, SourceRefused
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.site import Abilities
from sign_shelf.core.model.template import Template
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import board, facts_of, site_row
from sign_shelf.outside.endpoint import discover, knows_key
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import keys, ledger, sites
from sign_shelf.store.database import Database
from sign_shelf.store.tables import LiveSlotRow

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


async def try_secret(fetcher: Fetcher, menus: str, slot: tuple[str, Device], secret: SecretStr, now: datetime) -> None:
    """Raises Refusal where the site does not know the key, and where it cannot be asked."""
    try:
        known = await knows_key(fetcher, menus, *slot, secret, at=now)
    except (SourceRefused, SiteRefused) as exc:
        raise Refusal(
            f"The key could not be tried: {exc.says}", where="secret",
            remedy="Try it again once the site answers; without a key that it knows nothing can be put live.",
        ) from exc  # fmt: skip
    if not known:
        raise Refusal(
            "The site does not know this signing key.", where="secret",
            remedy="Copy the one in the site's back office whole; another site's key, or an older one, does not count.",
        )  # fmt: skip


async def keep_secret(
    database: Database, fetcher: Fetcher, person: Person, site_key: str, secret: SecretStr, now: datetime
) -> None:
    """The signing key from the site's back office, once the site takes it. One that was there before signs along for a
    day."""
    where = f"sites/{site_key}/secret"
    require(person, "take in", where, site_key)
    wanted = checked_secret(secret)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        seen = await sites.live_slots(session, [site.id])
        template = (await board(session, person, site_key, "live")).template
        facts = facts_of(site)
    if site.connection == "endpoint" and site.endpoint is not None and (slot := _slot(seen, template)) is not None:
        await try_secret(fetcher, site.endpoint, (facts.called(slot[0]), slot[1]), wanted, now)
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


async def ask_abilities(
    database: Database, fetcher: Fetcher, person: Person, site_key: str, now: datetime
) -> Abilities:
    """Reads again what the site says that it can do. Raises Refusal where it says nothing."""
    where = f"sites/{site_key}/abilities"
    require(person, "take in", where, site_key)
    async with database.transaction() as session:
        base = (await site_row(session, person, site_key)).base
    found = await discover(fetcher, base)
    if found is None:
        raise Refusal(
            "The site does not answer at its well-known address, or not in the site protocol.", where=where,
            remedy="What it said before still counts. See docs/site-protocol.md, “Discovery”.",
        )  # fmt: skip
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)
        particulars = facts_of(site).model_copy(update={"can": found.can})
        site.particulars = particulars.to_json()
        session.add(site)
        says = f"Read again what {site.name} can do"
        ledger.write(session, "connect", says, at=now, person_id=person.id, site_id=site.id)
    return found.can


def _slot(seen: Iterable[LiveSlotRow], template: Template) -> tuple[str, Device] | None:
    """A place that the site has: one in which it was seen to show something, where there is one."""
    for row in seen:
        return row.location, cast(Device, row.device)
    return next(((one.key, one.devices[-1]) for one in template.locations), None)


async def new_key(
    database: Database, person: Person, site_key: str, kind: Made, *, old_counts: timedelta, now: datetime
) -> SecretStr:
    """A new key for the site to ask with, or to sign visitors' facts with; told this once. The one before counts for so
    long."""
    require(person, "keys", f"sites/{site_key}/keys/{kind}", site_key)
    made = SecretStr(token_urlsafe(32))
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)
        before = await keys.has_key(session, site.id, kind)
        await keys.keep_key(session, database.seals, site.id, kind, made, now=now, old_until=now + old_counts)
        hours = int(old_counts.total_seconds() // 3600)
        counts = f"for {hours} hours more" if hours else "no more"
        says = f"Made a {kind} key for {site.name}{f'; the one before counts {counts}' if before else ''}"
        ledger.write(session, "connect", says, at=now, person_id=person.id, site_id=site.id)
    return made
