"""A client's word on a change, by a link: no account, and nothing else of the agency to be seen."""

import asyncio
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal, cast
from uuid import UUID

from pydantic import SecretStr

from sign_shelf.core.basics.clock import clock_of, said_day, said_moment
from sign_shelf.core.drawing.client_page import LONGEST_NAME, LONGEST_WORDS, ClientPage, ClientSaid, ClientSite, Drawn
from sign_shelf.core.drawing.elevation import State, elevation
from sign_shelf.core.errors import Clash, NotFound, Refusal
from sign_shelf.core.model.menu import Device
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.desk import put_live
from sign_shelf.desk.going_out import GoingOut, done_to
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.desk.review import Reviewed, one_change, reviewed
from sign_shelf.desk.sign_in import token_hash
from sign_shelf.store import changes, ledger, sign_offs
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ChangePartRow, SignOffRow, SignOffSaidRow, SiteRow

Verdict = Literal["yes", "no", "remark"]
LONGEST_DAYS = 90
MOST_SAID = 200
"""By one link: whoever has it must not fill the shelf."""
DRAWN: tuple[Device, ...] = ("phone", "desktop")
MOST_SENTENCES = 40
MOST_SITES = 12
"""By one link: each is drawn anew for whoever looks."""


@dataclass(frozen=True, kw_only=True)
class SignOff:
    row: SignOffRow
    by: str | None
    said: tuple[SignOffSaidRow, ...]


async def make(
    database: Database,
    person: Person,
    change_id: UUID,
    *,
    for_whom: str,
    sites: Sequence[str],
    days: int,
    now: datetime,
) -> tuple[UUID, SecretStr]:
    """A link that shows what the change does to these of its sites, or to all where none is named. Its token is told this once."""
    called = " ".join(for_whom.split())
    if not called or len(called) > LONGEST_NAME or not called.isprintable():
        raise Refusal(f"Say in 1 to {LONGEST_NAME} signs whom it is for.", where="for_whom", remedy="Such as Mrs Hale.")
    if not 1 <= days <= LONGEST_DAYS:
        raise Refusal(f"A link is there for 1 to {LONGEST_DAYS} days.", where="days", remedy="Two weeks will often do.")
    token = SecretStr(secrets.token_urlsafe(32))
    async with database.transaction() as session:
        found = await one_change(session, person, change_id, "edit")
        touched = [site.key for site, _ in found.parts]
        if unknown := next((one for one in sites if one not in touched), None):
            raise NotFound(f"{found.row.title} does nothing at {unknown}.", where="sites")
        if len(sites or touched) > MOST_SITES:
            raise Refusal(f"A link shows {MOST_SITES} sites at most.", where="sites",
                          remedy="Make one for each client, with their own sites.")  # fmt: skip
        row = SignOffRow(
            change_id=change_id, token_hash=token_hash(token), for_whom=called, sites=list(sites) or touched,
            made_by=person.id, made_at=now, until=now + timedelta(days=days),
        )  # fmt: skip
        session.add(row)
        await session.flush()
        _tell(session, found, row, f"Made a link for {called} to look at {found.row.title}", person.id, now)
        return row.id, token


async def withdraw(database: Database, person: Person, change_id: UUID, sign_off_id: UUID, now: datetime) -> None:
    """It leads nowhere from now on; what was said by it stays."""
    async with database.transaction() as session:
        found = await one_change(session, person, change_id, "edit")
        row = await sign_offs.by_id(session, sign_off_id)
        if row is None or row.change_id != change_id:
            raise NotFound("There is no such link.", where=f"changes/{change_id}/sign-offs/{sign_off_id}")
        if row.withdrawn_at is None:
            row.withdrawn_at = now
            session.add(row)
            _tell(session, found, row, f"Withdrew the link for {row.for_whom}", person.id, now)


def _tell(session: Session, found: Reviewed, row: SignOffRow, says: str, by: UUID | None, now: datetime) -> None:
    for site, _ in found.parts:
        if site.key in row.sites:
            ledger.write(session, "sign-off", says, at=now, person_id=by, site_id=site.id, change=str(row.change_id))


async def of_change(session: Session, found: Reviewed) -> list[SignOff]:
    rows = await sign_offs.of_change(session, found.row.id)
    said = await sign_offs.said(session, [row.id for row in rows])
    return [
        SignOff(row=row, by=found.name_of(row.made_by), said=tuple(one for one in said if one.sign_off_id == row.id))
        for row in rows
    ]


