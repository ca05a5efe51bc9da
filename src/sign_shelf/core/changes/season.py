"""Seasons: changes that come back every year, by the day of the month or by the weekday in it."""

import calendar
from collections.abc import Iterator
from datetime import datetime
from typing import Literal

from dateutil.relativedelta import relativedelta, weekday

from sign_shelf.core.basics.text import WallTime
from sign_shelf.core.errors import EditRefused
from sign_shelf.core.model.menu import Model

Day = Literal["date", "weekday", "last weekday"]
"""The same day of the month (28 February for the 29th where there is none); the same weekday of the month, counted from its
beginning ("first Sunday of April"); or the last such weekday of it."""
_LOOKED_AHEAD = 28
"""Years after which weekdays and leap years fall together again, within a century."""
_NUMBERS = ("first", "second", "third", "fourth")


class Season(Model):
    """How a change comes back every year. `approved`: as long as it does what was approved, it is asked for no more."""

    goes: Day
    ends: Day
    approved: bool


def in_year(reading: WallTime, day: Day, years: int) -> str:
    """What a clock shows so many years later. Raises EditRefused where the reading's own day is not such a one."""
    at = datetime.fromisoformat(reading[:16])
    if day == "date":
        return _said(at + relativedelta(years=years))
    if day == "last weekday":
        if at.day + 7 <= calendar.monthrange(at.year, at.month)[1]:
            raise EditRefused(f"{at.date()} is not the last {at:%A} of {at:%B}.", where="season",
                              remedy=f"Count it from the month's beginning, as the {_NUMBERS[(at.day - 1) // 7]}.")  # fmt: skip
        return _said(at + relativedelta(years=years, day=31, weekday=weekday(at.weekday(), -1)))
    if at.day > 28:
        raise EditRefused(f"{at.date()} is the fifth {at:%A} of {at:%B}: not every year has one.", where="season",
                          remedy="Take the last one.")  # fmt: skip
    return _said(at + relativedelta(years=years, day=1, weekday=weekday(at.weekday(), (at.day - 1) // 7 + 1)))


def _said(at: datetime) -> str:
    return at.isoformat(timespec="minutes")


def occurrences(goes: WallTime, ends: WallTime, season: Season, *, after: int = 0) -> Iterator[tuple[int, str, str]]:
    """Endlessly: so many years after the first, when it goes live and when what was before comes back."""
    years = after
    while True:
        yield years, in_year(goes, season.goes, years), in_year(ends, season.ends, years)
        years += 1


def checked(goes: WallTime, ends: WallTime | None, season: Season) -> None:
    """Raises EditRefused where it has no end, where in some year it would end before it begins, or still be there when it comes
    again."""
    if ends is None:
        raise EditRefused("What comes back every year has an end in each.", where="ends",
                          remedy="Say when what was before comes back.")  # fmt: skip
    before = ""
    for years, begins, over in occurrences(goes, ends, season):
        if over <= begins or begins <= before:
            raise EditRefused(
                f"In {begins[:4]} it would {'end before it begins' if over <= begins else 'still be there when it comes again'}.",
                where="season", remedy="Choose another end.",
            )  # fmt: skip
        if years >= _LOOKED_AHEAD:
            return
        before = over


def said_yearly(goes: WallTime, ends: WallTime, season: Season) -> str:
    """As people say it: "on the first Sunday of April until 1 October"."""
    return f"on {_day(goes, season.goes)} until {_day(ends, season.ends)}"


def _day(reading: WallTime, day: Day) -> str:
    at = datetime.fromisoformat(reading[:16])
    if day == "date":
        return f"{at.day} {at:%B}"
    which = "last" if day == "last weekday" else _NUMBERS[min((at.day - 1) // 7, 3)]
    return f"the {which} {at:%A} of {at:%B}"
