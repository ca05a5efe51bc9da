"""Who sees what: every entry of a place, for every audience on every device, and what of that nobody can have meant."""

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Literal

from sign_shelf.core.model.facts import Visitor
from sign_shelf.core.model.menu import DEVICES, AnyItem, Device, Include, Labelled, children
from sign_shelf.core.model.template import Location
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.resolve.resolved import Because, Hidden, Resolved
from sign_shelf.core.rules import fact_tests

ANYBODY = "anybody"
"""Stands for audiences where a site has none: a visitor of whom nothing is known."""


@dataclass(frozen=True, slots=True)
class Column:
    audience: str
    device: Device
    language: str


@dataclass(frozen=True, slots=True)
class SeenCell:
    """`seen` is "part" where something that stands below the entry is not seen, "none" where the entry is not.
    `place` is another location that the entry is folded into."""

    seen: Literal["whole", "part", "none"]
    because: Because | None = None
    detail: str = ""
    place: str | None = None


@dataclass(frozen=True, slots=True)
class Row:
    menu: str
    item: str
    """The id as resolve has it: entries of an include carry the include's id before theirs."""
    label: str
    level: int
    parent: bool
    cells: tuple[SeenCell, ...]


@dataclass(frozen=True, slots=True)
class Warned:
    kind: Literal["opens-empty", "seen-by-nobody", "together", "only-one"]
    item: str
    says: str
    columns: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Matrix:
    columns: tuple[Column, ...]
    rows: tuple[Row, ...]
    warnings: tuple[Warned, ...]


def audiences_of(prepared: Prepared) -> Mapping[str, Visitor]:
    return prepared.site.audiences or {ANYBODY: {}}


def who_sees(
    prepared: Prepared,
    location_key: str,
    *,
    at: str,
    languages: Sequence[str],
    devices: Sequence[Device] = DEVICES[::-1],
    page: str | None = None,
) -> Matrix:
    """The matrix of a location. Raises ResolveRefused for a location that the template does not have."""
    audiences = audiences_of(prepared)
    columns = [
        Column(audience, device, language) for audience in audiences for device in devices for language in languages
    ]
    lines = list(_lines(prepared, location_key, devices))
    alike = Alike(prepared, dict.fromkeys(line.item.when for line in lines if line.item.when), languages)
    known: dict[tuple[object, ...], list[SeenCell]] = {}
    cells: list[list[SeenCell]] = []
    groups: dict[tuple[object, ...], list[int]] = {}
    for column in columns:
        lens = Lens(
            device=column.device, language=column.language, at=at, page=page, facts=audiences[column.audience]
        )  # fmt: skip
        key = alike.key(lens)
        if key not in known:
            known[key] = _cells(lines, column, _column(prepared, location_key, lens))
            alike.languages = alike.languages and not any(cell.because == "language" for cell in known[key])
        groups.setdefault(key, []).append(len(cells))
        cells.append(known[key])
    rows = tuple(
        Row(line.menu, line.id, line.label(languages[0], prepared), line.level, bool(line.below), tuple(mine))
        for line, mine in zip(lines, zip(*cells, strict=True), strict=True)
    )
    return Matrix(tuple(columns), rows, tuple(_warnings(rows, columns, list(groups.values()))))


class Alike:
    """Tells which visitors get the same entries, so that it is worked out once: those whom every rule answers alike, for
    the same reasons, on one device; in whatever language, where every language has the same labels to fall back on."""

    def __init__(self, prepared: Prepared, rules: Iterable[str], languages: Iterable[str]) -> None:
        self.prepared = prepared
        self.rules = [prepared.rules.of(text) for text in rules]
        spoken = prepared.site.site.languages
        asked = any(
            test.fact == "language" for rule in self.rules if rule.rule is not None for test in fact_tests(rule.rule)
        )
        self.languages = not asked and all(one in spoken and "-" not in one for one in languages)

    def key(self, lens: Lens) -> tuple[object, ...]:
        visit = self.prepared.visit(lens)
        answers = tuple(map(visit.refusal, self.rules))
        return lens.device, None if self.languages else lens.language, lens.page, frozenset(lens.facts), answers


