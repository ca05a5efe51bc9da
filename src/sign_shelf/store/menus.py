"""Trees of menus by their content's name, and the revisions that people saved."""

from collections.abc import Iterable
from datetime import datetime
from uuid import UUID

from sqlalchemy import or_
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.core.model.documents import content_hash, read_menu
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.tree import count, depth_of
from sign_shelf.store.database import Session
from sign_shelf.store.recent import Recent
from sign_shelf.store.tables import ChangeRow, ReleaseRow, RevisionRow, StateRow, TreeRow

AT_ONCE = 500
"""Revisions read at once; a menu may have any number."""

_documents: Recent[MenuDocument] = Recent(120_000, lambda one: 1 + count(one.items))
"""By their items: a shelf of three hundred sites, or six of the largest menus."""


async def keep_tree(session: Session, document: MenuDocument, *, name: str | None = None) -> str:
    """The document's name. Equal documents are kept once."""
    name = name or content_hash(document)
    if (await session.exec(select(TreeRow.hash).where(TreeRow.hash == name))).first() is None:
        values = {
            "hash": name,
            "document": document.to_json(),
            "items": count(document.items),
            "depth": depth_of(document.items),
        }
        await session.exec(insert(TreeRow).values(values).on_conflict_do_nothing())
    return name


async def add_revision(
    session: Session,
    site_id: UUID,
    menu: str,
    hash: str,
    *,
    parent: int | None,
    author_id: UUID | None,
    change_id: UUID | None,
    at: datetime,
) -> RevisionRow:
    row = RevisionRow(
        site_id=site_id, menu=menu, hash=hash, parent_id=parent, change_id=change_id, author_id=author_id, at=at
    )
    session.add(row)
    await session.flush()
    return row


async def newest_with(
    session: Session, site_id: UUID, menu: str, hash: str, change_id: UUID | None
) -> RevisionRow | None:
    """The newest revision of the menu with this tree, in the change where it has one."""
    query = select(RevisionRow).where(
        RevisionRow.site_id == site_id, RevisionRow.menu == menu, RevisionRow.hash == hash
    )
    ordered = query.order_by((col(RevisionRow.change_id) == change_id).desc().nulls_last(), col(RevisionRow.id).desc())
    return (await session.exec(ordered.limit(1))).first()


async def revisions_by_id(session: Session, ids: Iterable[int | None]) -> dict[int, RevisionRow]:
    wanted = [one for one in ids if one is not None]
    rows = await session.exec(select(RevisionRow).where(col(RevisionRow.id).in_(wanted)))
    return {row.id: row for row in rows if row.id is not None}


async def revisions_between(session: Session, newest: RevisionRow, hash: str) -> list[RevisionRow] | None:
    """From the one after the tree with this name up to `newest`, oldest first; None where that did not set out from it."""
    found: list[RevisionRow] = []
    at: RevisionRow | None = newest
    while at is not None:
        if at.hash == hash:
            return found[::-1]
        found.append(at)
        at = await session.get(RevisionRow, at.parent_id) if at.parent_id is not None else None
    return None


async def newest_revisions(
    session: Session, site_id: UUID, menu: str, *, change_id: UUID | None, before: int | None = None
) -> list[RevisionRow]:
    """Newest first: what went live, and what was saved in the change; those older than `before`, where it is given."""
    query = (
        select(RevisionRow)
        .join(ChangeRow, col(ChangeRow.id) == RevisionRow.change_id, isouter=True)
        .where(
            RevisionRow.site_id == site_id,
            RevisionRow.menu == menu,
            or_(
                col(RevisionRow.change_id).is_(None),
                col(RevisionRow.change_id) == change_id,
                col(ChangeRow.state).in_(["going live", "live", "undone"]),
            ),
        )
        .order_by(col(RevisionRow.id).desc())
        .limit(AT_ONCE)
    )
    return list(await session.exec(query.where(col(RevisionRow.id) < before) if before is not None else query))


async def has_revision(session: Session, site_id: UUID, menu: str, hash: str) -> bool:
    query = select(RevisionRow.id).where(
        RevisionRow.site_id == site_id, RevisionRow.menu == menu, RevisionRow.hash == hash
    )
    return (await session.exec(query.limit(1))).first() is not None


async def went_live(session: Session, site_id: UUID, menu: str) -> list[tuple[str, datetime]]:
    """Which tree of the menu was verified live when, oldest first."""
    query = (
        select(StateRow.menus, ReleaseRow.finished_at)
        .join(ReleaseRow, col(ReleaseRow.target) == StateRow.hash)
        .where(ReleaseRow.site_id == site_id, ReleaseRow.state == "live")
        .order_by(col(ReleaseRow.finished_at))
    )
    return [(menus[menu], at) for menus, at in await session.exec(query) if menu in menus and at is not None]


async def documents(session: Session, hashes: Iterable[str]) -> dict[str, MenuDocument]:
    """The documents by their names. Those read last are kept: what a name stands for never changes."""
    wanted = set(hashes)
    found = _documents.known(wanted)
    if missing := wanted - found.keys():
        rows = await session.exec(select(TreeRow.hash, TreeRow.document).where(col(TreeRow.hash).in_(missing)))
        for hash, whole in rows:
            found[hash] = read_menu(whole)
    _documents.keep(found)
    return found


async def document(session: Session, hash: str) -> MenuDocument:
    return (await documents(session, [hash]))[hash]
