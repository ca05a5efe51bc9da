"""What checks find on the sites of the shelf as they are live: looked for, told by cause, seen to and mended."""

import asyncio
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal, cast
from uuid import UUID

from cachetools import LRUCache

from sign_shelf.core.basics.clock import clock_of, said_day
from sign_shelf.core.checks import Checked, Finding, PlaceDrifted, SharedSeen, SiteView
from sign_shelf.core.checks.finding import RANK, Severity
from sign_shelf.core.checks.mending import How, Suggestion, suggested, ways
from sign_shelf.core.errors import NotFound, Refusal
from sign_shelf.core.links import Hop
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import Device, walk
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.outline.called import title
from sign_shelf.desk.fonts import every_font
from sign_shelf.desk.permission import Person, Role, may, require, role_may
from sign_shelf.desk.portfolio import Board, boards, visible_sites
from sign_shelf.desk.ready import ready
from sign_shelf.desk.sharing import followed_at
from sign_shelf.store import drift, findings, ledger, links, looks, people, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.looks import ToLook
from sign_shelf.store.tables import CareRow, FindingRow, LinkVerdictRow, PersonRow, SiteRow

_checked: LRUCache[UUID, Checked] = LRUCache(60)
"""What was found on sites last, by their ids: where little of one differs, little is looked at again."""


def to_be_called(one: ToLook, now: datetime) -> str:
    """What the findings of a site come of: they are the same while this is."""
    day = clock_of(one.zone).now(now)[:10]
    return f"{one.state} {one.inventory} {one.particulars} {day} {one.answers} {one.home} {one.shared} {one.drift}"


async def look(database: Database, site_id: UUID, now: datetime) -> None:
    """Runs the checks over the site as it is live, and keeps what they find."""
    fonts = await every_font(database)
    async with database.transaction() as session:
        (what,) = await looks.to_look(session, site_id) or (None,)
        if what is None:
            return
        (board,) = await boards(session, None, [await sites.site_by_id(session, site_id)], "live")
        whole = await ready(session, board)
        answers = await links.links_of(session, site_id)
        live = await looks.live_pages(session, site_id, board.site.live_state)
        shared, drifted = await in_step(session, board)
    today = clock_of(what.zone).now(now)[:10]
    view = SiteView(whole, today, answers, fonts, live, shared, drifted)
    before = _checked.get(site_id)
    checked = await asyncio.to_thread(before.again if before is not None else Checked.of, view)
    _checked[site_id] = checked
    async with database.transaction() as session:
        await looks.begin(session, site_id)
        await findings.keep(session, site_id, what.key, checked.findings(), now)
        await looks.looked(session, site_id, to_be_called(what, now), now)


async def in_step(session: Session, board: Board) -> tuple[Mapping[str, SharedSeen], tuple[PlaceDrifted, ...]]:
    """The shared menus that the site follows, and its places that were read to show something else than was verified."""
    drifted = tuple(
        PlaceDrifted(row.location, cast(Device, row.device), tuple(str(edit["says"]) for edit in row.edits))
        for row in await drift.drifts(session, [board.site.id])
    )
    return await followed_at(session, board), drifted


@dataclass(frozen=True, kw_only=True)
class Use:
    """Where something is found. `menu_name` None where it is about no menu."""

    site: SiteRow
    finding: Finding
    menu_name: str | None
    since: datetime


@dataclass(frozen=True, kw_only=True)
class CausedBy:
    """Everything that one cause brings about, wherever it is found."""

    code: str
    cause: str
    severity: Severity
    uses: tuple[Use, ...]
    since: datetime
    back: int
    gone_at: datetime | None
    care: CareRow | None
    """Of the first of its sites that has any."""
    owner: str | None
    waived: bool
    """At all of its sites."""
    waived_by: str | None

    @property
    def says(self) -> str:
        """What is wrong, whatever the entries are called that lead there."""
        first = self.uses[0].finding.says
        if self.cause.startswith("address ") and self.code.startswith("link-"):
            return f"{self.cause.removeprefix('address ').removeprefix('https://')}: {first.rpartition(': ')[2]}"
        return first if len(self.uses) == 1 else f"{first}, and {len(self.uses) - 1} more"


Shown = Literal["open", "waived", "gone"]


