"""In sync or not: how each site gets its menus, when it was last read as it is live, and what differs there."""

from dataclasses import dataclass
from datetime import datetime

from sign_shelf.core.errors import Refusal
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import site_row, visible_sites
from sign_shelf.store import drift, ledger, releases
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import DriftRow, LiveReadingRow, ReleaseRow, SiteRow

LEAST_MINUTES, MOST_MINUTES = 5, 7 * 24 * 60


@dataclass(frozen=True)
class InSync:
    """`reading` None where the site is still to be read for the first time. `drifts`: the places that differ."""

    site: SiteRow
    reading: LiveReadingRow | None
    last: ReleaseRow | None
    lived: ReleaseRow | None
    drifts: tuple[DriftRow, ...]


async def told(session: Session, person: Person, site: str | None = None) -> list[InSync]:
    """Of all sites that the person may look at, or of one: those that differ first, then those that could not be read."""
    rows = [row for row in await visible_sites(session, person) if site is None or row.key == site]
    if site is not None and not rows:
        await site_row(session, person, site)
    ids = [row.id for row in rows]
    readings = await drift.readings(session, ids)
    last, lived = await releases.newest(session, ids), await releases.newest(session, ids, state="live")
    differ: dict[object, list[DriftRow]] = {}
    for one in await drift.drifts(session, ids):
        differ.setdefault(one.site_id, []).append(one)
    found = [
        InSync(row, readings.get(row.id), last.get(row.id), lived.get(row.id), tuple(differ.get(row.id, ())))
        for row in rows
    ]
    return sorted(found, key=_trouble)


def _trouble(one: InSync) -> tuple[bool, bool, str]:
    return not one.drifts, not (one.reading and one.reading.says), one.site.name


async def read_soon(database: Database, person: Person, site_key: str, now: datetime) -> None:
    """As soon as a worker can."""
    require(person, "edit", f"sites/{site_key}/sync", site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        await drift.read_soon(session, site.id, now)


async def in_rhythm(database: Database, person: Person, site_key: str, minutes: int, now: datetime) -> None:
    """Raises Refusal for a rhythm that is none."""
    where = f"sites/{site_key}/sync"
    require(person, "edit", where, site_key)
    if not LEAST_MINUTES <= minutes <= MOST_MINUTES:
        raise Refusal(
            f"A site is read every {LEAST_MINUTES} to {MOST_MINUTES} minutes.", where="every_minutes",
            remedy="60 is an hour, 1440 a day.",
        )  # fmt: skip
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        await drift.in_rhythm(session, site.id, minutes, now)
        ledger.write(
            session, "connect", f"Has {site.name} read every {minutes} minutes", at=now, person_id=person.id, site_id=site.id
        )  # fmt: skip
