"""When entries show: windows that are over or stand at times that the clock does not show, badges that are out of date."""

from collections.abc import Iterator

from sign_shelf.core.basics.clock import clock_of, said_day, said_moment
from sign_shelf.core.checks.finding import Finding, View
from sign_shelf.core.model.menu import Labelled, walk
from sign_shelf.core.outline.called import title


def check_time(view: View) -> Iterator[Finding]:
    clock = clock_of(view.site.site.zone)
    language = view.site.site.languages[0]
    for _, item in walk(view.document.items):
        name = title(item, language)
        if item.until and item.until[:10] < view.today:
            says = f"{name} has not been shown since {said_moment(item.until)}"
            yield view.found("window-over", "note", says, item=item.id, fix="Remove it, or give it another end.")
        for word, at in (("starts", item.from_), ("ends", item.until)):
            told = clock.reading(at) if at else None
            if told is not None and told.comes == "never":
                says = f"{name} {word} at {said_moment(at)}, which the clock of {clock.zone} never shows"
                yield view.found(
                    "time-never",
                    "warn",
                    says,
                    item=item.id,
                    fix=f"{said_moment(told.offers[1])} is the first after it.",
                )
            elif told is not None and told.comes == "twice":
                says = f"{name} {word} at {said_moment(at)}, which the clock of {clock.zone} shows twice"
                yield view.found("time-twice", "warn", says, item=item.id, fix="Say the first time or the second.")
        badge = item.look.badge if isinstance(item, Labelled) else None
        if badge is not None and badge.until is not None and badge.until < view.today:
            says = f"the badge of {name} has not been shown since {said_day(badge.until)}"
            yield view.found("badge-over", "note", says, item=item.id, fix="Take the badge away.")
