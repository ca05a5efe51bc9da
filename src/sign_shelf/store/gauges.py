"""What there is to watch from outside, out of one query."""

from typing import NamedTuple

from sqlalchemy import text

from sign_shelf.store.database import Session


class Gauges(NamedTuple):
    """Ages in seconds, None where there is nothing of that age."""

    jobs_waiting: int
    oldest_job_s: float | None
    worker_heard_s: float | None
    releases_under_way: int
    oldest_release_s: float | None
    releases_due: int
    """Whose moment has come and that are not begun."""
    release_lag_s: float | None
    """How long ago the earliest of those was due."""
    oldest_check_s: float | None
    """How long ago the site was checked that waits longest to be checked again."""
    sites: int
    sites_drifted: int
    sites_away: int
    oldest_reading_s: float | None
    """By how much the site is overdue that should have been read as it is live the longest ago."""
    addresses_due: int


_QUERY = text(
    """
    WITH waiting AS (
      SELECT count(*) AS many, min(coalesce(job.scheduled_at, event.at)) AS oldest FROM procrastinate_jobs job
      LEFT JOIN procrastinate_events event ON event.job_id = job.id AND event.type = 'deferred'
      WHERE job.status = 'todo' AND (job.scheduled_at IS NULL OR job.scheduled_at <= now())
    ),
    under_way AS (
      SELECT count(*) AS many, min(asked_at) AS oldest FROM release WHERE state IN ('waiting', 'sending', 'putting back')
    ),
    due AS (
      SELECT count(*) AS many, min(part.goes_at) AS oldest FROM change_part part JOIN change ON change.id = part.change_id
      WHERE change.state = 'scheduled' AND part.goes_at <= now() AND part.live_at IS NULL
      AND NOT EXISTS (SELECT 1 FROM release WHERE release.change_id = part.change_id AND release.site_id = part.site_id)
    )
    SELECT (SELECT many FROM waiting), (SELECT extract(epoch FROM now() - oldest) FROM waiting),
      (SELECT extract(epoch FROM now() - max(last_heartbeat)) FROM procrastinate_workers),
      (SELECT many FROM under_way), (SELECT extract(epoch FROM now() - oldest) FROM under_way),
      (SELECT many FROM due), (SELECT extract(epoch FROM now() - oldest) FROM due),
      (SELECT extract(epoch FROM now() - min(at)) FROM site_look),
      (SELECT count(*) FROM site WHERE archived_at IS NULL),
      (SELECT count(DISTINCT site_id) FROM drift),
      (SELECT count(*) FROM live_reading WHERE says <> ''),
      (SELECT extract(epoch FROM now() - min(due_at)) FROM live_reading WHERE due_at < now()),
      (SELECT count(*) FROM link WHERE due_at <= now())
    """
)


async def gauges(session: Session) -> Gauges:
    row = (await (await session.connection()).execute(_QUERY)).one()
    told = {name: None if one is None else float(one) for name, one in zip(Gauges._fields, row, strict=True)}
    return Gauges(**told)  # type: ignore[arg-type]
