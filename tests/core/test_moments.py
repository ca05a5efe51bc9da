"""The instants at which a site may change by itself: none is missed, none is early, across clock changes."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.basics.clock import instant_of, moment_of
from sign_shelf.core.model.menu import DEVICES
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.visitors.moments import Moments
from tests.examples import examples
from tests.ruled_sites import NOW, outlined, sites

BEGIN = datetime(2027, 1, 25, tzinfo=UTC)
moments_in_spring = st.integers(0, 70 * 24 * 60).map(lambda minutes: BEGIN + timedelta(minutes=minutes))


@examples(30)
@given(sites(), moments_in_spring, st.integers(1, 60 * 24 * 9))
def test_the_next_moment_is_the_first_of_all(document: SiteDocument, moment: datetime, minutes: int) -> None:
    found = Moments(document)
    within = timedelta(minutes=minutes)
    every = found.between(moment, moment + within)
    coming = found.next(moment, within)
    assert (coming and instant_of(coming)) == (every[0][0] if every else None)
    assert [at for at, _ in every] == sorted({at for at, _ in every}), "in order, each once"
    assert all(instant_of(moment) < at <= instant_of(moment + within) for at, _ in every)
    assert all(causes for _, causes in every)


@examples(20)
@given(sites(), moments_in_spring, st.data())
def test_equal_states_are_equal_menus(document: SiteDocument, moment: datetime, data: st.DataObject) -> None:
    """Whatever the resolver says at two instants of one state, it says the same."""
    found, prepared = Moments(document), Prepared(document)
    other = moment + timedelta(minutes=data.draw(st.integers(1, 60 * 24 * 3)))
    one, two = instant_of(moment), instant_of(other)
    if not found.between(moment, other):
        assert found.state(one) == found.state(two)
    if found.state(one) != found.state(two):
        return
    for device in DEVICES:
        lens = Lens(device=device, language="en", at=NOW, facts={"signed_in": True, "roles": ("crew",)})
        for location in document.template.locations:
            first, second = (
                prepared.resolve(location.key, replace(lens, at=at))
                for at in (prepared.clock.reading_at(one), prepared.clock.reading_at(two))
            )
            assert first.items == second.items


@pytest.mark.parametrize(
    ("rule", "begin", "readings"),
    [
        ("hour >= 9 and hour < 17", "2027-02-01T06:00Z", ["2027-02-01T09:00", "2027-02-01T17:00", "2027-02-02T09:00"]),
        ("weekday is sunday", "2027-02-01T00:00Z", ["2027-02-07T00:00", "2027-02-08T00:00", "2027-02-14T00:00"]),
        ("month in (3, 4)", "2027-02-01T00:00Z", ["2027-03-01T00:00", "2027-05-01T00:00", "2028-03-01T00:00"]),
        # London's clock goes from 01:00 to 02:00 on 28 March: the hour of one is skipped, so nothing opens in it.
        ("hour is 1", "2027-03-27T00:30Z", ["2027-03-27T01:00", "2027-03-27T02:00", "2027-03-29T01:00"]),
        # On 31 October the hour of one comes twice, as one opening of two hours.
        ("hour is 1", "2027-10-30T22:30Z", ["2027-10-31T01:00", "2027-10-31T02:00", "2027-11-01T01:00"]),
        ("month is 12 and weekday is friday", "2027-12-30T00:00Z", ["2027-12-31T00:00", "2028-01-01T00:00"]),
    ],
)
def test_rules_that_ask_the_clock_open_and_close_by_it(rule: str, begin: str, readings: list[str]) -> None:
    prepared = Prepared(outlined(f"Desk -> /desk {{when {rule}}}"))
    found = Moments(prepared.site)
    at = datetime.fromisoformat(begin)
    shown = []
    while len(shown) < len(readings):
        coming = found.next(at, timedelta(days=400))
        assert coming is not None
        lens = Lens(device="desktop", language="en", at=prepared.clock.reading_at(instant_of(coming)))
        before = Lens(
            device="desktop", language="en", at=prepared.clock.reading_at(instant_of(coming - timedelta(minutes=1)))
        )
        if prepared.resolve("header", lens).items != prepared.resolve("header", before).items:
            shown.append(prepared.clock.reading_at(instant_of(coming)))
        at = coming
    assert shown == readings


def test_a_site_without_windows_never_changes_by_itself() -> None:
    found = Moments(outlined("Fares -> /fares {when signed_in}"))
    assert found.next(BEGIN, timedelta(days=4_000)) is None
    assert found.between(BEGIN, BEGIN + timedelta(days=4_000)) == []
    assert found.state(instant_of(BEGIN)) == found.state(instant_of(moment_of("2099-01-01T00:00")))
