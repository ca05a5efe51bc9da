"""Trees of menus by their content's name, and the revisions that people saved."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from typing import NamedTuple
from uuid import UUID

from pydantic import TypeAdapter
from sqlalchemy import func, or_, text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import aliased
from sqlmodel import col, select

from sign_shelf.core.drawing.summary import Bar, Summary, summary_of
from sign_shelf.core.model.documents import content_hash, read_menu
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.tree import count
from sign_shelf.core.outline.lines import ItemLine, item_lines
from sign_shelf.store.database import Session
from sign_shelf.store.recent import Recent
from sign_shelf.store.tables import ChangeRow, ReleaseRow, RevisionRow, StateRow, TreeItemRow, TreeRow

AT_ONCE = 500
"""Revisions read at once; a menu may have any number."""

_documents: Recent[MenuDocument] = Recent(40_000, lambda one: 1 + count(one.items))
"""By their items: those of a hundred sites, or two of the largest menus."""

_summaries: Recent[Summary] = Recent(10_000)
_BARS: TypeAdapter[tuple[Bar, ...]] = TypeAdapter(tuple[Bar, ...])


async def keep_tree(session: Session, document: MenuDocument, *, name: str | None = None) -> str:
    """The document's name. Equal documents are kept once."""
    name = name or content_hash(document)
    await keep_trees(session, {name: document})
    return name


async def keep_trees(session: Session, documents: Mapping[str, MenuDocument]) -> None:
    """Documents by their names, many at once."""
    there = set(await session.exec(select(TreeRow.hash).where(col(TreeRow.hash).in_(list(documents)))))
    new = {name: document for name, document in documents.items() if name not in there}
    if not new:
        return
    rows = []
    for name, document in new.items():
        told = summary_of(document)
        rows.append({
            "hash": name, "name": document.name, "document": document.to_json(), "items": told.items, "depth": told.depth,
            "pending": told.pending, "lists": told.lists, "bars": [bar.to_json() for bar in told.bars],
        })  # fmt: skip
    await session.exec(insert(TreeRow).values(rows).on_conflict_do_nothing())
    lines = [(name, at, *line) for name, document in new.items() for at, line in enumerate(item_lines(document))]
    if lines:
        columns = ("hash", "position", *ItemLine._fields)
        given = dict(zip(columns, map(list, zip(*lines, strict=True)), strict=True))
        await (await session.connection()).execute(_PUT_LINES, given)


_PUT_LINES = text(
    """
    INSERT INTO tree_item (hash, position, item, number, kind, label, page, address, host, rule, opens, closes)
    SELECT * FROM unnest(
      CAST(:hash AS text[]), CAST(:position AS int[]),
      CAST(:item AS text[]), CAST(:number AS text[]), CAST(:kind AS text[]), CAST(:label AS text[]),
      CAST(:page AS text[]), CAST(:address AS text[]), CAST(:host AS text[]), CAST(:rule AS text[]),
      CAST(:opens AS text[]), CAST(:closes AS text[])
    )
    ON CONFLICT DO NOTHING
    """
)
"""All lines of all trees at once: a menu may have twenty thousand."""


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


class Revised(NamedTuple):
    """A menu that gets another tree; `has` None: it is new."""

    site_id: UUID
    menu: str
    has: str | None
    hash: str


async def add_revisions(
    session: Session, many: Sequence[Revised], *, author_id: UUID | None, change_id: UUID, at: datetime
) -> None:
    """Of many menus, in a change that has none of them yet: each on top of the newest with the tree that it had."""
    asked = {
        "sites": [str(one.site_id) for one in many],
        "menus": [one.menu for one in many],
        "hashes": [one.has for one in many],
    }
    rows = await (await session.connection()).execute(_NEWEST_WITH, asked)
    parents: dict[tuple[UUID, str], int] = {(site_id, menu): id for site_id, menu, id in rows}
    session.add_all(
        RevisionRow(
            site_id=one.site_id, menu=one.menu, hash=one.hash, parent_id=parents.get((one.site_id, one.menu)), change_id=change_id,
            author_id=author_id, at=at,
        )
        for one in many
    )  # fmt: skip
    await session.flush()


