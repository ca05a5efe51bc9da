"""Where people get notices: by mail, and at addresses of theirs that take webhooks; what they wish, and what was told there."""

import secrets
from base64 import b64encode
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, cast
from urllib.parse import urlsplit
from uuid import UUID

from pydantic import SecretStr

from sign_shelf.core.basics.address import normal
from sign_shelf.core.errors import Clash, NotFound, Refusal
from sign_shelf.core.model.documents import read
from sign_shelf.core.notices import Trial, Wishes, next_daily, usual
from sign_shelf.desk.permission import Person, Role, require, role_may
from sign_shelf.store import ledger, notices, people, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.seals import notice_channel
from sign_shelf.store.tables import ChannelRow, NoticeRow, PersonRow

MOST_HOOKS = 10
SHOWN = 20
KEPT = timedelta(days=90)


@dataclass(frozen=True)
class Channel:
    """`told`: the newest first."""

    row: ChannelRow
    told: Sequence[NoticeRow]


async def expect(session: Session, now: datetime) -> None:
    """Whoever has an account gets mail as is usual, until they say otherwise."""
    fresh = await notices.without_mail(session)
    if fresh:
        zones = [row.particulars.get("zone", "UTC") for row in await sites.all_sites(session)]
        here = await people.roles_at_sites(session)
        await notices.add(session, [_mail(row, here.get(row.id, {}), zones, now) for row in fresh])


def _mail(person: PersonRow, at_sites: dict[str, str], zones: Sequence[str], now: datetime) -> dict[str, Any]:
    doer = any(role_may(cast(Role, role), "edit") for role in (person.role, *at_sites.values()))
    return _channel(person.id, "mail", "", usual(doer, zones), now)


def _channel(person_id: UUID, kind: str, address: str, wishes: Wishes, now: datetime) -> dict[str, Any]:
    row = ChannelRow(
        person_id=person_id, kind=kind, address=address, wishes=wishes.to_json(), made_at=now, daily_at=now,
        daily_due_at=next_daily(wishes, now),
    )  # fmt: skip
    return row.model_dump()


async def mine(database: Database, person: Person, now: datetime) -> list[Channel]:
    async with database.transaction() as session:
        await expect(session, now)
        rows = await notices.channels(session, person.id)
        return [Channel(row, await notices.told(session, row.id, SHOWN)) for row in rows]


async def wish(database: Database, person: Person, channel_id: UUID, wishes: Wishes, now: datetime) -> None:
    """What is told there from now on. One that the other side turned off is on again. Raises NotFound."""
    require(person, "own account", "notices")
    async with database.transaction() as session:
        row = await _own(session, person, channel_id)
        row.wishes, row.daily_due_at, row.off_at = wishes.to_json(), next_daily(wishes, now), None
        session.add(row)


async def _own(session: Session, person: Person, channel_id: UUID) -> ChannelRow:
    row = await notices.channel(session, channel_id, lock=True)
    if row is None or row.person_id != person.id:
        raise NotFound("You get no notices there.", where=f"notices/channels/{channel_id}")
    return row


async def add_hook(database: Database, person: Person, url: str, now: datetime) -> tuple[UUID, SecretStr]:
    """An address of the person's that takes webhooks, wished as their mail is; what its notices are signed with, which is told
    this once. Raises Refusal for what is no address, Clash where there is one already or there are too many."""
    require(person, "own account", "notices")
    address = normal(url.strip(), url.strip())
    if address is None or len(address) > 2_000:
        raise Refusal(
            "This is no address that notices could be sent to.", where="url", remedy="Write one like https://desk.example/notices"
        )  # fmt: skip
    secret = SecretStr("whsec_" + b64encode(secrets.token_bytes(32)).decode())
    async with database.transaction() as session:
        await expect(session, now)
        rows = await notices.channels(session, person.id)
        if len(rows) > MOST_HOOKS:
            raise Clash(
                f"You get notices at {MOST_HOOKS} addresses already.", where="url", remedy="Take one away first."
            )
        if any(row.address == address for row in rows):
            raise Clash(
                "You get notices at this address already.", where="url", remedy="Take it away first for a new key."
            )
        wishes = read(Wishes, rows[0].wishes)
        made = _channel(person.id, "webhook", address, wishes, now)
        made["sealed"] = database.seals.seal(secret, notice_channel(made["id"]))
        await notices.add(session, [made])
        ledger.write(session, "notices", f"Gets notices at {said_of(address)}", at=now, person_id=person.id)
    return made["id"], secret


def said_of(address: str) -> str:
    """The address as others may read it: its path and query may hold a secret."""
    parts = urlsplit(address)
    return f"{parts.scheme}://{parts.hostname}" if parts.hostname else "an address"


async def take_away(database: Database, person: Person, channel_id: UUID, now: datetime) -> None:
    """Raises NotFound, and Refusal for mail: that is told nothing instead."""
    require(person, "own account", "notices")
    async with database.transaction() as session:
        row = await _own(session, person, channel_id)
        if row.kind == "mail":
            raise Refusal("Mail stays: an account has an address.", remedy="Wish for nothing to be told by mail.")
        await notices.forget(session, row.id)
        ledger.write(
            session, "notices", f"Gets no notices at {said_of(row.address)} any more", at=now, person_id=person.id
        )


async def try_it(database: Database, person: Person, channel_id: UUID, now: datetime) -> None:
    """A trial is sent, as every notice is. No more than one a minute."""
    require(person, "own account", "notices")
    async with database.transaction() as session:
        row = await _own(session, person, channel_id)
        said = Trial(by=person.name).model_dump(mode="json")
        await notices.put(session, row.id, f"trial {now:%Y-%m-%dT%H:%M}", said, now)


async def send_again(database: Database, person: Person, notice_id: UUID, now: datetime) -> None:
    """One that was given up, or of which it is not known whether it arrived. Raises NotFound, and Clash for any other."""
    require(person, "own account", "notices")
    async with database.transaction() as session:
        row = await notices.notice(session, notice_id, lock=True)
        if row is None:
            raise NotFound("There is no such notice.", where=f"notices/{notice_id}")
        await _own(session, person, row.channel_id)
        if row.state not in {"failed", "unsure"}:
            raise Clash("It was sent, or is about to be.", where=f"notices/{notice_id}", remedy="Wait for it.")
        await notices.became(session, row.id, {"state": "waiting", "due_at": now, "tries": 0, "says": ""})