@dataclass(frozen=True, slots=True)
class _Got:
    """What a column's visitor gets of a location: here, and folded into other places."""

    here: frozenset[str]
    elsewhere: dict[str, str]
    hidden: dict[str, Hidden]
    menu: str | None
    absent: str


def _column(prepared: Prepared, location_key: str, lens: Lens) -> _Got:
    found = prepared.resolve(location_key, lens)
    here = frozenset(item.id for item in walk_resolved(found.items))
    elsewhere: dict[str, str] = {}
    hidden = {one.id: one for one in reversed(found.hidden)}
    location = prepared.site.template.location(location_key)
    menu, absent = found.source.menu, ""
    if location is not None and not here:
        fold = location.folds_into(lens.device, prepared.site.template.width_of(lens.device))
        if fold is not None:
            into = prepared.resolve(fold.into, lens)
            menu = prepared.source(location_key, lens.device).menu
            elsewhere = {item.id: fold.into for item in walk_resolved(into.items)}
            hidden = {one.id: one for one in reversed(into.hidden)}
        absent = _absent(location, lens.device, menu)
    return _Got(here, elsewhere, hidden, menu, absent)


def _absent(location: Location, device: Device, menu: str | None) -> str:
    if device not in location.devices:
        return f"{location.title} does not exist on a {device}"
    return f"nothing hangs in {location.title} on a {device}" if menu is None else ""


def walk_resolved(items: Iterable[Resolved]) -> Iterator[Resolved]:
    stack = list(items)[::-1]
    while stack:
        item = stack.pop()
        yield item
        stack.extend(item.items[::-1])


@dataclass(frozen=True, slots=True)
class _Line:
    menu: str
    root: str
    id: str
    level: int
    item: AnyItem
    below: tuple[str, ...]

    def label(self, language: str, prepared: Prepared) -> str:
        item = self.item
        if isinstance(item, Labelled) and item.label:
            return next((item.label[tag] for tag in (language, *item.label) if tag in item.label), "")
        target = getattr(item, "target", None)
        ref = getattr(target, "page", None)
        return (prepared.addresses.title(ref, language) or f"@{ref}") if ref else item.kind


def _lines(prepared: Prepared, location_key: str, devices: Iterable[Device]) -> Iterator[_Line]:
    """Every item of every menu that the place has on some device, as written, includes opened; each menu once."""
    seen: set[str] = set()
    for device in devices:
        source = prepared.source(location_key, device)
        if source.menu is not None and source.menu not in seen:
            seen.add(source.menu)
            items = prepared.site.menus[source.menu].items
            yield from _opened(prepared, items, (source.menu,), "", 1)


def _opened(
    prepared: Prepared, items: Iterable[AnyItem], inside: tuple[str, ...], prefix: str, level: int
) -> Iterator[_Line]:
    for item in items:
        if isinstance(item, Include):
            included = prepared.includes.items(item.menu, inside[0])
            yield from _opened(prepared, included, (*inside, item.menu), f"{prefix}{item.id}/", level)
            continue
        if item.kind != "divider":
            below = tuple(prefix + one.id for one in children(item) if one.kind not in {"divider", "include"})
            yield _Line(inside[-1], inside[0], prefix + item.id, level, item, below)
        yield from _opened(prepared, children(item), inside, prefix, level + 1)


def _cells(lines: Sequence[_Line], column: Column, got: _Got) -> list[SeenCell]:
    """What a column's visitor gets of every line."""
    known = got.here or frozenset(got.elsewhere)
    listing = {item.rpartition(":")[0] for item in known if ":" in item}
    seen = known | {item for item in listing if item not in got.hidden}
    other = SeenCell("none", "place", got.absent or f"another menu hangs here on a {column.device}")
    nowhere = SeenCell("none", "place", got.absent or "the place does not show it")
    once: dict[tuple[object, ...], SeenCell] = {}

    def cell(
        seen: Literal["whole", "part", "none"], because: Because | None, detail: str, place: str | None
    ) -> SeenCell:
        key = seen, because, detail, place
        if key not in once:
            once[key] = SeenCell(seen, because, detail, place)
        return once[key]

    found = []
    for line in lines:
        if line.root != got.menu:
            found.append(other)
        elif line.id in seen:
            found.append(cell("whole" if seen.issuperset(line.below) else "part", None, "", got.elsewhere.get(line.id)))
        else:
            out = got.hidden.get(line.id)
            found.append(cell("none", out.because, out.detail, None) if out is not None else nowhere)
    return found


