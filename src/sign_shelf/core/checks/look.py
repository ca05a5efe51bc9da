"""Whether the looks of places can be read, tapped and told apart."""

from collections.abc import Iterator

from sign_shelf.core.basics.clock import said_day
from sign_shelf.core.checks.check import Check, Code, MenuCheck, SiteCheck, reads
from sign_shelf.core.checks.finding import Finding
from sign_shelf.core.checks.view import SiteView
from sign_shelf.core.look.legible import contrasts, tap_areas
from sign_shelf.core.model.menu import Labelled

CONTRAST = Code(
    "contrast-low", "warn", "text and ground of a state are too near each other (WCAG 2.2, 1.4.3)",
    "many people cannot read it", "colours farther apart",
)  # fmt: skip
TAP = Code(
    "tap-small", "warn", "entries are less than 24 px high (WCAG 2.2, 2.5.8)", "fingers hit the next one",
    "larger type, or more room",
)  # fmt: skip
STATES = Code(
    "states-alike", "note", "entries under the pointer, or those of the page one is on, look like all others",
    "visitors do not see where they are", "another colour, ground or line",
)  # fmt: skip


def _looks(view: SiteView) -> Iterator[Finding]:
    used = {location.key for key in view.menus for location in view.places(key)}
    for location in view.site.template.locations:
        look = location.look
        if location.key not in used:
            continue
        weak = [one for one in contrasts(look) if not one.passes]
        for pair in dict.fromkeys(one.pair for one in weak):
            mine = [one for one in weak if one.pair == pair]
            states = ", ".join(one.state for one in mine)
            lowest = min(mine, key=lambda one: one.ratio)
            says = f"{location.title}: {_PAIRS[pair]} has a contrast of {lowest.ratio:.1f} ({states}); {lowest.needed:g} is needed"
            yield CONTRAST.found(
                says, location=location.key, fix="Set the colours farther apart.", cause=f"look {pair}"
            )
        small = [one for one in tap_areas(look) if not one.passes and one.what == "entry"]
        for tapped in small:
            says = f"{location.title}: entries are {tapped.height:.1f} px high; 24 are needed"
            yield TAP.found(says, location=location.key, fix="Set larger type, or more room.")
        for state in ("hover", "current"):
            if look.colours(state) == look.colours("normal"):
                says = f"{location.title}: the {state} state looks as normal"
                yield STATES.found(
                    says, location=location.key, fix="Give it a colour or a line of its own.", cause=f"look {state}"
                )


_PAIRS = {"text": "text", "button": "a button", "below": "what opens"}

OVER = Code("badge-over", "note", "the badge's last day is over", "it is kept and no longer shown", "taking it away")
ENDLESS = Code("badge-endless", "note", "a badge has no last day", "what is new for ever is not new", "a last day")


def _badges(view: SiteView, menu: str) -> Iterator[Finding]:
    for line in view.lines(menu):
        badge = line.item.look.badge if isinstance(line.item, Labelled) else None
        if badge is None:
            continue
        name = view.called(line.item)
        if badge.until is None:
            yield ENDLESS.found(f"the badge of {name} never ends", line=line, fix="Give it a last day.")
        elif badge.until < view.today:
            says = f"the badge of {name} has not been shown since {said_day(badge.until)}"
            yield OVER.found(says, line=line, fix="Take the badge away.")


CHECKS: tuple[Check, ...] = (
    SiteCheck("look", reads("arrangement"), (CONTRAST, TAP, STATES), _looks),
    MenuCheck("look", reads("tree", "clock"), (OVER, ENDLESS), _badges),
)
