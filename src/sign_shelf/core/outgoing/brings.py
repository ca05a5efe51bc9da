"""What a change brings visitors: who sees an entry that they did not, or no longer sees one; which pages come within reach, or are
lost; which findings it mends."""

from collections import defaultdict
from dataclasses import dataclass

from sign_shelf.core.checks import Checked, Finding, SiteView
from sign_shelf.core.checks.finding import RANK
from sign_shelf.core.model.menu import DEVICES, Device
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.visitors.reach import lacking, reach
from sign_shelf.core.visitors.who_sees import audiences_of, walk_resolved


@dataclass(frozen=True, kw_only=True)
class SeenAnew:
    """Entries of one place that these audiences, on these devices, see from then on, or no longer see."""

    location: str
    title: str
    sees: bool
    audiences: tuple[str, ...]
    everybody: bool
    """Whether these are all audiences that the site has."""
    devices: tuple[Device, ...]
    entries: tuple[str, ...]
    """Their labels, in the menu's order."""


@dataclass(frozen=True, kw_only=True)
class ReachedAnew:
    """Pages, by their references, that menus lead to from then on (`won`), or no longer (`lost`), on these devices alike."""

    devices: tuple[Device, ...]
    won: tuple[str, ...]
    lost: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Brings:
    seen: tuple[SeenAnew, ...]
    reach: tuple[ReachedAnew, ...]
    mended: tuple[Finding, ...]


def brings(before: Prepared, after: Prepared, *, at: str) -> Brings:
    """In the site's first language. `at` is a reading of the site's clock."""
    return Brings(
        seen=_seen(before, after, at), reach=_reach(before, after, at), mended=_mended(before, after, at[:10])
    )


_Entries = dict[str, tuple[str, str | None]]
"""Label and address by id."""


def _seen(before: Prepared, after: Prepared, at: str) -> tuple[SeenAnew, ...]:
    audiences = dict(audiences_of(before)) | dict(audiences_of(after))
    places = {one.key: one.title for side in (before, after) for one in side.site.template.locations}
    by_whom: dict[tuple[str, bool, str], dict[Device, list[str]]] = defaultdict(lambda: defaultdict(list))
    for location in places:
        for device in DEVICES[::-1]:
            for audience, facts in audiences.items():
                lens = Lens(device=device, language=after.site.site.languages[0], at=at, facts=facts)
                was, now = _entries(before, location, lens), _entries(after, location, lens)
                for sees, label in [
                    *((True, one) for one in _not_in(now, was)),
                    *((False, one) for one in _not_in(was, now)),
                ]:
                    by_whom[location, sees, label][device].append(audience)
    together: dict[tuple[str, bool, tuple[str, ...], tuple[Device, ...]], list[str]] = defaultdict(list)
    for (location, sees, label), devices in by_whom.items():
        alike: dict[tuple[str, ...], list[Device]] = defaultdict(list)
        for device, mine in devices.items():
            alike[tuple(mine)].append(device)
        for named, on in alike.items():
            together[location, sees, named, tuple(on)].append(label)
    return tuple(
        SeenAnew(
            location=location, title=places[location], sees=sees, audiences=mine, everybody=len(mine) == len(audiences),
            devices=devices, entries=tuple(labels),
        )
        for (location, sees, mine, devices), labels in together.items()
    )  # fmt: skip


def _entries(side: Prepared, location: str, lens: Lens) -> _Entries:
    place = side.site.template.location(location)
    if place is None or lens.device not in place.devices:
        return {}
    return {one.id: (one.label, one.href) for one in walk_resolved(side.resolve(location, lens).items) if one.label}


def _not_in(these: _Entries, those: _Entries) -> list[str]:
    """A visitor knows no names of entries: one of the same words that leads to the same place is the same, and so is one that was
    called otherwise."""
    had = set(those.values())
    return list(dict.fromkeys(one[0] for id, one in these.items() if id not in those and one not in had))


def _reach(before: Prepared, after: Prepared, at: str) -> tuple[ReachedAnew, ...]:
    alike: dict[tuple[tuple[str, ...], tuple[str, ...]], list[Device]] = defaultdict(list)
    for device in DEVICES[::-1]:
        lens = Lens(device=device, language=after.site.site.languages[0], at=at)
        was, now = reach(before, lens), reach(after, lens)
        won, lost = tuple(lacking(now, was)), tuple(lacking(was, now))
        if won or lost:
            alike[won, lost].append(device)
    return tuple(ReachedAnew(devices=tuple(on), won=won, lost=lost) for (won, lost), on in alike.items())


def _mended(before: Prepared, after: Prepared, today: str) -> tuple[Finding, ...]:
    was = Checked.of(SiteView(before, today))
    stand = {one.fingerprint() for one in was.again(SiteView(after, today)).findings()}
    gone = [one for one in was.findings() if one.fingerprint() not in stand]
    return tuple(sorted(gone, key=lambda one: RANK[one.severity]))
