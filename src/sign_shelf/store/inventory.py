"""What is known of sites' pages: when each was seen, what differed in which version, and when a site is read again."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import func, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.core.inventory import News
from sign_shelf.core.model.site import Page
from sign_shelf.store.database import Session
from sign_shelf.store.tables import PageNewsRow, PageRow, PageSeenRow, SiteReadingRow, SiteRow

AT_ONCE = 1_000


async def due(session: Session, now: datetime) -> Sequence[UUID]:
    """Sites whose pages are to be read now; those that wait longest first."""
    rows = await (await session.connection()).execute(_DUE, {"now": now})
    return [row.id for row in rows]


_DUE = text(
    "SELECT site.id FROM site JOIN site_reading reading ON reading.site_id = site.id"
    " WHERE site.archived_at IS NULL AND reading.due_at <= :now ORDER BY reading.due_at"
)


async def expect_readings(session: Session, due_at: datetime) -> None:
    """Sites that nobody ever read again are due then."""
    await (await session.connection()).execute(_EXPECT, {"due_at": due_at})


_EXPECT = text(
    "INSERT INTO site_reading (site_id, due_at, says, listed, sitemaps, ending, notes)"
    " SELECT site.id, :due_at, '', 0, '[]', '', '[]' FROM site"
    " WHERE NOT EXISTS (SELECT 1 FROM site_reading reading WHERE reading.site_id = site.id) ON CONFLICT DO NOTHING"
)


async def reading_of(session: Session, site_id: UUID, *, lock: bool = False) -> SiteReadingRow | None:
    query = select(SiteReadingRow).where(SiteReadingRow.site_id == site_id)
    locked = query.with_for_update().execution_options(populate_existing=True)
    return (await session.exec(locked if lock else query)).first()


async def read_by(session: Session, site_id: UUID, at: datetime) -> None:
    """The site's pages are read at this time at the latest."""
    fresh = insert(SiteReadingRow).values(
        {"site_id": site_id, "due_at": at, "says": "", "listed": 0, "sitemaps": [], "ending": "", "notes": []}
    )
    earlier = func.least(col(SiteReadingRow.due_at), fresh.excluded.due_at)
    await session.exec(fresh.on_conflict_do_update(index_elements=["site_id"], set_={"due_at": earlier}))


async def put_reading(session: Session, site_id: UUID, values: Mapping[str, Any]) -> None:
    await session.exec(update(SiteReadingRow).where(col(SiteReadingRow.site_id) == site_id).values(dict(values)))


async def sightings(session: Session, site_id: UUID) -> dict[str, PageSeenRow]:
    rows = await session.exec(select(PageSeenRow).where(PageSeenRow.site_id == site_id))
    return {row.ref: row for row in rows}


async def put_sightings(session: Session, rows: Iterable[Mapping[str, Any]]) -> None:
    """Of each page all that is told of it now."""
    wanted = list(rows)
    for begin in range(0, len(wanted), AT_ONCE):
        fresh = insert(PageSeenRow).values(wanted[begin : begin + AT_ONCE])
        told = {name: fresh.excluded[name] for name in _SEEN}
        await session.exec(fresh.on_conflict_do_update(index_elements=["site_id", "ref"], set_=told))


_SEEN = ("status", "asked_at", "seen_at", "etag", "modified", "content", "listed_in", "changed", "alternates")


async def put_pages(session: Session, site_id: UUID, news: Sequence[News], now: datetime) -> int:
    """Brings what differs into the inventory, which has another version from then on: that one."""
    version = (
        await session.exec(
            update(SiteRow).where(col(SiteRow.id) == site_id).values(inventory=SiteRow.inventory + 1).returning(
                col(SiteRow.inventory)
            )
        )
    ).scalar_one()  # fmt: skip
    last = select(func.coalesce(func.max(PageRow.position), -1)).where(PageRow.site_id == site_id)
    position = (await session.exec(last)).one()
    fresh = [
        one.after.model_dump() | {"site_id": site_id, "position": at}
        for at, one in enumerate((one for one in news if one.before is None), start=position + 1)
    ]
    for begin in range(0, len(fresh), AT_ONCE):
        await session.exec(insert(PageRow).values(fresh[begin : begin + AT_ONCE]))
    for one in news:
        if one.before is not None:
            mine = (col(PageRow.site_id) == site_id, col(PageRow.ref) == one.ref)
            await session.exec(update(PageRow).where(*mine).values(one.after.model_dump(exclude={"ref", "ends"})))
    rows = [
        {
            "site_id": site_id, "version": version, "at": now, "kind": one.kind, "ref": one.ref, "because": one.because,
            "before": one.before.to_json() if one.before is not None else None, "after": one.after.to_json(),
        }
        for one in news
    ]  # fmt: skip
    for begin in range(0, len(rows), AT_ONCE):
        await session.exec(insert(PageNewsRow).values(rows[begin : begin + AT_ONCE]))
    return int(version)


