"""Menus that the agency shares, in every version that they had, and what pages of sites are known by."""

from collections import defaultdict
from collections.abc import Iterable
from datetime import datetime
from uuid import UUID

from sqlalchemy import func, text
from sqlmodel import col, select, tuple_

from sign_shelf.core.basics.ids import slug
from sign_shelf.core.sharing import PageName
from sign_shelf.store.database import Session
from sign_shelf.store.tables import SharedMenuRow


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


async def page_names(
    session: Session, site_ids: Iterable[UUID], roles: Iterable[str], refs: Iterable[str]
) -> dict[UUID, list[PageName]]:
    """Of their published pages those that could be in one of these roles, or have one of these references: no page is missing that
    the core would take (`page_in_role`), and few are read that it would not."""
    wanted = list(roles)
    words = {slug(role).partition("-")[0] for role in wanted} - {""}
    given = {
        "sites": list(site_ids), "refs": [*wanted, *refs], "like": [f"%{word}%" for word in words], "other": r"[^\x20-\x7e]",
        "escaped": "\\u",
    }  # fmt: skip
    found: dict[UUID, list[PageName]] = defaultdict(list)
    for row in await (await session.connection()).execute(_PAGE_NAMES, given) if wanted else ():
        found[row.site_id].append(PageName(row.ref, row.path, tuple(row.title.values())))
    return found


_PAGE_NAMES = text(
    """
    SELECT site_id, ref, path, title FROM page
    WHERE site_id = ANY (CAST(:sites AS uuid[])) AND state = 'published' AND (
      ref = ANY (CAST(:refs AS text[]))
      OR lower(path) LIKE ANY (CAST(:like AS text[])) OR lower(title::text) LIKE ANY (CAST(:like AS text[]))
      OR path ~ :other OR title::text ~ :other OR position(:escaped IN title::text) > 0
    )
    """
)
"""Words with other letters than those of ASCII may come to the same slug as one without: they are all read."""
