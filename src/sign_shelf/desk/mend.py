"""Mending one cause wherever it is found: an edit in one change, with a part for each site."""

from collections import defaultdict
from collections.abc import Collection, Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

from sign_shelf.core.checks import Finding
from sign_shelf.core.checks.mending import Mend, mended
from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.desk.everywhere import edit_everywhere
from sign_shelf.desk.findings import gone
from sign_shelf.desk.permission import Person, may, require
from sign_shelf.desk.portfolio import visible_sites
from sign_shelf.store import findings, requests
from sign_shelf.store.database import Database, Session
from sign_shelf.store.requests import RequestKey
from sign_shelf.store.tables import FindingRow, SiteRow


async def mend_all(
    database: Database, person: Person, code: str, cause: str, mend: Mend, *, keys: Sequence[str] | None, request_key: RequestKey,
    now: datetime,
) -> dict[str, Any]:  # fmt: skip
    """The change that mends it at all sites that have it, or at those of `keys`, as far as the person may edit there: its id
    and title, the sites' keys and the number of entries. The same for the same key. Raises NotFound where nothing of it is
    found any more, EditRefused where no entry can be mended so."""
    async with database.transaction() as session:
        rows = {row.id: row for row in await visible_sites(session, person) if keys is None or row.key in keys}
        found = await findings.line(session, rows, code, cause)
        if not found:
            raise gone(person, code, rows)
        if not any(may(person, "edit", rows[one.site_id].key) for one in found):
            require(person, "edit", f"findings/{code}", rows[found[0].site_id].key)

        async def act() -> dict[str, Any]:
            return await _mend(session, person, rows, found, mend, now)

        return await requests.once(session, person.id, request_key, act, at=now)


async def _mend(
    session: Session, person: Person, rows: dict[UUID, SiteRow], found: Sequence[FindingRow], mend: Mend, now: datetime
) -> dict[str, Any]:
    wanted: dict[UUID, dict[str, set[str]]] = defaultdict(lambda: defaultdict(set))
    for one in found:
        if one.menu is not None and one.item is not None and may(person, "edit", rows[one.site_id].key):
            wanted[one.site_id][one.menu].add(one.item)

    def edited(site: SiteDocument, menu: str, items: Collection[str]) -> tuple[MenuDocument, int]:
        return mended(site, site.menus[menu], frozenset(items), mend), len(items)

    change, sites, entries = await edit_everywhere(
        session, person, _title(mend, found), wanted, rows, edited, now, pages=True
    )
    if change is None:
        raise EditRefused(
            "No entry can be mended so.", where="how", remedy="Open one of the menus and look at what stands there."
        )
    return {"change": str(change.id), "title": change.title, "sites": sites, "entries": entries}


def _title(mend: Mend, found: Sequence[FindingRow]) -> str:
    kind, _, named = found[0].cause.partition(" ")
    what = named if kind in {"address", "host"} else Finding.model_validate(found[0].found).says.partition(" leads ")[0]
    what = what.removeprefix("https://").removeprefix("http://")
    match mend.how:
        case "remove":
            return f"Take away what leads to {what}"[:200]
        case "own host":
            return f"From {what} to the site's own host"[:200]
        case "lead":
            return f"Lead {what} to {mend.to}"[:200]
