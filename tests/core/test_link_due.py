"""What stands of an address from one time that it is asked to the next."""

from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.links import GOOD, Hop, Known, LinkFinding, Verdict, after
from sign_shelf.core.links.asking import PASSING
from sign_shelf.core.links.due import AGAIN, FAILING, NOT_ASKED, WELL

NOON = datetime(2027, 2, 12, 12, tzinfo=UTC)
AT = "https://client.example/"
VERDICTS: tuple[Verdict, ...] = ("ok", "redirect", "gone", "missing-part", "error", "slow", "no-host", "not-asked")


def found(verdict: Verdict) -> LinkFinding:
    return LinkFinding(verdict, (Hop(AT, 200),), "So it is.")


def asked(*verdicts: Verdict) -> list[tuple[Verdict | None, timedelta]]:
    """What stands after each, and how long until it is asked again."""
    known, now, told = Known(), NOON, []
    for verdict in verdicts:
        known, due = after(known, AT, found(verdict), None, now)
        told.append((known.found.verdict if known.found else None, due - now))
        now = due
    return told


def test_one_failure_is_asked_again_in_minutes_and_a_second_counts() -> None:
    told = asked("ok", "error", "error", "error", "ok")
    assert [stands for stands, _ in told] == ["ok", "ok", "error", "error", "ok"]
    assert told[1][1] == AGAIN
    assert FAILING * 0.9 <= told[2][1] <= FAILING
    assert FAILING * 1.8 <= told[3][1] <= FAILING * 2
    assert asked("error")[0] == (None, AGAIN), "nothing stands of what was never seen to answer"
    assert asked("gone")[0][0] == "gone", "what says itself that it is gone is"
    assert asked("not-asked")[0][1] >= NOT_ASKED * 0.9


def test_a_host_is_left_alone_as_long_as_it_asks_for_up_to_ten_minutes() -> None:
    for wait_s, pause in ((400, timedelta(seconds=400)), (86_400, timedelta(minutes=10)), (1, AGAIN)):
        _, due = after(Known(found("ok"), NOON), AT, found("error"), wait_s, NOON)
        assert due - NOON == pause


@given(st.lists(st.sampled_from(VERDICTS), min_size=1, max_size=12))
def test_it_is_asked_again_within_a_week_and_since_says_when_it_began(verdicts: list[Verdict]) -> None:
    known, now = Known(), NOON
    stood: tuple[Verdict | None, datetime | None] = (None, None)
    for at, verdict in enumerate(verdicts):
        known, due = after(known, AT, found(verdict), None, now)
        stands = known.found.verdict if known.found else None
        assert timedelta(0) < due - now <= (NOT_ASKED if verdict == "not-asked" else WELL)
        if stands == stood[0]:
            assert known.since == stood[1]
        else:
            assert known.since == now
            assert stands == verdict
            # A new verdict that may pass was found twice in a row.
            assert verdict not in PASSING or verdicts[at - 1] in PASSING
        assert known.suspect == (stands != verdict)
        assert (known.fails == 0) == (stands is None or stands in GOOD or (known.suspect and stands in GOOD))
        stood, now = (stands, known.since), due


@given(st.lists(st.sampled_from(["error", "slow", "no-host"]), min_size=1, max_size=6))
def test_what_fails_every_other_time_never_stands_as_failing(failures: list[Verdict]) -> None:
    turns: list[Verdict] = ["ok"]
    for one in failures:
        turns += [one, "ok"]
    assert {stands for stands, _ in asked(*turns)} == {"ok"}
