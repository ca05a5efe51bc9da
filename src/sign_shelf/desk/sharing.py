"""Shared menus: kept by the agency in versions, followed by sites with what is their own, and moved on in one change for many."""

import asyncio
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from sign_shelf.core.basics.ids import slug
from sign_shelf.core.changes.arrangement import Follows
from sign_shelf.core.checks import SharedSeen
from sign_shelf.core.compare.matching import adopt_ids, match_by_content
from sign_shelf.core.errors import Clash, EditRefused, InvalidDocument, NotFound, Problem
from sign_shelf.core.model.documents import content_hash, read_menu
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.site import Particulars
from sign_shelf.core.model.tree import count, index_by_id
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.outline.called import title
from sign_shelf.core.sharing import (
    Filled,
    Followed,
    PageName,
    Rolled,
    filled,
    followed,
    refuse_unshareable,
    rolled,
    shared_key,
)
from sign_shelf.core.sharing.filling import roles_of
from sign_shelf.desk.changes import checked_title
from sign_shelf.desk.edit import free_key, refuse_one_more
from sign_shelf.desk.permission import Person, may, require
from sign_shelf.desk.portfolio import Board, View, facts_of, site_row, visible_sites
from sign_shelf.desk.workplace import Wanted, begin_with, put_state, to_edit
from sign_shelf.store import changes, ledger, menus, requests, shared_menus, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.requests import RequestKey
from sign_shelf.store.tables import ChangeRow, SharedMenuRow, SiteRow

MOST_ENTRIES = 500

Standing = Literal["current", "behind", "begins"]
"""As the site is live: it has the newest version, an older one, or begins to follow in a change."""


@dataclass(frozen=True, kw_only=True)
class Listed:
    row: SharedMenuRow
    entries: int
    followers: int
    behind: int


@dataclass(frozen=True, kw_only=True)
class Follower:
    """A site as it is live. `version` of the shared menu is None where that is not known any more; `change`, in which somebody
    takes it to the newest version or begins to follow."""

    site: SiteRow
    standing: Standing
    version: int | None
    has: Followed
    left: tuple[str, ...]
    now: Filled
    change: ChangeRow | None


@dataclass(frozen=True, kw_only=True)
class Shared:
    versions: tuple[SharedMenuRow, ...]
    document: MenuDocument
    followers: tuple[Follower, ...]
    others: tuple[SiteRow, ...]
    """Sites that do not follow it, and where the person may edit."""


@dataclass(frozen=True, kw_only=True)
class Foreseen:
    site: SiteRow
    rolled: Rolled
    keeps: Followed
    left: tuple[str, ...]
    now: Filled
    refused: str | None


@dataclass(frozen=True)
class _At:
    """A follower's menu as it is live: as the shared one was filled there, as it is, and as that would be filled now."""

    site: SiteRow
    facts: Particulars
    follows: Follows
    before: MenuDocument
    own: MenuDocument
    now: Filled

    @property
    def language(self) -> str:
        return self.facts.languages[0]

    def behind(self, newest: SharedMenuRow) -> bool:
        return self.follows.version != newest.hash or self.now.menu != self.before


async def all_shared(session: Session, person: Person) -> list[Listed]:
    rows = await _looking(session, person)
    newest = await shared_menus.newest(session)
    documents = await menus.documents(session, [one.hash for one in newest.values()])
    told = []
    for row in newest.values():
        at = await _followers(session, rows, row, documents[row.hash])
        behind = sum(1 for one in at if one.behind(row))
        told.append(Listed(row=row, entries=count(documents[row.hash].items), followers=len(at), behind=behind))
    return told


async def look(session: Session, person: Person, key: str) -> Shared:
    rows = await _looking(session, person)
    versions = await _versions(session, key)
    newest = versions[0]
    document = await menus.document(session, newest.hash)
    at = await _followers(session, rows, newest, document)
    by_hash = {row.hash: row.version for row in versions}
    working = await _in_changes(session, rows, newest)
    told = []
    for one in at:
        has = await asyncio.to_thread(_has, one, newest)
        told.append(
            Follower(
                site=one.site, standing="behind" if one.behind(newest) else "current", version=by_hash.get(one.follows.version),
                has=has, left=_titles(one.own, has.left, one.language), now=one.now,
                change=working.get(one.site.id) if one.behind(newest) else None,
            )
        )  # fmt: skip
    there = {one.site.id for one in at}
    told += [
        Follower(
            site=row, standing="begins", version=newest.version, has=Followed((), ()), left=(), now=Filled(document),
            change=working[row.id],
        )
        for row in rows if row.id in working and row.id not in there
    ]  # fmt: skip
    others = tuple(
        row for row in rows if row.id not in there and row.id not in working and may(person, "edit", row.key)
    )
    return Shared(versions=tuple(versions), document=document, followers=tuple(told), others=others)


