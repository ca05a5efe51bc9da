"""What became another in a change since one last looked at it."""

import asyncio
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sign_shelf.core.changes.foretold import brought
from sign_shelf.core.errors import Clash
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.desk.review import one_change
from sign_shelf.store import states
from sign_shelf.store.database import Database
from sign_shelf.store.tables import ChangeLookRow, SiteRow


@dataclass(frozen=True)
class Since:
    """`at` is None where one never looked; then nothing is told."""

    at: datetime | None
    does: tuple[tuple[SiteRow, tuple[str, ...]], ...]
    """Of each site where it wants something else by now: what, in sentences."""


async def since(database: Database, person: Person, change_id: UUID) -> Since:
    async with database.transaction() as session:
        found = await one_change(session, person, change_id)
        row = await session.get(ChangeLookRow, (person.id, change_id))
        if row is None:
            return Since(None, ())
        told = []
        for site, part in found.parts:
            before = row.heads.get(site.key, part.base)
            if before != part.head:
                sides = [await states.contents(session, name) for name in (before, part.head)]
                does = await asyncio.to_thread(brought, *sides, language=facts_of(site).languages[0])
                told.append((site, tuple(does)))
        return Since(row.at, tuple(told))


async def looked(database: Database, person: Person, change_id: UUID, *, content: str, now: datetime) -> None:
    """`content` names what the person saw. Raises Clash where it is another by now: nothing is taken for seen that was not."""
    async with database.transaction() as session:
        found = await one_change(session, person, change_id)
        if content != found.content:
            raise Clash(f"{found.row.title} is not what you looked at: somebody saved since, or something else went live.",
                        where=f"changes/{change_id}", remedy="Look at it again.")  # fmt: skip
        row = await session.get(ChangeLookRow, (person.id, change_id))
        row = row or ChangeLookRow(person_id=person.id, change_id=change_id, heads={}, at=now)
        row.heads, row.at = {site.key: part.head for site, part in found.parts}, now
        session.add(row)