async def by_cause(
    session: Session, person: Person, *, shown: Shown, site: str | None, now: datetime, gone_since: datetime
) -> list[CausedBy]:
    """Of all sites, or of one: the gravest first, then what is found most often, then what is there longest."""
    rows = {row.id: row for row in await visible_sites(session, person) if site is None or row.key == site}
    found = await findings.findings(session, rows, gone_since=gone_since if shown == "gone" else None)
    told = await told_of(session, rows, found, now)
    if shown != "gone":
        told = [one for one in told if one.waived == (shown == "waived")]
    return sorted(told, key=lambda one: (RANK[one.severity], -len(one.uses), one.since, one.cause))


async def counts(session: Session, person: Person, now: datetime) -> dict[str, Mapping[str, int]]:
    """Causes by severity, of each site that the person may look at; without what is waived."""
    mine = {row.key for row in await visible_sites(session, person)}
    found = await findings.counts(session, now.date().isoformat())
    return {key: one for key, one in found.items() if key in mine}


async def one_cause(session: Session, person: Person, code: str, cause: str, *, now: datetime) -> CausedBy:
    """Raises NotFound where nothing of it is found any more."""
    rows = {row.id: row for row in await visible_sites(session, person)}
    told = await told_of(session, rows, await findings.line(session, rows, code, cause), now)
    if not told:
        raise gone(person, code, rows)
    return told[0]


def gone(person: Person, code: str, rows: Mapping[UUID, SiteRow]) -> NotFound:
    """Raises NotAllowed for whoever may look at no site."""
    if not rows:
        require(person, "look", f"findings/{code}")
    return NotFound("Nothing of it is found any more.", where=f"findings/{code}", remedy="Look at the findings again.")


@dataclass(frozen=True, kw_only=True)
class About:
    """`hops`, `asked_at` and `history` of an address that was asked."""

    hops: tuple[Hop, ...]
    asked_at: datetime | None
    history: tuple[LinkVerdictRow, ...]
    suggestion: Suggestion | None
    hows: tuple[How, ...]
    people: tuple[PersonRow, ...]
    """Who may edit at one of its sites, by name: whom it can be given to."""


async def about(session: Session, told: CausedBy) -> About:
    """What more there is to say of it."""
    address = told.cause.removeprefix("address ") if told.cause.startswith("address ") else None
    row = await links.link(session, address) if address is not None else None
    history = await links.history(session, row.address) if row is not None else ()
    answered = links.known(row).found if row is not None else None
    in_menus = [use for use in told.uses if use.finding.menu is not None and use.finding.item is not None]
    suggestion = None
    if in_menus:
        (board,) = await boards(session, None, [in_menus[0].site], "live")
        whole = (await ready(session, board)).site
        named = await asyncio.to_thread(_label, whole, in_menus[0].finding)
        suggestion = suggested(whole, in_menus[0].finding, named, answered)
    return About(
        hops=answered.hops if answered is not None else (), asked_at=row.asked_at if row is not None else None,
        history=tuple(history), suggestion=suggestion, hows=ways(told.code) if in_menus else (),
        people=await _able(session, {use.site.key for use in told.uses}),
    )  # fmt: skip


async def _able(session: Session, keys: Iterable[str]) -> tuple[PersonRow, ...]:
    here = await people.roles_at_sites(session)
    return tuple(
        row for row in await people.everybody(session)
        if row.disabled_at is None
        and any(role_may(cast(Role, here.get(row.id, {}).get(key, row.role)), "edit") for key in keys)
    )  # fmt: skip


def _label(site: SiteDocument, finding: Finding) -> str:
    menu = site.menus.get(finding.menu or "")
    found = (item for _, item in walk(menu.items) if item.id == finding.item) if menu is not None else iter(())
    item = next(found, None)
    return title(item, site.site.languages[0]) if item is not None else ""


async def told_of(
    session: Session,
    rows: Mapping[UUID, SiteRow],
    found: Sequence[FindingRow],
    now: datetime,
    *,
    with_menus: bool = True,
) -> list[CausedBy]:
    """These, which were found at these sites, by cause. Without menus, their names are left out, which takes to look at none."""
    cared = await findings.cared_for(session, rows)
    named = {one for care in cared.values() for one in (care.owner_id, care.waived_by) if one is not None}
    names = {row.id: row.name for row in (await people.people_by_id(session, named)).values()}
    called = await _menu_names(session, [rows[one.site_id] for one in found]) if with_menus else {}
    lines: dict[findings.Line, list[FindingRow]] = defaultdict(list)
    for one in found:
        lines[one.code, one.cause].append(one)
    told = []
    for (code, cause), mine in lines.items():
        uses = [
            Use(site=rows[one.site_id], finding=read(Finding, one.found), since=one.since,
                menu_name=called.get((one.site_id, one.menu or "")))
            for one in mine
        ]  # fmt: skip
        uses.sort(key=lambda use: (use.site.name, use.finding.menu or "", _numbered(use.finding)))
        at = {one.site_id for one in mine}
        cares = [care for site_id in at if (care := cared.get((site_id, code, cause))) is not None]
        waived = [care for care in cares if _is_waived(care, rows[care.site_id], now)]
        care = next((one for one in (*waived, *cares) if one.owner_id is not None or one.due is not None), None)
        care = care or next(iter((*waived, *cares)), None)
        told.append(CausedBy(
            code=code, cause=cause, severity=min((one.finding.severity for one in uses), key=RANK.__getitem__), uses=tuple(uses),
            since=min(one.since for one in mine), back=max(one.back for one in mine),
            gone_at=max((one.gone_at for one in mine if one.gone_at is not None), default=None),
            care=care, owner=names.get(care.owner_id) if care is not None and care.owner_id is not None else None,
            waived=len(waived) == len(at),
            waived_by=next((names.get(one.waived_by) for one in waived if one.waived_by is not None), None),
        ))  # fmt: skip
    return told


