"""When a change goes live and when it comes back: by each site's own clock, or at one instant; and when nothing may."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from sign_shelf.core.basics.clock import Clock, read_reading
from sign_shelf.core.basics.text import WallTime
from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.menu import Model


class ByTheClock(Model):
    """Readings of each site's own clock: "04:00 on 1 April" wherever the site is. One that comes twice carries its offset
    (core/basics/clock.py). `ends`: when what was live before comes back; None where it stays."""

    kind: Literal["clock"] = "clock"
    goes: WallTime
    ends: WallTime | None = None


class AtOnce(Model):
    """Instants, the same for all sites: readings of a clock that stands on UTC."""

    kind: Literal["instant"] = "instant"
    goes: WallTime
    ends: WallTime | None = None


Schedule = Annotated[ByTheClock | AtOnce, Field(discriminator="kind")]


@dataclass(frozen=True, slots=True)
class Moments:
    """Instants, in minutes of UTC."""

    goes: str
    ends: str | None


def moments(schedule: ByTheClock | AtOnce, clock: Clock) -> Moments:
    """What a schedule means at a site with that clock. Raises ClockRefused for a reading that the clock never shows, or shows twice
    and that does not say which is meant; EditRefused where the end is not after the beginning."""
    goes = _instant(schedule, clock, schedule.goes, "goes")
    ends = _instant(schedule, clock, schedule.ends, "ends") if schedule.ends is not None else None
    if ends is not None and ends <= goes:
        raise EditRefused(
            "It would come back before it goes live.",
            where="ends",
            remedy="Let it end after it has begun, or not at all.",
        )
    return Moments(goes, ends)


def _instant(schedule: ByTheClock | AtOnce, clock: Clock, reading: str, where: str) -> str:
    if schedule.kind == "instant":
        return read_reading(reading, where=where)[:16]
    plain = reading[:16]
    # An offset says which of two is meant, at sites whose clocks show the reading twice; it moves it at no other.
    return clock.instant(clock.checked(reading if clock.reading(plain).comes == "twice" else plain, where=where))


@dataclass(frozen=True, slots=True)
class Freeze:
    """From an instant, up to another, nothing goes live and nothing comes back."""

    begins: str
    ends: str
    why: str


def frozen(at: str, freezes: Iterable[Freeze]) -> Freeze | None:
    """The freeze that the instant is in; of several, the one that ends last."""
    within = [one for one in freezes if one.begins <= at < one.ends]
    return max(within, key=lambda one: one.ends, default=None)
