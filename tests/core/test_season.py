"""Changes that come back every year: which day it is, and what is refused."""

import calendar
from datetime import datetime
from itertools import islice

import pytest
from dateutil.rrule import MO, YEARLY, rrule
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.changes.season import Season, checked, in_year, occurrences, said_yearly
from sign_shelf.core.errors import EditRefused

DAYS = st.datetimes(min_value=datetime(2026, 1, 1), max_value=datetime(2037, 12, 31)).map(
    lambda at: at.isoformat(timespec="minutes")
)
BY_DATE = Season(goes="date", ends="date", approved=True)


@given(DAYS, st.integers(0, 40))
def test_each_year_has_the_day_and_the_hour(reading: str, years: int) -> None:
    at = datetime.fromisoformat(reading)
    by_date = datetime.fromisoformat(in_year(reading, "date", years))
    assert (by_date.year, by_date.month, by_date.time()) == (at.year + years, at.month, at.time())
    assert by_date.day == min(at.day, calendar.monthrange(by_date.year, at.month)[1])
    # RFC 5545, whose BYDAY=2SU is the second Sunday, as dateutil counts it.
    start = datetime(at.year + years, at.month, 1, at.hour, at.minute)
    nth = (at.day - 1) // 7 + 1
    if nth < 5:
        (wanted,) = rrule(YEARLY, dtstart=start, count=1, bymonth=at.month, byweekday=MO.__class__(at.weekday(), nth))
        assert in_year(reading, "weekday", years) == wanted.isoformat(timespec="minutes")
    if at.day + 7 > calendar.monthrange(at.year, at.month)[1]:
        (wanted,) = rrule(YEARLY, dtstart=start, count=1, bymonth=at.month, byweekday=MO.__class__(at.weekday(), -1))
        assert in_year(reading, "last weekday", years) == wanted.isoformat(timespec="minutes")


def test_a_leap_day_comes_back_when_there_is_one() -> None:
    years = islice(occurrences("2028-02-29T04:00", "2028-03-05T04:00", BY_DATE), 5)
    assert [goes for _, goes, _ in years] == [
        "2028-02-29T04:00", "2029-02-28T04:00", "2030-02-28T04:00", "2031-02-28T04:00", "2032-02-29T04:00",
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("goes", "ends", "season", "says"),
    [
        ("2027-04-01T04:00", None, BY_DATE, "has an end in each"),
        ("2027-04-29T04:00", "2027-10-01T04:00", Season(goes="weekday", ends="date", approved=True), "fifth Thursday of April"),
        ("2027-04-01T04:00", "2027-10-01T04:00", Season(goes="last weekday", ends="date", approved=True), "not the last Thursday"),
        ("2027-04-01T04:00", "2028-04-02T04:00", BY_DATE, "In 2028 it would still be there"),
        # The first Sunday of April is the 4th in 2027, and after the 5th in others.
        ("2027-04-04T04:00", "2027-04-05T04:00", Season(goes="weekday", ends="date", approved=True), "In 2030 it would end before"),
    ],
)  # fmt: skip
def test_what_cannot_be_every_year_is_refused(goes: str, ends: str | None, season: Season, says: str) -> None:
    with pytest.raises(EditRefused, match=says):
        checked(goes, ends, season)


def test_it_is_said_as_people_say_it() -> None:
    season = Season(goes="weekday", ends="last weekday", approved=False)
    checked("2027-04-04T04:00", "2027-10-31T04:00", season)
    told = said_yearly("2027-04-04T04:00", "2027-10-31T04:00", season)
    assert told == "on the first Sunday of April until the last Sunday of October"
    winter = Season(goes="date", ends="date", approved=False)
    checked("2026-12-01T04:00", "2027-01-10T04:00", winter)
