"""Teams: who is in them, and which sites they look after."""

from collections.abc import Iterable, Mapping
from uuid import UUID

from sqlalchemy import delete
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import SiteRow, TeamMemberRow, TeamRow, TeamSiteRow


async def all_teams(session: Session) -> list[TeamRow]:
    return list(await session.exec(select(TeamRow).order_by(TeamRow.name)))


async def team(session: Session, team_id: UUID) -> TeamRow | None:
    return await session.get(TeamRow, team_id, with_for_update=True)


async def sites_of(session: Session) -> dict[UUID, list[SiteRow]]:
    query = select(TeamSiteRow.team_id, SiteRow).join(SiteRow, col(SiteRow.id) == TeamSiteRow.site_id)
    found: dict[UUID, list[SiteRow]] = {}
    for team_id, site in await session.exec(query.order_by(SiteRow.name)):
        found.setdefault(team_id, []).append(site)
    return found


async def members_of(session: Session) -> dict[UUID, dict[UUID, str]]:
    """By team: the role of each person."""
    found: dict[UUID, dict[UUID, str]] = {}
    for row in await session.exec(select(TeamMemberRow)):
        found.setdefault(row.team_id, {})[row.person_id] = row.role
    return found


async def keep(session: Session, team_id: UUID, sites: Iterable[UUID], members: Mapping[UUID, str]) -> None:
    """In place of those that it had."""
    await session.exec(delete(TeamSiteRow).where(col(TeamSiteRow.team_id) == team_id))
    await session.exec(delete(TeamMemberRow).where(col(TeamMemberRow.team_id) == team_id))
    session.add_all([TeamSiteRow(team_id=team_id, site_id=one) for one in sites])
    session.add_all([TeamMemberRow(team_id=team_id, person_id=one, role=role) for one, role in members.items()])
    await session.flush()
