"""Sending the notices that wait: each alone, tried again where it did not arrive, and never sent twice.

A webhook carries the notice's name, by which its receiver knows what it has. A letter has nothing of the kind that mail servers
heed: where a server may have taken it and nobody heard, it is not sent again by itself.
"""

import asyncio
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

import orjson
import structlog

from sign_shelf.core.errors import Busy, Refusal
from sign_shelf.core.notices import Notice, any_notice, next_try, payload, subject, text
from sign_shelf.outside import webhooks
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.mail import HandingOver, MailServer, NotTaken, PerhapsTaken, letter
from sign_shelf.store import notices, people, queue
from sign_shelf.store.database import Database
from sign_shelf.store.seals import notice_channel
from sign_shelf.store.tables import ChannelRow, NoticeRow, PersonRow

log = structlog.get_logger()
AT_ONCE = 4
NO_SERVER = "There is no mail server (SIGN_SHELF_MAIL)."
Clock = Callable[[], datetime]


@dataclass(frozen=True, kw_only=True)
class Post:
    """By what notices leave. `shelf` is where people reach us."""

    fetcher: Fetcher
    mail: MailServer | None
    shelf: str


async def post(database: Database, by: Post, clock: Clock) -> int:
    """Sends whatever is due. How many arrived."""
    async with database.transaction() as session:
        due = await notices.due(session, clock())
    room = asyncio.Semaphore(AT_ONCE)

    async def one(notice_id: UUID) -> bool:
        async with room, database.alone(queue.work_name("notice", str(notice_id))) as alone:
            return alone and await _send(database, by, notice_id, clock)

    return sum(await asyncio.gather(*(one(notice_id) for notice_id in due)))


async def _send(database: Database, by: Post, notice_id: UUID, clock: Clock) -> bool:
    """Whether it arrived. Nobody else sends it meanwhile."""
    async with database.transaction() as session:
        row = await notices.notice(session, notice_id)
        channel = await notices.channel(session, row.channel_id) if row is not None else None
        if row is None or channel is None or row.state not in notices.OPEN or row.due_at > clock():
            return False
        person = await people.person_by_id(session, channel.person_id)
    assert person is not None, "a channel belongs to a person"
    if row.state == "going":
        # Whoever sent it is no more: the lock was free.
        became: dict[str, Any] = {"state": "unsure", "says": "We were stopped while it was sent: it may have arrived."}
    elif person.disabled_at is not None or channel.off_at is not None:
        became = {"state": "failed", "says": "Its receiver gets no notices any more."}
    else:
        said = any_notice.validate_python(row.said)
        try:
            if channel.kind == "mail":
                became = await _by_mail(database, by, row, person, said, clock)
            else:
                became = await _by_webhook(database, by, row, channel, said, clock)
        except Busy:
            raise
        except (Refusal, ValueError) as no:
            # It could not even be made, such as without the key that its secret is sealed with.
            became = _later(row, str(no), clock())
    async with database.transaction() as session:
        await notices.became(session, notice_id, became)
    log.info("notice", notice=str(notice_id), channel=channel.kind, state=became["state"], says=became.get("says", ""))
    return bool(became["state"] == "sent")


def _later(row: NoticeRow, says: str, now: datetime, wait_s: float = 0.0) -> dict[str, Any]:
    tries = row.tries + 1
    again = next_try(tries, now, wait_s)
    if again is None:
        return {"state": "failed", "tries": tries, "says": says}
    return {"state": "waiting", "tries": tries, "says": says, "due_at": again}


def _arrived(row: NoticeRow, now: datetime) -> dict[str, Any]:
    return {"state": "sent", "tries": row.tries + 1, "says": "", "sent_at": now}


async def _by_mail(
    database: Database, by: Post, row: NoticeRow, person: PersonRow, said: Notice, clock: Clock
) -> dict[str, Any]:
    if by.mail is None:
        return {"state": "failed", "says": NO_SERVER}
    made = letter(
        row.id, sender=by.mail.sender, name=person.name, address=person.email, subject=subject(said),
        text=text(said, to=person.name, shelf=by.shelf), at=row.made_at,
    )  # fmt: skip
    with HandingOver(by.mail, made, person.email) as handing:
        try:
            await asyncio.to_thread(handing.offer)
            async with database.transaction() as session:
                await notices.became(session, row.id, {"state": "going"})
            await asyncio.to_thread(handing.hand_over)
        except NotTaken as no:
            return (
                {"state": "failed", "tries": row.tries + 1, "says": no.says}
                if no.for_good
                else _later(row, no.says, clock())
            )
        except PerhapsTaken as perhaps:
            return {"state": "unsure", "tries": row.tries + 1, "says": perhaps.says}
    return _arrived(row, clock())


async def _by_webhook(
    database: Database, by: Post, row: NoticeRow, channel: ChannelRow, said: Notice, clock: Clock
) -> dict[str, Any]:
    secret, body = (
        database.seals.open(channel.sealed, notice_channel(channel.id)),
        orjson.dumps(payload(said, row.made_at)),
    )
    answer = await webhooks.send(by.fetcher, channel.address, [secret], id=f"msg_{row.id.hex}", body=body, at=clock())
    if answer.kind == "taken":
        return _arrived(row, clock())
    if answer.kind == "not now":
        return _later(row, answer.says, clock(), answer.wait_s)
    async with database.transaction() as session:
        await notices.turn_off(session, channel.id, clock())
    return {"state": "failed", "tries": row.tries + 1, "says": answer.says}
