"""Sites as they are live, for tests that need them otherwise."""

from collections.abc import Mapping
from datetime import UTC, datetime
from uuid import UUID

from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.desk.put_live import whole
from sign_shelf.store import changes, menus, sites, states
from sign_shelf.store.database import Database


async def live_site(database: Database, key: str) -> SiteDocument:
    async with database.transaction() as session:
        row = await sites.site_by_key(session, key)
        assert row is not None
        return await whole(session, row, row.live_state)


async def make_change_live(database: Database, change: str) -> None:
    """What the change wants, as if a release had put it live at each of its sites."""
    async with database.transaction() as session:
        row = await changes.change_by_id(session, UUID(change), lock=True)
        assert row is not None
        row.state = "live"
        row.live_at = datetime.now(UTC)
        session.add(row)
        for part in await changes.parts_of(session, row.id):
            site = await sites.site_by_id(session, part.site_id, lock=True)
            site.live_state, site.live_since, part.live_at = part.head, row.live_at, row.live_at
            session.add_all([site, part])


async def make_live(database: Database, key: str, changed: Mapping[str, MenuDocument]) -> None:
    """The site with these menus, as if a release had put them live."""
    async with database.transaction() as session:
        row = await sites.site_by_key(session, key, lock=True)
        assert row is not None
        before = await states.state(session, row.live_state)
        trees = {name: await menus.keep_tree(session, document) for name, document in changed.items()}
        row.live_state = await states.keep_menus(session, before.arrangement, {**before.menus, **trees})
        row.live_since = datetime.now(UTC)
        session.add(row)
