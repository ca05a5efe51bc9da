"""What the moments ahead bring at one site, worked out by living through them in order.

Each moment does here what it does when it comes (jobs/releasing.py, desk/sending.py): a change goes on top of what is live by
then, other changes move on with it, an end gives back what was live before. So what is foretold is what happens, as long as
nobody edits, approves or schedules anything meanwhile.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from sign_shelf.core.changes.conflict_words import state_met
from sign_shelf.core.changes.going_live import as_reviewed, given_back, target
from sign_shelf.core.changes.merging import Merged, Templates, merge_states
from sign_shelf.core.changes.schedule import Freeze, frozen
from sign_shelf.core.changes.state import Contents, same_contents

Outcome = Literal["goes", "returns", "meets", "another", "nothing", "frozen", "held", "unapproved"]
"""`meets`: it does not agree with what is live by then. `another`: it would do another thing than was approved. `nothing`: all of
it is live by then."""


@dataclass(frozen=True, kw_only=True)
class Due:
    """A change that has its moment at the site. `approved`: whether it is, as it is now; `held`: whether somebody holds it."""

    change: str
    goes: str
    ends: str | None
    base: Contents
    head: Contents
    approved: bool = True
    held: bool = False


@dataclass(frozen=True, kw_only=True)
class Lent:
    """A change that is live at the site until its end: what it made of what was live before."""

    change: str
    ends: str
    before: Contents
    made: Contents


@dataclass(frozen=True, kw_only=True)
class Event:
    """What a moment brings. `by` is the change that brought about what it meets, None where that is live already; `about` is
    what they do not agree on, in words. `live` is what the site shows from then on."""

    at: str
    change: str
    comes: Literal["goes", "ends"]
    outcome: Outcome
    by: str | None = None
    about: tuple[str, ...] = ()
    why: str = ""
    live: Contents


def ahead(
    live: Contents,
    due: Sequence[Due],
    lent: Sequence[Lent] = (),
    *,
    freezes: Iterable[Freeze] = (),
    templates: Templates,
) -> tuple[Event, ...]:
    """Every moment in order; at one moment ends come first, then changes by their names."""
    return tuple(_Queue(live, due, lent, tuple(freezes), templates).events())


class _Queue:
    def __init__(
        self,
        live: Contents,
        due: Sequence[Due],
        lent: Sequence[Lent],
        freezes: tuple[Freeze, ...],
        templates: Templates,
    ) -> None:
        self._live = live
        self._waiting = {one.change: one for one in due}
        self._lent = {one.change: one for one in lent}
        self._freezes = freezes
        self._templates = templates
        self._met_at: dict[str, str] = {}
        self._another: set[str] = set()

    def events(self) -> Iterator[Event]:
        while self._waiting or self._lent:
            ends = min(((one.ends, one.change) for one in self._lent.values()), default=None)
            goes = min(((one.goes, one.change) for one in self._waiting.values()), default=None)
            if goes is None or (ends is not None and ends[0] <= goes[0]):
                assert ends is not None
                yield self._comes_back(self._lent.pop(ends[1]))
            else:
                yield self._goes(self._waiting.pop(goes[1]))

    def _goes(self, one: Due) -> Event:
        event = Event(at=one.goes, change=one.change, comes="goes", outcome="goes", live=self._live)
        freeze = frozen(one.goes, self._freezes)
        if freeze is not None:
            return replace(event, outcome="frozen", why=freeze.why)
        if one.held:
            return replace(event, outcome="held")
        if one.change in self._another:
            return replace(event, outcome="another", by=self._met_at.get(one.change))
        if not one.approved:
            return replace(event, outcome="unapproved")
        merged = target(one.base, one.head, self._live, templates=self._templates)
        if merged.conflicts:
            about = self._about(merged, (self._live, one.head, one.base))
            return replace(event, outcome="meets", by=self._met_at.get(one.change), about=about)
        if not as_reviewed(one.base, one.head, self._live, merged.contents):
            return replace(event, outcome="another")
        if same_contents(merged.contents, self._live):
            return replace(event, outcome="nothing")
        if one.ends is not None:
            self._lent[one.change] = Lent(
                change=one.change, ends=one.ends, before=self._live, made=merged.contents
            )  # fmt: skip
        self._becomes(merged.contents, one.change)
        return replace(event, live=self._live)

    def _comes_back(self, one: Lent) -> Event:
        event = Event(at=one.ends, change=one.change, comes="ends", outcome="returns", live=self._live)
        freeze = frozen(one.ends, self._freezes)
        if freeze is not None:
            return replace(event, outcome="frozen", why=freeze.why)
        merged = given_back(one.made, self._live, one.before, templates=self._templates)
        if merged.conflicts:
            return replace(event, outcome="meets", about=self._about(merged, (self._live, one.made, one.before)))
        if same_contents(merged.contents, self._live):
            return replace(event, outcome="nothing")
        self._becomes(merged.contents, one.change)
        return replace(event, live=self._live)

    def _about(self, merged: Merged, sides: tuple[Contents, ...]) -> tuple[str, ...]:
        template = self._templates(sides[-1].arrangement.template)
        return tuple(state_met(one, sides, template).title for one in merged.conflicts)

    def _becomes(self, live: Contents, by: str) -> None:
        """What waits moves on with what is live, where it agrees with it."""
        self._live = live
        for one in list(self._waiting.values()):
            merged = merge_states(one.base, one.head, live, templates=self._templates)
            if merged.conflicts:
                self._met_at.setdefault(one.change, by)
                continue
            if not as_reviewed(one.base, one.head, live, merged.contents):
                self._another.add(one.change)
                self._met_at.setdefault(one.change, by)
            self._waiting[one.change] = replace(one, base=live, head=merged.contents)
