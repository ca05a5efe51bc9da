"""When nothing goes live: at one site, or at all of them, from one reading of their clocks to another."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sign_shelf.core.basics.clock import clock_of, read_reading, said_moment
from sign_shelf.core.errors import EditRefused, NotFound, Refusal
from sign_shelf.desk.permission import Person, may, require
from sign_shelf.desk.portfolio import facts_of, site_row
from sign_shelf.store import ledger, people, schedules, sites
from sign_shelf.store.database import Database
from sign_shelf.store.tables import FreezeRow, SiteRow

LONGEST = 400


@dataclass(frozen=True, kw_only=True)
class SetFreeze:
    row: FreezeRow
    site: SiteRow | None
    by: str | None


async def all_of(database: Database, person: Person) -> list[SetFreeze]:
    async with database.transaction() as session:
        every = {row.id: row for row in await sites.all_sites(session) if may(person, "look", row.key)}
        rows = [row for row in await schedules.freezes(session) if row.site_id is None or row.site_id in every]
        names = await people.people_by_id(session, {row.set_by for row in rows if row.set_by is not None})
        return [
            SetFreeze(
                row=row,
                site=every.get(row.site_id) if row.site_id is not None else None,
                by=names[row.set_by].name if row.set_by in names else None,
            )
            for row in rows
        ]


async def add(
    database: Database, person: Person, *, site_key: str | None, begins: str, ends: str, why: str, now: datetime
) -> UUID:
    """Changes whose moments are in it are told what stands in their way; where it comes to that, they are held."""
    require(person, "settings", "freezes", site_key)
    says = " ".join(why.split())
    if not says or len(says) > LONGEST:
        raise Refusal(
            f"Say in 1 to {LONGEST} signs why.", where="why", remedy="People whose changes wait will read it."
        )
    first, last = read_reading(begins, where="begins"), read_reading(ends, where="ends")
    if last[:16] <= first[:16]:
        raise EditRefused("It would end before it begins.", where="ends", remedy="Let it end after it has begun.")
    async with database.transaction() as session:
        site = await site_row(session, person, site_key) if site_key is not None else None
        if site is not None:
            clock = clock_of(facts_of(site).zone)
            first, last = clock.checked(first, where="begins"), clock.checked(last, where="ends")
        row = FreezeRow(
            site_id=site.id if site is not None else None, begins=first, ends=last, why=says, set_by=person.id, set_at=now
        )  # fmt: skip
        session.add(row)
        await session.flush()
        where = site.name if site is not None else "any site"
        ledger.write(session, "freeze", f"Nothing goes live at {where} from {said_moment(first)} to {said_moment(last)}: {says}",
                     at=now, person_id=person.id, site_id=row.site_id)  # fmt: skip
        return row.id


async def end(database: Database, person: Person, freeze_id: UUID, now: datetime) -> None:
    async with database.transaction() as session:
        row = await session.get(FreezeRow, freeze_id)
        site = await session.get(SiteRow, row.site_id) if row is not None and row.site_id is not None else None
        if row is None:
            raise NotFound("There is no such freeze.", where=f"freezes/{freeze_id}")
        require(person, "settings", f"freezes/{freeze_id}", site.key if site is not None else None)
        await session.delete(row)
        ledger.write(
            session, "freeze", f"Ended the freeze: {row.why}", at=now, person_id=person.id, site_id=row.site_id
        )
