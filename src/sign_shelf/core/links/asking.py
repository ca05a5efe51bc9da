"""What to ask of an address, one question at a time, until there is a verdict. Nothing is asked here: questions are
yielded, and answers sent in.

Redirects as browsers follow them (Fetch Standard, 4.4 "HTTP-redirect fetch": at most 20), a fragment is handed on unless
the next address has one (RFC 9110, 10.2.2), parts are found as the HTML Standard's "indicated part of the document" is.
"""

from collections.abc import Generator
from dataclasses import dataclass
from typing import Literal
from urllib.parse import unquote, urldefrag

from sign_shelf.core.basics.address import followed
from sign_shelf.core.links.verdict import Hop, LinkFinding, Verdict

MOST_HOPS = 20
LONGEST_WAIT_S = 600.0
"""However long a host asks to be left alone, it is asked again then."""


@dataclass(frozen=True)
class Ask:
    """`parts`: what the page has must be told, if it is one of HTML."""

    address: str
    method: Literal["HEAD", "GET"]
    parts: bool = False


@dataclass(frozen=True)
class Pause:
    seconds: float


@dataclass(frozen=True)
class Came:
    """`location` is the header's value; `parts` None where they were not asked for, or there is no HTML to have any."""

    status: int
    location: str | None = None
    wait_s: float | None = None
    """What `Retry-After` says, in seconds."""
    parts: frozenset[str] | None = None


@dataclass(frozen=True)
class Failed:
    """No answer; `says` a sentence."""

    kind: Literal["slow", "no-host", "tls", "refused", "too-big", "not-asked"]
    says: str


Answer = Came | Failed
Asking = Generator[Ask | Pause, Answer | None, LinkFinding]
AskingOnce = Generator[Ask | Pause, Answer | None, tuple[LinkFinding, float | None]]

_LEADS_ON = frozenset({301, 302, 303, 307, 308})
_FOR_GOOD = frozenset({301, 308})
PASSING: frozenset[Verdict] = frozenset({"error", "slow", "no-host", "tls", "refused"})
"""What may be otherwise in a moment: it is asked twice before it counts."""


def decide(address: str, *, pause_s: float) -> Asking:
    """The verdict for an absolute http(s) address. An `Ask` wants its answer sent in, a `Pause` nothing. What may pass is
    asked a second time after `pause_s` seconds, or after as many as the host asked for."""
    first, wait_s = yield from once(address)
    if first.verdict not in PASSING:
        return first
    yield Pause(max(pause_s, min(wait_s or 0.0, LONGEST_WAIT_S)))
    second, _ = yield from once(address)
    return second


def once(address: str) -> AskingOnce:
    """What is found of it the first time that it is asked, and for how many seconds its host wants to be left alone."""
    at, fragment = urldefrag(address)
    hops: list[Hop] = []
    for_good = True
    seen = {at}

    def found(verdict: Verdict, says: str, wait_s: float | None = None) -> tuple[LinkFinding, float | None]:
        return LinkFinding(verdict, tuple(hops), says), wait_s

    while True:
        part = part_named(fragment)
        answer = yield from _asked(at, part is not None)
        hops.append(Hop(at, answer.status if isinstance(answer, Came) else None))
        if isinstance(answer, Failed):
            return found(answer.kind, answer.says)
        if answer.status not in _LEADS_ON or answer.location is None:
            return found(*_arrived(answer, hops, part, for_good), answer.wait_s)
        for_good = for_good and answer.status in _FOR_GOOD
        goal = followed(answer.location, at)
        if goal is None:
            return found("not-asked", f'It leads on to "{answer.location[:200]}", which is no http or https address.')
        at, next_fragment = urldefrag(goal)
        fragment = next_fragment or fragment
        if at in seen:
            return found("loop", f"It leads on in a circle, back to {at}.")
        if len(hops) > MOST_HOPS:
            return found("loop", f"It leads on more than {MOST_HOPS} times, and so to no page.")
        seen.add(at)


def _asked(address: str, parts: bool) -> Generator[Ask | Pause, Answer | None, Answer]:
    """HEAD, and GET where that says nothing: many servers answer it with a refusal, or not at all."""
    if not parts:
        answer = yield Ask(address, "HEAD")
        assert answer is not None
        says_something = 200 <= answer.status < 400 if isinstance(answer, Came) else answer.kind != "refused"
        if says_something:
            return answer
    answer = yield Ask(address, "GET", parts)
    assert answer is not None
    return answer


def _arrived(answer: Came, hops: list[Hop], part: str | None, for_good: bool) -> tuple[Verdict, str]:
    at, status = hops[-1].address, answer.status
    by = f" at {at}" if len(hops) > 1 else ""
    if status in {404, 410}:
        return "gone", f"There is no such page{by} ({status})."
    if not 200 <= status < 300:
        return "error", f"The answer{by} is {status}."
    if part is not None and answer.parts is not None and not {part, unquote(part)} & answer.parts:
        return "missing-part", f"The page{by} has no part “{unquote(part)}”."
    if len(hops) == 1:
        return "ok", f"It is there ({status})."
    lasting = "for good" if for_good else "for now"
    if len(hops) == 2:
        return "redirect", f"It leads on {lasting}, to {at}."
    return "chain", f"It leads on {len(hops) - 1} times, {lasting}, to {at}."


def part_named(fragment: str) -> str | None:
    """The part that a fragment names; None where any page has it: the top, words to be found (URL Fragment Text
    Directives), or an address that a script reads."""
    plain = fragment.split(":~:")[0]
    if not plain or plain.lower() == "top" or plain.startswith(("/", "!")):
        return None
    return plain
