"""Changes, what they do to each site, and who works in which.

Locks are taken in one order, so that no two transactions wait for each other: first the right to open a change of one's
own (`alone_at`), then the site's row, then parts of changes by the change's id, then rows that are only added. Saving
locks one part and no site; what moves the live state locks the site and then the parts that move on with it. Rows are
locked FOR NO KEY UPDATE: a foreign key's check of the site or change waits for none of them.
"""

from collections.abc import Iterable
from datetime import datetime
from uuid import UUID

from sqlalchemy import and_, delete, or_, text
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.core.changes import life
from sign_shelf.store.database import Session
from sign_shelf.store.sites import keep_live
from sign_shelf.store.tables import ChangePartRow, ChangeRow, ContributionRow, PersonRow, SiteRow, WorkRow

LOOKED_IN = ("draft", "in review", "approved", "scheduled", "held", "missed", "failed", "going live")
"""Where a change stands while people still work in it or wait for it."""


async def alone_at(session: Session, person_id: UUID, site_id: UUID) -> None:
    """Until the transaction ends nobody else opens a change for the person at the site."""
    lock = text("SELECT pg_advisory_xact_lock(hashtextextended(:name, 0))")
    await (await session.connection()).execute(lock, {"name": f"open change {person_id} {site_id}"})


async def change_by_id(session: Session, change_id: UUID, *, lock: bool = False) -> ChangeRow | None:
    query = select(ChangeRow).where(ChangeRow.id == change_id)
    return (await session.exec(query.with_for_update(key_share=True) if lock else query)).first()


async def changes_by_id(session: Session, change_ids: Iterable[UUID]) -> list[ChangeRow]:
    return list(await session.exec(select(ChangeRow).where(col(ChangeRow.id).in_(list(change_ids)))))


async def part_of(session: Session, change_id: UUID, site_id: UUID, *, lock: bool = False) -> ChangePartRow | None:
    query = select(ChangePartRow).where(ChangePartRow.change_id == change_id, ChangePartRow.site_id == site_id)
    if not lock:
        return (await session.exec(query)).first()
    locked = query.with_for_update(key_share=True).execution_options(populate_existing=True)
    return (await session.exec(locked)).first()


async def parts_of(session: Session, change_id: UUID) -> list[ChangePartRow]:
    return list(await session.exec(select(ChangePartRow).where(ChangePartRow.change_id == change_id)))


async def sites_of(session: Session, change_id: UUID) -> list[tuple[SiteRow, ChangePartRow]]:
    """Each site that the change touches, with what it does there, by the site's name."""
    query = (
        select(SiteRow, ChangePartRow)
        .join(ChangePartRow, col(ChangePartRow.site_id) == SiteRow.id)
        .where(ChangePartRow.change_id == change_id)
    )
    return list(await session.exec(query.order_by(col(SiteRow.name), col(SiteRow.key))))


async def all_parts_of(session: Session, change_ids: Iterable[UUID]) -> list[ChangePartRow]:
    return list(await session.exec(select(ChangePartRow).where(col(ChangePartRow.change_id).in_(list(change_ids)))))


async def open_parts(session: Session, site_id: UUID, states: Iterable[str]) -> list[tuple[ChangeRow, ChangePartRow]]:
    """Locked, by the change's id: those of the site's changes that stand there and are not live at this site."""
    query = (
        select(ChangeRow, ChangePartRow)
        .join(ChangePartRow, col(ChangePartRow.change_id) == ChangeRow.id)
        .where(
            ChangePartRow.site_id == site_id,
            col(ChangeRow.state).in_(list(states)),
            col(ChangePartRow.live_at).is_(None),
        )
        .order_by(col(ChangeRow.id))
        .with_for_update(key_share=True, of=ChangePartRow)
        .execution_options(populate_existing=True)
    )
    return list(await session.exec(query))


async def changes_at(session: Session, site_ids: Iterable[UUID]) -> list[tuple[ChangeRow, ChangePartRow, str | None]]:
    """The changes of these sites that people work in or wait for, with their authors' names, the newest first."""
    query = (
        select(ChangeRow, ChangePartRow, PersonRow.name)
        .join(ChangePartRow, col(ChangePartRow.change_id) == ChangeRow.id)
        .outerjoin(PersonRow, col(PersonRow.id) == ChangeRow.author_id)
        .where(
            col(ChangePartRow.site_id).in_(list(site_ids)),
            col(ChangeRow.state).in_(LOOKED_IN),
            col(ChangePartRow.live_at).is_(None),
        )
        .order_by(col(ChangeRow.created_at).desc(), col(ChangeRow.id))
    )
    return list(await session.exec(query))