def _has(one: _At, newest: SharedMenuRow) -> Followed:
    return followed(shared_key(newest.key), one.before, one.own, language=one.language)


async def begin(
    database: Database, person: Person, document: MenuDocument, *, language: str, request_key: RequestKey, now: datetime
) -> str:
    """A new shared menu, which no site follows yet; its key. The same request key makes it once."""
    require(person, "design", "shared-menus")
    _refuse(document)
    async with database.transaction() as session:
        await shared_menus.alone(session)
        known = await shared_menus.newest(session)

        async def act() -> dict[str, Any]:
            key = free_key(slug(document.name, otherwise="menu"), known)
            hash = await menus.keep_tree(session, document)
            await shared_menus.keep(
                session, key, 1, name=document.name, language=language, hash=hash, author_id=person.id, at=now
            )
            ledger.write(
                session, "shared", f"Began the shared menu {document.name}", at=now, person_id=person.id, site_id=None
            )
            return {"key": key}

        return str((await requests.once(session, person.id, request_key, act, at=now))["key"])


async def save(
    database: Database, person: Person, key: str, name: str, outline: str, *, expected: int, now: datetime
) -> SharedMenuRow:
    """Keeps the next version; no site changes by it until it is rolled forward. Entries are those of the version before as far as
    they say the same. Raises OutlineRefused, and Clash where `expected` is not the newest version any more."""
    where = f"shared-menus/{key}"
    require(person, "design", where)
    async with database.transaction() as session:
        await shared_menus.alone(session)
        newest = (await _versions(session, key))[0]
        document = written(name, outline, newest.language)
        _refuse(document)
        if newest.version != expected:
            raise Clash(
                f"Somebody made version {newest.version} of {newest.name} meanwhile.", where=where,
                remedy="Look at it beside what you have here, and make your changes there.",
            )  # fmt: skip
        before = await menus.document(session, newest.hash)
        same = await asyncio.to_thread(match_by_content, before.items, document.items)
        document = document.with_items(adopt_ids(before.items, document.items, same))
        hash = await menus.keep_tree(session, document)
        if hash == newest.hash:
            return newest
        ledger.write(
            session, "shared", f"Made version {expected + 1} of the shared menu {document.name}", at=now, person_id=person.id,
            site_id=None,
        )  # fmt: skip
        return await shared_menus.keep(
            session, key, expected + 1, name=document.name, language=newest.language, hash=hash, author_id=person.id, at=now
        )  # fmt: skip


def written(name: str, outline: str, language: str) -> MenuDocument:
    """A shared menu as it is typed. Raises OutlineRefused, and InvalidDocument for a name that is none."""
    if not name.strip():
        raise InvalidDocument([Problem(where="name", says="give the menu a name")])
    return read_menu(parse_outline(outline, language=language).to_json() | {"name": name.strip()})


def _refuse(document: MenuDocument) -> None:
    if count(document.items) > MOST_ENTRIES:
        raise EditRefused(
            f"A shared menu has at most {MOST_ENTRIES} entries, and this one has {count(document.items)}.", where="outline",
            remedy="Share its parts as menus of their own.",
        )  # fmt: skip
    refuse_unshareable(document)


async def follow(
    database: Database,
    person: Person,
    key: str,
    sites: Sequence[str],
    *,
    view: View = None,
    request_key: RequestKey,
    now: datetime,
) -> UUID:
    """The sites follow the shared menu from now on in a change, as a menu of theirs: in the one that is looked in where that is one
    site, else in one of its own. The change's id. Raises Clash where a site follows it already."""
    for site in sites:
        require(person, "edit", f"sites/{site}", site)
    async with database.transaction() as session:
        newest = (await _versions(session, key))[0]

        async def act() -> dict[str, Any]:
            rows = [await site_row(session, person, site) for site in dict.fromkeys(sites)]
            inside = view
            if len(rows) != 1:
                change = await changes.begin(
                    session, title=checked_title(f"Follow {newest.name}"), why="", author_id=person.id, at=now,
                    parts=[row.id for row in rows],
                )  # fmt: skip
                inside = change.id
            document = await menus.document(session, newest.hash)
            names = await _names(session, rows, document)
            for row in rows:
                at = await to_edit(session, person, row, inside, now)
                state = await states.state(session, at.part.head)
                arrangement = await states.arrangement(session, state.arrangement)
                menu = shared_key(key)
                if menu in arrangement.follows and menu in state.menus:
                    raise Clash(f"{row.name} follows {newest.name} already.", where=f"sites/{row.key}")
                refuse_one_more(state, row)
                made = await asyncio.to_thread(filled, menu, document, facts_of(row), names.get(row.id, ()))
                hash = await menus.keep_tree(session, made.menu)
                follows = arrangement.follows | {menu: Follows(version=newest.hash, filled=hash)}
                await put_state(
                    session, at, arrangement.model_copy(update={"follows": follows}),
                    # Who followed it before has their own menu still.
                    {menu: hash} | state.menus, now=now,
                )  # fmt: skip
                says = f"{row.name} follows the shared menu {newest.name}"
                ledger.write(
                    session,
                    "shared",
                    says,
                    at=now,
                    person_id=person.id,
                    site_id=row.id,
                    menu=menu,
                    change=str(at.change.id),
                )
                inside = at.change.id
            return {"change": str(inside)}

        return UUID((await requests.once(session, person.id, request_key, act, at=now))["change"])


