"""What a notice says, when the daily one is due, and when one that did not arrive is tried again."""

import itertools
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.errors import InvalidDocument
from sign_shelf.core.model.documents import read
from sign_shelf.core.notices import (
    AtOnce,
    Cause,
    Daily,
    Given,
    Owed,
    Stays,
    ToReview,
    Trial,
    Waiting,
    Wishes,
    any_notice,
    next_daily,
    next_try,
    payload,
    subject,
    text,
    usual,
)
from sign_shelf.core.notices.said import MOST
from sign_shelf.core.notices.tries import PAUSES

ZONES = ["UTC", "Europe/Amsterdam", "Pacific/Chatham", "America/St_Johns", "Australia/Lord_Howe", "Pacific/Apia"]
MOMENTS = st.datetimes(datetime(2026, 1, 1), datetime(2027, 12, 31), timezones=st.just(UTC))
TIMES = st.builds(lambda hour, minute: f"{hour:02}:{minute:02}", st.integers(0, 23), st.integers(0, 59))
NOON = datetime(2026, 11, 27, 12, 0, tzinfo=UTC)
MISSED = Stays(change="c1", title="Summer", site="Brackwater", comes="goes", at="2027-04-01T04:00", why="it was held")
SHELF = "https://shelf.example/"


@given(MOMENTS, TIMES, st.sampled_from(ZONES))
def test_the_daily_notice_is_due_once_on_every_day_of_its_clock(after: datetime, at: str, zone: str) -> None:
    wishes = Wishes(at=at, zone=zone)
    days, moment = [], after
    for _ in range(4):
        due = next_daily(wishes, moment)
        assert due is not None
        assert due > moment
        local = due.astimezone(ZoneInfo(zone))
        there = local.replace(tzinfo=None)
        naive = datetime.fromisoformat(f"{there:%Y-%m-%d}T{at}")
        round_trip = (
            naive.replace(tzinfo=ZoneInfo(zone)).astimezone(UTC).astimezone(ZoneInfo(zone)).replace(tzinfo=None)
        )
        # A time that the clock skips on that day is the first that it shows then.
        assert there == naive or (round_trip != naive and timedelta() < there - naive <= timedelta(hours=1))
        days.append(there.date())
        moment = due
    assert [(b - a).days for a, b in itertools.pairwise(days)] == [1, 1, 1]


def test_a_time_in_the_skipped_hour_is_the_first_after_it_and_one_that_comes_twice_is_told_once() -> None:
    wishes = Wishes(at="02:30", zone="Europe/Amsterdam")
    assert next_daily(wishes, datetime(2027, 3, 28, 0, 0, tzinfo=UTC)) == datetime(2027, 3, 28, 1, 0, tzinfo=UTC)
    first = next_daily(wishes, datetime(2026, 10, 24, 23, 0, tzinfo=UTC))
    assert first == datetime(2026, 10, 25, 0, 30, tzinfo=UTC)
    assert next_daily(wishes, first) == datetime(2026, 10, 26, 1, 30, tzinfo=UTC)


def test_what_is_wished_of_one_site_counts_there_and_nowhere_else() -> None:
    wishes = read(Wishes, {"daily": False, "sites": {"alder": {"at_once": False}, "brant": {"daily": True}}})
    assert [wishes.at_once_of(site) for site in ("alder", "brant", "crake")] == [False, True, True]
    assert [wishes.daily_of(site) for site in ("alder", "brant", "crake")] == [False, True, False]
    assert next_daily(wishes, NOON) == datetime(2026, 11, 28, 7, 30, tzinfo=UTC), "wished of one site"
    assert next_daily(Wishes(daily=False), NOON) is None
    assert read(Wishes, wishes.to_json()) == wishes
    for wrong in (
        {"at": "24:00"},
        {"at": "7:30"},
        {"zone": "Europe/Nowhere"},
        {"sites": {"No Key": {}}},
        {"weekly": True},
    ):
        with pytest.raises(InvalidDocument):
            read(Wishes, wrong)


def test_before_anybody_says_who_works_on_menus_is_told_by_the_clock_of_most_sites() -> None:
    zones = ["Europe/London", "Europe/Amsterdam", "Europe/Amsterdam"]
    assert usual(True, zones) == Wishes(zone="Europe/Amsterdam")
    assert usual(False, zones) == Wishes(at_once=False, daily=False, zone="Europe/Amsterdam")
    assert usual(True, []).zone == "UTC"


def test_it_is_tried_again_ever_later_and_given_up_within_a_day() -> None:
    at, tries = NOON, 0
    while (due := next_try(tries + 1, at)) is not None:
        assert due - at == PAUSES[tries]
        at, tries = due, tries + 1
    assert (tries, at - NOON < timedelta(days=1)) == (len(PAUSES), True)
    assert next_try(1, NOON, wait_s=90) == NOON + timedelta(seconds=90), "the other side asked to be left alone"
    assert next_try(2, NOON, wait_s=90) == NOON + PAUSES[1]
    assert next_try(1, NOON, wait_s=1e9) == NOON + timedelta(days=1)


