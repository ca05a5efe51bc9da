"""Changes of all sites, and one of them: what it does, who approved it, what was remarked on."""

from collections.abc import Mapping
from dataclasses import asdict
from datetime import datetime
from typing import Literal, Self, cast
from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, Language, Now, Someone
from sign_shelf.api.models import Answer, MenuGoesOut
from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.changes import life
from sign_shelf.core.changes.life import Deed, Life
from sign_shelf.core.changes.review import Verdict
from sign_shelf.core.changes.season import Day, said_yearly
from sign_shelf.core.checks import Severity
from sign_shelf.core.compare.rails import Rails
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.template import Shape
from sign_shelf.desk import looked, review, sign_off
from sign_shelf.desk.brings import brought, drawn
from sign_shelf.desk.going_out import done_to
from sign_shelf.desk.permission import Action, Person, may
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.desk.review import Reviewed
from sign_shelf.desk.seasons import season_of
from sign_shelf.store import releases
from sign_shelf.store.tables import ChangePartRow, SiteRow

router = APIRouter(prefix="/api/changes", tags=["reviews"])
MOST_TOLD = 12
"""Sites of a change of which all that it does is worked out at once; the others are looked at one by one."""


class AtSiteOut(Answer):
    """`goes` and `ends` are what the site's clock shows at its moments. `says`: what kept it from going, or from coming back, when
    its moment came; `foretold`: what is known to stand in the way of one to come. `over_at`: when what was live before came back."""

    key: str
    name: str
    zone: str
    does_nothing: bool
    live_at: datetime | None
    over_at: datetime | None
    goes_at: datetime | None
    goes: str | None
    ends_at: datetime | None
    ends: str | None
    says: str
    foretold: str

    @classmethod
    def of(cls, site: SiteRow, part: ChangePartRow) -> Self:
        zone = facts_of(site).zone
        clock = clock_of(zone)
        return cls(
            key=site.key, name=site.name, zone=zone, does_nothing=part.base == part.head, live_at=part.live_at,
            over_at=part.over_at, goes_at=part.goes_at, ends_at=part.ends_at, says=part.says, foretold=part.foretold,
            goes=clock.now(part.goes_at) if part.goes_at is not None else None,
            ends=clock.now(part.ends_at) if part.ends_at is not None else None,
        )  # fmt: skip


class SeasonOut(Answer):
    """It comes back every year: from when until when, in words. `approved`: as long as it does what was approved, it is asked for no
    more."""

    goes: Day
    ends: Day
    approved: bool
    says: str


class ScheduleOut(Answer):
    """As it was set: by each site's own clock, or at one instant of UTC."""

    kind: Literal["clock", "instant"]
    goes: str
    ends: str | None
    by: str | None
    at: datetime
    season: SeasonOut | None


class OpenChangeOut(Answer):
    """A change that is neither live nor over. `approvals` of `wanted` hold for what it is now; `waits_for_me`: one may approve
    it, and has not."""

    id: UUID
    title: str
    why: str
    state: Life
    author: str | None
    created_at: datetime
    sites: list[AtSiteOut]
    approvals: int
    wanted: int
    waits_for_me: bool
    schedule: ScheduleOut | None


class SaidOut(Answer):
    """What somebody said of the change. `holds`: of what it is now. `stands_since`: something else went live then, and it does
    what it did."""

    by: str
    verdict: Verdict
    says: str
    at: datetime
    holds: bool
    stands_since: datetime | None


class RemarkOut(Answer):
    id: UUID
    by: str
    says: str
    at: datetime
    site: str | None
    menu: str | None
    item: str | None
    answers: UUID | None
    settled_at: datetime | None
    settled_by: str | None


class DoneToOut(Answer):
    """What the change does to one site. `behind`: what is live moved on in a way that it does not go with. Of very many sites what
    it does is `told` of the first only."""

    key: str
    name: str
    behind: bool
    told: bool
    menus: list[MenuGoesOut]
    site: tuple[str, ...]


class ClientSaidOut(Answer):
    name: str
    verdict: Literal["yes", "no", "remark"]
    says: str
    at: datetime
    holds: bool


class SignOffOut(Answer):
    """A link for a client, with what was said by it. `holds`: of what the change is now."""

    id: UUID
    for_whom: str
    sites: list[str]
    by: str | None
    made_at: datetime
    until: datetime
    withdrawn_at: datetime | None
    said: list[ClientSaidOut]


class OneChangeOut(Answer):
    """`content` names what it is now: an approval is given to that."""

    change: OpenChangeOut
    content: str
    can: list[Deed]
    """What the person may do with it as it stands."""
    parts: list[DoneToOut]
    said: list[SaidOut]
    remarks: list[RemarkOut]
    sign_offs: list[SignOffOut]
    on_its_way: bool
    """Whether it goes live, or comes back, at any of its sites just now."""


