"""A site's clock: laws over zones and moments, and the hours that clock changes skip or repeat."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.basics.clock import clock_of, instant_of, moment_of, read_reading
from sign_shelf.core.errors import ClockRefused

ZONES = [
    "Europe/London",
    "Europe/Lisbon",
    "America/Halifax",
    "America/St_Johns",
    "Pacific/Auckland",
    "Pacific/Chatham",
    "Australia/Lord_Howe",
    "Asia/Kathmandu",
    "UTC",
]
zones = st.sampled_from(ZONES)
moments = st.datetimes(datetime(2020, 1, 1), datetime(2036, 1, 1)).map(
    lambda one: one.replace(tzinfo=UTC, second=0, microsecond=0)
)


def near_changes(zone: str) -> list[datetime]:
    """Moments around every change of three years."""
    clock = clock_of(zone)
    changes = clock.changes(datetime(2026, 1, 1, tzinfo=UTC), datetime(2029, 1, 1, tzinfo=UTC))
    return [moment_of(one.instant) + timedelta(minutes=at) for one in changes for at in range(-130, 131, 5)]


@given(zones, moments)
def test_what_the_clock_shows_at_an_instant_leads_back_to_it(zone: str, moment: datetime) -> None:
    clock = clock_of(zone)
    assert clock.instant(clock.now(moment)) == instant_of(moment)
    assert clock.now(moment)[:16] == moment.astimezone(ZoneInfo(zone)).strftime("%Y-%m-%dT%H:%M")


@pytest.mark.parametrize("zone", ZONES)
def test_readings_lead_back_around_every_clock_change(zone: str) -> None:
    clock = clock_of(zone)
    for moment in near_changes(zone):
        reading = clock.now(moment)
        assert clock.instant(reading) == instant_of(moment)
        assert clock.reading_at(instant_of(moment)) == reading
        told = clock.reading(reading)
        # A reading without an offset may come twice; then it is the first that is meant.
        assert told.comes in {"once", "twice"}
        if told.comes == "twice":
            assert clock.instant(told.offers[0]) == instant_of(moment)
            assert clock.instant(told.offers[1]) > clock.instant(told.offers[0])
        if len(reading) > 16:
            assert told.comes == "once", "with its offset it says which"


@given(zones, moments, st.integers(-3_000, 3_000))
def test_later_instants_sort_later(zone: str, moment: datetime, minutes: int) -> None:
    other = moment + timedelta(minutes=minutes)
    assert (instant_of(moment) < instant_of(other)) == (moment < other)
    assert moment_of(instant_of(moment)) == moment
    assert clock_of(zone).reading_at(instant_of(other)) == clock_of(zone).now(other)


@pytest.mark.parametrize("zone", ZONES)
def test_a_skipped_reading_means_the_first_after_it(zone: str) -> None:
    """Every minute between what the clock shows before a change and after it."""
    clock = clock_of(zone)
    skipped = 0
    for change in clock.changes(datetime(2026, 1, 1, tzinfo=UTC), datetime(2029, 1, 1, tzinfo=UTC)):
        before = datetime.fromisoformat(change.before[:16])
        after = datetime.fromisoformat(change.after[:16])
        for minute in range(int((after - before).total_seconds() // 60)):
            reading = (before + timedelta(minutes=minute)).strftime("%Y-%m-%dT%H:%M")
            told = clock.reading(reading)
            assert told.comes == "never"
            assert clock.instant(reading) == change.instant
            assert told.offers[1] == clock.reading_at(change.instant)
            with pytest.raises(ClockRefused) as refused:
                clock.checked(reading)
            assert told.offers[1] in (refused.value.remedy or "")
            assert refused.value.extras() == {"comes": "never", "offers": list(told.offers)}
            skipped += 1
    assert skipped == {"UTC": 0, "Asia/Kathmandu": 0, "Australia/Lord_Howe": 90}.get(zone, 180)


@pytest.mark.parametrize("zone", ZONES)
def test_changes_are_found_where_the_offset_changes_and_nowhere_else(zone: str) -> None:
    clock = clock_of(zone)
    first, last = datetime(2027, 1, 1, tzinfo=UTC), datetime(2028, 1, 1, tzinfo=UTC)
    found = [one.instant for one in clock.changes(first, last)]
    offsets = [
        (first + timedelta(minutes=15 * at)).astimezone(ZoneInfo(zone)).utcoffset() for at in range(4 * 24 * 365)
    ]
    changed = [
        instant_of(first + timedelta(minutes=15 * at))
        for at in range(1, len(offsets))
        if offsets[at] != offsets[at - 1]
    ]
    assert found == changed
    assert list(clock.changes(last, first)) == []


@pytest.mark.parametrize(
    "text",
    ["", "now", "2027-02-30T10:00", "2027-04-01", "2027-04-01 04:00", "2027-04-01T04:00:00", "2027-04-01T24:00",
     "2027-04-01T04:00Z", "2027-04-01T04:00+15:00", "0001-01-01T00:00", "9999-12-31T23:59", "١٢٣٤-٠١-٠١T٠٠:٠٠", "x" * 900],
)  # fmt: skip
def test_what_is_no_reading_is_refused_with_how_to_write_one(text: str) -> None:
    with pytest.raises(ClockRefused) as refused:
        read_reading(text, where="at")
    assert (refused.value.where, "2027-04-01T04:00" in (refused.value.remedy or "")) == ("at", True)
    assert len(str(refused.value)) < 160
