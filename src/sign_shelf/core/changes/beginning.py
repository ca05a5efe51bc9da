"""What keeps a release from being begun: one rule for who asks, for the clock, and for the worker that takes it up."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from sign_shelf.core.basics.clock import instant_of
from sign_shelf.core.changes.schedule import Freeze, frozen

Kind = Literal["put live", "end", "undo"]
Condition = Literal["freeze", "late"]
COUNTS: Mapping[Kind, frozenset[Condition]] = {
    "put live": frozenset({"freeze", "late"}),
    "end": frozenset({"freeze", "late"}),
    # Whoever takes something back does so now, whatever else holds.
    "undo": frozenset(),
}
LATE = timedelta(minutes=15)
"""Nothing goes live by itself later than this after its moment: whoever was to look at it then has gone."""


@dataclass(frozen=True, slots=True)
class Late:
    """Its moment passed too long ago."""

    moment: datetime


def obstacle(kind: Kind, now: datetime, *, moment: datetime | None, freezes: Iterable[Freeze]) -> Freeze | Late | None:
    """Why a release of this kind cannot be begun now. `moment` is when it was to begin by itself; None where a person asks."""
    counts = COUNTS[kind]
    freeze = frozen(instant_of(now), freezes) if "freeze" in counts else None
    if freeze is not None:
        return freeze
    if "late" in counts and moment is not None and now - moment > LATE:
        return Late(moment)
    return None
