"""What one person would want to know: what is new, what is theirs to see to, what waits. For many people at one moment."""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from uuid import UUID

from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.notices import Cause, Daily, Given, Owed, ToReview, Waiting, Wishes
from sign_shelf.desk.findings import CausedBy, told_of
from sign_shelf.desk.permission import Person, may
from sign_shelf.desk.placeholders import Placeholder, live_placeholders
from sign_shelf.desk.review import Reviewed, reviewed
from sign_shelf.desk.sign_in import person_of
from sign_shelf.store import changes, findings, inventory, people, releases, sites
from sign_shelf.store.database import Session
from sign_shelf.store.tables import FindingRow, SiteRow

SOON = timedelta(days=7)
"""How long before its day one is reminded."""
Sites = Mapping[UUID, SiteRow]


def cause_of(one: CausedBy) -> Cause:
    names = tuple(dict.fromkeys(use.site.name for use in one.uses))
    entries = sum(use.finding.item is not None for use in one.uses)
    return Cause(
        code=one.code, cause=one.cause, severity=one.severity, says=one.says, sites=names, entries=entries, back=one.back
    )  # fmt: skip


@dataclass
class Digests:
    """What many are told at one moment is worked out once for all of them."""

    session: Session
    now: datetime
    people: Mapping[UUID, Person]
    sites: Sequence[SiteRow]
    _causes: dict[tuple[int, frozenset[UUID]], list[CausedBy]] = field(default_factory=dict)
    _open: list[FindingRow] | None = None
    _placeholders: list[Placeholder] | None = None
    _waiting: list[Waiting] | None = None
    _reviews: list[Reviewed] | None = None

    @classmethod
    async def of(cls, session: Session, now: datetime) -> "Digests":
        here = await people.roles_at_sites(session)
        everybody = {row.id: person_of(row, here.get(row.id, {})) for row in await people.everybody(session)}
        return cls(session, now, everybody, [row for row in await sites.all_sites(session) if row.archived_at is None])

    def visible(self, person_id: UUID, wished: Callable[[str], bool]) -> Sites:
        """Sites that the person may look at, and of which they want to know."""
        person = self.people[person_id]
        return {row.id: row for row in self.sites if may(person, "look", row.key) and wished(row.key)}

    async def causes(self, rows: Sequence[FindingRow], at: Sites) -> list[CausedBy]:
        """What of these is found at these sites, without what is waived there."""
        name = (id(rows), frozenset(at))
        if name not in self._causes:
            here = [row for row in rows if row.site_id in at]
            told = await told_of(self.session, at, here, self.now, with_menus=False)
            self._causes[name] = [one for one in told if not one.waived]
        return self._causes[name]

    async def daily(self, person_id: UUID, wishes: Wishes, since: datetime) -> Daily:
        """What the person is told of what is and came to be since then."""
        person, at = self.people[person_id], self.visible(person_id, wishes.daily_of)
        today = clock_of(wishes.zone).now(self.now)[:10]
        soon = (date.fromisoformat(today) + SOON).isoformat()
        if self._open is None:
            self._open = list(await findings.findings(self.session, [row.id for row in self.sites]))
        every = await self.causes(self._open, at)
        mine, late = await self._owed(person, at, soon)
        return Daily(
            day=today,
            fresh=tuple(cause_of(one) for one in every if one.since > since and one.severity != "note"),
            gone=await self._gone(at, since, every),
            given=tuple(_given(one, today) for one in every if _is_given(one, person_id, soon)),
            owed=mine, late=late,
            waiting=tuple(one for one in await self._that_wait() if _is_for(one, person, at)),
            to_review=tuple(_asks(one) for one in await self._in_review() if _may_approve(one, person, at)),
        )  # fmt: skip

    async def _gone(self, at: Sites, since: datetime, every: Sequence[CausedBy]) -> int:
        went = {(row.code, row.cause) for row in await findings.findings(self.session, at, gone_since=since)}
        return len(went - {(one.code, one.cause) for one in every})

    async def _owed(self, person: Person, at: Sites, soon: str) -> tuple[tuple[Owed, ...], int]:
        """What the person owes and is due soon, and how much others do that is late, where the person may edit."""
        if self._placeholders is None:
            self._placeholders = await live_placeholders(self.session, list(self.sites), self.now)
        here = [one for one in self._placeholders if one.site.id in at]
        names = {person.name.casefold(), person.email.casefold()}
        mine = [one for one in here if (one.pending.owner or "").strip().casefold() in names]
        others = [one for one in here if one not in mine and one.late and may(person, "edit", one.site.key)]
        return tuple(_owes(one) for one in mine if one.pending.due is not None and one.pending.due <= soon), len(others)

    async def _in_review(self) -> list[Reviewed]:
        if self._reviews is None:
            rows = {row.id: row for row, _, _ in await changes.changes_at(self.session, [row.id for row in self.sites])}
            asked = [row for row in rows.values() if row.state == "in review"]
            self._reviews = await reviewed(self.session, asked) if asked else []
        return self._reviews

    async def _that_wait(self) -> list[Waiting]:
        if self._waiting is None:
            fresh: Counter[UUID] = Counter(await inventory.all_to_be_placed(self.session))
            doubts, by_hand = await inventory.doubts(self.session), await releases.to_carry_out(self.session)
            self._waiting = [
                Waiting(
                    site=row.name, site_key=row.key, pages=fresh[row.id], doubt=doubts.get(row.id, ""), by_hand=by_hand.get(row.id, "")
                )
                for row in self.sites if fresh[row.id] or row.id in doubts or row.id in by_hand
            ]  # fmt: skip
        return self._waiting


def _is_for(one: Waiting, person: Person, at: Sites) -> bool:
    return any(row.key == one.site_key for row in at.values()) and may(person, "edit", one.site_key)


def _may_approve(one: Reviewed, person: Person, at: Sites) -> bool:
    """All of it is theirs to approve, nothing of it theirs, and they have not."""
    here = all(site.id in at and may(person, "review", site.key) for site, _ in one.parts)
    return here and person.id not in one.authors and all(said.person_id != person.id for said in one.approvals)


def _asks(one: Reviewed) -> ToReview:
    return ToReview(change=str(one.row.id), title=one.row.title, sites=tuple(site.name for site, _ in one.parts))


def _is_given(one: CausedBy, person_id: UUID, soon: str) -> bool:
    care = one.care
    return care is not None and care.owner_id == person_id and care.due is not None and care.due <= soon


def _given(one: CausedBy, today: str) -> Given:
    due = one.care.due if one.care is not None else None
    return Given(**cause_of(one).model_dump(), due=due, late=due is not None and due < today)


def _owes(one: Placeholder) -> Owed:
    return Owed(
        site=one.site.name, site_key=one.site.key, menu=one.menu_name, number=one.number, label=one.label,
        note=one.pending.note or "", due=one.pending.due, late=(one.pending.due or one.today) < one.today, fits=one.page.path if one.page else None,
    )  # fmt: skip
