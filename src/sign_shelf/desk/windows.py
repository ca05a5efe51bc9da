"""Windows of live entries: from when until when each of them shows, on its site's clock."""

from dataclasses import dataclass
from datetime import datetime

from sign_shelf.core.basics.clock import clock_of, instant_of
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import facts_of, visible_sites
from sign_shelf.store import menus, states
from sign_shelf.store.database import Database
from sign_shelf.store.tables import SiteRow


@dataclass(frozen=True, kw_only=True)
class Window:
    """Instants, in minutes of UTC; None where it is open to that side."""

    site: SiteRow
    menu: str
    item: str
    label: str
    opens: str | None
    closes: str | None


async def ahead(database: Database, person: Person, now: datetime) -> list[Window]:
    """Of all sites that the person may look at: those that open or close after now."""
    async with database.transaction() as session:
        rows = await visible_sites(session, person)
        shown = await states.states(session, [row.live_state for row in rows])
        trees = {hash for state in shown.values() for hash in state.menus.values()}
        timed: dict[str, list[menus.Timed]] = {}
        for one in await menus.timed(session, trees):
            timed.setdefault(one.tree, []).append(one)
    found = []
    for row in rows:
        clock = clock_of(facts_of(row).zone)
        for menu, hash in sorted(shown[row.live_state].menus.items()):
            for one in timed.get(hash, ()):
                opens, closes = (clock.instant(at) if at is not None else None for at in (one.opens, one.closes))
                if max(opens or "", closes or "") > instant_of(now):
                    found.append(
                        Window(site=row, menu=menu, item=one.item, label=one.label, opens=opens, closes=closes)
                    )
    return found
