"""A menu's past: who saved what when, any two of its revisions beside each other, and edits taken back.

Autosave makes many revisions; those that one person made without a longer pause are told as one entry.
"""

import asyncio
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from sign_shelf.core.compare import Edit, diff_documents, without
from sign_shelf.core.errors import NotFound
from sign_shelf.core.model.menu import MenuDocument, menu_document, walk
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import View, board, facts_of, menu_on_shelf, site_row
from sign_shelf.store import menus, people
from sign_shelf.store.database import Database
from sign_shelf.store.tables import RevisionRow

PAUSE = timedelta(minutes=15)
ENTRIES = 15
"""Entries told at once."""

_EMPTY = menu_document("Menu")


@dataclass(frozen=True, kw_only=True)
class Entry:
    """`hash` is the tree after the entry, `before` the one it set out from (None: the menu began with it)."""

    revision: int
    hash: str
    before: str | None
    since: datetime
    at: datetime
    by: str | None
    saves: int
    edits: tuple[Edit, ...]
    live_at: datetime | None


@dataclass(frozen=True, kw_only=True)
class History:
    entries: tuple[Entry, ...]
    next: int | None
    """Ask for what came before this revision; None where that was all."""


async def history(
    database: Database,
    person: Person,
    site_key: str,
    menu_key: str,
    *,
    view: View = None,
    language: str | None = None,
    before: int | None = None,
) -> History:
    """The menu's entries, newest first: what went live, and what was saved in the change."""
    async with database.transaction() as session:
        found = await board(session, person, site_key, view)
        menu_on_shelf(found, menu_key)
        change = found.change.id if found.change else None
        rows = await menus.newest_revisions(session, found.site.id, menu_key, change_id=change, before=before)
        went_live = _went_live(rows, await menus.went_live(session, found.site.id, menu_key))
        runs = list(_runs(rows, set(went_live)))[: ENTRIES + 1]
        more = len(runs) > ENTRIES or len(rows) == menus.AT_ONCE
        runs = runs[:ENTRIES]
        firsts = [run[-1].parent_id for run in runs]
        parents = await menus.revisions_by_id(session, firsts)
        hashes = {row.hash for run in runs for row in run[:1]} | {row.hash for row in parents.values()}
        documents = await menus.documents(session, hashes)
        spoken = language or facts_of(found.site).languages[0]
        authors = await people.people_by_id(session, {run[0].author_id for run in runs if run[0].author_id})
    entries = []
    for run in runs:
        newest, oldest = run[0], run[-1]
        earlier = parents[oldest.parent_id].hash if oldest.parent_id in parents else None
        one, two = documents[earlier] if earlier else _EMPTY, documents[newest.hash]
        edits = await asyncio.to_thread(diff_documents, one, two, language=spoken)
        author = authors.get(newest.author_id) if newest.author_id else None
        assert newest.id is not None
        entries.append(
            Entry(
                revision=newest.id,
                hash=newest.hash,
                before=earlier,
                since=oldest.at,
                at=newest.at,
                by=author.name if author else None,
                saves=len(run),
                edits=tuple(edits),
                live_at=went_live.get(newest.id),
            )
        )
    return History(entries=tuple(entries), next=runs[-1][-1].id if runs and more else None)


def _went_live(rows: Sequence[RevisionRow], lived: Sequence[tuple[str, datetime]]) -> dict[int, datetime]:
    """Which revisions went live when: the newest with the tree that there was by then."""
    found: dict[int, datetime] = {}
    for hash, at in lived:
        row = next((one for one in rows if one.hash == hash and one.at <= at), None)
        if row is not None and row.id is not None:
            found[row.id] = at
    return found


def _runs(rows: Sequence[RevisionRow], boundaries: Collection[int]) -> Iterator[list[RevisionRow]]:
    """Newest first: a person's saves without a pause; what went live ends a run, so that it can be named."""
    run: list[RevisionRow] = []
    for row in rows:
        joins = run and run[-1].author_id == row.author_id and run[-1].at - row.at <= PAUSE and row.id not in boundaries
        if run and not joins:
            yield run
            run = []
        run.append(row)
    if run:
        yield run


async def revision(database: Database, person: Person, site_key: str, menu_key: str, hash: str) -> MenuDocument:
    """The menu as it was. Raises NotFound for a revision that it never had."""
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        if not await menus.has_revision(session, site.id, menu_key, hash):
            raise NotFound("The menu never had that revision.", where=f"sites/{site_key}/menus/{menu_key}/{hash[:80]}")
        return await menus.document(session, hash)


async def compare(
    database: Database,
    person: Person,
    site_key: str,
    menu_key: str,
    *,
    before: str,
    after: str,
    language: str | None = None,
) -> list[Edit]:
    """The edits between two of its revisions."""
    one = await revision(database, person, site_key, menu_key, before)
    two = await revision(database, person, site_key, menu_key, after)
    async with database.transaction() as session:
        spoken = language or facts_of(await site_row(session, person, site_key)).languages[0]
    return await asyncio.to_thread(diff_documents, one, two, language=spoken)


async def compare_with(
    database: Database,
    person: Person,
    site_key: str,
    menu_key: str,
    *,
    view: View = None,
    other_site: str,
    other_menu: str,
    language: str | None = None,
) -> list[Edit]:
    """The edits that lead from another menu to this one: its copies are known, the rest is found by content."""
    async with database.transaction() as session:
        own = await board(session, person, site_key, view)
        here = menu_on_shelf(own, menu_key)
        # Another site is compared with as one sees it oneself.
        elsewhere = view if other_site == site_key else None
        there = menu_on_shelf(await board(session, person, other_site, elsewhere), other_menu)
    seeds = _known_copies(here.document, site_key=site_key, other_site=other_site, other_menu=other_menu)
    return await asyncio.to_thread(
        diff_documents, there.document, here.document, language=language or facts_of(own.site).languages[0], seeds=seeds
    )


def _known_copies(own: MenuDocument, *, site_key: str, other_site: str, other_menu: str) -> dict[str, str]:
    prefix = f"{other_menu}/" if other_site == site_key else f"{other_site}/{other_menu}/"
    return {
        item.id: item.origin.removeprefix(prefix)
        for _, item in walk(own.items)
        if item.origin and item.origin.startswith(prefix) and "/" not in item.origin.removeprefix(prefix)
    }


async def take_back(
    database: Database,
    person: Person,
    site_key: str,
    menu_key: str,
    *,
    before: str | None,
    document: MenuDocument,
    keys: list[str],
) -> MenuDocument:
    """The document with some of its edits against a revision (None: an empty menu) taken back. Nothing is saved."""
    base = await revision(database, person, site_key, menu_key, before) if before else _EMPTY
    items = await asyncio.to_thread(without, base.items, document.items, keys)
    renamed = "set::name" in keys
    return document.model_copy(update={"items": items} | ({"name": base.name} if renamed else {}))
