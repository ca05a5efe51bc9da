"""Whether anybody can ever see an item, over the whole site: its rule together with those of what it stands below, all
their windows, devices, languages and pages, and the places where their menus hang.

"Seen" comes with a visitor for whom the resolver was asked and shows it. "Never" follows from conditions that every way
to see it needs and nobody meets. What is neither is "not decided".
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Literal

from sign_shelf.core.basics.clock import moment_of, said_day, said_moment
from sign_shelf.core.model.facts import CLOCK, FactValue, Visitor
from sign_shelf.core.model.menu import (
    DEVICES,
    AnyItem,
    Device,
    Heading,
    Include,
    Link,
    Opener,
    PageTarget,
    PendingTarget,
    children,
    walk,
)
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.resolve.visit import clock_facts, visit_of
from sign_shelf.core.rules import (
    ALWAYS,
    AllOf,
    AnyOf,
    Const,
    FactTest,
    Not,
    Rule,
    all_of,
    any_of,
    compiled,
    fact_tests,
)
from sign_shelf.core.rules.analyse import analyse
from sign_shelf.core.visitors.who_sees import Alike, audiences_of, walk_resolved

_YEAR = timedelta(days=366)
_LATEST = "9000"


@dataclass(frozen=True, slots=True)
class EverSeen:
    """`by` is a lens through which the item shows, in `location`; `because` why it never does."""

    menu: str
    item: str
    answer: Literal["seen", "never", "not decided"]
    by: Lens | None = None
    location: str | None = None
    because: str = ""


@dataclass(frozen=True, slots=True)
class _Needs:
    """What every way to see an item needs. `rule` is None where one of its rules cannot be read."""

    rule: Rule | None
    opens: str
    closes: str
    devices: frozenset[Device]
    languages: frozenset[str]
    never: str


@dataclass(frozen=True, slots=True)
class _Line:
    """`ends` is the number of the first line that no longer stands below it; `depth` and `kinds` are those of the entries
    down to it."""

    id: str
    needs: _Needs
    heading: bool
    ends: int
    depth: int
    kinds: frozenset[str]


@dataclass(frozen=True, slots=True)
class _Shown:
    """What the lens's visitor sees, and in which location."""

    lens: Lens
    places: dict[str, str]


def _seen(menu: str, item: str, shown: _Shown) -> EverSeen:
    return EverSeen(menu, item, "seen", shown.lens, shown.places[item])


def ever_seen(prepared: Prepared, at: str) -> list[EverSeen]:
    """Every item of every menu that hangs in a place, from the reading `at` on."""
    return list(_Search(prepared, at).all())


