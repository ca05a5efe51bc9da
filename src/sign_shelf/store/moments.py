"""When something falls due next: what workers set their timers by. Each is the earliest moment later than `after`, None where there is none.

What fell due before `after` and still waits is not counted: its worker tries again by itself.
"""

from datetime import datetime, timedelta

from sqlalchemy import TextClause, text

from sign_shelf.store.database import Session
from sign_shelf.store.notices import OPEN


async def next_change(session: Session, after: datetime) -> datetime | None:
    """A change goes live at a site, or comes back there."""
    return await _first(session, _CHANGE, after=after)


async def next_notice(session: Session, after: datetime, *, quiet: timedelta, at_latest: timedelta) -> datetime | None:
    """A notice or somebody's daily notice is due, or findings have rested for `quiet`, or have waited until `at_latest`."""
    return await _first(session, _NOTICE, after=after, quiet=quiet, at_latest=at_latest, open=list(OPEN))


async def next_reading_of_pages(session: Session, after: datetime) -> datetime | None:
    return await _first(session, _PAGES, after=after)


async def next_reading_of_places(session: Session, after: datetime) -> datetime | None:
    return await _first(session, _PLACES, after=after)


async def next_address(session: Session, after: datetime) -> datetime | None:
    """An address is to be asked, or the hold on a host ends whose worker was not heard of."""
    return await _first(session, _ADDRESS, after=after)


async def _first(session: Session, query: TextClause, **given: object) -> datetime | None:
    found: datetime | None = await (await session.connection()).scalar(query, given)
    return found


_CHANGE = text(
    "SELECT least("
    "(SELECT min(goes_at) FROM change_part WHERE goes_at > :after AND live_at IS NULL AND says = ''),"
    "(SELECT min(ends_at) FROM change_part WHERE ends_at > :after AND over_at IS NULL AND says = ''))"
)
_NOTICE = text(
    """
    SELECT min(moment) FROM (
      SELECT min(due_at) FROM notice WHERE state = ANY (:open) AND due_at > :after
      UNION ALL SELECT min(daily_due_at) FROM channel WHERE daily_due_at > :after
      UNION ALL SELECT least(max(since) + :quiet, min(since) + :at_latest) FROM finding
        WHERE severity = 'stop' AND gone_at IS NULL AND (told_at IS NULL OR told_at < since)
    ) AS first (moment) WHERE moment > :after
    """
)
_PAGES = text(
    "SELECT min(due_at) FROM site_reading JOIN site ON site.id = site_id WHERE archived_at IS NULL AND due_at > :after"
)
_PLACES = text(
    "SELECT min(due_at) FROM live_reading JOIN site ON site.id = site_id WHERE archived_at IS NULL AND due_at > :after"
)
_ADDRESS = text(
    "SELECT least((SELECT min(due_at) FROM link WHERE due_at > :after"
    " AND EXISTS (SELECT 1 FROM site_link WHERE site_link.address = link.address)),"
    "(SELECT min(held_until) FROM link_host WHERE held_until > :after))"
)
