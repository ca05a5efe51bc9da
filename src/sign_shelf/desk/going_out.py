"""What goes out when a change is put live now, told before it does; and what a change does to each of its sites."""

import asyncio
from dataclasses import dataclass
from datetime import datetime

from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.compare.sites import site_edits
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.outgoing import MenuGoes, goes_out
from sign_shelf.core.resolve import Prepared
from sign_shelf.desk import put_live
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import View, facts_of, site_row
from sign_shelf.desk.whose import whose_edits
from sign_shelf.store.database import Database
from sign_shelf.store.tables import ChangePartRow, ChangeRow, SiteRow


@dataclass(frozen=True, kw_only=True)
class GoingOut:
    """`target` is the name of the state that is live by then."""

    change: ChangeRow
    target: str
    menus: tuple[tuple[MenuGoes, list[str | None]], ...]
    """Each with the people whose its edits are, edit by edit."""
    site: tuple[str, ...]
    """What it does to the site beside its menus, in sentences."""


async def going_out(database: Database, person: Person, site_key: str, *, view: View, now: datetime) -> GoingOut:
    """What would go live if it were put live now. Raises as `put_live.ask` does; findings that stop it are told."""
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        change, before, after, target = await put_live.planned(session, person, site, view, now)
    return await _told(database, site, change, before, after, target, now)


async def done_to(database: Database, site: SiteRow, change: ChangeRow, part: ChangePartRow, now: datetime) -> GoingOut:
    """What the change does to the site, from what it set out from to what it wants."""
    async with database.transaction() as session:
        before, after = [await put_live.whole(session, site, name) for name in (part.base, part.head)]
    return await _told(database, site, change, before, after, part.head, now)


async def _told(
    database: Database,
    site: SiteRow,
    change: ChangeRow,
    before: SiteDocument,
    after: SiteDocument,
    target: str,
    now: datetime,
) -> GoingOut:
    at = clock_of(facts_of(site).zone).now(now)
    goes = await asyncio.to_thread(goes_out, Prepared(before), Prepared(after), at=at)
    async with database.transaction() as session:
        by = [await whose_edits(session, site, change.id, one.menu, one.edits) for one in goes]
    says = [edit.says for edit in site_edits(before, after)]
    if put_live.known(before) != put_live.known(after):
        says.append("Changed the site's facts, audiences or rules")
    return GoingOut(change=change, target=target, menus=tuple(zip(goes, by, strict=True)), site=tuple(says))