class VerdictBody(BaseModel):
    content: str = Field(max_length=100)
    says: str = Field(default="", max_length=review.LONGEST)


class RemarkBody(BaseModel):
    says: str = Field(max_length=review.LONGEST)
    site: str | None = Field(default=None, max_length=200)
    menu: str | None = Field(default=None, max_length=200)
    item: str | None = Field(default=None, max_length=200)
    answers: UUID | None = None


class RemarkedOut(Answer):
    id: UUID


class SettledBody(BaseModel):
    settled: bool


_ACTIONS: Mapping[life.Who, Action] = {"editor": "edit", "reviewer": "review", "releaser": "put live"}


def _can(person: Person, found: Reviewed) -> list[Deed]:
    keys = [site.key for site, _ in found.parts]
    return [
        deed
        for deed, step in life.deeds(cast(Life, found.row.state)).items()
        if step.who != "nobody"
        and all(may(person, _ACTIONS[step.who], key) for key in keys)
        and not (deed == "approve" and person.id in found.authors)
    ]


def _schedule(found: Reviewed) -> ScheduleOut | None:
    row = found.schedule
    if row is None:
        return None
    season = found.season
    return ScheduleOut(
        kind=row.kind, goes=row.goes, ends=row.ends, by=found.name_of(row.set_by), at=row.set_at,
        season=SeasonOut(
            goes=season.goes_on, ends=season.ends_on, approved=season.approved,
            says=said_yearly(season.goes, season.ends, season_of(season)),
        ) if season is not None else None,
    )  # fmt: skip


def _line(person: Person, found: Reviewed) -> OpenChangeOut:
    row = found.row
    mine = any(one.person_id == person.id for one in found.approvals)
    return OpenChangeOut(
        id=row.id, title=row.title, why=row.why, state=row.state, author=found.name_of(row.author_id),
        created_at=row.created_at,
        sites=[AtSiteOut.of(site, part) for site, part in found.parts], schedule=_schedule(found),
        approvals=len(found.approvals), wanted=found.wanted, waits_for_me="approve" in _can(person, found) and not mine,
    )  # fmt: skip


@router.get("")
async def all_open(database: Db, person: Someone) -> list[OpenChangeOut]:
    """Those of all sites that one may look at, the newest first."""
    return [_line(person, one) for one in await review.open_changes(database, person)]


@router.get("/{change}")
async def one(change: UUID, database: Db, person: Someone, now: Now) -> OneChangeOut:
    async with database.transaction() as session:
        # Before what it did: one that ends in between is told as under way, and looked at again soon.
        on_its_way = await releases.any_under_way(session, change)
        found = await review.one_change(session, person, change)
        remarked = await review.remarks(session, found)
        links = await sign_off.of_change(session, found)
    parts = []
    for at, (site, part) in enumerate(found.parts):
        does = await done_to(database, site, found.row, part, now) if at < MOST_TOLD else None
        parts.append(DoneToOut(
            key=site.key, name=site.name, behind=part.live_at is None and part.base != site.live_state, told=does is not None,
            menus=[MenuGoesOut.of(menu, by) for menu, by in does.menus] if does is not None else [],
            site=does.site if does is not None else (),
        ))  # fmt: skip
    holding = {one.id for one in found.approvals}
    return OneChangeOut(
        change=_line(person, found), content=found.content, can=_can(person, found), parts=parts,
        said=[
            SaidOut(
                by=found.name_of(one.person_id) or "", verdict=one.verdict, says=one.says, at=one.at,
                holds=one.id in holding, stands_since=one.stands_since,
            )
            for one in found.verdicts
        ],
        on_its_way=on_its_way,
        sign_offs=[
            SignOffOut(
                id=one.row.id, for_whom=one.row.for_whom, sites=one.row.sites, by=one.by, made_at=one.row.made_at,
                until=one.row.until, withdrawn_at=one.row.withdrawn_at,
                said=[
                    ClientSaidOut(
                        name=word.name, verdict=word.verdict, says=word.says, at=word.at, holds=word.content == found.content
                    )
                    for word in one.said
                ],
            )
            for one in links
        ],
        remarks=[
            RemarkOut(
                id=one.row.id, by=one.by, says=one.row.says, at=one.row.at, site=one.site, menu=one.row.menu, item=one.row.item,
                answers=one.row.answers, settled_at=one.row.settled_at, settled_by=one.settled_by,
            )
            for one in remarked
        ],
    )  # fmt: skip


@router.get("/{change}/sites/{site}/menus/{menu}/rails")
async def rails(change: UUID, site: str, menu: str, database: Db, person: Someone, language: Language = None) -> Rails:
    """The menu as the change found it, entry beside entry with what it makes of it."""
    return await review.menu_rails(database, person, change, site, menu, language)


class SeenAnewOut(Answer):
    """Entries of one place that these audiences see from then on, or no longer see, on these devices."""

    location: str
    title: str
    sees: bool
    audiences: tuple[str, ...]
    everybody: bool
    devices: tuple[Device, ...]
    entries: tuple[str, ...]