async def begin(
    session: Session,
    *,
    title: str,
    why: str,
    author_id: UUID | None,
    at: datetime,
    parts: Iterable[UUID | tuple[UUID, str] | tuple[UUID, str, str]],
) -> ChangeRow:
    """A new draft. At each site it sets out from what is live, or from the state of that name, and has the second one where one is given."""
    change = ChangeRow(title=title, why=why, state="draft", author_id=author_id, created_at=at)
    session.add(change)
    await session.flush()
    parts = list(parts)
    live = await keep_live(session, [part for part in parts if isinstance(part, UUID)])
    for site_id, base, *head in ((part, live[part]) if isinstance(part, UUID) else part for part in parts):
        session.add(ChangePartRow(change_id=change.id, site_id=site_id, base=base, head=head[0] if head else base))
    await session.flush()
    return change


async def contribute(session: Session, change_id: UUID, people: Iterable[UUID]) -> None:
    """They wrote something into the change."""
    rows = [{"change_id": change_id, "person_id": person_id} for person_id in people]
    if rows:
        await session.exec(insert(ContributionRow).values(rows).on_conflict_do_nothing())


async def open_by_nobody(session: Session, site_id: UUID, title: str) -> ChangeRow | None:
    """A draft of this title that no person began, and that is not live at the site yet."""
    query = select(ChangeRow).join(ChangePartRow, col(ChangePartRow.change_id) == ChangeRow.id).where(
        ChangePartRow.site_id == site_id, ChangeRow.title == title, ChangeRow.state == "draft",
        col(ChangeRow.author_id).is_(None), col(ChangePartRow.live_at).is_(None),
    )  # fmt: skip
    return (await session.exec(query.order_by(col(ChangeRow.created_at)).limit(1))).first()


async def work_in(session: Session, person_id: UUID, site_id: UUID, change_id: UUID | None) -> None:
    """From now on the person works in this change at the site; None: in none, until they begin to edit."""
    if change_id is None:
        gone = delete(WorkRow).where(col(WorkRow.person_id) == person_id, col(WorkRow.site_id) == site_id)
        await session.exec(gone)
        return
    statement = insert(WorkRow).values({"person_id": person_id, "site_id": site_id, "change_id": change_id})
    keys = ["person_id", "site_id"]
    await session.exec(statement.on_conflict_do_update(index_elements=keys, set_={"change_id": change_id}))


async def add_part(session: Session, change_id: UUID, site_id: UUID, live: str) -> None:
    """The change touches the site, and sets out from what is live there; where it does so already, nothing happens."""
    row = ChangePartRow(change_id=change_id, site_id=site_id, base=live, head=live)
    await session.exec(insert(ChangePartRow).values(row.model_dump()).on_conflict_do_nothing())


async def worked_in(
    session: Session, person_id: UUID, site_ids: Iterable[UUID]
) -> dict[UUID, tuple[ChangeRow, ChangePartRow]]:
    """In which changes the person works, by site: those that are neither live nor over."""
    query = (
        select(ChangeRow, ChangePartRow)
        .join(ChangePartRow, col(ChangePartRow.change_id) == ChangeRow.id)
        .join(WorkRow, (col(WorkRow.change_id) == ChangeRow.id) & (col(WorkRow.site_id) == ChangePartRow.site_id))
        .where(
            WorkRow.person_id == person_id,
            col(WorkRow.site_id).in_(list(site_ids)),
            col(ChangeRow.state).in_(LOOKED_IN),
            col(ChangePartRow.live_at).is_(None),
        )
    )
    return {part.site_id: (change, part) for change, part in await session.exec(query)}


async def behind_their_parts(session: Session) -> list[UUID]:
    """Changes that are live, or over, at all of their sites, and are not so themselves."""
    parts = select(ChangePartRow).where(ChangePartRow.change_id == ChangeRow.id)
    not_live = parts.where(col(ChangePartRow.live_at).is_(None))
    not_over = parts.where(col(ChangePartRow.over_at).is_(None))
    on_the_way = and_(col(ChangeRow.state).not_in([*life.FINAL, "live"]), parts.exists(), ~not_live.exists())
    ending = and_(col(ChangeRow.state) == "live", parts.exists(), ~not_over.exists())
    return list(await session.exec(select(ChangeRow.id).where(or_(on_the_way, ending))))
