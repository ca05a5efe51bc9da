"""What keeps a release from being begun."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.basics.clock import instant_of
from sign_shelf.core.changes.beginning import COUNTS, LATE, Kind, Late, obstacle
from sign_shelf.core.changes.schedule import Freeze

NOON = datetime(2026, 12, 2, 12, tzinfo=UTC)
FREEZE = Freeze(instant_of(NOON - timedelta(hours=1)), instant_of(NOON + timedelta(hours=1)), "Fair")
OVER = Freeze(FREEZE.begins, instant_of(NOON), "Over")


@pytest.mark.parametrize(
    ("kind", "late_by", "freezes", "found"),
    [
        ("put live", None, [], None),
        ("put live", None, [FREEZE], FREEZE),
        ("put live", LATE, [], None),
        ("put live", LATE + timedelta(seconds=1), [], Late(NOON - LATE - timedelta(seconds=1))),
        ("end", LATE + timedelta(seconds=1), [FREEZE], FREEZE),
        ("end", timedelta(0), [OVER], None),
        ("undo", LATE * 2, [FREEZE], None),
    ],
)  # fmt: skip
def test_a_freeze_and_lateness_keep_a_release_back(
    kind: Kind, late_by: timedelta | None, freezes: list[Freeze], found: Freeze | Late | None
) -> None:
    moment = None if late_by is None else NOON - late_by
    assert obstacle(kind, NOON, moment=moment, freezes=freezes) == found


@given(st.sampled_from(sorted(COUNTS)), st.integers(-120, 120), st.integers(-120, 120), st.integers(1, 120))
def test_nothing_that_a_freeze_counts_for_begins_inside_one(kind: Kind, moment: int, begins: int, lasts: int) -> None:
    """Whatever the moment is, in minutes from noon."""
    start = NOON + timedelta(minutes=begins)
    ends = start + timedelta(minutes=lasts)
    freeze = Freeze(instant_of(start), instant_of(ends), "Fair")
    found = obstacle(kind, NOON, moment=NOON + timedelta(minutes=moment), freezes=[freeze])
    assert (found == freeze) == ("freeze" in COUNTS[kind] and start <= NOON < ends)