async def leave(database: Database, person: Person, key: str, site: str, *, view: View = None, now: datetime) -> UUID:
    """The site follows the shared menu no more, in a change: what it has of it is a menu of its own."""
    require(person, "edit", f"sites/{site}", site)
    async with database.transaction() as session:
        row = await site_row(session, person, site)
        at = await to_edit(session, person, row, view, now)
        state = await states.state(session, at.part.head)
        arrangement = await states.arrangement(session, state.arrangement)
        menu = shared_key(key)
        if menu not in arrangement.follows:
            raise NotFound(f"{row.name} does not follow {key}.", where=f"sites/{site}")
        follows = {one: has for one, has in arrangement.follows.items() if one != menu}
        await put_state(session, at, arrangement.model_copy(update={"follows": follows}), state.menus, now=now)
        says = f"{row.name} follows the shared menu {key} no more"
        ledger.write(
            session, "shared", says, at=now, person_id=person.id, site_id=row.id, menu=menu, change=str(at.change.id)
        )
        return at.change.id


async def foresee(session: Session, person: Person, key: str, sites: Collection[str] | None = None) -> list[Foreseen]:
    """What rolling forward would do at each follower that is behind as it is live, or at these of them."""
    newest, waiting = await _waiting(session, person, key, sites)
    return await asyncio.to_thread(lambda: [_foreseen(one, newest, person) for one in waiting])


def _foreseen(one: _At, newest: SharedMenuRow, person: Person) -> Foreseen:
    done = _rolled(one)
    keeps = followed(shared_key(newest.key), one.now.menu, done.menu, language=one.language)
    return Foreseen(
        site=one.site, rolled=done, keeps=keeps, left=_titles(done.menu, done.left, one.language), now=one.now,
        refused=None if may(person, "edit", one.site.key) else "You may not edit at this site.",
    )  # fmt: skip


def _rolled(one: _At) -> Rolled:
    return rolled(one.before, one.own, one.now.menu, language=one.language)


async def roll(
    database: Database,
    person: Person,
    key: str,
    sites: Collection[str] | None,
    *,
    title: str,
    request_key: RequestKey,
    now: datetime,
) -> dict[str, Any]:
    """The change that takes the followers that are behind, or these of them, to the newest version with their adjustments: its id and
    title, and the keys of its sites. Raises EditRefused where that is none."""
    async with database.transaction() as session:

        async def act() -> dict[str, Any]:
            newest, everywhere = await _waiting(session, person, key, sites)
            waiting = [one for one in everywhere if may(person, "edit", one.site.key)]
            if everywhere and not waiting:
                require(person, "edit", f"shared-menus/{key}", everywhere[0].site.key)
            if not waiting:
                raise EditRefused(
                    "Every site that follows it has the newest version.", where=f"shared-menus/{key}",
                    remedy="Make another version first, or look which sites follow it.",
                )  # fmt: skip
            done = await asyncio.to_thread(lambda: [_rolled(one).menu for one in waiting])
            named = [(content_hash(menu), content_hash(one.now.menu)) for one, menu in zip(waiting, done, strict=True)]
            documents = {own: menu for (own, _), menu in zip(named, done, strict=True)}
            documents |= {base: one.now.menu for (_, base), one in zip(named, waiting, strict=True)}
            await menus.keep_trees(session, documents)
            menu, rows = shared_key(key), [one.site for one in waiting]
            live = await states.states(session, [row.live_state for row in rows])
            hung = await states.arrangements(session, {one.arrangement for one in live.values()})
            then = []
            for row, (_, base) in zip(rows, named, strict=True):
                arrangement = hung[live[row.live_state].arrangement]
                follows = arrangement.follows | {menu: Follows(version=newest.hash, filled=base)}
                then.append(arrangement.model_copy(update={"follows": follows}))
            wants = {
                row.id: Wanted(arranged, {**live[row.live_state].menus, menu: own})
                for row, arranged, (own, _) in zip(
                    rows, await states.keep_arrangements(session, then), named, strict=True
                )
            }
            change = await begin_with(session, person, checked_title(title), rows, wants, now)
            for one in waiting:
                says = f"Rolls {newest.name} forward to version {newest.version}"
                ledger.write(
                    session, "shared", says, at=now, person_id=person.id, site_id=one.site.id, menu=menu, change=str(change.id)
                )  # fmt: skip
            return {"change": str(change.id), "title": change.title, "sites": [one.site.key for one in waiting]}

        return await requests.once(session, person.id, request_key, act, at=now)