_PAIRS = re.compile(
    r"\b(?P<in>(?:sign|log)[ -]?in|inloggen|aanmelden|anmelden|mewngofnodi|zaloguj)\b"
    r"|\b(?P<out>(?:sign|log)[ -]?out|uitloggen|afmelden|abmelden|allgofnodi|wyloguj)\b",
    re.IGNORECASE,
)


def _warnings(rows: Sequence[Row], columns: Sequence[Column], alike: Sequence[Sequence[int]]) -> Iterator[Warned]:
    """`alike`: the columns in groups that get the same cells. Of each row, the groups that see it are the bits of a number."""
    seen = [sum(1 << at for at, group in enumerate(alike) if row.cells[group[0]].seen != "none") for row in rows]
    below: dict[str, int] = {}
    stack: list[Row] = []
    for row, groups in zip(rows, seen, strict=True):
        del stack[row.level - 1 :]
        if stack:
            below[stack[-1].item] = below.get(stack[-1].item, 0) | groups
        stack.append(row)

    @cache
    def columns_of(groups: int) -> tuple[int, ...]:
        return tuple(sorted(one for at, group in enumerate(alike) if groups >> at & 1 for one in group))

    @cache
    def told_apart(groups: int) -> frozenset[tuple[str, Device]]:
        return frozenset((columns[at].audience, columns[at].device) for at in columns_of(groups))

    several = len({(one.audience, one.device) for one in columns}) > 2
    for row, groups in zip(rows, seen, strict=True):
        empty = columns_of(groups & ~below[row.item]) if row.item in below else ()
        if empty:
            yield Warned("opens-empty", row.item, f"{row.label} opens empty for {named(empty, columns)}", empty)
        if not groups:
            yield Warned("seen-by-nobody", row.item, f"{row.label} is seen by none of the audiences now")
        if several and len(told_apart(groups)) == 1:
            ((audience, device),) = told_apart(groups)
            says = f"{row.label} is only reachable by {audience} on a {device}"
            yield Warned("only-one", row.item, says, columns_of(groups))
    yield from _together(rows, columns)


def _together(rows: Sequence[Row], columns: Sequence[Column]) -> Iterator[Warned]:
    """A way to sign in and a way to sign out, both seen by the same visitor."""
    found = [(row, match.lastgroup) for row in rows if (match := _PAIRS.search(row.label))]
    for one, kind in found:
        for other, opposite in found:
            if kind == "in" and opposite == "out":
                both = [
                    at
                    for at, (a, b) in enumerate(zip(one.cells, other.cells, strict=True))
                    if a.seen != "none" and b.seen != "none"
                ]
                if both:
                    says = f"{one.label} and {other.label} are shown together to {named(both, columns)}"
                    yield Warned("together", one.item, says, tuple(both))


def named(at: Sequence[int], columns: Sequence[Column]) -> str:
    """The columns in words: audiences, and their devices where not all are meant."""
    devices = list(dict.fromkeys(column.device for column in columns))
    audiences = list(dict.fromkeys(column.audience for column in columns))
    told: dict[tuple[Device, ...], list[str]] = {}
    for audience in audiences:
        mine = {columns[one].device for one in at if columns[one].audience == audience}
        if mine:
            told.setdefault(tuple(device for device in devices if device in mine), []).append(audience)
    phrases = []
    for some, who in told.items():
        everyone = len(who) == len(audiences) and len(audiences) > 1
        names = "everyone" if everyone else _and(who)
        phrases.append(names if len(some) == len(devices) else f"{names} on {_and([f'a {one}' for one in some])}")
    return "; ".join(phrases)


def _and(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"