_NEWEST_WITH = text(
    "SELECT asked.site, asked.menu, newest.id"
    " FROM unnest(CAST(:sites AS uuid[]), CAST(:menus AS text[]), CAST(:hashes AS text[])) asked(site, menu, hash)"
    " CROSS JOIN LATERAL (SELECT id FROM revision WHERE site_id = asked.site AND menu = asked.menu AND hash = asked.hash"
    "  ORDER BY change_id IS NULL, id DESC LIMIT 1) newest"
)


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


async def authors_in(session: Session, site_id: UUID, menu: str, change_id: UUID) -> set[UUID]:
    """Who saved the menu in the change."""
    query = select(RevisionRow.author_id).where(
        RevisionRow.site_id == site_id, RevisionRow.menu == menu, RevisionRow.change_id == change_id
    )
    return {one for one in await session.exec(query.distinct()) if one is not None}


async def revisions_in(session: Session, site_id: UUID, menu: str, change_id: UUID) -> list[RevisionRow]:
    """What was saved of the menu in the change, oldest first; of very many, the newest."""
    query = select(RevisionRow).where(
        RevisionRow.site_id == site_id, RevisionRow.menu == menu, RevisionRow.change_id == change_id
    )
    newest = list(await session.exec(query.order_by(col(RevisionRow.id).desc()).limit(AT_ONCE)))
    return newest[::-1]


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


async def was_live(session: Session, site_id: UUID, menu: str) -> bool:
    """Whether a release ever put the menu live."""
    query = (
        select(ReleaseRow.id)
        .join(StateRow, col(StateRow.hash) == ReleaseRow.target)
        .where(
            ReleaseRow.site_id == site_id, ReleaseRow.state == "live", col(StateRow.menus).op("->>")(menu).is_not(None)
        )
    )
    return (await session.exec(query.limit(1))).first() is not None


async def live_since(session: Session, site_id: UUID, menu: str, hash: str) -> datetime | None:
    """When the menu's tree that is live became so, by a release; None where it has been since the site was taken in."""
    was, now = aliased(StateRow), aliased(StateRow)
    query = (
        select(func.max(ReleaseRow.finished_at))
        .join(now, col(now.hash) == ReleaseRow.target)
        .join(was, col(was.hash) == ReleaseRow.before)
        .where(
            ReleaseRow.site_id == site_id,
            ReleaseRow.state == "live",
            col(now.menus).op("->>")(menu) == hash,
            col(was.menus).op("->>")(menu).is_distinct_from(hash),
        )
    )
    return (await session.exec(query)).one()


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


async def summaries(session: Session, hashes: Iterable[str]) -> dict[str, Summary]:
    """By the trees' names; no tree is read for them."""
    wanted = set(hashes)
    found = _summaries.known(wanted)
    if missing := wanted - found.keys():
        columns = select(  # type: ignore[call-overload]
            TreeRow.hash, TreeRow.items, TreeRow.depth, TreeRow.pending, TreeRow.lists, TreeRow.bars
        )
        for hash, items, depth, pending, lists, bars in await session.exec(
            columns.where(col(TreeRow.hash).in_(missing))
        ):
            found[hash] = Summary.model_construct(
                items=items, depth=depth, pending=pending, lists=lists, bars=_BARS.validate_python(bars)
            )
    _summaries.keep(found)
    return found


async def leading_to(session: Session, hashes: Iterable[str], pages: Iterable[str]) -> set[tuple[str, str]]:
    """Which of these trees have a link to which of these pages: the tree's name and the page's reference."""
    query = select(TreeItemRow.hash, TreeItemRow.page).where(
        col(TreeItemRow.hash).in_(list(hashes)), col(TreeItemRow.page).in_(list(pages))
    )
    return {(hash, page) for hash, page in await session.exec(query) if page is not None}


class Timed(NamedTuple):
    """An item with a window; readings of its site's clock."""

    tree: str
    item: str
    label: str
    opens: str | None
    closes: str | None


async def timed(session: Session, hashes: Iterable[str]) -> list[Timed]:
    columns = select(
        TreeItemRow.hash, TreeItemRow.item, TreeItemRow.label, TreeItemRow.opens, TreeItemRow.closes
    ).where(  # type: ignore[call-overload]
        col(TreeItemRow.hash).in_(list(hashes)),
        col(TreeItemRow.opens).is_not(None) | col(TreeItemRow.closes).is_not(None),
    )
    return [Timed(*row) for row in await session.exec(columns.order_by(TreeItemRow.hash, TreeItemRow.position))]
