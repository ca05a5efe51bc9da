"""Menus that the agency shares: their versions, the sites that follow them, and rolling those forward."""

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, In, Now, Once, Someone
from sign_shelf.api.models import Answer
from sign_shelf.core.basics.text import Language
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.outline import format_outline
from sign_shelf.core.sharing import Filled
from sign_shelf.core.sharing.filling import details_of, roles_of
from sign_shelf.desk import sharing

router = APIRouter(prefix="/api/shared-menus", tags=["shared menus"])
Key = Annotated[str, Field(max_length=200)]
MOST_SITES = 1_000


class SharedListed(Answer):
    key: str
    name: str
    version: int
    at: datetime
    entries: int
    followers: int
    behind: int


class SharedVersion(Answer):
    version: int
    at: datetime


class NotFilledOut(Answer):
    """What a site does not have for an entry: it is left out there, or leads nowhere yet."""

    title: str
    says: str
    leaves_out: bool


class InChangeOut(Answer):
    id: UUID
    title: str


class FollowerOut(Answer):
    """A site as it is live. `adjustments` is what it has otherwise, in sentences; `left` are those that no longer apply: entries that
    the shared menu has no more."""

    site: str
    name: str
    standing: Literal["current", "behind", "begins"]
    version: int | None
    adjustments: list[str]
    left: list[str]
    not_filled: list[NotFilledOut]
    change: InChangeOut | None


class OtherSite(Answer):
    site: str
    name: str


class SharedMenuOut(Answer):
    """`details` are what sites fill in for `{site.…}`, `roles` what the pages that it leads to are on their sites."""

    key: str
    name: str
    language: str
    version: int
    outline: str
    document: MenuDocument
    details: list[str]
    roles: list[str]
    versions: list[SharedVersion]
    followers: list[FollowerOut]
    others: list[OtherSite]


class SharedBody(BaseModel):
    """`outline` without a line for the name."""

    name: str = Field(min_length=1, max_length=200)
    language: Language = "en"
    outline: str = Field(max_length=200_000)


class SharedMade(Answer):
    key: str


class SharedSaveBody(BaseModel):
    """`version` is the one that it sets out from."""

    name: str = Field(min_length=1, max_length=200)
    outline: str = Field(max_length=200_000)
    version: int = Field(ge=1)


class FollowBody(BaseModel):
    sites: list[Key] = Field(min_length=1, max_length=MOST_SITES)


class FollowedIn(Answer):
    change: UUID


class MetOut(Answer):
    """Where the site and the shared menu set the same; the site's own holds."""

    title: str
    field: str | None
    ours: str
    theirs: str


class ForwardOut(Answer):
    """What rolling forward does at a site: `does` to what it has, what it `keeps` of its own, and what no longer applies (`left`)."""

    site: str
    name: str
    does: list[str]
    keeps: list[str]
    met: list[MetOut]
    left: list[str]
    not_filled: list[NotFilledOut]
    refused: str | None


class RollBody(BaseModel):
    """`sites` None: all that are behind."""

    title: str = Field(min_length=1, max_length=200)
    sites: list[Key] | None = Field(default=None, max_length=MOST_SITES)


class RolledIn(Answer):
    change: UUID
    title: str
    sites: list[str]


@router.get("")
async def listed(database: Db, person: Someone) -> list[SharedListed]:
    async with database.transaction() as session:
        return [
            SharedListed(
                key=one.row.key, name=one.row.name, version=one.row.version, at=one.row.at, entries=one.entries,
                followers=one.followers, behind=one.behind,
            )
            for one in await sharing.all_shared(session, person)
        ]  # fmt: skip


@router.post("", status_code=201)
async def begin(body: SharedBody, database: Db, person: Someone, key: Once, now: Now) -> SharedMade:
    """A new one, from its outline. The same key makes it once."""
    document = sharing.written(body.name, body.outline, body.language)
    return SharedMade(
        key=await sharing.begin(database, person, document, language=body.language, request_key=key, now=now)
    )


@router.get("/{shared}")
async def look(shared: str, database: Db, person: Someone) -> SharedMenuOut:
    """Its newest version with the sites that follow it."""
    async with database.transaction() as session:
        found = await sharing.look(session, person, shared)
    newest = found.versions[0]
    outline = format_outline(found.document, language=newest.language)
    return SharedMenuOut(
        key=shared, name=newest.name, language=newest.language, version=newest.version,
        outline=outline.partition("\n")[2] if outline.startswith("{menu ") else outline,
        document=found.document, details=list(details_of(found.document)), roles=list(roles_of(found.document)),
        versions=[SharedVersion(version=row.version, at=row.at) for row in found.versions],
        followers=[
            FollowerOut(
                site=one.site.key, name=one.site.name, standing=one.standing, version=one.version,
                adjustments=[edit.says for edit in one.has.adjustments], left=list(one.left), not_filled=_not_filled(one.now),
                change=InChangeOut(id=one.change.id, title=one.change.title) if one.change is not None else None,
            )
            for one in found.followers
        ],
        others=[OtherSite(site=row.key, name=row.name) for row in found.others],
    )  # fmt: skip


def _not_filled(now: Filled) -> list[NotFilledOut]:
    return [NotFilledOut(title=one.title, says=one.says, leaves_out=one.leaves_out) for one in now.notes]


@router.put("/{shared}")
async def save(shared: str, body: SharedSaveBody, database: Db, person: Someone, now: Now) -> SharedVersion:
    """Its next version. Nothing changes at any site until that is rolled forward."""
    row = await sharing.save(database, person, shared, body.name, body.outline, expected=body.version, now=now)
    return SharedVersion(version=row.version, at=row.at)


@router.post("/{shared}/followers", status_code=201)
async def follow(
    shared: str, body: FollowBody, database: Db, person: Someone, view: In, key: Once, now: Now
) -> FollowedIn:
    """The sites follow it from now on, in a change: that which one looks in where it is one site, else one of its own."""
    change = await sharing.follow(database, person, shared, body.sites, view=view, request_key=key, now=now)
    return FollowedIn(change=change)


@router.delete("/{shared}/followers/{site}")
async def leave(shared: str, site: str, database: Db, person: Someone, view: In, now: Now) -> FollowedIn:
    """The site follows it no more, in the change there; what it has of it stays as a menu of its own."""
    return FollowedIn(change=await sharing.leave(database, person, shared, site, view=view, now=now))


@router.get("/{shared}/forward")
async def foresee(
    shared: str, database: Db, person: Someone, site: Annotated[list[str] | None, Query(max_length=MOST_SITES)] = None
) -> list[ForwardOut]:
    """What rolling forward would do at each site that is behind, or at these of them."""
    async with database.transaction() as session:
        found = await sharing.foresee(session, person, shared, site)
    return [
        ForwardOut(
            site=one.site.key, name=one.site.name, does=[edit.says for edit in one.rolled.does],
            keeps=[edit.says for edit in one.keeps.adjustments], met=[MetOut.model_validate(vars(each)) for each in one.rolled.met],
            left=list(one.left), not_filled=_not_filled(one.now), refused=one.refused,
        )
        for one in found
    ]  # fmt: skip


@router.post("/{shared}/forward", status_code=201)
async def roll(shared: str, body: RollBody, database: Db, person: Someone, key: Once, now: Now) -> RolledIn:
    """One change that takes the sites that are behind, or these of them, to the newest version; each keeps its adjustments."""
    done = await sharing.roll(database, person, shared, body.sites, title=body.title, request_key=key, now=now)
    return RolledIn.model_validate(done)