class ReachedAnewOut(Answer):
    """Addresses of pages that menus lead to from then on, or no longer, on these devices; the first of so many."""

    devices: tuple[Device, ...]
    won: list[str]
    won_in_all: int
    lost: list[str]
    lost_in_all: int


class NoLongerFoundOut(Answer):
    severity: Severity
    menu: str | None
    says: str


class BringsOut(Answer):
    seen: list[SeenAnewOut]
    reach: list[ReachedAnewOut]
    mended: list[NoLongerFoundOut]


MOST_BROUGHT = 20


@router.get("/{change}/sites/{site}/brings")
async def brings(change: UUID, site: str, database: Db, person: Someone, now: Now) -> BringsOut:
    """What it brings visitors of the site: who sees what anew or no longer, which pages are won or lost, what is mended."""
    found, paths, names = await brought(database, person, change, site, now)

    def addresses(refs: tuple[str, ...]) -> list[str]:
        return [paths.get(ref, ref) for ref in refs[:MOST_BROUGHT]]

    return BringsOut(
        seen=[SeenAnewOut(**asdict(one)) for one in found.seen],
        reach=[
            ReachedAnewOut(
                devices=one.devices, won=addresses(one.won), won_in_all=len(one.won), lost=addresses(one.lost),
                lost_in_all=len(one.lost),
            )
            for one in found.reach
        ],
        mended=[
            NoLongerFoundOut(severity=one.severity, menu=names.get(one.menu or ""), says=one.says)
            for one in found.mended[:MOST_BROUGHT]
        ],
    )  # fmt: skip


class SideOut(Answer):
    html: str
    fits_from: int | None


class DrawnPlaceOut(Answer):
    """`fits_from`: the narrowest window in which its entries stand in one row."""

    location: str
    title: str
    shape: Shape
    before: SideOut | None
    after: SideOut | None


@router.get("/{change}/sites/{site}/drawn")
async def drawn_places(
    change: UUID, site: str, database: Db, person: Someone, now: Now, device: Device = "desktop", language: Language = None
) -> list[DrawnPlaceOut]:  # fmt: skip
    """The places that it draws otherwise, before and after, on one device in one language."""
    found = await drawn(database, person, change, site, device, language, now)
    return [DrawnPlaceOut.model_validate(asdict(one)) for one in found]


class SinceAtSiteOut(Answer):
    site: str
    site_name: str
    does: tuple[str, ...]


class SinceOut(Answer):
    """What became another since one looked `at` it; null where one never did."""

    at: datetime | None
    sites: list[SinceAtSiteOut]


class LookedBody(BaseModel):
    content: str = Field(max_length=100)


@router.get("/{change}/since")
async def since_i_looked(change: UUID, database: Db, person: Someone) -> SinceOut:
    found = await looked.since(database, person, change)
    return SinceOut(
        at=found.at, sites=[SinceAtSiteOut(site=site.key, site_name=site.name, does=does) for site, does in found.does]
    )


@router.put("/{change}/looked", status_code=204)
async def i_looked(change: UUID, body: LookedBody, database: Db, person: Someone, now: Now) -> None:
    """From here on it is told what became another; `content` names what one saw."""
    await looked.looked(database, person, change, content=body.content, now=now)


@router.post("/{change}/review", status_code=204)
async def ask(change: UUID, database: Db, person: Someone, now: Now) -> None:
    """Others are to look at it before it goes live."""
    await review.ask_for_review(database, person, change, now)


@router.post("/{change}/approve", status_code=204)
async def approve(change: UUID, body: VerdictBody, database: Db, person: Someone, now: Now) -> None:
    """As it was under that content name, and in no other form."""
    await review.judge(database, person, change, "approved", content=body.content, says=body.says, now=now)


@router.post("/{change}/decline", status_code=204)
async def decline(change: UUID, body: VerdictBody, database: Db, person: Someone, now: Now) -> None:
    """Changes are asked for, with the reason: it is a draft again."""
    await review.judge(database, person, change, "declined", content=body.content, says=body.says, now=now)


@router.post("/{change}/remarks", status_code=201)
async def remark(change: UUID, body: RemarkBody, database: Db, person: Someone, now: Now) -> RemarkedOut:
    """On the change, an entry of it, or in answer to a remark."""
    made = await review.remark(
        database,
        person,
        change,
        says=body.says,
        site=body.site,
        menu=body.menu,
        item=body.item,
        answers=body.answers,
        now=now,
    )
    return RemarkedOut(id=made)


@router.put("/{change}/remarks/{remark}/settled", status_code=204)
async def settle(change: UUID, remark: UUID, body: SettledBody, database: Db, person: Someone, now: Now) -> None:
    await review.settle(database, person, change, remark, settled=body.settled, now=now)
