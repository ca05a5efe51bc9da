"""Teams: several people with a role at several sites together."""

from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, Now, Someone
from sign_shelf.api.models import Answer
from sign_shelf.desk import teams

router = APIRouter(prefix="/api/teams", tags=["people"])


class TeamOut(Answer):
    """`members`: by the person's id, the role that they have at its sites where none was given to them there."""

    id: UUID
    name: str
    sites: list[str]
    members: dict[UUID, str]


class TeamNameBody(BaseModel):
    name: str = Field(max_length=200)


class TeamBody(BaseModel):
    name: str = Field(max_length=200)
    sites: list[str] = Field(max_length=2_000)
    members: dict[UUID, str] = Field(max_length=500)


class BegunTeamOut(Answer):
    id: UUID


@router.get("")
async def all_teams(database: Db, person: Someone) -> list[TeamOut]:
    return [
        TeamOut(id=one.row.id, name=one.row.name, sites=[site.key for site in one.sites], members=dict(one.members))
        for one in await teams.all_teams(database, person)
    ]


@router.post("", status_code=201)
async def begin(body: TeamNameBody, database: Db, person: Someone, now: Now) -> BegunTeamOut:
    return BegunTeamOut(id=await teams.begin(database, person, body.name, now))


@router.put("/{team}", status_code=204)
async def keep(team: UUID, body: TeamBody, database: Db, person: Someone, now: Now) -> None:
    """Its name, its sites and its people, in place of those that it had."""
    await teams.keep(database, person, team, name=body.name, at=body.sites, members=body.members, now=now)


@router.delete("/{team}", status_code=204)
async def end(team: UUID, database: Db, person: Someone, now: Now) -> None:
    await teams.end(database, person, team, now)