def _numbered(finding: Finding) -> list[int]:
    return [int(step) for step in (finding.number or "0").split(".")]


async def _menu_names(session: Session, rows: Iterable[SiteRow]) -> dict[tuple[UUID, str], str]:
    shown = {row.id: row for row in rows}
    return {
        (board.site.id, key): menu.document.name
        for board in await boards(session, None, list(shown.values()), "live") for key, menu in board.menus.items()
    }  # fmt: skip


def _is_waived(care: CareRow, site: SiteRow, now: datetime) -> bool:
    today = clock_of(site.particulars.get("zone", "UTC")).now(now)[:10]
    return care.waived_at is not None and (care.waived_until is None or care.waived_until >= today)


@dataclass(frozen=True, kw_only=True)
class Care:
    """What is wanted of a cause. A field that is None is left as it is; an empty owner, day or reason is none."""

    owner: UUID | Literal[""] | None = None
    due: str | None = None
    waive: str | None = None
    """The reason why it is accepted."""
    until: str | None = None
    """The last day on which it is."""


async def see_to(
    database: Database, person: Person, code: str, cause: str, wanted: Care, keys: Sequence[str] | None, now: datetime
) -> None:
    """At all sites that have it, or those of `keys`, as far as the person may edit there. Raises NotFound, NotAllowed."""
    async with database.transaction() as session:
        at = await _concerned(session, person, code, cause, keys)
        values: dict[str, Any] = {}
        says = []
        if wanted.owner is not None:
            owner = await people.person_by_id(session, wanted.owner) if wanted.owner else None
            if wanted.owner and owner is None:
                raise NotFound("There is no such person.", where="owner")
            values["owner_id"] = owner.id if owner is not None else None
            says.append(f"gave it to {owner.name}" if owner is not None else "gave it to nobody")
        if wanted.due is not None:
            values["due"] = wanted.due or None
            says.append(f"wants it done by {said_day(wanted.due)}" if wanted.due else "wants it done at no day")
        if wanted.waive is not None:
            reason = wanted.waive.strip()
            if not reason and wanted.until:
                raise Refusal("A waiver needs a reason.", where="waive", remedy="Say why it is accepted.")
            values |= {"waived_by": person.id if reason else None, "waived_at": now if reason else None, "reason": reason,
                       "waived_until": wanted.until if reason else None}  # fmt: skip
            until = f" until {said_day(wanted.until)}" if wanted.until else ""
            says.append(f"waived it{until}: {reason}" if reason else "waives it no longer")
        if not values:
            return
        await findings.care(session, [site.id for site, _ in at], (code, cause), values)
        for site, finding in at:
            ledger.write(
                session, "see to finding", f"{'; '.join(says).capitalize()}: {finding.says}", at=now, person_id=person.id,
                site_id=site.id, code=code, cause=cause,
            )  # fmt: skip


async def _concerned(
    session: Session, person: Person, code: str, cause: str, keys: Sequence[str] | None
) -> list[tuple[SiteRow, Finding]]:
    """The sites that have it, each with one of its findings."""
    rows = {row.id: row for row in await visible_sites(session, person) if keys is None or row.key in keys}
    found = {one.site_id: one for one in await findings.line(session, rows, code, cause)}
    if not found:
        raise gone(person, code, rows)
    able = [rows[site_id] for site_id in found if may(person, "edit", rows[site_id].key)]
    if not able:
        require(person, "edit", f"findings/{code}", rows[next(iter(found))].key)
    return [(site, read(Finding, found[site.id].found)) for site in able]
