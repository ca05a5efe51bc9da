"""Editing menus: every save is a revision in the site's draft; nobody's edit overwrites another's in silence."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sign_shelf.core.compare import Conflict, Side, diff, merge
from sign_shelf.core.documents import content_hash
from sign_shelf.core.errors import Clash, EditRefused, NotFound, StaleWrite
from sign_shelf.core.ids import slug
from sign_shelf.core.includes import MOST_ITEMS, Includes, included
from sign_shelf.core.menu import MenuDocument, menu_document, walk
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import boards, menu_row, site_row
from sign_shelf.store import changes, ledger, menus, people, requests
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import MenuRow, RevisionRow, SiteRow


@dataclass(frozen=True, kw_only=True)
class Saved:
    hash: str
    at: datetime
    new: bool
    """Whether the save made a revision: a tree that is the head already makes none."""


async def save_menu(
    database: Database,
    person: Person,
    site_key: str,
    menu_key: str,
    *,
    expected: str,
    document: MenuDocument,
    now: datetime,
) -> Saved:
    """The document as the menu's newest revision. `expected` is the hash that the editor set out from.

    Raises StaleWrite with what others did meanwhile and the merge worked out, where the head is another by now.
    """
    require(person, "edit", f"sites/{site_key}/menus/{menu_key}")
    async with database.transaction() as session:
        site = await site_row(session, site_key)
        menu = await menu_row(session, site, menu_key, lock=True)
        assert menu.head_revision_id is not None
        head = (await menus.revisions_by_id(session, [menu.head_revision_id]))[menu.head_revision_id]
        if content_hash(document) == head.hash:
            return Saved(hash=head.hash, at=head.at, new=False)
        if expected != head.hash:
            raise await _stale(session, menu, expected=expected, head=head.hash, ours=document)
        await _refuse_includes(session, site, menu, document)
        before = await menus.document(session, head.hash)
        revision = await put_revision(session, person, menu, document, now)
        edits = diff(before.items, document.items)
        says = edits[0].says if edits else f"Renamed {before.name} to {document.name}"
        more = f" and {len(edits) - 1} more" if len(edits) > 1 else ""
        ledger.write(
            session, "edit", f"{document.name}: {says}{more}", at=now, person_id=person.id, site_id=site.id,
            menu=menu_key, hash=revision.hash,
        )  # fmt: skip
        return Saved(hash=revision.hash, at=now, new=True)


async def put_revision(
    session: Session, person: Person, menu: MenuRow, document: MenuDocument, now: datetime
) -> RevisionRow:
    """The document as the menu's newest revision, in the site's draft."""
    assert menu.site_id is not None
    draft = await changes.open_draft(session, menu.site_id, person.id, f"Draft of {now:%-d %B}", now)
    revision = await menus.add_revision(session, menu, document, author_id=person.id, change_id=draft.id, at=now)
    assert revision.id is not None
    await changes.put_in_change(session, draft.id, menu.id, menu.live_revision_id, revision.id)
    return revision


async def _stale(
    session: Session, menu: MenuRow, *, expected: str, head: str, ours: MenuDocument
) -> StaleWrite | NotFound:
    since = await menus.revisions_since(session, menu.id, expected)
    if since is None:
        return NotFound(
            "The menu never had the revision that this save sets out from.",
            where="If-Match",
            remedy="Read the menu again and save on top of what it has now.",
        )
    base = await menus.document(session, expected)
    theirs = await menus.document(session, head)
    authors = await people.people_by_id(session, {row.author_id for row in since if row.author_id})
    names = sorted(row.name for row in authors.values()) or ["somebody"]
    worked_out = merged(base, ours, theirs, {})
    return StaleWrite(
        f"{' and '.join(names)} saved this menu in between.",
        remedy="Save the merge that comes with this answer on top of the revision it names.",
        merge=worked_out
        | {"by": names, "did": [edit.says for edit in diff(base.items, theirs.items)], "base": expected, "on": head},
    )


def merged(base: MenuDocument, ours: MenuDocument, theirs: MenuDocument, choices: Mapping[str, Side]) -> dict[str, Any]:
    """Both sides' edits as one document, with the conflicts that are left to settle."""
    result = merge(base.items, ours.items, theirs.items, choices=choices)
    name = ours.name if theirs.name == base.name else theirs.name
    titles = {item.id: _title(item) for document in (base, theirs, ours) for _, item in walk(document.items)}
    return {
        "document": menu_document(name, result.items).to_json(),
        "conflicts": [_told(conflict, titles) for conflict in result.conflicts],
    }


