"""The life of a change: one table of where it stands, what is done, by whom, and where it then stands."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from sign_shelf.core.errors import Clash

Life = Literal[
    "draft", "in review", "approved", "scheduled", "going live", "live",
    "withdrawn", "held", "missed", "failed", "undone", "ended",
]  # fmt: skip
Deed = Literal[
    "edit", "ask for review", "approve", "decline", "schedule", "put live", "went live", "fail",
    "withdraw", "hold", "let go", "miss", "take up", "undo", "end", "become another",
]  # fmt: skip
Who = Literal["editor", "reviewer", "releaser", "nobody"]
"""Whose part it is: who may edit, review or put live; what happens by itself is nobody's."""

OPEN: tuple[Life, ...] = ("draft", "in review", "approved", "scheduled", "held", "missed", "failed")
"""In these a change is still to go live: its parts move on with what is live."""


@dataclass(frozen=True)
class Step:
    to: Life
    who: Who


_LIFE: Mapping[tuple[Life, Deed], Step] = {
    ("draft", "edit"): Step("draft", "editor"),
    ("draft", "ask for review"): Step("in review", "editor"),
    # A moment may be set before it is approved: with it, it is scheduled. Where it comes before, it is missed.
    ("draft", "schedule"): Step("draft", "releaser"),
    ("draft", "miss"): Step("missed", "nobody"),
    ("draft", "put live"): Step("going live", "releaser"),
    ("draft", "withdraw"): Step("withdrawn", "editor"),
    ("in review", "edit"): Step("draft", "editor"),
    ("in review", "approve"): Step("approved", "reviewer"),
    ("in review", "decline"): Step("draft", "reviewer"),
    ("in review", "schedule"): Step("in review", "releaser"),
    ("in review", "miss"): Step("missed", "nobody"),
    ("in review", "withdraw"): Step("withdrawn", "editor"),
    # What is live moved on, and with it what would go live: it is not what was approved.
    ("approved", "become another"): Step("in review", "nobody"),
    ("scheduled", "become another"): Step("in review", "nobody"),
    ("held", "become another"): Step("in review", "nobody"),
    ("missed", "become another"): Step("in review", "nobody"),
    ("approved", "edit"): Step("draft", "editor"),
    ("approved", "schedule"): Step("scheduled", "releaser"),
    ("approved", "put live"): Step("going live", "releaser"),
    ("approved", "withdraw"): Step("withdrawn", "editor"),
    ("scheduled", "edit"): Step("draft", "editor"),
    ("scheduled", "schedule"): Step("scheduled", "releaser"),
    ("scheduled", "hold"): Step("held", "releaser"),
    ("scheduled", "miss"): Step("missed", "nobody"),
    ("scheduled", "put live"): Step("going live", "releaser"),
    ("scheduled", "withdraw"): Step("withdrawn", "editor"),
    ("held", "let go"): Step("scheduled", "releaser"),
    ("held", "schedule"): Step("scheduled", "releaser"),
    ("held", "miss"): Step("missed", "nobody"),
    ("held", "put live"): Step("going live", "releaser"),
    ("held", "edit"): Step("draft", "editor"),
    ("held", "withdraw"): Step("withdrawn", "editor"),
    ("missed", "schedule"): Step("scheduled", "releaser"),
    ("missed", "ask for review"): Step("in review", "editor"),
    ("missed", "put live"): Step("going live", "releaser"),
    ("missed", "edit"): Step("draft", "editor"),
    ("missed", "withdraw"): Step("withdrawn", "editor"),
    ("going live", "went live"): Step("live", "nobody"),
    ("going live", "fail"): Step("failed", "nobody"),
    ("failed", "edit"): Step("draft", "editor"),
    ("failed", "take up"): Step("draft", "editor"),
    ("failed", "put live"): Step("going live", "releaser"),
    ("failed", "schedule"): Step("scheduled", "releaser"),
    ("failed", "miss"): Step("missed", "nobody"),
    ("failed", "withdraw"): Step("withdrawn", "editor"),
    ("live", "undo"): Step("undone", "releaser"),
    ("live", "end"): Step("ended", "nobody"),
}


FINAL: tuple[Life, ...] = ("withdrawn", "undone", "ended")
"""Nothing leads out of these."""


def reached(life: Life, *, live: Sequence[bool], over: Sequence[bool], by: Literal["undo", "end"]) -> Life:
    """Where a change stands, by whether it went live, and is over, at each of its sites. `by`: how it ended last."""
    if life in FINAL or not live:
        return life
    if life != "live":
        return "live" if all(live) else life
    return _LIFE["live", by].to if all(over) else life


def deeds(life: Life) -> dict[Deed, Step]:
    """What can be done with a change that stands there."""
    return {deed: step for (at, deed), step in _LIFE.items() if at == life}


def step(life: Life, deed: Deed, *, title: str, where: str) -> Step:
    """Raises Clash, with what can be done, where that cannot."""
    found = _LIFE.get((life, deed))
    if found is None:
        by_people = [name for name, one in deeds(life).items() if one.who != "nobody"]
        can = ", ".join(by_people) or "nothing any more"
        raise Clash(f"{title} is {life}: it cannot {deed}.", where=where, remedy=f"What can be done with it: {can}.")
    return found
