"""The same edit in menus of many sites: one change that sets out from what is live, with a part for each site."""

from collections.abc import Callable, Collection, Mapping, Sequence
from datetime import datetime
from uuid import UUID

from sign_shelf.core.changes.state import Contents, site_of
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.desk.changes import checked_title
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.desk.workplace import Wanted, begin_with
from sign_shelf.store import facts, ledger, menus, sites, states
from sign_shelf.store.database import Session
from sign_shelf.store.tables import ChangeRow, SiteRow

Edited = Callable[[SiteDocument, str, Collection[str]], tuple[MenuDocument, int]]
"""The menu of that key with these of its items edited, and how many of them were."""
AT_ONCE = 25
"""Sites that are read, and menus that are kept, in one step."""


async def as_live(
    session: Session, rows: Sequence[SiteRow], wanted: Mapping[UUID, Collection[str]], *, pages: bool
) -> dict[UUID, SiteDocument]:
    """The sites as they are live, with those menus alone that are wanted, as far as there are, and with their pages only where these are
    asked for: of hundreds of sites that is a small part."""
    live = await states.states(session, [row.live_state for row in rows])
    arrangements = await states.arrangements(session, {one.arrangement for one in live.values()})
    named = {row.id: arrangements[live[row.live_state].arrangement] for row in rows}
    templates = await sites.templates(session, {(one.template.key, one.template.version) for one in named.values()})
    shared = await facts.fact_sets(session, {one for each in named.values() for one in each.sets})
    trees = {
        row.id: {key: hash for key, hash in live[row.live_state].menus.items() if key in wanted[row.id]} for row in rows
    }
    documents = await menus.documents(session, {hash for each in trees.values() for hash in each.values()})
    found = {}
    for row in rows:
        arrangement = named[row.id]
        contents = Contents(
            arrangement=arrangement, menus={key: documents[hash] for key, hash in trees[row.id].items()}
        )
        found[row.id] = site_of(
            facts_of(row), contents, templates[arrangement.template.key, arrangement.template.version],
            [shared[one] for one in arrangement.sets], await sites.pages_of_site(session, row.id) if pages else (),
        )  # fmt: skip
    return found


async def edit_everywhere(
    session: Session, person: Person, title: str, wanted: Mapping[UUID, Mapping[str, Collection[str]]], rows: Mapping[UUID, SiteRow],
    edited: Edited, now: datetime, *, pages: bool,
) -> tuple[ChangeRow | None, list[str], int]:  # fmt: skip
    """`wanted` are items by site and menu; `pages`: whether the edit asks for the sites' pages. The change, the keys of its sites, and
    how many entries are edited; no change where that is none."""
    at = sorted((rows[site_id] for site_id in wanted), key=lambda row: row.name)
    named: dict[UUID, dict[str, str]] = {}
    entries = 0
    for begin in range(0, len(at), AT_ONCE):
        made: dict[str, MenuDocument] = {}
        for site_id, site in (await as_live(session, at[begin : begin + AT_ONCE], wanted, pages=pages)).items():
            for menu, items in wanted[site_id].items():
                if menu not in site.menus:
                    continue
                after, count = edited(site, menu, items)
                if after != site.menus[menu]:
                    entries += count
                    name = named.setdefault(site_id, {})[menu] = content_hash(after)
                    made[name] = after
        await menus.keep_trees(session, made)
    if not named:
        return None, [], 0
    touched = [row for row in at if row.id in named]
    live = await states.states(session, [row.live_state for row in touched])
    wants = {
        row.id: Wanted(live[row.live_state].arrangement, {**live[row.live_state].menus, **named[row.id]})
        for row in touched
    }
    change = await begin_with(session, person, checked_title(title), touched, wants, now)
    for row in touched:
        ledger.write(
            session, "change", f"Began {change.title}", at=now, person_id=person.id, site_id=row.id, change=str(change.id)
        )  # fmt: skip
    return change, [row.key for row in touched], entries