def _told(conflict: Conflict, titles: Mapping[str, str]) -> dict[str, Any]:
    def side(value: object) -> str:
        if conflict.kind in {"move-move", "cycle"}:
            return f"under {titles.get(str(value), 'the top')}" if value else "at the top"
        if conflict.kind == "order" and isinstance(value, list):
            return ", ".join(titles.get(one, one) for one in value)
        if isinstance(value, dict):
            label = value.get("label")
            return str(next(iter(label.values()))) if isinstance(label, dict) and label else str(value)
        return str(value)

    return {
        "id": conflict.id,
        "title": titles.get(conflict.id, "the top"),
        "kind": conflict.kind,
        "field": conflict.field,
        "ours": side(conflict.ours),
        "theirs": side(conflict.theirs),
    }


def _title(item: Any) -> str:
    label = getattr(item, "label", None)
    return str(next(iter(label.values()))) if label else item.id


async def settle(
    database: Database,
    person: Person,
    site_key: str,
    menu_key: str,
    *,
    base: str,
    ours: MenuDocument,
    choices: Mapping[str, Side],
) -> dict[str, Any]:
    """The merge again with the person's choices, on top of what the menu has now. Nothing is saved by it."""
    require(person, "edit", f"sites/{site_key}/menus/{menu_key}")
    async with database.transaction() as session:
        menu = await menu_row(session, await site_row(session, site_key), menu_key)
        if await menus.revisions_since(session, menu.id, base) is None:
            raise NotFound("The menu never had that revision.", where="base")
        assert menu.head_revision_id is not None
        head = (await menus.revisions_by_id(session, [menu.head_revision_id]))[menu.head_revision_id]
        base_document = await menus.document(session, base)
        return merged(base_document, ours, await menus.document(session, head.hash), choices) | {"on": head.hash}


async def _refuse_includes(session: Session, site: SiteRow, menu: MenuRow, document: MenuDocument) -> None:
    """Menus may not include themselves, not even through others, nor come to more entries than a visitor can get."""
    if not included(document.items):
        return
    shelf = (await boards(session, [site]))[0].menus
    includes = Includes({key: one.document for key, one in shelf.items()} | {menu.key: document})
    loop = includes.loop(menu.key)
    if loop:
        raise EditRefused(
            f"The menu would include itself: {' → '.join(loop)}.", where=menu.key,
            remedy="Include another menu, or copy the items.",
        )  # fmt: skip
    if includes.size(menu.key) > MOST_ITEMS:
        raise EditRefused(
            f"The menu and what it includes would be over {MOST_ITEMS} entries.", where=menu.key,
            remedy="Include smaller menus, or each of them once.",
        )  # fmt: skip


async def create_menu(
    database: Database,
    person: Person,
    site_key: str,
    *,
    name: str,
    document: MenuDocument | None = None,
    request_key: str,
    now: datetime,
) -> dict[str, Any]:
    """A new menu in the site's draft, empty or as given; its key is made from its name."""
    require(person, "edit", f"sites/{site_key}")
    async with database.transaction() as session:
        site = await site_row(session, site_key, lock=True)
        whole = document or menu_document(name)

        async def act() -> dict[str, Any]:
            taken = {row.key for row in await menus.menus_of_sites(session, [site.id])}
            stem = slug(name, otherwise="menu")
            key = next(
                key for number in range(1, 10_000) if (key := stem if number == 1 else f"{stem}-{number}") not in taken
            )
            if len(taken) >= 500:
                raise Clash("A site has at most 500 menus.", where=f"sites/{site_key}")
            menu = MenuRow(site_id=site.id, key=key, created_at=now)
            session.add(menu)
            await session.flush()
            draft = await changes.open_draft(session, site.id, person.id, f"Draft of {now:%-d %B}", now)
            revision = await menus.add_revision(session, menu, whole, author_id=person.id, change_id=draft.id, at=now)
            assert revision.id is not None
            await changes.put_in_change(session, draft.id, menu.id, None, revision.id)
            ledger.write(
                session, "create menu", f"Began the menu {name}", at=now, person_id=person.id, site_id=site.id, menu=key
            )
            return {"key": key, "hash": revision.hash}

        return await requests.once(
            session, person.id, request_key, {"create menu": name, "site": site_key}, act, at=now
        )
