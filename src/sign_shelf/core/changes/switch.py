"""A site on another template: what keeps its place, what has none, what does not fit there, and the site afterwards."""

from collections.abc import Mapping
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Literal

import numpy as np

from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.menu import DEVICES, AnyItem, Device, walk
from sign_shelf.core.model.site import Placement, SiteDocument
from sign_shelf.core.model.template import Location, Template
from sign_shelf.core.resolve import find_placement

Matched = Literal["key", "shape", "title", "by hand", "none"]
_WEIGHTS = {"key": 4.0, "shape": 2.0, "title": 1.5}
_ENOUGH = 1.2


@dataclass(frozen=True, slots=True)
class Unfit:
    """An item that its new place does not take, and why."""

    menu: str
    item: str
    says: str


@dataclass(frozen=True, slots=True)
class Kept:
    """One location of today: where its menus go. `menus` are those that hang in it, by device."""

    location: str
    title: str
    to: str | None
    to_title: str | None
    by: Matched
    menus: tuple[tuple[Device, str | None], ...]
    too_deep: tuple[Unfit, ...]
    kinds_refused: tuple[Unfit, ...]
    devices_lost: tuple[Device, ...]
    folds: str | None
    """What folds where in the new template, in words."""


@dataclass(frozen=True, slots=True)
class SwitchReport:
    kept: tuple[Kept, ...]
    empty: tuple[str, ...]
    """Locations of the new template that nothing moves into."""
    widths: tuple[tuple[Device, tuple[int, int | None] | None, tuple[int, int | None] | None], ...]
    """Devices whose width range changes, with both ranges."""

    @property
    def without_place(self) -> tuple[Kept, ...]:
        return tuple(one for one in self.kept if one.to is None and any(menu for _, menu in one.menus))


def matches(
    before: Template, after: Template, by_hand: Mapping[str, str | None]
) -> dict[str, tuple[str | None, Matched]]:
    """Where each location goes. `by_hand` counts first; None there means nowhere. Raises EditRefused for unknown keys."""
    for old, new in by_hand.items():
        if before.location(old) is None or (new is not None and after.location(new) is None):
            raise EditRefused(
                f'"{old}" cannot become "{new}": one of them is no location.', where="matches",
                remedy=f"The new template has {', '.join(one.key for one in after.locations)}.",
            )  # fmt: skip
    found: dict[str, tuple[str | None, Matched]] = {old: (new, "by hand") for old, new in by_hand.items()}
    taken = set(by_hand.values())
    olds = [one for one in before.locations if one.key not in by_hand]
    news = [one for one in after.locations if one.key not in taken]
    # Read here and not at the top: whatever starts would wait for it, and few change templates.
    from scipy.optimize import linear_sum_assignment

    scores = np.array([[_likeness(old, new)[0] for new in news] for old in olds], dtype=float).reshape(
        len(olds), len(news)
    )
    for row, column in zip(*linear_sum_assignment(scores, maximize=True), strict=True):
        if scores[row, column] >= _ENOUGH:
            found[olds[row].key] = (news[column].key, _likeness(olds[row], news[column])[1])
    return {one.key: found.get(one.key, (None, "none")) for one in before.locations}


def _likeness(old: Location, new: Location) -> tuple[float, Matched]:
    title = SequenceMatcher(None, old.title.casefold(), new.title.casefold()).ratio()
    score = (
        _WEIGHTS["key"] * (old.key == new.key)
        + _WEIGHTS["shape"] * (old.shape == new.shape)
        + _WEIGHTS["title"] * title
    )
    return score, "key" if old.key == new.key else "shape" if old.shape == new.shape else "title"


def switch_report(site: SiteDocument, after: Template, by_hand: Mapping[str, str | None] = {}) -> SwitchReport:
    """What the switch would do. Nothing is changed by it."""
    goes = matches(site.template, after, by_hand)
    kept = tuple(_kept(site, location, after, *goes[location.key]) for location in site.template.locations)
    filled = {one.to for one in kept if any(menu for _, menu in one.menus)}
    return SwitchReport(
        kept=kept,
        empty=tuple(
            one.key for one in after.locations if one.key not in filled and one.stand_in is None and one.of is None
        ),
        widths=tuple(
            (device, site.template.devices.get(device), after.devices.get(device))
            for device in DEVICES
            if site.template.devices.get(device) != after.devices.get(device)
        ),
    )


def _kept(site: SiteDocument, old: Location, after: Template, to: str | None, by: Matched) -> Kept:
    new = after.location(to) if to else None
    placed = tuple((one.device, one.menu) for one in site.placements if one.location == old.key)
    keys = dict.fromkeys(menu for _, menu in placed if menu)
    items = [(key, depth, item) for key in keys for depth, item in walk(site.menus[key].items)]
    gets = [device for device in old.devices if find_placement(site, old.key, device).menu]
    return Kept(
        location=old.key,
        title=old.title,
        to=to,
        to_title=new.title if new else None,
        by=by,
        menus=placed,
        too_deep=tuple(_too_deep(key, item, depth, new) for key, depth, item in items if new and depth > new.depth),
        kinds_refused=tuple(
            Unfit(key, item.id, f"{new.title} takes no {item.kind}") for key, _, item in items if new and item.kind not in new.kinds
        ),
        devices_lost=tuple(device for device in gets if new is None or not _shown(new, device)),
        folds="; ".join(_fold_words(after, new)) or None if new else None,
    )  # fmt: skip


def _too_deep(menu: str, item: AnyItem, depth: int, new: Location) -> Unfit:
    return Unfit(menu, item.id, f"stands at level {depth}, {new.title} shows {new.depth}")


def _shown(location: Location, device: Device) -> bool:
    return device in location.devices or any(device in fold.on for fold in location.fold)


def _fold_words(template: Template, location: Location) -> list[str]:
    found = []
    for fold in location.fold:
        target = template.location(fold.into)
        when = [f"on {', '.join(fold.on)}"] if fold.on else []
        when += [f"below {fold.below} px"] if fold.below is not None else []
        found.append(f"folds into {target.title if target else fold.into} {' and '.join(when)}, {fold.where}")
    return found


def switched(site: SiteDocument, after: Template, by_hand: Mapping[str, str | None] = {}) -> tuple[Placement, ...]:
    """The site's placements on the new template. Menus whose location has no place there hang nowhere afterwards."""
    goes = matches(site.template, after, by_hand)
    found: dict[tuple[str, Device], Placement] = {}
    for one in site.placements:
        to = goes[one.location][0]
        new = after.location(to) if to else None
        if new is None:
            continue
        # What hung on a device that the new place does not have goes to the next narrower one that it has.
        devices = [device for device in DEVICES if device in new.devices]
        fits = [device for device in devices if DEVICES.index(device) <= DEVICES.index(one.device)]
        device = one.device if one.device in devices else (fits[-1] if fits else devices[0])
        found.setdefault((new.key, device), Placement(location=new.key, device=device, menu=one.menu))
    return tuple(found.values())


def offers(template: Template) -> dict[str, int | list[str]]:
    """What a template offers, for comparing before one is chosen: places by shape, levels, devices."""
    return {
        "locations": len(template.locations),
        "shapes": sorted({one.shape for one in template.locations}),
        "deepest": max((one.depth for one in template.locations), default=0),
        "fixed": [one.title for one in template.locations if one.fixed],
        "phone": [one.title for one in template.locations if "phone" in one.devices],
        "unreadable": [one.title for one in template.locations if not one.readable],
    }