GONE = Cause(code="link-gone", cause="address https://a.example/x?y=1", severity="stop", says="a.example/x?y=1: There is no such page (404)",
             sites=("Alder", "Brant", "Crake", "Dunlin", "Egret"), entries=14)  # fmt: skip
BACK = Cause(code="link-slow", cause="address https://b.example/", severity="warn", says="b.example/: Slow", sites=("Alder",),
             entries=1, back=2)  # fmt: skip
WHOLE = Daily(
    day="2026-11-27", fresh=(GONE, BACK), gone=1, late=2,
    given=(Given(**BACK.model_dump(), due="2026-11-20", late=True),),
    owed=(Owed(site="Alder", site_key="alder", menu="Main", number="2.1", label="Winter fares", note="text from the office",
               due="2026-12-01", fits="/winter-fares"),),
    waiting=(Waiting(site="Brant", site_key="brant", pages=3, by_hand="Spring opening"), Waiting(site="Crake", site_key="crake", doubt="40 of 50 pages are gone")),
    to_review=(ToReview(change="c1", title="Summer timetable", sites=("Alder", "Brant")),),
)  # fmt: skip


def test_a_letter_says_what_is_where_and_leads_there() -> None:
    told = text(AtOnce(causes=(GONE,)), to="Ines Calder", shelf=SHELF)
    assert told.startswith("Ines Calder,\n\n")
    assert (
        "- a.example/x?y=1: There is no such page (404)\n  Alder, Brant, Crake, Dunlin and 1 more, 14 entries\n" in told
    )
    assert "https://shelf.example/findings?code=link-gone&cause=address%20https%3A%2F%2Fa.example%2Fx%3Fy%3D1" in told
    assert text(AtOnce(causes=(GONE,)), to="Ines", shelf="").count("http") == 0, "nowhere to lead to"
    whole = text(WHOLE, to="Ines Calder", shelf=SHELF)
    for words in (
        "Waiting for your approval:\n\n- Summer timetable\n  Alder, Brant\n  https://shelf.example/changes?change=c1",
        "Given to you:", "was due 20 Nov 2026", "Winter fares: text from the office\n  Alder, Main, 2.1\n  is due 1 Dec 2026",
        "/winter-fares seems to fit", "2 placeholders of others are late", "New findings:", "1 is found no more.",
        "Brant: 3 new pages to be placed\n  https://shelf.example/sites/brant/pages", "Crake: 40 of 50 pages are gone", "came back",
        "Brant: Spring opening waits for somebody who carries it out there\n  https://shelf.example/sync?site=brant",
    ):  # fmt: skip
        assert words in whole
    late = text(MISSED, to="Ines", shelf=SHELF)
    assert f"it was held\n  {SHELF}changes?change=c1" in late
    assert "It does not go by itself any more" in late
    assert "1 Dec" not in text(Trial(by="Ines"), to="Ines", shelf=SHELF)


def test_long_lists_are_cut_and_say_so() -> None:
    many = tuple(GONE.model_copy(update={"cause": f"address https://a.example/{n}"}) for n in range(MOST + 7))
    told = text(AtOnce(causes=many), to="Ines", shelf="")
    assert (told.count("\n- "), "and 7 more." in told) == (MOST, True)


@pytest.mark.parametrize(
    ("said", "line"),
    [
        (MISSED, "Summer did not go live at Brackwater, 1 Apr 2027 04:00"),
        (MISSED.model_copy(update={"ahead": True, "comes": "ends"}), "Summer will not come back at Brackwater, 1 Apr 2027 04:00"),
        (AtOnce(causes=(GONE,)), "Stops a release: a.example/x?y=1: There is no such page (404)"),
        (AtOnce(causes=(GONE, BACK)), "2 things that stop a release"),
        (WHOLE, "27 Nov 2026: 1 change to approve, 2 new findings, 1 given to you, 1 placeholder of yours, 2 late, 2 sites with something waiting"),
        (Daily(day="2026-11-27", gone=3), "27 Nov 2026: 3 gone"),
        (AtOnce(causes=(GONE.model_copy(update={"says": "word " * 100}),)), "Stops a release: " + ("word " * 24)[:119].rstrip() + "…"),
    ],
)  # fmt: skip
def test_its_subject_is_one_line(said: AtOnce | Daily, line: str) -> None:
    assert subject(said) == line


def test_what_is_kept_and_sent_says_of_itself_what_it_is() -> None:
    for said in (AtOnce(causes=(GONE,)), WHOLE, Trial(by="Ines")):
        assert any_notice.validate_python(said.model_dump(mode="json")) == said
        sent = payload(said, NOON)
        assert (sent["type"], sent["timestamp"]) == (said.type, "2026-11-27T12:00:00+00:00")
        data = sent["data"]
        assert isinstance(data, dict)
        assert data["says"] == subject(said)
    assert Daily(day="2026-11-27").is_empty
    assert not WHOLE.is_empty
