"""Checking now: what is asked and looked at again, and how far that is."""

from dataclasses import dataclass
from datetime import datetime

from sign_shelf.desk.findings import to_be_called
from sign_shelf.desk.permission import Person, may, require
from sign_shelf.desk.portfolio import unknown_site, visible_sites
from sign_shelf.store import links, looks
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import SiteRow


@dataclass(frozen=True, kw_only=True)
class Progress:
    """`unchecked` counts the sites whose findings are not yet those of what they are now."""

    addresses: int
    due: int
    asked_at: datetime | None
    unchecked: int


async def progress(session: Session, person: Person, key: str | None, now: datetime) -> Progress:
    """Of one site, or of all that the person may look at. Raises NotFound."""
    rows = await _sites(session, person, key)
    asked = await links.asked(session, [row.id for row in rows], now)
    mine = {row.id for row in rows}
    looked = [one for one in await looks.to_look(session) if one.site_id in mine]
    late = sum(1 for one in looked if one.leads != one.gathered or to_be_called(one, now) != one.looked)
    return Progress(addresses=asked.addresses, due=asked.due, asked_at=asked.asked_at, unchecked=late)


async def check_now(database: Database, person: Person, key: str | None, now: datetime) -> Progress:
    """A worker does it; nobody has to wait for it. At the sites that the person may edit; raises NotAllowed where that is
    none."""
    async with database.transaction() as session:
        rows = [row for row in await _sites(session, person, key) if may(person, "edit", row.key)]
        if not rows:
            require(person, "edit", "findings/check", key)
        await links.ask_again(session, [row.id for row in rows], now)
        for row in rows:
            await looks.read_home_again(session, row.id)
    async with database.transaction() as session:
        return await progress(session, person, key, now)


async def _sites(session: Session, person: Person, key: str | None) -> list[SiteRow]:
    rows = [row for row in await visible_sites(session, person) if key is None or row.key == key]
    if key is not None and not rows:
        require(person, "look", f"sites/{key}", key)
        raise unknown_site(key)
    return rows
