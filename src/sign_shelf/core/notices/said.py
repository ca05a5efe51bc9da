"""What a notice says, as text for people and as an object for programs."""

from collections.abc import Callable, Iterator, Sequence
from datetime import datetime
from typing import Annotated, Literal, TypeVar
from urllib.parse import quote

from pydantic import Field, JsonValue, TypeAdapter

from sign_shelf.core.basics.clock import said_day, said_moment
from sign_shelf.core.model.menu import Model

MOST = 20
"""Lines of one kind; how many more there are is said."""
Line = TypeVar("Line")


class Cause(Model):
    """Something that was found, wherever it is found. `back`: how often it was gone and came back."""

    code: str
    cause: str
    severity: Literal["stop", "warn", "note"]
    says: str
    sites: tuple[str, ...]
    """Their names."""
    entries: int
    back: int = 0


class Given(Cause):
    """What somebody is to see to. `late`: its day is over."""

    due: str | None = None
    late: bool = False


class Owed(Model):
    """An entry that leads nowhere yet. `fits`: the path of a page that it could lead to."""

    site: str
    site_key: str
    menu: str
    number: str
    label: str
    note: str = ""
    due: str | None = None
    late: bool = False
    fits: str | None = None


class Waiting(Model):
    """What waits for somebody at a site: so many new pages, a reading that asks whether it is believed, and a change, by its title, that
    somebody is to carry out by hand."""

    site: str
    site_key: str
    pages: int = 0
    doubt: str = ""
    by_hand: str = ""


class ToReview(Model):
    """A change that waits for the person's approval. `change` is its id."""

    change: str
    title: str
    sites: tuple[str, ...]


class AtOnce(Model):
    """What stops releases, found since the last notice."""

    type: Literal["findings.stop"] = "findings.stop"
    causes: tuple[Cause, ...]


class Stays(Model):
    """A change that did not go live, or come back, when its moment came; `ahead` where its moment is still to come, and what is known
    by now stands in its way. `at` is what the site's clock shows then. A change of several `sites` is told of once, by the first."""

    type: Literal["change.stays"] = "change.stays"
    change: str
    title: str
    site: str
    sites: int = 1
    comes: Literal["goes", "ends"]
    at: str
    why: str
    ahead: bool = False


class Daily(Model):
    """`gone` counts the causes that are found no more, `late` what others owe at the sites and is late."""

    type: Literal["daily"] = "daily"
    day: str
    fresh: tuple[Cause, ...] = ()
    gone: int = 0
    given: tuple[Given, ...] = ()
    owed: tuple[Owed, ...] = ()
    late: int = 0
    waiting: tuple[Waiting, ...] = ()
    to_review: tuple[ToReview, ...] = ()

    @property
    def is_empty(self) -> bool:
        return not (self.gone or self.wants_a_hand)

    @property
    def wants_a_hand(self) -> bool:
        return bool(self.fresh or self.given or self.owed or self.late or self.waiting or self.to_review)


class Trial(Model):
    """Asked for by its receiver, to see whether it arrives."""

    type: Literal["trial"] = "trial"
    by: str


Notice = AtOnce | Stays | Daily | Trial
any_notice: TypeAdapter[Notice] = TypeAdapter(Annotated[Notice, Field(discriminator="type")])


def payload(said: Notice, at: datetime) -> dict[str, JsonValue]:
    """The body of a webhook, in the form that Standard Webhooks proposes: its type, when it was made, and what it tells."""
    told = said.model_dump(mode="json", exclude={"type"})
    return {"type": said.type, "timestamp": at.isoformat(), "data": {"says": subject(said)} | told}


def subject(said: Notice) -> str:
    """In one line."""
    match said:
        case AtOnce(causes=(one,)):
            return f"Stops a release: {_short(one.says)}"
        case AtOnce():
            return f"{len(said.causes)} things that stop a release"
        case Stays(ahead=ahead, comes=comes):
            does = {"goes": "go live", "ends": "come back"}[comes]
            where = said.site if said.sites == 1 else f"{said.site}, one of its {said.sites} sites"
            return f"{said.title} {'will' if ahead else 'did'} not {does} at {where}, {said_moment(said.at)}"
        case Daily():
            return f"{said_day(said.day)}: {', '.join(_counted(said))}"
        case Trial():
            return "A trial: this address gets notices"


def _short(words: str, most: int = 120) -> str:
    return words if len(words) <= most else f"{words[: most - 1].rstrip()}…"


