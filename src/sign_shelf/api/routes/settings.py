"""What a site is: its name, address, clock, languages and policy, who works on it, and whether it is put away."""

from datetime import datetime
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, Expected, Net, Now, Someone
from sign_shelf.api.models import Answer, ArchivedBody
from sign_shelf.desk import site_settings
from sign_shelf.desk.site_settings import Settings

router = APIRouter(prefix="/api/sites/{site}", tags=["settings"])


class OtherHostBody(BaseModel):
    host: str = Field(max_length=253)
    kind: Literal["staging", "demo", "old", "alias", "client"]


class SettingsBody(BaseModel):
    """What is absent stays as it is."""

    name: str | None = Field(default=None, max_length=500)
    base: str | None = Field(default=None, max_length=2_000)
    zone: str | None = Field(default=None, max_length=100)
    client: str | None = Field(default=None, max_length=500)
    """Whose site it is; empty: nobody's in particular."""
    languages: list[str] | None = Field(default=None, min_length=1, max_length=50)
    hosts: list[OtherHostBody] | None = Field(default=None, max_length=50)
    outside_links: Literal["new_tab", "same_tab", "as they are"] | None = None
    approvals: int | None = Field(default=None, ge=0, le=10)
    review_first: bool | None = None
    """Whether nothing goes live that was not approved."""
    moment_too: bool | None = None
    """Whether the moment is approved with a change: one that is moved is approved again."""
    stops: Literal["stop", "warn", "nothing"] | None = None
    label_length: int | None = Field(default=None, ge=0, le=200)
    """0: as long as each place takes."""
    steps: int | None = Field(default=None, ge=0, le=20)
    """0: four."""
    required: dict[str, list[str]] | None = Field(default=None, max_length=40)
    """Pages, by their references, that places must lead to."""
    read_every: Literal["hour", "day", "week", "never"] | None = None
    """In what rhythm the site's pages are read again."""
    new_into: str | None = Field(default=None, max_length=100)
    """The menu in whose draft new pages of the top level are put; empty: in none."""
    places: dict[str, str] | None = Field(default=None, max_length=100)
    """What the site calls locations of its template, where it is another name."""
    seen_at: dict[str, str] | None = Field(default=None, max_length=100)
    """Where locations stand on the site's pages, as CSS selectors; the others are known by their likeness."""
    details: dict[str, str] | None = Field(default=None, max_length=100)
    """What shared menus fill in for `{site.…}`."""
    roles: dict[str, str] | None = Field(default=None, max_length=100)
    """Which page is the one that shared menus call so, by its reference."""


class WorksHere(Answer):
    name: str
    role: str


class SettingsOut(Answer):
    """`hash` is the entity tag that changes set out from."""

    hash: str
    name: str
    base: str
    zone: str
    client: str | None
    languages: list[str]
    hosts: list[OtherHostBody]
    outside_links: Literal["new_tab", "same_tab"] | None
    approvals: int
    review_first: bool
    moment_too: bool
    stops: Literal["stop", "warn", "nothing"]
    label_length: int | None
    steps: int | None
    required: dict[str, list[str]]
    read_every: Literal["hour", "day", "week", "never"]
    new_into: str | None
    places: dict[str, str]
    seen_at: dict[str, str]
    details: dict[str, str]
    roles: dict[str, str]
    connection: str
    endpoint: str | None
    archived_at: datetime | None
    people: list[WorksHere]


@router.get("/settings")
async def settings(site: str, database: Db, person: Someone) -> SettingsOut:
    return _out(await site_settings.settings(database, person, site))


@router.put("/settings")
async def keep(
    site: str, body: SettingsBody, database: Db, fetcher: Net, person: Someone, expected: Expected, now: Now
) -> SettingsOut:
    """Keeps what is given; a new address is asked first for what the site can do there."""
    wanted = body.model_dump(exclude_none=True)
    if "client" in wanted:
        wanted["client"] = wanted["client"].strip() or None
    links = wanted.pop("outside_links", None)
    kept = {name: wanted.pop(given) or None for given, name in _PAGES.items() if given in wanted}
    policy = {name: wanted.pop(name) or _NONE.get(name) for name in _POLICY if name in wanted}
    if links:
        policy["outside_links"] = None if links == "as they are" else links
    return _out(
        await site_settings.keep(database, fetcher, person, site, expected=expected, wanted=wanted, policy=policy, pages=kept, now=now)
    )  # fmt: skip


_POLICY = ("approvals", "review_first", "moment_too", "stops", "label_length", "steps", "required")
_PAGES = {"read_every": "every", "new_into": "into"}
_NONE: dict[str, object] = {"approvals": 0, "review_first": False, "moment_too": False, "required": {}}
"""What nothing is written as, where it is not the absence of a word."""


@router.put("/archived", status_code=204)
async def put_away(site: str, body: ArchivedBody, database: Db, person: Someone, now: Now) -> None:
    """Puts the site away, or takes it out again. Visitors go on getting what is live."""
    await site_settings.put_away(database, person, site, away=body.archived, now=now)


def _out(found: Settings) -> SettingsOut:
    facts = found.particulars
    return SettingsOut(
        hash=found.hash,
        name=facts.name,
        base=facts.base,
        zone=facts.zone,
        client=facts.client,
        languages=list(facts.languages),
        hosts=[OtherHostBody(host=one.host, kind=one.kind) for one in facts.hosts],
        outside_links=facts.policy.outside_links,
        approvals=facts.policy.approvals,
        review_first=facts.policy.review_first,
        moment_too=facts.policy.moment_too,
        stops=facts.policy.stops,
        label_length=facts.policy.label_length,
        steps=facts.policy.steps,
        required={place: list(refs) for place, refs in facts.policy.required.items()},
        read_every=facts.pages.every,
        new_into=facts.pages.into,
        places=dict(facts.places),
        seen_at=dict(facts.seen_at),
        details=dict(facts.details),
        roles=dict(facts.roles),
        connection=found.connection,
        endpoint=found.endpoint,
        archived_at=found.archived_at,
        people=[WorksHere(name=name, role=role) for name, role in found.people],
    )
