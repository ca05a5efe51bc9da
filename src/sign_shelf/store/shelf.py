"""The shelf at a glance: a line for every site, out of one query, whatever number of sites and menus there is."""

from datetime import datetime
from typing import NamedTuple
from uuid import UUID

from sqlalchemy import text

from sign_shelf.store.changes import LOOKED_IN
from sign_shelf.store.database import Session


class SiteOnShelf(NamedTuple):
    key: str
    name: str
    zone: str
    connection: str
    template: str
    change: UUID | None
    change_title: str | None
    change_state: str | None
    others: int
    """Changes of the site that are under way, beside the one in which one looks."""
    release_state: str | None
    live_at: datetime | None
    seen_at: datetime | None
    menus: int
    entries: int
    pending: int
    changed: int
    """Menus that differ from what is live."""
    loose: int
    """Menus that hang nowhere."""
    archived_at: datetime | None
    """Since when it is put away."""
    drifted: int
    """Places that show something else than was verified there."""
    client: str | None
    teams: list[str]
    """The names of those that look after it."""


_WORKED_IN = """
  SELECT part.site_id, part.head, change.id, change.title, change.state FROM work
  JOIN change_part part ON part.change_id = work.change_id AND part.site_id = work.site_id
  JOIN change ON change.id = part.change_id
  WHERE work.person_id = :person AND change.state = ANY (:looked_in) AND part.live_at IS NULL
"""
_IN_CHANGE = """
  SELECT part.site_id, part.head, change.id, change.title, change.state FROM change_part part
  JOIN change ON change.id = part.change_id WHERE part.change_id = :change
"""
_AS_LIVE = "SELECT NULL::uuid AS site_id, NULL AS head, NULL::uuid AS id, NULL AS title, NULL AS state WHERE false"
_LINES = """
WITH inside AS ({inside}),
looked_at AS (
  SELECT site.id, site.key, site.name, coalesce(site.particulars ->> 'zone', 'UTC') AS zone, site.connection,
    site.archived_at, site.particulars ->> 'client' AS client, inside.id AS change, inside.title AS change_title, inside.state AS change_state,
    state.menus, live.menus AS live_menus, arrangement.document AS arrangement
  FROM site LEFT JOIN inside ON inside.site_id = site.id
  JOIN state ON state.hash = coalesce(inside.head, site.live_state)
  JOIN state live ON live.hash = site.live_state
  JOIN arrangement ON arrangement.hash = state.arrangement
),
hung AS (
  SELECT looked_at.id, array_agg(placement ->> 'menu') AS menus
  FROM looked_at, json_array_elements(looked_at.arrangement -> 'placements') placement GROUP BY looked_at.id
),
live_menu AS (
  SELECT looked_at.id, menu.key, menu.value FROM looked_at, json_each_text(looked_at.live_menus) menu
),
counts AS (
  SELECT looked_at.id, count(*) AS menus, sum(tree.items) AS entries, sum(tree.pending) AS pending,
    count(*) FILTER (WHERE live_menu.value IS DISTINCT FROM menu.value) AS changed,
    count(*) FILTER (
      WHERE menu.key = ANY (hung.menus) IS NOT TRUE
      AND (looked_at.arrangement -> 'archived')::jsonb @> to_jsonb(menu.key) IS NOT TRUE
    ) AS loose
  FROM looked_at CROSS JOIN json_each_text(looked_at.menus) menu
  JOIN tree ON tree.hash = menu.value
  LEFT JOIN hung ON hung.id = looked_at.id
  LEFT JOIN live_menu ON live_menu.id = looked_at.id AND live_menu.key = menu.key
  GROUP BY looked_at.id
),
under_way AS (
  SELECT part.site_id, count(*) AS changes FROM change_part part JOIN change ON change.id = part.change_id
  JOIN looked_at ON looked_at.id = part.site_id
  WHERE change.state = ANY (:looked_in) AND part.live_at IS NULL AND change.id IS DISTINCT FROM looked_at.change GROUP BY part.site_id
),
released AS (
  SELECT DISTINCT ON (site_id) site_id, state FROM release ORDER BY site_id, asked_at DESC, id
),
lived AS (SELECT site_id, max(finished_at) AS at FROM release WHERE state = 'live' GROUP BY site_id),
seen AS (
  SELECT site_id, max(at) AS at FROM (
    SELECT site_id, seen_at AS at FROM live_slot UNION ALL SELECT site_id, read_at FROM live_reading
  ) one GROUP BY site_id
),
drifted AS (SELECT site_id, count(*) AS places FROM drift GROUP BY site_id),
looked_after AS (
  SELECT team_site.site_id, array_agg(team.name ORDER BY team.name) AS teams
  FROM team_site JOIN team ON team.id = team_site.team_id GROUP BY team_site.site_id
)
SELECT looked_at.key, looked_at.name, looked_at.zone, looked_at.connection,
  coalesce(template.document ->> 'title', looked_at.arrangement -> 'template' ->> 'key') AS template,
  looked_at.change, looked_at.change_title, looked_at.change_state,
  coalesce(under_way.changes, 0) AS others,
  released.state AS release_state, lived.at AS live_at, seen.at AS seen_at,
  coalesce(counts.menus, 0) AS menus, coalesce(counts.entries, 0) AS entries, coalesce(counts.pending, 0) AS pending,
  coalesce(counts.changed, 0) AS changed, coalesce(counts.loose, 0) AS loose, looked_at.archived_at,
  coalesce(drifted.places, 0) AS drifted, looked_at.client, coalesce(looked_after.teams, '{{}}') AS teams
FROM looked_at
LEFT JOIN template ON template.key = looked_at.arrangement -> 'template' ->> 'key'
  AND template.version = coalesce((looked_at.arrangement -> 'template' ->> 'version')::int, 1)
LEFT JOIN counts ON counts.id = looked_at.id
LEFT JOIN under_way ON under_way.site_id = looked_at.id
LEFT JOIN released ON released.site_id = looked_at.id
LEFT JOIN lived ON lived.site_id = looked_at.id
LEFT JOIN seen ON seen.site_id = looked_at.id
LEFT JOIN drifted ON drifted.site_id = looked_at.id
LEFT JOIN looked_after ON looked_after.site_id = looked_at.id
ORDER BY looked_at.name
"""
IN_WORK, IN_CHANGE, AS_LIVE = (_LINES.format(inside=inside) for inside in (_WORKED_IN, _IN_CHANGE, _AS_LIVE))


async def lines(session: Session, *, person: UUID | None, change: UUID | None) -> list[SiteOnShelf]:
    """Every site by name: in the change; else in those in which the person works; as it is live where neither is given."""
    query = text(IN_CHANGE if change else IN_WORK if person else AS_LIVE)
    found = await (await session.connection()).execute(
        query, {"person": person, "change": change, "looked_in": list(LOOKED_IN)}
    )
    return [SiteOnShelf(*row) for row in found]