class _Search:
    def __init__(self, prepared: Prepared, at: str) -> None:
        self.prepared = prepared
        self.site = prepared.site
        self.at = at
        self.now = prepared.clock.instant(at)
        self.facts = self.site.all_facts()
        self._shown: dict[tuple[Device, str, str, str | None, tuple[tuple[str, FactValue], ...]], _Shown] = {}
        self._classes: dict[tuple[object, ...], list[tuple[dict[FactTest, bool], str]]] = {}
        self._visitors: dict[Rule, Visitor | Literal["not decided"] | None] = {}

    def all(self) -> Iterator[EverSeen]:
        hung = {
            (source.menu, device)
            for location in self.site.template.locations
            for device in DEVICES
            if (source := self.prepared.source(location.key, device)).menu is not None
        }
        usual = list(self._usual().values())
        for menu in dict.fromkeys(menu for menu, _ in sorted((str(menu), device) for menu, device in hung)):
            devices = frozenset(device for one, device in hung if one == menu)
            start = _Needs(ALWAYS, self.now, _LATEST, devices, frozenset(self.site.site.languages), "")
            lines = list(self._needs(self.site.menus[menu].items, menu, "", start))
            answers = [
                next((_seen(menu, line.id, one) for one in usual if line.id in one.places), None)
                or self._searched(menu, line)
                for line in lines
            ]
            # From the lowest level up: a heading is seen where something below it is.
            for at in reversed(range(len(lines))):
                if lines[at].heading and answers[at].answer == "not decided":
                    answers[at] = self._heading(answers[at], answers[at + 1 : lines[at].ends])
            yield from answers

    def _usual(self) -> dict[tuple[object, ...], _Shown]:
        """What the site's audiences see now, on every device and in every language; what is the same, once."""
        rules = [item.when for menu in self.site.menus.values() for _, item in walk(menu.items) if item.when]
        alike = Alike(self.prepared, dict.fromkeys(rules), self.site.site.languages)
        usual: dict[tuple[object, ...], _Shown] = {}
        for device in DEVICES[::-1]:
            for language in self.site.site.languages:
                for facts in audiences_of(self.prepared).values():
                    lens = Lens(device=device, language=language, at=self.at, facts=facts)
                    key = alike.key(lens)
                    if key not in usual:
                        usual[key] = self._shown_by(lens)
        return usual

    def _heading(self, told: EverSeen, below: Sequence[EverSeen]) -> EverSeen:
        for one in below:
            if one.by is not None and (seen := self._verified(told.menu, told.item, one.by)):
                return seen
        if all(one.answer == "never" for one in below):
            return replace(told, answer="never", because="nothing below it is ever seen")
        return told

    def _needs(
        self,
        items: tuple[AnyItem, ...],
        root: str,
        prefix: str,
        above: _Needs,
        begin: int = 0,
        kinds: tuple[str, ...] = (),
    ) -> list[_Line]:
        lines: list[_Line] = []
        for item in items:
            needs = self._with(above, item)
            at = begin + len(lines)
            if isinstance(item, Include):
                included = self.prepared.includes.items(item.menu, root)
                lines += self._needs(included, root, f"{prefix}{item.id}/", needs, at, kinds)
            elif item.kind not in {"divider", "listing"}:
                mine = (*kinds, item.kind)
                below = self._needs(children(item), root, prefix, needs, at + 1, mine)
                lists = any(one.kind == "listing" for one in children(item))
                heading = item.kind == "heading" and not lists
                line = _Line(prefix + item.id, needs, heading, at + 1 + len(below), len(mine), frozenset(mine))
                lines += [line, *below]
        return lines

    def _with(self, above: _Needs, item: AnyItem) -> _Needs:
        clock = self.prepared.clock
        read = self.prepared.rules.of(item.when) if item.when else None
        rule = above.rule
        never = above.never
        if read is not None and rule is not None:
            rule = all_of([rule, read.rule]) if read.rule is not None else None
            never = never or read.wrong or ""
        if isinstance(item, Link):
            never = never or self._page_never(item)
        opens = max(above.opens, clock.instant(item.from_)) if item.from_ else above.opens
        closes = min(above.closes, clock.instant(item.until)) if item.until else above.closes
        over = self._page_ends(item)
        if over is not None and clock.instant(over) < closes:
            closes = clock.instant(over)
            if opens >= closes and not never:
                gone = f"its page ended on {said_day(over[:10])}"
                never = gone if closes <= self.now else f"{gone.replace('ended', 'ends')}, before its window opens"
        if opens >= closes and not never:
            own = item.until is not None and clock.instant(item.until) <= self.now
            never = (
                f"it ended {said_moment(item.until or '')}"
                if own
                else "its window is never open while what it stands below is"
            )
        devices = above.devices & frozenset(item.devices) if item.devices else above.devices
        if not devices and not never:
            never = "its menu does not hang anywhere on the devices that it is for"
        languages = above.languages
        if isinstance(item, Heading | Opener) or (isinstance(item, Link) and item.label):
            # The resolver falls back through all of the site's languages.
            languages = (
                languages
                if set(self.site.site.languages) & set(item.label)
                else frozenset(one for one in languages if one.split("-")[0] in item.label)
            )
            if not languages and not never:
                never = "it has no label in any of the site's languages"
        return _Needs(rule, opens, closes, devices, languages, never)

    def _page_ends(self, item: AnyItem) -> str | None:
        """The reading from which on the page that it leads to is not there."""
        page = (
            self.prepared.addresses.pages.get(item.target.page)
            if isinstance(item, Link) and isinstance(item.target, PageTarget) else None
        )  # fmt: skip
        return f"{page.ends}T00:00" if page is not None and page.ends else None

    def _page_never(self, item: Link) -> str:
        match item.target:
            case PendingTarget():
                return "it leads nowhere yet"
            case PageTarget(page=ref):
                page = self.prepared.addresses.pages.get(ref)
                if page is None:
                    return f"there is no page @{ref}"
                return "" if page.state == "published" else f"its page is {page.state}"
            case _:
                return ""

    def _searched(self, menu: str, line: _Line) -> EverSeen:
        item_id, needs = line.id, line.needs
        if needs.never or needs.rule is None:
            return EverSeen(menu, item_id, "never", because=needs.never)
        decided = True
        tried = 0
        for rule, lens in self._grounded(needs):
            visitor = self._visitor(rule)
            if visitor == "not decided":
                decided = False
            elif isinstance(visitor, Mapping):
                facts = {**visitor, **self._undeclared()}
                seen = self._verified(
                    menu, item_id,
                    Lens(device=lens.device, language=lens.language, at=lens.at, page=lens.page, facts=facts),
                )  # fmt: skip
                if seen:
                    return seen
                tried += 1
                decided = decided and self._place_hides(menu, line, lens.device)
                if tried >= 12:
                    break
        if not decided:
            return EverSeen(menu, item_id, "not decided")
        because = "no place where its menu hangs takes it" if tried else "nobody meets all the rules on the way to it"
        return EverSeen(menu, item_id, "never", because=because)

    def _undeclared(self) -> Visitor:
        """Something for every fact that addresses may hold."""
        return {name: "x" for name, fact in self.facts.items() if fact.type == "text"}

    def _grounded(self, needs: _Needs) -> Iterator[tuple[Rule, Lens]]:
        """The rule with what the request itself supplies put in, for every class of moment, page, device and language."""
        assert needs.rule is not None
        tests = list(fact_tests(needs.rule))
        about_pages = [test for test in tests if test.fact in {"page", "section"}]
        about_clock = [test for test in tests if test.fact in CLOCK]
        for device in sorted(needs.devices, reverse=True):
            for language in sorted(needs.languages):
                fixed: Visitor = {"device": device, "language": language}
                known = {
                    test: compiled(test)(fixed) is True for test in tests if test.fact in {"device", "language"}
                }  # fmt: skip
                for by_page, page in self._pages(about_pages):
                    for by_clock, reading in self._moments(about_clock, needs):
                        put_in = {**known, **by_page, **by_clock}
                        lens = Lens(device=device, language=language, at=reading, page=page)
                        yield _put_in(needs.rule, put_in), lens

    def _pages(self, tests: list[FactTest]) -> Iterator[tuple[dict[FactTest, bool], str | None]]:
        """The classes of pages that the tests tell apart, with a page of each. A visitor on no page at all is in none:
        whatever is true of what is unknown is true of every page as well."""
        pages = self.prepared.addresses.pages
        seen: set[tuple[bool, ...]] = set()
        for page in pages.values() if tests else ():
            if page.state == "published":
                lens = Lens(device="desktop", language="en", at=self.at, page=page.ref)
                facts = visit_of(lens, self.prepared.clock, pages).facts
                answers = tuple(compiled(test)(facts) is True for test in tests)
                if answers not in seen:
                    seen.add(answers)
                    yield dict(zip(tests, answers, strict=True)), page.ref
        if not tests:
            yield {}, None

    def _moments(self, tests: list[FactTest], needs: _Needs) -> Iterator[tuple[dict[FactTest, bool], str]]:
        """The classes of hours within the window that the tests tell apart, with a reading of each."""
        clock = self.prepared.clock
        begin = moment_of(needs.opens)
        if not tests:
            yield {}, clock.now(begin)
            return
        # A whole year has every hour of every weekday of every month.
        end = min(begin + _YEAR, moment_of(needs.closes)) if needs.closes < _LATEST else begin + _YEAR
        key = (needs.opens, end, *tests)
        if key not in self._classes:
            self._classes[key] = list(self._hours(tests, begin, end))
        yield from self._classes[key]

    def _hours(
        self, tests: list[FactTest], begin: datetime, end: datetime
    ) -> Iterator[tuple[dict[FactTest, bool], str]]:
        seen: set[tuple[bool, ...]] = set()
        asked = [compiled(test) for test in tests]
        moment = begin
        while moment < end:
            reading = self.prepared.clock.now(moment)
            answers = tuple(one(clock_facts(reading)) is True for one in asked)
            if answers not in seen:
                seen.add(answers)
                yield dict(zip(tests, answers, strict=True)), reading
            moment += timedelta(minutes=60 - int(reading[14:16]))

    def _visitor(self, rule: Rule) -> Visitor | Literal["not decided"] | None:
        if rule not in self._visitors:
            told = analyse([rule], self.facts)[0]
            self._visitors[rule] = "not decided" if told.never == "not decided" else told.example
        return self._visitors[rule]

    def _verified(self, menu: str, item_id: str, lens: Lens) -> EverSeen | None:
        """The item as seen through the lens, where the resolver shows it."""
        shown = self._shown_by(lens)
        return _seen(menu, item_id, shown) if item_id in shown.places else None

    def _shown_by(self, lens: Lens) -> _Shown:
        key = (lens.device, lens.language, lens.at, lens.page, tuple(sorted(lens.facts.items())))
        if key not in self._shown:
            places: dict[str, str] = {}
            for location in self.site.template.locations:
                for item in walk_resolved(self.prepared.resolve(location.key, lens).items):
                    places.setdefault(item.id, location.key)
            self._shown[key] = _Shown(lens, places)
        return self._shown[key]

    def _place_hides(self, menu: str, line: _Line, device: Device) -> bool:
        """Whether no place on the device has the entry whoever looks: limits are the same for everybody."""
        for location in self.site.template.locations:
            if self.prepared.source(location.of or location.key, device).menu != menu:
                continue
            if location.shape == "section":
                # Which levels it shows depends on the page; it is no proof of hiding.
                return False
            if line.depth > location.depth or not line.kinds <= set(location.kinds):
                continue
            folds = location.fold
            into = [self.site.template.location(fold.into) for fold in folds]
            kinds = line.kinds if line.heading else line.kinds - {"heading"}
            if device in location.devices or any(one is not None and kinds <= set(one.kinds) for one in into):
                return False
        return True


def _put_in(rule: Rule, known: Mapping[FactTest, bool]) -> Rule:
    """The rule with these tests answered."""
    match rule:
        case FactTest():
            return Const(known[rule]) if rule in known else rule
        case Not(inner):
            put = _put_in(inner, known)
            return Const(not put.value) if isinstance(put, Const) else Not(put)
        case AllOf(parts):
            return all_of([part for one in parts if (part := _put_in(one, known)) != ALWAYS])
        case AnyOf(parts):
            return any_of([_put_in(one, known) for one in parts])
        case Const():
            return rule
