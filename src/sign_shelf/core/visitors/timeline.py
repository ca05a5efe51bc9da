"""What a site shows over time: stretches in which a place's menu stays the same, what begins and ends each, and trouble
that can be seen coming."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Literal

from sign_shelf.core.basics.clock import instant_of
from sign_shelf.core.model.menu import DEVICES, Device, Link, PageTarget, walk
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.resolve.resolved import Resolved
from sign_shelf.core.visitors.moments import Cause, Moments
from sign_shelf.core.visitors.who_sees import walk_resolved

LONGEST_TIMELINE = timedelta(days=5 * 366)


@dataclass(frozen=True, slots=True)
class Stretch:
    """From a reading of the site's clock up to another; None where it goes on past the asked time. `causes` are those of
    its beginning."""

    begins: str
    ends: str | None
    entries: int
    causes: tuple[Cause, ...]
    ended_by: tuple[Cause, ...]


@dataclass(frozen=True, slots=True)
class PlaceLine:
    location: str
    device: Device
    stretches: tuple[Stretch, ...]


@dataclass(frozen=True, slots=True)
class Trouble:
    kind: Literal["empty-place", "page-not-published", "clock-change"]
    at: str
    says: str
    location: str | None = None
    device: Device | None = None
    item: str | None = None


@dataclass(frozen=True, slots=True)
class Timeline:
    places: tuple[PlaceLine, ...]
    notches: tuple[tuple[str, tuple[Cause, ...]], ...]
    """Readings at which any place changes, with why."""
    troubles: tuple[Trouble, ...]


@dataclass(frozen=True, kw_only=True)
class Then:
    """From a moment on the site is another: a change went live, or came to its end, as `says` tells."""

    begins: datetime
    prepared: Prepared
    says: str


def timeline(
    prepared: Prepared,
    first: datetime,
    last: datetime,
    lens: Lens,
    *,
    then: Sequence[Then] = (),
    locations: Sequence[str] | None = None,
    devices: Sequence[Device] = DEVICES[::-1],
) -> Timeline:
    """For the lens's visitor, in its language; its device and moment are not looked at. `then`, in order: what the site will be
    from moments between the first and the last on."""
    clock = prepared.clock
    spans = _spans(prepared, first, last, then)
    every = {one.key: one for span in spans for one in span.prepared.site.template.locations}
    places: list[PlaceLine] = []
    changed: dict[str, dict[int, tuple[Cause, ...]]] = {}
    troubles: list[Trouble] = []
    for location in every.values():
        if (locations is not None and location.key not in locations) or location.shape == "section":
            continue
        for device in devices:
            if device not in location.devices:
                continue
            stretches = _stretches(spans, location.key, replace(lens, device=device))
            hangs = any(span.prepared.source(location.key, device).menu is not None for span in spans)
            if not hangs and not any(one.entries for one in stretches):
                continue
            places.append(PlaceLine(location.key, device, tuple(stretches)))
            for stretch in stretches[1:]:
                changed.setdefault(clock.instant(stretch.begins), {})[id(stretch.causes)] = stretch.causes
            for stretch in stretches:
                if not stretch.entries and len(stretches) > 1:
                    says = f"{location.title} is empty on a {device} from {stretch.begins}"
                    troubles.append(Trouble("empty-place", stretch.begins, says, location.key, device))
    for span in spans:
        troubles += _unpublished(span.prepared, span.begins, span.ends)
    for change in clock.changes(first, last):
        says = f"the clock goes from {change.before[11:16]} to {change.after[11:16]}"
        troubles.append(Trouble("clock-change", change.after, says))
    notches = tuple((clock.reading_at(at), _each(list(lists.values()))) for at, lists in sorted(changed.items()))
    return Timeline(tuple(places), notches, tuple(sorted(troubles, key=lambda one: clock.instant(one.at))))


@dataclass(frozen=True)
class _Span:
    """A time in which the site changes by itself alone."""

    prepared: Prepared
    moments: Moments
    begins: datetime
    ends: datetime
    points: Sequence[tuple[str, tuple[Cause, ...]]]


def _spans(prepared: Prepared, first: datetime, last: datetime, then: Sequence[Then]) -> list[_Span]:
    inside = [one for one in then if first < one.begins <= last]
    begins: list[tuple[datetime, Prepared, tuple[Cause, ...]]] = [(first, prepared, ())]
    begins += [(one.begins, one.prepared, (Cause("change", "", "", one.says),)) for one in inside]
    found = []
    for (at, site, causes), ends in zip(begins, [*(one.begins for one in inside), last], strict=True):
        moments = Moments(site.site)
        by_itself = [point for point in moments.between(at, ends) if ends == last or point[0] != instant_of(ends)]
        found.append(_Span(site, moments, at, ends, [(instant_of(at), causes), *by_itself]))
    return found


def _stretches(spans: Sequence[_Span], location: str, lens: Lens) -> list[Stretch]:
    distinct: list[tuple[Resolved, ...]] = []
    behind: dict[tuple[int, int, int], tuple[Cause, ...]] = {}
    found: list[Stretch] = []
    before: tuple[Resolved, ...] | None = None
    for span in spans:
        clock = span.prepared.clock
        known: dict[tuple[int, tuple[bool, ...]], tuple[Resolved, ...]] = {}
        for at, causes in span.points:
            state = span.moments.state(at)
            if state not in known:
                # Equal menus are one: a rule that asks for the hour brings the same two back every day.
                got = span.prepared.resolve(location, replace(lens, at=clock.reading_at(at))).items
                known[state] = next((one for one in distinct if one == got), got)
                distinct += [got] if known[state] is got else []
            items = known[state]
            if items is before:
                continue
            reading = clock.reading_at(at)
            mine: tuple[Cause, ...] = ()
            if before is not None:
                key = (id(causes), id(before), id(items))
                mine = behind[key] if key in behind else behind.setdefault(key, _behind(causes, before, items))
            if found:
                found[-1] = replace(found[-1], ends=reading, ended_by=mine)
            found.append(Stretch(reading, None, len(items), mine, ()))
            before = items
    return found


def _behind(causes: tuple[Cause, ...], before: Iterable[Resolved], now: Iterable[Resolved]) -> tuple[Cause, ...]:
    """The causes whose items came, went or changed."""
    was = {item.id: item for item in walk_resolved(before)}
    is_now = {item.id: item for item in walk_resolved(now)}
    changed = {
        one.rpartition("/")[2] for one in was.keys() | is_now.keys() if _own(was.get(one)) != _own(is_now.get(one))
    }  # fmt: skip
    mine = [cause for cause in causes if cause.item in changed]
    # Where an item's window opens or ends, its rule may ask the clock as it likes.
    windows = {(cause.menu, cause.item) for cause in mine if cause.kind == "window"}
    return tuple(one for one in mine if one.kind != "rule" or (one.menu, one.item) not in windows) or causes


def _each(lists: list[tuple[Cause, ...]]) -> tuple[Cause, ...]:
    """Every cause once."""
    return lists[0] if len(lists) == 1 else tuple(dict.fromkeys(cause for causes in lists for cause in causes))


def _own(item: Resolved | None) -> Resolved | None:
    return item._replace(items=()) if item is not None else None


def _unpublished(prepared: Prepared, first: datetime, last: datetime) -> Iterator[Trouble]:
    """Items that start within the time, and whose page is not there for them yet."""
    begin, end = instant_of(first), instant_of(last)
    for menu in prepared.site.menus.values():
        for _, item in walk(menu.items):
            if not isinstance(item, Link) or not item.from_ or not isinstance(item.target, PageTarget):
                continue
            page = prepared.addresses.pages.get(item.target.page)
            state = page.state if page else "not in the inventory"
            if begin < prepared.clock.instant(item.from_) <= end and state != "published":
                says = f"{item.id} starts, and its page @{item.target.page} is {state}"
                yield Trouble("page-not-published", item.from_, says, item=item.id)