async def _waiting(
    session: Session, person: Person, key: str, sites: Collection[str] | None
) -> tuple[SharedMenuRow, list[_At]]:
    newest = (await _versions(session, key))[0]
    rows = [row for row in await _looking(session, person) if sites is None or row.key in sites]
    at = await _followers(session, rows, newest, await menus.document(session, newest.hash))
    return newest, [one for one in at if one.behind(newest)]


async def _looking(session: Session, person: Person) -> list[SiteRow]:
    rows = await visible_sites(session, person)
    if not rows:
        require(person, "look", "shared-menus")
    return rows


async def _versions(session: Session, key: str) -> list[SharedMenuRow]:
    versions = await shared_menus.versions(session, key)
    if not versions:
        raise NotFound(f'There is no shared menu "{key}".', where="shared-menus")
    return versions


async def _followers(
    session: Session, rows: Sequence[SiteRow], newest: SharedMenuRow, document: MenuDocument
) -> list[_At]:
    """Sites that follow it as they are live."""
    menu = shared_key(newest.key)
    live = await states.states(session, [row.live_state for row in rows])
    arrangements = await states.arrangements(session, {one.arrangement for one in live.values()})
    there = [
        (row, arrangements[live[row.live_state].arrangement].follows[menu], live[row.live_state].menus[menu])
        for row in rows
        if menu in arrangements[live[row.live_state].arrangement].follows and menu in live[row.live_state].menus
    ]
    known = await menus.documents(session, {hash for _, follows, own in there for hash in (follows.filled, own)})
    names = await _names(session, [row for row, _, _ in there], document)
    return await asyncio.to_thread(
        lambda: [
            _at(row, follows, known, known[own], document, menu, names.get(row.id, ())) for row, follows, own in there
        ]
    )


async def _names(session: Session, rows: Sequence[SiteRow], document: MenuDocument) -> dict[UUID, list[PageName]]:
    """What the pages are known by that could be meant at each site."""
    named = {ref for row in rows for ref in row.particulars.get("roles", {}).values()}
    return await shared_menus.page_names(session, [row.id for row in rows], roles_of(document), named)


def _at(
    row: SiteRow, follows: Follows, known: Mapping[str, MenuDocument], own: MenuDocument, document: MenuDocument, menu: str,
    names: Sequence[PageName],
) -> _At:  # fmt: skip
    facts = facts_of(row)
    return _At(row, facts, follows, known[follows.filled], own, filled(menu, document, facts, names))


async def followed_at(session: Session, board: Board) -> dict[str, SharedSeen]:
    """What the board's site follows, by the menu's key."""
    follows = board.arrangement.follows
    if not follows:
        return {}
    newest = {shared_key(key): row for key, row in (await shared_menus.newest(session)).items()}
    known = await menus.documents(
        session, {one.filled for one in follows.values()} | {newest[key].hash for key in follows if key in newest}
    )
    found: dict[str, SharedSeen] = {}
    for key, one in follows.items():
        if key in newest and key in board.menus:
            names = (await _names(session, [board.site], known[newest[key].hash])).get(board.site.id, [])
            at = _at(board.site, one, known, board.menus[key].document, known[newest[key].hash], key, names)
            found[key] = SharedSeen(newest[key].name, not at.behind(newest[key]), at.before, at.now)
    return found


async def _in_changes(session: Session, rows: Sequence[SiteRow], newest: SharedMenuRow) -> dict[UUID, ChangeRow]:
    """By site: the change in which it follows the newest version, where it does not as it is live."""
    menu = shared_key(newest.key)
    parts = await changes.changes_at(session, [row.id for row in rows])
    heads = await states.states(session, {part.head for _, part, _ in parts})
    arrangements = await states.arrangements(session, {one.arrangement for one in heads.values()})
    found: dict[UUID, ChangeRow] = {}
    for change, part, _ in parts:
        follows = arrangements[heads[part.head].arrangement].follows.get(menu)
        base = part.base
        if follows is not None and follows.version == newest.hash and base != part.head:
            found.setdefault(part.site_id, change)
    return found


def _titles(document: MenuDocument, ids: Sequence[str], language: str) -> tuple[str, ...]:
    known = index_by_id(document.items)
    return tuple(title(known[one], language) for one in ids if one in known)
