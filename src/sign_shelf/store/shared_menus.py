"""Menus that the agency shares, in every version that they had, and what pages of sites are known by."""

from collections import defaultdict
from collections.abc import Iterable
from datetime import datetime
from uuid import UUID

from sqlalchemy import func, text
from sqlmodel import col, select, tuple_

from sign_shelf.core.sharing import PageName
from sign_shelf.store.database import Session
from sign_shelf.store.tables import PageRow, SharedMenuRow


async def alone(session: Session) -> None:
    """Until the transaction ends nobody else keeps a version of a shared menu."""
    await (await session.connection()).execute(
        text("SELECT pg_advisory_xact_lock(hashtextextended('shared menus', 0))")
    )


async def newest(session: Session) -> dict[str, SharedMenuRow]:
    """The newest version of each, by key, in the order of their names."""
    last = select(SharedMenuRow.key, func.max(SharedMenuRow.version)).group_by(col(SharedMenuRow.key))
    rows = await session.exec(
        select(SharedMenuRow).where(tuple_(col(SharedMenuRow.key), col(SharedMenuRow.version)).in_(last))
    )
    return {row.key: row for row in sorted(rows, key=lambda row: (row.name.casefold(), row.key))}


async def versions(session: Session, key: str) -> list[SharedMenuRow]:
    """Newest first."""
    query = select(SharedMenuRow).where(SharedMenuRow.key == key).order_by(col(SharedMenuRow.version).desc())
    return list(await session.exec(query))


async def keep(
    session: Session, key: str, version: int, *, name: str, language: str, hash: str, author_id: UUID, at: datetime
) -> SharedMenuRow:
    row = SharedMenuRow(key=key, version=version, name=name, language=language, hash=hash, author_id=author_id, at=at)
    session.add(row)
    await session.flush()
    return row


async def page_names(session: Session, site_ids: Iterable[UUID]) -> dict[UUID, list[PageName]]:
    """Of their published pages."""
    query = select(PageRow.site_id, PageRow.ref, PageRow.path, PageRow.title).where(
        col(PageRow.site_id).in_(list(site_ids)), PageRow.state == "published"
    )
    found: dict[UUID, list[PageName]] = defaultdict(list)
    for site_id, ref, path, title in await session.exec(query):
        found[site_id].append(PageName(ref, path, tuple(title.values())))
    return found