async def _open(
    session: Session, token: SecretStr, now: datetime, *, lock: bool = False
) -> tuple[SignOffRow, Reviewed] | None:
    """None for a link that was never made, has ended or was withdrawn, and where the change is over without having been live."""
    row = await sign_offs.by_token(session, token_hash(token), lock=lock)
    if row is None or row.withdrawn_at is not None or row.until <= now:
        return None
    change = await changes.change_by_id(session, row.change_id)
    if change is None or change.state == "withdrawn":
        return None
    return row, (await reviewed(session, [change]))[0]


async def look(database: Database, token: SecretStr, now: datetime) -> ClientPage | None:
    async with database.transaction() as session:
        opened = await _open(session, token, now)
        if opened is None:
            return None
        row, found = opened
        said = await sign_offs.said(session, [row.id])
    shown = [(site, part) for site, part in found.parts if site.key in row.sites]
    clock = clock_of(facts_of(shown[0][0]).zone) if shown else clock_of("UTC")
    return ClientPage(
        title=found.row.title, why=found.row.why, for_whom=row.for_whom, until=said_day(clock.now(row.until)[:10]),
        sites=tuple([await _site(database, site, found, part, now) for site, part in shown]),
        said=tuple(
            ClientSaid(
                name=one.name, verdict=one.verdict, says=one.says, at=said_moment(clock.now(one.at)),
                holds=one.content == found.content,
            )
            for one in said
        ),
        content=found.content,
        closed="It is live by now." if all(part.live_at is not None for _, part in shown) else "",
    )  # fmt: skip


async def _site(database: Database, site: SiteRow, found: Reviewed, part: ChangePartRow, now: datetime) -> ClientSite:
    does = await done_to(database, site, found.row, part, now)
    async with database.transaction() as session:
        before, after = [Prepared(await put_live.whole(session, site, name)) for name in (part.base, part.head)]
    facts = facts_of(site)
    language, at = facts.languages[0], clock_of(facts.zone).now(now)

    def drawn() -> tuple[Drawn, ...]:
        """On the devices on which visitors see a difference."""
        made = []
        for device in DRAWN:
            lens = Lens(device=device, language=language, at=at)
            # A phone's menu is looked at opened.
            opened = State(drawer_open=device == "phone")
            was, then = elevation(before, lens, opened), elevation(after, lens, opened)
            if was.html == then.html:
                continue
            made.append(Drawn(device=device, width=then.width, before=was.html, after=then.html))
        return tuple(made)

    return ClientSite(name=site.name, does=_sentences(does), drawn=await asyncio.to_thread(drawn), language=language)


def _sentences(does: GoingOut) -> tuple[tuple[str, tuple[str, ...]], ...]:
    told = [(goes.name, _some([edit.says for edit in goes.edits])) for goes, _ in does.menus]
    if does.site:
        told.append(("The site itself", _some(list(does.site))))
    return tuple(told)


def _some(sentences: list[str]) -> tuple[str, ...]:
    more = len(sentences) - MOST_SENTENCES
    return (*sentences[:MOST_SENTENCES], *((f"and {more} more",) if more > 0 else ()))


async def say(
    database: Database, token: SecretStr, *, name: str, verdict: str, says: str, content: str, now: datetime
) -> bool:
    """False for a link that leads nowhere. Raises Refusal for what is not to be taken so, and Clash where the change is not what was
    looked at."""
    called, words = " ".join(name.split()), says.strip()
    if verdict not in {"yes", "no", "remark"}:
        raise Refusal("Say yes or no, or remark on it.", where="verdict")
    if not called or len(called) > LONGEST_NAME or not called.isprintable():
        raise Refusal("Write your name.", where="name")
    if len(words) > LONGEST_WORDS or "\0" in words:
        raise Refusal(f"Say it in {LONGEST_WORDS} signs.", where="says")
    if verdict in {"no", "remark"} and not words:
        raise Refusal(
            "Say in a few words what is to be different." if verdict == "no" else "Write your remark.", where="says"
        )
    async with database.transaction() as session:
        opened = await _open(session, token, now, lock=True)
        if opened is None:
            return False
        row, found = opened
        if content != found.content:
            raise Clash(
                "It was changed while you looked at it. This is what it is now: look once more.", where="content"
            )
        if len(await sign_offs.said(session, [row.id])) >= MOST_SAID:
            raise Refusal("Enough was said by this link.", where="says", remedy="Ask whoever sent it.")
        session.add(SignOffSaidRow(
            sign_off_id=row.id, name=called, verdict=cast(Verdict, verdict), says=words, content=content, at=now
        ))  # fmt: skip
        does = {"yes": "says yes to", "no": "says no to", "remark": "remarks on"}[verdict]
        _tell(session, found, row, f"{called} {does} {found.row.title}, by the link for {row.for_whom}", None, now)
        return True