def _counted(said: Daily) -> Iterator[str]:
    if said.to_review:
        yield f"{len(said.to_review)} change{_s(said.to_review)} to approve"
    if said.fresh:
        yield f"{len(said.fresh)} new finding{_s(said.fresh)}"
    if said.given:
        yield f"{len(said.given)} given to you"
    if said.owed:
        yield f"{len(said.owed)} placeholder{_s(said.owed)} of yours"
    if said.late:
        yield f"{said.late} late"
    if said.waiting:
        yield f"{len(said.waiting)} site{_s(said.waiting)} with something waiting"
    if said.gone and not said.wants_a_hand:
        yield f"{said.gone} gone"


def _s(many: Sequence[object]) -> str:
    return "" if len(many) == 1 else "s"


def text(said: Notice, *, to: str, shelf: str) -> str:
    """As a letter of plain lines. `shelf` is where people reach us, with a / at its end, or empty."""
    parts = [f"{to},"]
    match said:
        case AtOnce():
            parts.append("found just now, and stops releases until it is mended or accepted:")
            parts += _lines(said.causes, lambda one: _cause(one, shelf))
        case Stays():
            link = f"\n  {shelf}changes?change={said.change}" if shelf else ""
            parts.append(f"{subject(said)}:\n  {said.why}{link}")
            if not said.ahead:
                parts.append("It does not go by itself any more: give it another moment, or put it live.")
        case Daily():
            parts += _daily(said, shelf)
        case Trial():
            parts.append(f"{said.by} asked for this, to see whether it arrives. It did.")
    parts.append(f"What you are told of, and when, is yours to say{f': {shelf}you' if shelf else ', under your name'}.")
    return "\n\n".join(parts) + "\n"


def _daily(said: Daily, shelf: str) -> Iterator[str]:
    if said.to_review:
        yield "Waiting for your approval:"
        yield from _lines(said.to_review, lambda one: _to_review(one, shelf))
    if said.given:
        yield "Given to you:"
        yield from _lines(said.given, lambda one: _cause(one, shelf) + _due(one.due, one.late))
    if said.owed:
        yield "Placeholders that you owe something for:"
        yield from _lines(said.owed, lambda one: _owed(one, shelf))
    if said.late:
        more = f"{'Another' if said.late == 1 else said.late} placeholder{'s' if said.late > 1 else ''} of others"
        yield f"{more} {'are' if said.late > 1 else 'is'} late{f': {shelf}placeholders' if shelf else '.'}"
    if said.fresh:
        yield "New findings:"
        yield from _lines(said.fresh, lambda one: _cause(one, shelf))
    if said.gone:
        yield f"{said.gone} {'is' if said.gone == 1 else 'are'} found no more."
    for one in said.waiting:
        if one.by_hand:
            sync = f"\n  {shelf}sync?site={one.site_key}" if shelf else ""
            yield f"{one.site}: {one.by_hand} waits for somebody who carries it out there{sync}"
        at = f"\n  {shelf}sites/{one.site_key}/pages" if shelf else ""
        if one.doubt:
            yield f"{one.site}: {one.doubt}{at}"
        elif one.pages:
            yield f"{one.site}: {one.pages} new page{'s' if one.pages > 1 else ''} to be placed{at}"


def _lines(many: Sequence[Line], say: Callable[[Line], str]) -> Iterator[str]:
    for one in many[:MOST]:
        yield "- " + say(one)
    if len(many) > MOST:
        yield f"and {len(many) - MOST} more."


def _cause(one: Cause, shelf: str) -> str:
    where = ", ".join(one.sites[:4]) + (f" and {len(one.sites) - 4} more" if len(one.sites) > 4 else "")
    entries = f", {one.entries} entr{'y' if one.entries == 1 else 'ies'}" if one.entries else ""
    back = ", came back" if one.back else ""
    link = f"\n  {shelf}findings?code={quote(one.code)}&cause={quote(one.cause, safe='')}" if shelf else ""
    return f"{one.says}\n  {where}{entries}{back}{link}"


def _to_review(one: ToReview, shelf: str) -> str:
    link = f"\n  {shelf}changes?change={one.change}" if shelf else ""
    return f"{one.title}\n  {', '.join(one.sites)}{link}"


def _due(due: str | None, late: bool) -> str:
    return f"\n  {'was' if late else 'is'} due {said_day(due)}" if due else ""


def _owed(one: Owed, shelf: str) -> str:
    note = f": {one.note}" if one.note else ""
    fits = f"\n  {one.fits} seems to fit" if one.fits else ""
    link = f"\n  {shelf}placeholders" if shelf else ""
    return f"{one.label}{note}\n  {one.site}, {one.menu}, {one.number}{_due(one.due, one.late)}{fits}{link}"
