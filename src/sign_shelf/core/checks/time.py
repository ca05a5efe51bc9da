"""When entries show: windows that are over or stand at times that the clock does not show."""

from collections.abc import Iterator

from sign_shelf.core.basics.clock import clock_of, said_moment
from sign_shelf.core.checks.check import Check, Code, MenuCheck, reads
from sign_shelf.core.checks.finding import Finding
from sign_shelf.core.checks.view import SiteView

_CLOCK = "it opens otherwise than was meant"
NEVER = Code(
    "time-never", "warn", "a window begins or ends at a time that the site's clock skips", _CLOCK, "another time"
)
TWICE = Code("time-twice", "warn", "the same at a time that the clock shows twice", _CLOCK, "saying which of the two")
OVER = Code("window-over", "note", "the window has ended", "the entry shows to nobody", "removing it, or another end")


def _windows(view: SiteView, menu: str) -> Iterator[Finding]:
    clock = clock_of(view.site.site.zone)
    for line in view.lines(menu):
        item = line.item
        if item.from_ is None and item.until is None:
            continue
        name = view.called(item)
        if item.until and item.until[:10] < view.today:
            says = f"{name} has not been shown since {said_moment(item.until)}"
            yield OVER.found(says, line=line, fix="Remove it, or give it another end.")
        for word, at in (("starts", item.from_), ("ends", item.until)):
            told = clock.reading(at) if at else None
            if told is not None and told.comes == "never":
                says = f"{name} {word} at {said_moment(at)}, which the clock of {clock.zone} never shows"
                fix = f"{said_moment(told.offers[1])} is the first after it."
                yield NEVER.found(says, line=line, fix=fix, cause=f"window {word}")
            elif told is not None and told.comes == "twice":
                says = f"{name} {word} at {said_moment(at)}, which the clock of {clock.zone} shows twice"
                yield TWICE.found(says, line=line, fix="Say the first time or the second.", cause=f"window {word}")


CHECKS: tuple[Check, ...] = (MenuCheck("time", reads("tree", "arrangement", "clock"), (NEVER, TWICE, OVER), _windows),)
