"""Where one gets notices, of what and when, and what became of them."""

import asyncio
from datetime import datetime
from typing import Literal
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Config, Db, Now, Someone
from sign_shelf.api.models import Answer
from sign_shelf.core.errors import NotFound
from sign_shelf.core.notices import Wishes, any_notice, subject, text
from sign_shelf.desk import notices
from sign_shelf.desk.permission import require
from sign_shelf.outside.mail_sink import letters
from sign_shelf.store.tables import NoticeRow

router = APIRouter(prefix="/api/notices", tags=["notices"])
NoticeState = Literal["waiting", "going", "sent", "failed", "unsure"]


class NoticeOut(Answer):
    """`says` why it has not arrived; `next_try` where it is tried again."""

    id: UUID
    type: str
    subject: str
    text: str
    state: NoticeState
    made_at: datetime
    sent_at: datetime | None
    next_try: datetime | None
    tries: int
    says: str


class ChannelOut(Answer):
    """`off_at`: since when the address wants no more."""

    id: UUID
    kind: Literal["mail", "webhook"]
    address: str
    wishes: Wishes
    daily_due_at: datetime | None
    off_at: datetime | None
    told: list[NoticeOut]


class NoticesOut(Answer):
    channels: list[ChannelOut]
    mail: bool
    """Whether there is a server that takes our mail,"""
    kept: bool
    """and whether it keeps what it takes, for trying."""


class HookBody(BaseModel):
    url: str = Field(max_length=2_000)


class HookOut(Answer):
    id: UUID
    secret: str
    """Told this once."""


class LetterOut(Answer):
    id: str
    to: str
    subject: str
    at: datetime
    text: str


def _notice(row: NoticeRow, name: str, shelf: str) -> NoticeOut:
    said = any_notice.validate_python(row.said)
    return NoticeOut(
        id=row.id, type=said.type, subject=subject(said), text=text(said, to=name, shelf=shelf),
        state=row.state,
        made_at=row.made_at, sent_at=row.sent_at, next_try=row.due_at if row.state == "waiting" and row.tries else None,
        tries=row.tries, says=row.says,
    )  # fmt: skip


@router.get("")
async def mine(database: Db, person: Someone, settings: Config, now: Now) -> NoticesOut:
    """One's own: the mail first, then the addresses that take webhooks."""
    return NoticesOut(
        channels=[
            ChannelOut(
                id=one.row.id, kind=one.row.kind,
                address=one.row.address or person.email, wishes=Wishes.model_validate(one.row.wishes),
                daily_due_at=one.row.daily_due_at, off_at=one.row.off_at,
                told=[_notice(row, person.name, settings.address) for row in one.told],
            )
            for one in await notices.mine(database, person, now)
        ],
        mail=bool(settings.mail.get_secret_value()),
        kept=settings.mail_sink is not None,
    )  # fmt: skip


@router.get("/kept-mail")
async def kept_mail(person: Someone, settings: Config) -> list[LetterOut]:
    """What the mail server kept that is there for trying; where there is none, there is no such address."""
    if settings.mail_sink is None:
        raise NotFound("Mail is sent, and not kept here.", where="notices/kept-mail")
    require(person, "settings", "notices/kept-mail")
    kept = await asyncio.to_thread(letters, settings.mail_sink, 50)
    return [LetterOut(id=one.id, to=one.to, subject=one.subject, at=one.at, text=one.text) for one in kept]


@router.post("/channels", status_code=201)
async def add_hook(body: HookBody, database: Db, person: Someone, now: Now) -> HookOut:
    """An address of one's own that takes webhooks (Standard Webhooks), wished as one's mail is."""
    made, secret = await notices.add_hook(database, person, body.url, now)
    return HookOut(id=made, secret=secret.get_secret_value())


@router.put("/channels/{channel_id}", status_code=204)
async def wish(channel_id: UUID, body: Wishes, database: Db, person: Someone, now: Now) -> None:
    """What is told there from now on; one that wanted no more is taken up again."""
    await notices.wish(database, person, channel_id, body, now)


@router.delete("/channels/{channel_id}", status_code=204)
async def take_away(channel_id: UUID, database: Db, person: Someone, now: Now) -> None:
    await notices.take_away(database, person, channel_id, now)


@router.post("/channels/{channel_id}/trial", status_code=202)
async def try_it(channel_id: UUID, database: Db, person: Someone, now: Now) -> None:
    """A trial is sent there; no more than one a minute."""
    await notices.try_it(database, person, channel_id, now)


@router.post("/{notice_id}/again", status_code=202)
async def send_again(notice_id: UUID, database: Db, person: Someone, now: Now) -> None:
    """One that was given up, or of which it is not known whether it arrived."""
    await notices.send_again(database, person, notice_id, now)
