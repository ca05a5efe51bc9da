"""Teams: a role at several sites together, given to several people."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sign_shelf.core.errors import Clash, NotFound, Refusal
from sign_shelf.desk.people import checked_name
from sign_shelf.desk.permission import ROLES, Person, require
from sign_shelf.store import ledger, people, sites, teams
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import SiteRow, TeamRow


@dataclass(frozen=True, kw_only=True)
class Team:
    row: TeamRow
    sites: Sequence[SiteRow]
    members: Mapping[UUID, str]
    """By person: the role that they have at these sites, where none was given to them there."""


async def all_teams(database: Database, by: Person) -> list[Team]:
    require(by, "people", "teams")
    async with database.transaction() as session:
        at, members = await teams.sites_of(session), await teams.members_of(session)
        return [
            Team(row=row, sites=at.get(row.id, ()), members=members.get(row.id, {}))
            for row in await teams.all_teams(session)
        ]


async def begin(database: Database, by: Person, name: str, now: datetime) -> UUID:
    """Raises Clash for a name that is taken."""
    require(by, "people", "teams")
    called = checked_name(name)
    async with database.transaction() as session:
        await _refuse_taken(session, called, None)
        row = TeamRow(name=called)
        session.add(row)
        _tell(session, f"Began the team {called}", by, now)
        await session.flush()
        return row.id


async def keep(
    database: Database, by: Person, team_id: UUID, *, name: str, at: Sequence[str], members: Mapping[UUID, str], now: datetime
) -> None:  # fmt: skip
    """What the team is called, the sites that it looks after, by their keys, and who is in it with which role. Raises Refusal,
    NotFound, and Clash for a name that is taken; nobody gives a role to themselves."""
    require(by, "people", "teams")
    called = checked_name(name)
    if wrong := next((role for role in members.values() if role not in ROLES), None):
        raise Refusal(f'There is no role "{wrong}".', where="members", remedy=f"Roles are {', '.join(ROLES)}.")
    async with database.transaction() as session:
        row = await _team(session, team_id)
        before = (await teams.members_of(session)).get(team_id, {})
        if members.get(by.id) != before.get(by.id):
            raise Clash("You cannot change your own role.", where="members", remedy="Ask another owner.")
        await _refuse_taken(session, called, team_id)
        rows = {site.key: site for site in await sites.sites_by_key(session, at)}
        if unknown := next((key for key in at if key not in rows), None):
            raise NotFound(f'There is no site "{unknown}" on the shelf.', where="sites")
        known = await people.people_by_id(session, set(members))
        if stranger := next((one for one in members if one not in known), None):
            raise NotFound("There is no such person.", where=f"people/{stranger}")
        row.name = called
        session.add(row)
        await teams.keep(session, team_id, [site.id for site in rows.values()], members)
        who = ", ".join(sorted(f"{known[one].name} as {role}" for one, role in members.items())) or "nobody"
        where = ", ".join(sorted(site.name for site in rows.values())) or "no site"
        _tell(session, f"The team {called} looks after {where}: {who}", by, now)


async def end(database: Database, by: Person, team_id: UUID, now: datetime) -> None:
    require(by, "people", "teams")
    async with database.transaction() as session:
        row = await _team(session, team_id)
        await teams.keep(session, team_id, [], {})
        await session.delete(row)
        _tell(session, f"Ended the team {row.name}", by, now)


async def _team(session: Session, team_id: UUID) -> TeamRow:
    row = await teams.team(session, team_id)
    if row is None:
        raise NotFound("There is no such team.", where=f"teams/{team_id}")
    return row


async def _refuse_taken(session: Session, name: str, mine: UUID | None) -> None:
    if any(row.name == name and row.id != mine for row in await teams.all_teams(session)):
        raise Clash(f"There is a team {name} already.", where="name", remedy="Take another name.")


def _tell(session: Session, says: str, by: Person, now: datetime) -> None:
    ledger.write(session, "account", says, at=now, person_id=by.id)
