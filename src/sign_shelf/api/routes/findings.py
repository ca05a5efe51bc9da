"""What checks find on the sites as they are live, by cause: looked at, given to people, waived, mended everywhere at once."""

from datetime import datetime, timedelta
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from sign_shelf.api.guards import Db, Now, Once, Someone
from sign_shelf.api.lens import Seen
from sign_shelf.api.models import Answer
from sign_shelf.core.basics.text import Day
from sign_shelf.core.checks import CODES, FAMILY_OF, Finding, Severity
from sign_shelf.core.checks.check import Family
from sign_shelf.core.checks.mending import How, Mend
from sign_shelf.core.links import Verdict
from sign_shelf.desk import checking, findings, findings_ahead, mend

router = APIRouter(prefix="/api/findings", tags=["findings"])

GONE_WITHIN = timedelta(days=14)
"""What went by itself, or was mended, is told for so long."""
MOST = 500
"""Lines told at once, the gravest first."""


class AtSite(Answer):
    key: str
    name: str
    entries: int
    """None of them is an entry where it is about a place, or the whole site."""


class WaivedOut(Answer):
    reason: str
    by: str | None
    until: str | None


class LineOut(Answer):
    """Everything that one cause brings about; `code` and `cause` name it."""

    code: str
    cause: str
    family: Family
    severity: Severity
    says: str
    fix: str | None
    entries: int
    sites: list[AtSite]
    since: datetime
    back: int
    """How often it was gone and came back."""
    gone_at: datetime | None
    owner: str | None
    owner_id: UUID | None
    due: str | None
    overdue: bool
    waived: WaivedOut | None


class CountsOut(Answer):
    """Causes that are open, by severity."""

    stop: int = 0
    warn: int = 0
    note: int = 0


class LinksOut(Answer):
    """How far the asking of addresses is."""

    addresses: int
    due: int
    asked_at: datetime | None


class FindingsOut(Answer):
    lines: list[LineOut]
    more: int
    """Lines that are not told here."""
    counts: dict[Severity, int]
    links: LinksOut
    unchecked: int
    """Sites whose findings are not yet those of what is live now."""


class HopOut(Answer):
    address: str
    status: int | None


class StoodOut(Answer):
    at: datetime
    verdict: Verdict
    says: str


class UseOut(Answer):
    site: str
    site_name: str
    menu: str | None
    menu_name: str | None
    finding: Finding
    since: datetime


class SuggestionOut(Answer):
    to: str
    because: str


class Able(Answer):
    """Somebody whom it can be given to."""

    id: UUID
    name: str


class CauseOut(Answer):
    line: LineOut
    when: str
    matters: str
    mend: str
    uses: list[UseOut]
    hops: list[HopOut]
    asked_at: datetime | None
    history: list[StoodOut]
    suggestion: SuggestionOut | None
    hows: list[How]
    """In what ways all that it is found in can be mended at once."""
    people: list[Able]


class CauseBody(BaseModel):
    code: str = Field(max_length=100)
    cause: str = Field(max_length=3_000)
    sites: list[str] | None = Field(default=None, max_length=10_000)
    """Keys of sites; all that have it where there are none."""


class CareBody(CauseBody):
    """What is not given stays as it is; an empty text takes it away."""

    owner: UUID | Literal[""] | None = None
    due: Day | Literal[""] | None = None
    waive: str | None = Field(default=None, max_length=1_000)
    until: Day | None = None


class MendBody(CauseBody):
    how: How
    to: str | None = Field(default=None, max_length=2_000)


class MendedOut(Answer):
    change: UUID
    title: str
    sites: list[str]
    entries: int


class CheckBody(BaseModel):
    site: str | None = Field(default=None, max_length=200)
    """None: all sites that one may look at."""


def _line(one: findings.CausedBy, today: str) -> LineOut:
    entries: dict[str, AtSite] = {}
    for use in one.uses:
        key = use.site.key
        known = entries.get(key)
        mine = (known.entries if known else 0) + (use.finding.item is not None)
        entries[key] = AtSite(key=key, name=use.site.name, entries=mine)
    care = one.care
    return LineOut(
        code=one.code,
        cause=one.cause,
        family=FAMILY_OF[one.code],
        severity=one.severity,
        says=one.says,
        fix=one.uses[0].finding.fix,
        entries=sum(site.entries for site in entries.values()),
        sites=list(entries.values()),
        since=one.since,
        back=one.back,
        gone_at=one.gone_at,
        owner=one.owner,
        owner_id=care.owner_id if care else None,
        due=care.due if care else None,
        overdue=bool(care and care.due and care.due < today),
        waived=WaivedOut(reason=care.reason, by=one.waived_by, until=care.waived_until)
        if care and one.waived
        else None,
    )


