"""What of each site was looked at last, and what there is to be looked at."""

from collections.abc import Sequence
from datetime import datetime
from typing import NamedTuple
from uuid import UUID

from sqlalchemy import text, update
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.core.crawled import LivePage, LivePages
from sign_shelf.core.model.documents import read
from sign_shelf.store.changes import LOOKED_IN
from sign_shelf.store.database import Session
from sign_shelf.store.tables import SiteLookRow


class ToLook(NamedTuple):
    """`leads` names what decides which addresses the site's menus lead to, `answers` what stands of these, `particulars` what is
    set of the site."""

    site_id: UUID
    key: str
    zone: str
    leads: str
    gathered: str
    state: str
    inventory: int
    particulars: str
    answers: str
    looked: str
    live: str
    """The state that was live when the site's home page was read last."""
    home: str
    """Names the home page and section pages as they were read."""
    shared: str
    """The newest versions of the shared menus that it follows."""
    drift: str
    """Names what its places were read to show otherwise."""


async def to_look(session: Session, site_id: UUID | None = None) -> Sequence[ToLook]:
    """Every site that is not put away, or the one."""
    found = await (await session.connection()).execute(_SITES, {"open": list(LOOKED_IN), "one": site_id})
    return [ToLook(*row) for row in found]


_SITES = text(
    """
    WITH heads AS (
      SELECT part.site_id, string_agg(part.head, ' ' ORDER BY part.head) AS named FROM change_part part
      JOIN change ON change.id = part.change_id
      WHERE change.state = ANY (:open) AND part.live_at IS NULL GROUP BY part.site_id
    ),
    answers AS (
      SELECT site_link.site_id, count(link.verdict) || ' ' || coalesce(max(link.since)::text, '-') AS named
      FROM site_link JOIN link ON link.address = site_link.address GROUP BY site_link.site_id
    ),
    followed AS (
      SELECT site.id AS site_id, string_agg(shared.key || ' ' || shared.version, ' ' ORDER BY shared.key) AS named
      FROM site JOIN state ON state.hash = site.live_state JOIN arrangement ON arrangement.hash = state.arrangement
      CROSS JOIN json_object_keys(coalesce(arrangement.document -> 'follows', '{}')) AS menu
      JOIN (SELECT key, max(version) AS version FROM shared_menu GROUP BY key) shared ON 'shared:' || shared.key = menu
      GROUP BY site.id
    ),
    drifted AS (
      SELECT drift.site_id, md5(string_agg(concat_ws(' ', location, device, edits::text), ' ' ORDER BY location, device)) AS named
      FROM drift GROUP BY drift.site_id
    )
    SELECT site.id, site.key, coalesce(site.particulars ->> 'zone', 'UTC'),
      concat_ws(' ', site.live_state, heads.named, site.inventory, site.base), coalesce(look.gathered, ''),
      site.live_state, site.inventory, md5(site.particulars::text), coalesce(answers.named, ''), coalesce(look.looked, ''),
      coalesce(look.live_state, ''), coalesce(md5(look.live_pages::text), ''),
      coalesce(followed.named, ''), coalesce(drifted.named, '')
    FROM site LEFT JOIN heads ON heads.site_id = site.id LEFT JOIN answers ON answers.site_id = site.id
    LEFT JOIN site_look look ON look.site_id = site.id
    LEFT JOIN followed ON followed.site_id = site.id LEFT JOIN drifted ON drifted.site_id = site.id
    WHERE site.archived_at IS NULL AND (CAST(:one AS uuid) IS NULL OR site.id = CAST(:one AS uuid)) ORDER BY site.key
    """
)


async def begin(session: Session, site_id: UUID) -> SiteLookRow:
    """What was looked at last, which stays as it is until the transaction ends."""
    fresh = insert(SiteLookRow).values({"site_id": site_id, "gathered": "", "looked": "", "live_state": ""})
    await session.exec(fresh.on_conflict_do_nothing())
    query = select(SiteLookRow).where(SiteLookRow.site_id == site_id).with_for_update()
    return (await session.exec(query.execution_options(populate_existing=True))).one()


async def gathered(session: Session, site_id: UUID, leads: str) -> None:
    await session.exec(update(SiteLookRow).where(col(SiteLookRow.site_id) == site_id).values(gathered=leads))


async def saw_live(session: Session, site_id: UUID, state: str, pages: tuple[LivePage, ...], at: datetime) -> None:
    """The site's home page and section pages as crawlers get them, while this state is live; none where the home page did not
    answer well: then what was known while the same was live stands."""
    before = await begin(session, site_id)
    if pages or before.live_state != state:
        before.live_pages = LivePages(pages=pages).to_json() if pages else None
    before.live_state, before.live_at = state, at
    session.add(before)


async def live_pages(session: Session, site_id: UUID, state: str) -> tuple[LivePage, ...]:
    """As they were read while this state was live."""
    query = select(SiteLookRow).where(SiteLookRow.site_id == site_id, SiteLookRow.live_state == state)
    row = (await session.exec(query)).first()
    return read(LivePages, row.live_pages).pages if row is not None and row.live_pages is not None else ()


async def homes_to_read(session: Session) -> Sequence[tuple[UUID, str]]:
    """Sites at which something else is live than when their home pages were read, or whose home pages are to be read again;
    with the state that is live."""
    rows = await (await session.connection()).execute(_HOMES)
    return [(row.id, row.live_state) for row in rows]


_HOMES = text(
    "SELECT site.id, site.live_state FROM site LEFT JOIN site_look look ON look.site_id = site.id"
    " WHERE site.archived_at IS NULL AND (look.live_at IS NULL OR look.live_state <> site.live_state) ORDER BY site.key"
)


async def read_home_again(session: Session, site_id: UUID) -> None:
    """What is known of it stands until then."""
    await session.exec(update(SiteLookRow).where(col(SiteLookRow.site_id) == site_id).values(live_at=None))


async def looked(session: Session, site_id: UUID, name: str, at: datetime) -> None:
    await session.exec(update(SiteLookRow).where(col(SiteLookRow.site_id) == site_id).values(looked=name, at=at))
