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


def timeline(
    prepared: Prepared,
    first: datetime,
    last: datetime,
    lens: Lens,
    *,
    locations: Sequence[str] | None = None,
    devices: Sequence[Device] = DEVICES[::-1],
) -> Timeline:
    """For the lens's visitor, in its language; its device and moment are not looked at."""
    clock = prepared.clock
    moments = Moments(prepared.site)
    points = [(instant_of(first), ()), *moments.between(first, last)]
    places: list[PlaceLine] = []
    changed: dict[str, dict[int, tuple[Cause, ...]]] = {}
    troubles: list[Trouble] = []
    for location in prepared.site.template.locations:
        if (locations is not None and location.key not in locations) or location.shape == "section":
            continue
        for device in devices:
            if device not in location.devices:
                continue
            stretches = _stretches(prepared, moments, location.key, replace(lens, device=device), points)
            if prepared.source(location.key, device).menu is None and not any(one.entries for one in stretches):
                continue
            places.append(PlaceLine(location.key, device, tuple(stretches)))
            for stretch in stretches[1:]:
                changed.setdefault(clock.instant(stretch.begins), {})[id(stretch.causes)] = stretch.causes
            for stretch in stretches:
                if not stretch.entries and len(stretches) > 1:
                    says = f"{location.title} is empty on a {device} from {stretch.begins}"
                    troubles.append(Trouble("empty-place", stretch.begins, says, location.key, device))
    troubles += _unpublished(prepared, first, last)
    for change in clock.changes(first, last):
        says = f"the clock goes from {change.before[11:16]} to {change.after[11:16]}"
        troubles.append(Trouble("clock-change", change.after, says))
    notches = tuple((clock.reading_at(at), _each(list(lists.values()))) for at, lists in sorted(changed.items()))
    return Timeline(tuple(places), notches, tuple(sorted(troubles, key=lambda one: clock.instant(one.at))))


def _stretches(
    prepared: Prepared, moments: Moments, location: str, lens: Lens, points: Sequence[tuple[str, tuple[Cause, ...]]]
) -> list[Stretch]:
    clock = prepared.clock
    known: dict[tuple[int, tuple[bool, ...]], tuple[Resolved, ...]] = {}
    distinct: list[tuple[Resolved, ...]] = []
    behind: dict[tuple[int, int, int], tuple[Cause, ...]] = {}
    found: list[Stretch] = []
    before: tuple[Resolved, ...] | None = None
    for at, causes in points:
        state = moments.state(at)
        if state not in known:
            # Equal menus are one: a rule that asks for the hour brings the same two back every day.
            got = prepared.resolve(location, replace(lens, at=clock.reading_at(at))).items
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
