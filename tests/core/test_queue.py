"""Moments ahead: what a schedule means on each clock, and that what is foretold is what comes of living through it."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.changes.foretold import foretold
from sign_shelf.core.changes.going_live import as_reviewed, given_back, target
from sign_shelf.core.changes.queue import Due, Event, Lent, ahead
from sign_shelf.core.changes.schedule import AtOnce, ByTheClock, Freeze, frozen, moments
from sign_shelf.core.changes.state import Contents, same_contents
from sign_shelf.core.errors import ClockRefused, EditRefused
from sign_shelf.core.model.menu import menu_document
from tests.core.test_merge import heading
from tests.core.test_states import after, contents, merged, state, templates
from tests.examples import ON_STATES

LONDON, BERLIN, TOKYO = clock_of("Europe/London"), clock_of("Europe/Berlin"), clock_of("Asia/Tokyo")


def test_four_o_clock_is_four_o_clock_wherever_the_site_is() -> None:
    by_the_clock = ByTheClock(goes="2027-04-01T04:00", ends="2027-09-30T04:00")
    assert moments(by_the_clock, LONDON).goes == "2027-04-01T03:00"
    assert moments(by_the_clock, BERLIN).goes == "2027-04-01T02:00"
    assert moments(by_the_clock, TOKYO).ends == "2027-09-29T19:00"
    at_once = AtOnce(goes="2027-04-01T03:00")
    assert {moments(at_once, clock).goes for clock in (LONDON, BERLIN, TOKYO)} == {"2027-04-01T03:00"}
    with pytest.raises(EditRefused, match="before it goes live"):
        moments(ByTheClock(goes="2027-04-01T04:00", ends="2027-04-01T04:00"), LONDON)


def test_an_hour_that_is_skipped_is_refused_and_one_that_comes_twice_is_asked() -> None:
    with pytest.raises(ClockRefused) as skipped:
        moments(ByTheClock(goes="2027-03-28T02:30"), BERLIN)
    assert (skipped.value.comes, skipped.value.offers) == ("never", ("2027-03-28T01:59", "2027-03-28T03:00"))
    assert moments(ByTheClock(goes="2027-03-28T02:30"), TOKYO).goes == "2027-03-27T17:30"
    with pytest.raises(ClockRefused) as twice:
        moments(ByTheClock(goes="2027-10-31T02:30"), BERLIN)
    assert twice.value.comes == "twice"
    first, second = (moments(ByTheClock(goes=one), BERLIN).goes for one in twice.value.offers)
    assert (first, second) == ("2027-10-31T00:30", "2027-10-31T01:30")
    # Which of the two is meant says nothing to a clock that shows it once.
    assert moments(ByTheClock(goes=twice.value.offers[1]), TOKYO).goes == "2027-10-30T17:30"


def test_of_several_freezes_the_one_that_ends_last_is_told() -> None:
    freezes = [Freeze("2027-01-01T00:00", "2027-01-05T00:00", "a"), Freeze("2027-01-02T00:00", "2027-01-09T00:00", "b")]
    assert frozen("2027-01-03T00:00", freezes) is freezes[1]
    assert frozen("2027-01-09T00:00", freezes) is None


def due(change: str, goes: int, base: Contents, head: Contents, ends: int | None = None, **more: bool) -> Due:
    return Due(change=change, goes=_day(goes), ends=_day(ends) if ends else None, base=base, head=head, **more)


def _day(day: int) -> str:
    return f"2027-01-{day:02}T04:00"


def words(events: tuple[Event, ...]) -> list[str]:
    titles = {"summer": "Summer", "autumn": "Autumn", "gone": "Gone", "words": "Words"}
    return [f"{one.change} {one.comes} {one.at[8:10]}: {foretold(one, titles) or one.outcome}" for one in events]


def test_each_goes_on_top_of_what_is_live_by_then_and_comes_back_without_it() -> None:
    live = state(main="a b")
    summer = due("summer", 3, live, state(main="a b c"), ends=8)
    autumn = due("autumn", 5, live, state(main="d a b"))
    events = ahead(live, [autumn, summer], templates=templates)
    assert words(events) == ["summer goes 03: goes", "autumn goes 05: goes", "summer ends 08: returns"]
    assert [" ".join(item.id for item in one.live.menus["main"].items) for one in events] == [
        "a b c",
        "d a b c",
        "d a b",
    ]
    held = ahead(live, [autumn, summer], freezes=[Freeze(_day(4), _day(6), "fair week")], templates=templates)
    assert words(held)[1] == "autumn goes 05: nothing goes live then: fair week"
    waits = ahead(live, [replace(summer, approved=False)], templates=templates)
    assert words(waits) == ["summer goes 03: it is missed where it is not approved by then"]
    held_back = ahead(live, [replace(summer, held=True)], templates=templates)
    assert words(held_back) == ["summer goes 03: it is held: it is missed where nobody lets it go by then"]
    twice = ahead(live, [summer, due("autumn", 5, live, state(main="a b c"))], templates=templates)
    assert words(twice)[1] == "autumn goes 05: it will not go: after Summer it would do another thing than was approved"


def test_what_will_not_go_names_the_change_that_stands_in_its_way() -> None:
    live = state(main="a b")
    named = replace(
        live,
        menus={"main": menu_document("main", (heading("a").model_copy(update={"label": {"en": "A!"}}), heading("b")))},
    )
    gone = due("gone", 4, live, state(main="b"))
    events = ahead(live, [due("words", 3, live, named), gone], templates=templates)
    assert (
        words(events)[1]
        == "gone goes 04: it will not go: Words goes live before it, and they do not agree on a, in main"
    )
    # What came since builds on what is to go.
    later = due("gone", 4, state(main="a b c"), named)
    lent = Lent(change="summer", ends=_day(6), before=live, made=state(main="a b c"))
    renamed = replace(
        state(main="a b c"),
        menus={
            "main": menu_document(
                "main", (heading("a"), heading("b"), heading("c").model_copy(update={"label": {"en": "C!"}}))
            )
        },
    )
    back = ahead(state(main="a b c"), [replace(later, head=renamed)], [lent], templates=templates)
    assert words(back) == [
        "gone goes 04: goes",
        "summer ends 06: it cannot come back by itself: what goes live meanwhile builds on it (c, in main)",
    ]


@st.composite
def queues(draw: st.DrawFn) -> tuple[Contents, list[Due]]:
    live = draw(contents())
    moments_ = st.integers(1, 9)
    some = []
    for name in ("p", "q", "r")[: draw(st.integers(1, 3))]:
        goes = draw(moments_)
        ends = draw(st.none() | st.integers(goes + 1, 12))
        some.append(due(name, goes, live, draw(after(live, name)), ends))
    return live, some


@given(queues())
@ON_STATES
def test_what_is_foretold_is_what_comes_of_it_moment_by_moment(queue: tuple[Contents, list[Due]]) -> None:
    """Whoever asks again after each moment is told the rest of what they were told at first."""
    live, waiting = queue
    events = ahead(live, waiting, templates=templates)
    lent: list[Lent] = []
    for at, event in enumerate(events):
        again = ahead(live, waiting, lent, templates=templates)
        assert [(one.change, one.at, one.outcome) for one in again] == [
            (one.change, one.at, one.outcome) for one in events[at:]
        ] or any(one.outcome == "another" for one in events)
        before = live
        if event.comes == "goes":
            (one,) = [one for one in waiting if one.change == event.change]
            waiting = [other for other in waiting if other is not one]
            if event.outcome == "goes":
                gone = target(one.base, one.head, live, templates=templates)
                assert gone.conflicts == ()
                assert as_reviewed(one.base, one.head, live, gone.contents), "what goes live is what was reviewed"
                live = gone.contents
                if one.ends is not None:
                    lent.append(Lent(change=one.change, ends=one.ends, before=before, made=live))
        else:
            (past,) = [one for one in lent if one.change == event.change]
            lent.remove(past)
            if event.outcome == "returns":
                live = given_back(past.made, live, past.before, templates=templates).contents
        assert same_contents(live, event.live)
        waiting = [_moved_on(one, live) for one in waiting]


def _moved_on(one: Due, live: Contents) -> Due:
    found = merged(one.base, one.head, live)
    return one if found.conflicts else replace(one, base=live, head=found.contents)


@given(contents().flatmap(lambda live: st.tuples(st.just(live), after(live, "o"))))
@ON_STATES
def test_a_return_with_nothing_in_between_is_as_before(states: tuple[Contents, Contents]) -> None:
    live, head = states
    events = ahead(live, [due("summer", 1, live, head, ends=2)], templates=templates)
    if events[0].outcome == "goes":
        assert events[1].outcome == "returns"
        assert same_contents(events[1].live, live)