async def news_since(session: Session, site_id: UUID, since: datetime, limit: int) -> Sequence[PageNewsRow]:
    """The newest first."""
    query = select(PageNewsRow).where(PageNewsRow.site_id == site_id, col(PageNewsRow.at) >= since)
    return list(await session.exec(query.order_by(col(PageNewsRow.id).desc()).limit(limit)))


async def to_be_placed(session: Session, site_id: UUID) -> Sequence[PageNewsRow]:
    """New pages that nobody placed or dismissed; those that came last first."""
    query = select(PageNewsRow).where(PageNewsRow.site_id == site_id, PageNewsRow.kind == "new")
    query = query.where(col(PageNewsRow.settled).is_(None))
    return list(await session.exec(query.order_by(col(PageNewsRow.id).desc())))


async def settle(
    session: Session, site_id: UUID, refs: Iterable[str], how: str, *, by: UUID | None, now: datetime
) -> int:
    """How many there were."""
    mine = update(PageNewsRow).where(
        col(PageNewsRow.site_id) == site_id, col(PageNewsRow.ref).in_(list(refs)), col(PageNewsRow.kind) == "new",
        col(PageNewsRow.settled).is_(None),
    )  # fmt: skip
    done = await session.exec(mine.values(settled=how, settled_at=now, settled_by=by))
    return int(done.rowcount)


async def left_out(session: Session, site_id: UUID) -> Sequence[PageNewsRow]:
    """New pages that somebody dismissed, those first that were last."""
    query = select(PageNewsRow).where(PageNewsRow.site_id == site_id, PageNewsRow.settled == "dismissed")
    return list(await session.exec(query.order_by(col(PageNewsRow.settled_at).desc(), col(PageNewsRow.id).desc())))


async def unsettle(session: Session, site_id: UUID, refs: Iterable[str]) -> int:
    """Those of these that were dismissed wait to be placed again: how many."""
    mine = update(PageNewsRow).where(
        col(PageNewsRow.site_id) == site_id, col(PageNewsRow.ref).in_(list(refs)), col(PageNewsRow.settled) == "dismissed"
    )  # fmt: skip
    done = await session.exec(mine.values(settled=None, settled_at=None, settled_by=None))
    return int(done.rowcount)


async def put_end(session: Session, site_id: UUID, ref: str, ends: str | None) -> bool:
    """Whether there is such a page. The inventory has another version from then on."""
    mine = (col(PageRow.site_id) == site_id, col(PageRow.ref) == ref)
    done = await session.exec(update(PageRow).where(*mine).values(ends=ends))
    await session.exec(update(SiteRow).where(col(SiteRow.id) == site_id).values(inventory=SiteRow.inventory + 1))
    return bool(done.rowcount)


@dataclass(frozen=True)
class Version:
    """A version of the inventory, as what came to differ in it."""

    version: int
    at: datetime
    news: int


async def versions(session: Session, site_id: UUID, limit: int = 50) -> Sequence[Version]:
    """The newest first."""
    query = select(PageNewsRow.version, func.min(PageNewsRow.at), func.count()).where(PageNewsRow.site_id == site_id)
    rows = await session.exec(
        query.group_by(col(PageNewsRow.version)).order_by(col(PageNewsRow.version).desc()).limit(limit)
    )
    return [Version(version, at, number) for version, at, number in rows]


async def pages_at(session: Session, site_id: UUID, version: int, now: Sequence[Page]) -> tuple[Page, ...]:
    """The pages as they were in that version: what differed since is taken back, the newest first."""
    query = select(PageNewsRow).where(PageNewsRow.site_id == site_id, PageNewsRow.version > version)
    found = {page.ref: page for page in now}
    for row in await session.exec(query.order_by(col(PageNewsRow.id).desc())):
        if row.before is None:
            found.pop(row.ref, None)
        else:
            found[row.ref] = Page.model_validate(row.before)
    return tuple(found.values())


async def all_to_be_placed(session: Session) -> Sequence[UUID]:
    """The site of each new page that nobody placed or dismissed."""
    query = select(PageNewsRow.site_id).where(PageNewsRow.kind == "new", col(PageNewsRow.settled).is_(None))
    return list(await session.exec(query))


async def doubts(session: Session) -> dict[UUID, str]:
    """What readings ask, by site."""
    rows = await session.exec(select(SiteReadingRow).where(col(SiteReadingRow.doubt).is_not(None)))
    return {row.site_id: str((row.doubt or {}).get("says", "")) for row in rows if row.doubt}
