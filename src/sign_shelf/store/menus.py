"""Menus, their trees by content hash, and their revisions."""

from collections.abc import Iterable
from datetime import datetime
from uuid import UUID

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.core.documents import content_hash, read_menu
from sign_shelf.core.menu import MenuDocument
from sign_shelf.core.tree import count, depth_of
from sign_shelf.store.database import Session
from sign_shelf.store.tables import MenuRow, RevisionRow, TreeRow

AT_ONCE = 500
"""Revisions read at once; a menu may have any number."""


_KEPT = 200
_read_last: dict[str, MenuDocument] = {}


async def menu_by_key(session: Session, site_id: UUID, key: str, *, lock: bool = False) -> MenuRow | None:
    query = select(MenuRow).where(MenuRow.site_id == site_id, MenuRow.key == key)
    return (await session.exec(query.with_for_update() if lock else query)).first()


async def menus_of_sites(session: Session, site_ids: Iterable[UUID]) -> list[MenuRow]:
    query = (
        select(MenuRow).where(col(MenuRow.site_id).in_(list(site_ids))).order_by(col(MenuRow.created_at), MenuRow.key)
    )
    return list(await session.exec(query))


async def keep_tree(session: Session, document: MenuDocument) -> str:
    """The document's hash. Equal documents are kept once."""
    name = content_hash(document)
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
    menu: MenuRow,
    document: MenuDocument,
    *,
    author_id: UUID | None,
    change_id: UUID | None,
    at: datetime,
) -> RevisionRow:
    """A new revision at the menu's head."""
    revision = RevisionRow(
        menu_id=menu.id,
        hash=await keep_tree(session, document),
        parent_id=menu.head_revision_id,
        change_id=change_id,
        author_id=author_id,
        at=at,
    )
    session.add(revision)
    await session.flush()
    menu.head_revision_id = revision.id
    session.add(menu)
    return revision


async def revisions_by_id(session: Session, ids: Iterable[int | None]) -> dict[int, RevisionRow]:
    wanted = [one for one in ids if one is not None]
    rows = await session.exec(select(RevisionRow).where(col(RevisionRow.id).in_(wanted)))
    return {row.id: row for row in rows if row.id is not None}


async def revisions_since(session: Session, menu_id: UUID, hash: str) -> list[RevisionRow] | None:
    """The revisions after the newest one with this hash, oldest first; None where the menu never had it."""
    query = select(RevisionRow).where(RevisionRow.menu_id == menu_id).order_by(col(RevisionRow.id).desc())
    found: list[RevisionRow] = []
    for row in await session.exec(query):
        if row.hash == hash:
            return found[::-1]
        found.append(row)
    return None


async def newest_revisions(session: Session, menu_id: UUID, *, before: int | None = None) -> list[RevisionRow]:
    """Newest first; those older than `before`, where it is given."""
    query = (
        select(RevisionRow).where(RevisionRow.menu_id == menu_id).order_by(col(RevisionRow.id).desc()).limit(AT_ONCE)
    )
    return list(await session.exec(query.where(col(RevisionRow.id) < before) if before is not None else query))


async def has_revision(session: Session, menu_id: UUID, hash: str) -> bool:
    query = select(RevisionRow.id).where(RevisionRow.menu_id == menu_id, RevisionRow.hash == hash).limit(1)
    return (await session.exec(query)).first() is not None


async def trees(session: Session, hashes: Iterable[str]) -> dict[str, TreeRow]:
    rows = await session.exec(select(TreeRow).where(col(TreeRow.hash).in_(list(set(hashes)))))
    return {row.hash: row for row in rows}


async def documents(session: Session, hashes: Iterable[str]) -> dict[str, MenuDocument]:
    """The documents by their hashes. Those read last are kept: what a hash names never changes."""
    wanted = set(hashes)
    found = {hash: _read_last[hash] for hash in wanted if hash in _read_last}
    for hash, row in (await trees(session, wanted - found.keys())).items() if len(found) < len(wanted) else ():
        found[hash] = read_menu(row.document)
    for hash, whole in found.items():
        _read_last.pop(hash, None)
        _read_last[hash] = whole
    while len(_read_last) > _KEPT:
        del _read_last[next(iter(_read_last))]
    return found


async def document(session: Session, hash: str) -> MenuDocument:
    return (await documents(session, [hash]))[hash]
