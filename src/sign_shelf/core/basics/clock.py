"""A site's wall clock: from its readings to instants and back, with the hours that a clock change skips or repeats.

A reading is `2027-04-01T04:00`. One that comes twice means the first time, unless it carries its offset from UTC, as RFC
3339 writes it: `2027-10-31T01:30+00:00`. An instant is the reading of a clock that stands on UTC; instants sort by time.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta, timezone
from functools import lru_cache
from typing import Literal
from zoneinfo import ZoneInfo

from pydantic import TypeAdapter, ValidationError

from sign_shelf.core.basics.text import WallTime
from sign_shelf.core.errors import ClockRefused

_READING: TypeAdapter[str] = TypeAdapter(WallTime)
_FORM = "%Y-%m-%dT%H:%M"
_MINUTE = timedelta(minutes=1)
_DAY = timedelta(days=1)


@dataclass(frozen=True, slots=True)
class Reading:
    """How often the clock shows it. `offers` are readings that are meant by it, or, of one that is skipped, the last
    before and the first after."""

    comes: Literal["once", "never", "twice"]
    offers: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class ClockChange:
    instant: str
    before: str
    after: str
    """What the clock showed up to then, and what it shows from then on."""


class Clock:
    def __init__(self, zone: str) -> None:
        self.zone = zone
        self._zone = ZoneInfo(zone)
        self.instant = lru_cache(50_000)(self._instant)

    def now(self, moment: datetime) -> str:
        """The reading at the moment, with its offset where it comes the second time."""
        local = moment.astimezone(self._zone)
        return local.strftime(_FORM) + (_offset(local) if local.fold else "")

    def reading_at(self, instant: str) -> str:
        return self.now(moment_of(instant))

    def _instant(self, reading: str) -> str:
        """The instant at which the clock shows the reading; of one that is skipped, the first that is later."""
        naive, offset = _parsed(reading)
        if offset is not None:
            return instant_of(naive.replace(tzinfo=timezone(offset)))
        first, second = (naive.replace(tzinfo=self._zone, fold=fold).astimezone(UTC) for fold in (0, 1))
        return instant_of(self._change_between(second, first) if first > second else first)

    def reading(self, reading: str) -> Reading:
        """Whether the clock shows it, and what was probably meant where it does not, or not once."""
        naive, offset = _parsed(reading)
        shown = [naive.replace(tzinfo=self._zone, fold=fold) for fold in (0, 1)]
        first, second = (one.astimezone(UTC) for one in shown)
        if first > second:
            change = self._change_between(second, first)
            return Reading("never", (self.now(change - _MINUTE), self.now(change)))
        if first == second:
            return Reading("once", (naive.strftime(_FORM),))
        both = tuple(naive.strftime(_FORM) + _offset(one) for one in shown)
        return Reading("once", (reading,)) if offset is not None and reading in both else Reading("twice", both)

    def checked(self, text: str, *, where: str = "time") -> str:
        """The reading. Raises ClockRefused for what is none, and for one that the clock never shows, or shows twice."""
        reading = read_reading(text, where=where)
        found = self.reading(reading)
        if found.comes == "never":
            last, next_ = found.offers
            raise ClockRefused(
                f"{reading} does not exist in {self.zone}: the clock goes from {last} to {next_}", where=where,
                remedy=f"{next_} is the first that does.", comes="never", offers=found.offers,
            )  # fmt: skip
        if found.comes == "twice":
            raise ClockRefused(
                f"{reading} comes twice in {self.zone}", where=where,
                remedy=f"Write {found.offers[0]} for the first time, {found.offers[1]} for the second.",
                comes="twice", offers=found.offers,
            )  # fmt: skip
        return reading

    def changes(self, first: datetime, last: datetime) -> Iterator[ClockChange]:
        """Clock changes after the first moment, up to the last."""
        day = first
        while day < last:
            following = min(day + _DAY, last)
            if day.astimezone(self._zone).utcoffset() != following.astimezone(self._zone).utcoffset():
                at = self._change_between(day.astimezone(UTC), following.astimezone(UTC))
                before = (at - _MINUTE).astimezone(self._zone) + _MINUTE
                yield ClockChange(instant_of(at), before.strftime(_FORM), self.now(at))
            day = following

    def _change_between(self, low: datetime, high: datetime) -> datetime:
        """The first whole minute of UTC after `low` at which the clock's offset is that of `high`."""
        wanted = high.astimezone(self._zone).utcoffset()
        low = low.replace(second=0, microsecond=0)
        while high - low > _MINUTE:
            middle = low + (high - low) // 2
            middle = middle.replace(second=0, microsecond=0)
            if middle.astimezone(self._zone).utcoffset() == wanted:
                high = middle
            else:
                low = middle
        return high.replace(second=0, microsecond=0)


def read_reading(text: str, *, where: str) -> str:
    """The text as a reading, of whatever clock. Raises ClockRefused for what is none."""
    try:
        reading = _READING.validate_python(text)
    except ValidationError:
        reading = ""
    if not reading:
        raise ClockRefused(
            f'"{text[:40]}" is no date and time', where=where, remedy="Write it like 2027-04-01T04:00.",
            comes="never", offers=(),
        )  # fmt: skip
    return reading


@lru_cache(64)
def clock_of(zone: str) -> Clock:
    return Clock(zone)


def instant_of(moment: datetime) -> str:
    return moment.astimezone(UTC).strftime(_FORM)


def moment_of(instant: str) -> datetime:
    return datetime.fromisoformat(instant).replace(tzinfo=UTC)


def _parsed(reading: str) -> tuple[datetime, timedelta | None]:
    naive = datetime.fromisoformat(reading[:16])
    if len(reading) == 16:
        return naive, None
    sign = -1 if reading[16] == "-" else 1
    return naive, sign * timedelta(hours=int(reading[17:19]), minutes=int(reading[20:22]))


def _offset(local: datetime) -> str:
    text = local.strftime("%z")
    return f"{text[:3]}:{text[3:5]}"


@lru_cache(10_000)
def said_moment(reading: str) -> str:
    """A reading as people say it: "2027-02-12T04:00" is 12 Feb 2027 04:00."""
    return f"{said_day(reading[:10])} {reading[11:16]}"


def said_day(day: str) -> str:
    """A day as people say it: "2027-02-12" is 12 Feb 2027."""
    return f"{date.fromisoformat(day):%-d %b %Y}"