@router.get("")
async def all_lines(
    database: Db, person: Someone, now: Now, shown: findings.Shown = "open",
    site: Annotated[str | None, Query(max_length=200)] = None,
) -> FindingsOut:  # fmt: skip
    """By cause, the gravest first: of all sites that one may look at, or of one."""
    async with database.transaction() as session:
        told = await findings.by_cause(session, person, shown=shown, site=site, now=now, gone_since=now - GONE_WITHIN)
        links = await checking.progress(session, person, site, now)
    today = now.date().isoformat()
    counts: dict[Severity, int] = {"stop": 0, "warn": 0, "note": 0}
    for one in told:
        counts[one.severity] += 1
    return FindingsOut(
        lines=[_line(one, today) for one in told[:MOST]],
        more=max(0, len(told) - MOST),
        counts=counts,
        links=LinksOut(addresses=links.addresses, due=links.due, asked_at=links.asked_at),
        unchecked=links.unchecked,
    )


class FoundThenOut(Answer):
    """`becomes`: whether it is not there now and comes, is there and goes, or stays."""

    line: LineOut
    becomes: findings_ahead.Becomes


class FindingsThenOut(Answer):
    lines: list[FoundThenOut]
    more: int
    """Lines that are not told here."""
    counts: dict[findings_ahead.Becomes, int]
    unlooked: int
    """Sites at which there was no time to look for it: what they have now is told."""


@router.get("/ahead")
async def ahead(
    database: Db, person: Someone, now: Now, seen: Seen, site: Annotated[str | None, Query(max_length=200)] = None
) -> FindingsThenOut:
    """What will be found at the lens's moment, with what is approved and scheduled until then; what comes by then first."""
    told, unlooked = await findings_ahead.ahead(database, person, when=seen.when(now), site=site, now=now)
    counts: dict[findings_ahead.Becomes, int] = {"comes": 0, "stays": 0, "goes": 0}
    for one in told:
        counts[one.becomes] += 1
    today = now.date().isoformat()
    lines = [FoundThenOut(line=_line(one.line, today), becomes=one.becomes) for one in told[:MOST]]
    return FindingsThenOut(lines=lines, more=max(0, len(told) - MOST), counts=counts, unlooked=unlooked)


@router.get("/counts")
async def counts(database: Db, person: Someone, now: Now) -> dict[str, CountsOut]:
    """How much there is at each site, by its key; nothing at the others."""
    async with database.transaction() as session:
        found = await findings.counts(session, person, now)
    return {key: CountsOut.model_validate(one) for key, one in found.items()}


@router.get("/cause")
async def cause(
    database: Db, person: Someone, now: Now, code: Annotated[str, Query(max_length=100)],
    cause: Annotated[str, Query(max_length=3_000)],
) -> CauseOut:  # fmt: skip
    """One of them with everywhere it is found, what was asked and answered, and what would mend it."""
    async with database.transaction() as session:
        told = await findings.one_cause(session, person, code, cause, now=now)
        more = await findings.about(session, told)
    known = CODES[told.code]
    return CauseOut(
        line=_line(told, now.date().isoformat()),
        when=known.when,
        matters=known.matters,
        mend=known.mend,
        uses=[
            UseOut(site=use.site.key, site_name=use.site.name, menu=use.finding.menu, menu_name=use.menu_name,
                   finding=use.finding, since=use.since)
            for use in told.uses[:MOST]
        ],
        hops=[HopOut(address=hop.address, status=hop.status) for hop in more.hops],
        asked_at=more.asked_at,
        history=[StoodOut(at=row.at, verdict=row.verdict, says=row.says) for row in more.history],
        suggestion=SuggestionOut(to=more.suggestion.to, because=more.suggestion.because) if more.suggestion else None,
        hows=list(more.hows),
        people=[Able(id=row.id, name=row.name) for row in more.people],
    )  # fmt: skip


@router.put("/care", status_code=204)
async def care(body: CareBody, database: Db, person: Someone, now: Now) -> None:
    """Gives it to somebody, wants it done by a day, accepts it for a reason or no longer."""
    wanted = findings.Care(owner=body.owner, due=body.due, waive=body.waive, until=body.until)
    await findings.see_to(database, person, body.code, body.cause, wanted, body.sites, now)


@router.post("/mend", status_code=201)
async def mend_all(body: MendBody, database: Db, person: Someone, now: Now, key: Once) -> MendedOut:
    """One change that mends it wherever it is found, with a part for each site."""
    done = await mend.mend_all(
        database, person, body.code, body.cause, Mend(body.how, body.to), keys=body.sites, request_key=key, now=now
    )
    return MendedOut(**done)


@router.post("/check", status_code=202)
async def check(body: CheckBody, database: Db, person: Someone, now: Now) -> LinksOut:
    """Asks every address again, and looks at the sites again, as soon as a worker can; it can be left alone meanwhile."""
    links = await checking.check_now(database, person, body.site, now)
    return LinksOut(addresses=links.addresses, due=links.due, asked_at=links.asked_at)
