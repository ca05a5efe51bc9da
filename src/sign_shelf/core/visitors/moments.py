"""The instants at which what a site shows may change by itself: windows, badges, and rules that ask the clock."""

from bisect import bisect_right
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Literal

from sign_shelf.core.basics.clock import clock_of, instant_of, moment_of
from sign_shelf.core.model.facts import CLOCK
from sign_shelf.core.model.menu import Link, Listing, PageTarget, walk
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.resolve.listing import that_answer
from sign_shelf.core.resolve.visit import SiteRules, clock_facts
from sign_shelf.core.rules import FactTest, compiled, fact_tests, format_rule

_HOUR = timedelta(hours=1)


@dataclass(frozen=True, slots=True)
class Cause:
    """Why something may change: an item's window, the end of its badge or of its page, a test of the clock in its rule, or a change
    that is scheduled, which names neither menu nor item."""

    kind: Literal["window", "badge", "page", "rule", "change"]
    menu: str
    item: str
    says: str


class Moments:
    def __init__(self, site: SiteDocument) -> None:
        self.clock = clock_of(site.site.zone)
        self._fixed: dict[str, list[Cause]] = defaultdict(list)
        rules = SiteRules(site)
        ends = {page.ref: page.ends for page in site.pages if page.ends}
        pages = {page.ref: page for page in site.pages}
        tests: dict[FactTest, list[tuple[str, str]]] = defaultdict(list)
        for key, menu in site.menus.items():
            for _, item in walk(menu.items):
                look = getattr(item, "look", None)
                name = next(iter(getattr(item, "label", {}).values()), item.id)
                if item.from_:
                    self._fix(item.from_, Cause("window", key, item.id, f"{name} starts"))
                if item.until:
                    self._fix(item.until, Cause("window", key, item.id, f"{name} ends"))
                if ends and isinstance(item, Link) and isinstance(item.target, PageTarget) and item.target.page in ends:
                    over = f"{ends[item.target.page]}T00:00"
                    self._fix(over, Cause("page", key, item.id, f"the page of {name} ends"))
                if ends and isinstance(item, Listing):
                    listed = that_answer(pages, item.list)
                    for page in listed:
                        if page.ends:
                            says = f"@{page.ref} in the list {name} ends"
                            self._fix(f"{page.ends}T00:00", Cause("page", key, item.id, says))
                if look is not None and look.badge is not None and look.badge.until:
                    # A badge's last day is shown whole.
                    after = date.fromisoformat(look.badge.until) + timedelta(days=1)
                    self._fix(f"{after.isoformat()}T00:00", Cause("badge", key, item.id, f"the badge of {name} ends"))
                if item.when and (rule := rules.of(item.when).rule) is not None:
                    for test in dict.fromkeys(fact_tests(rule)):
                        if test.fact in CLOCK:
                            tests[test].append((key, item.id))
        self._sorted = sorted(self._fixed)
        self._tests = [(format_rule(test), compiled(test), tuple(used)) for test, used in tests.items()]
        self._names = {test.fact for test in tests}
        self._causes: dict[tuple[int, bool], tuple[Cause, ...]] = {}

    def _fix(self, reading: str, cause: Cause) -> None:
        self._fixed[self.clock.instant(reading)].append(cause)

    def state(self, instant: str) -> tuple[int, tuple[bool, ...]]:
        """What a resolved menu can depend on at the instant: equal states, equal menus."""
        return bisect_right(self._sorted, instant), self._answers(instant)

    def next(self, moment: datetime, within: timedelta) -> datetime | None:
        """The first instant after the moment, and within the time, at which something may change."""
        now = instant_of(moment)
        last = moment + within
        at = bisect_right(self._sorted, now)
        fixed = moment_of(self._sorted[at]) if at < len(self._sorted) else None
        flips = next((moment_of(flip) for flip, _ in self._flips(moment, min(last, fixed or last))), None)
        found = min((one for one in (fixed, flips) if one is not None), default=None)
        return found if found is not None and found <= last else None

    def between(self, first: datetime, last: datetime) -> list[tuple[str, tuple[Cause, ...]]]:
        """Every such instant after the first moment, up to the last, with its causes."""
        begin, end = instant_of(first), instant_of(last)
        found: dict[str, list[tuple[Cause, ...]]] = {
            at: [tuple(self._fixed[at])] for at in self._sorted if begin < at <= end
        }
        for at, causes in self._flips(first, last):
            found.setdefault(at, []).append(causes)
        # A rule that asks for the hour flips every day for the same causes: they are put together once.
        together: dict[tuple[int, ...], tuple[Cause, ...]] = {}
        return [
            (
                at,
                together.setdefault(
                    tuple(map(id, found[at])), tuple(cause for causes in found[at] for cause in causes)
                ),
            )
            for at in sorted(found)
        ]

    def _answers(self, instant: str) -> tuple[bool, ...]:
        if not self._tests:
            return ()
        facts = clock_facts(self.clock.reading_at(instant))
        return tuple(asked(facts) is True for _, asked, _ in self._tests)

    def _flips(self, first: datetime, last: datetime) -> Iterator[tuple[str, tuple[Cause, ...]]]:
        """Instants at which a test of the clock comes out otherwise than just before, and whose rules ask so."""
        if not self._tests:
            return
        before = self._answers(instant_of(first))
        at = self._next_hour(first)
        while at <= last:
            instant = instant_of(at)
            now = self._answers(instant)
            for number, holds in enumerate(now):
                if holds != before[number]:
                    yield instant, self._flip(number, holds)
            before = now
            at = self._next_hour(at)

    def _flip(self, number: int, holds: bool) -> tuple[Cause, ...]:
        known = self._causes.get((number, holds))
        if known is None:
            text, _, used = self._tests[number]
            says = f"{text} {'holds from here' if holds else 'held up to here'}"
            known = self._causes[number, holds] = tuple(Cause("rule", menu, item, says) for menu, item in used)
        return known

    def _next_hour(self, moment: datetime) -> datetime:
        """The next instant at which the clock shows a whole hour; where no test asks for hours, a whole day at most."""
        reading = self.clock.now(moment)
        minutes = int(reading[14:16])
        at = moment.replace(second=0, microsecond=0) + timedelta(minutes=60 - minutes)
        if "hour" not in self._names:
            # Midnights are found from the evening before, so that a clock change on the way misses none.
            at += max(22 - int(reading[11:13]), 0) * _HOUR
        return at
