"""What somebody wants to be told of, when, and of which sites."""

from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from typing import Annotated

from pydantic import Field, StringConstraints

from sign_shelf.core.basics.clock import clock_of, moment_of
from sign_shelf.core.basics.text import Key
from sign_shelf.core.model.menu import Model
from sign_shelf.core.model.site import Zone

TimeOfDay = Annotated[str, StringConstraints(pattern=r"^([01][0-9]|2[0-3]):[0-5][0-9]$")]


class OfSite(Model):
    """What is wished of one site; None: what is wished of all."""

    at_once: bool | None = None
    daily: bool | None = None


class Wishes(Model):
    at_once: bool = True
    """Whatever stops a release, when it is found."""
    daily: bool = True
    """Once a day what is new, what one has to see to, and what waits; nothing on a day on which there is nothing."""
    at: TimeOfDay = "07:30"
    zone: Zone = "UTC"
    sites: dict[Key, OfSite] = Field(default_factory=dict, max_length=10_000)
    """By their keys, where something else is wished."""

    def at_once_of(self, site: str) -> bool:
        wished = self.sites[site].at_once if site in self.sites else None
        return self.at_once if wished is None else wished

    def daily_of(self, site: str) -> bool:
        wished = self.sites[site].daily if site in self.sites else None
        return self.daily if wished is None else wished

    @property
    def any_daily(self) -> bool:
        return self.daily or any(one.daily for one in self.sites.values())


def usual(doer: bool, zones: Iterable[str]) -> Wishes:
    """What is wished before anybody says: all of it, by the clock that most sites go by, for who works on menus; nothing for who
    only looks."""
    every = sorted(zones)
    zone = max(every, key=every.count, default="UTC")
    return Wishes(at_once=doer, daily=doer, zone=zone)


def next_daily(wishes: Wishes, after: datetime) -> datetime | None:
    """The first moment after this one at which the clock shows the wished time; where the clock skips it on a day, the first
    that it shows instead; None where nothing is wished daily."""
    if not wishes.any_daily:
        return None
    clock = clock_of(wishes.zone)
    day = after.astimezone(UTC) - timedelta(days=1)
    while True:
        at = moment_of(clock.instant(f"{clock.now(day)[:10]}T{wishes.at}"))
        if at > after:
            return at
        day += timedelta(days=1)
