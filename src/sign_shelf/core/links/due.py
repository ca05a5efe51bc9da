"""What stands of an address from one time that it is asked to the next, and when that is.

One failure is not a verdict: what may pass is asked again some minutes later, and until then what stood before stands. So an
address that answers every other time is not found and lost in turns.
"""

from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from hashlib import sha256

from sign_shelf.core.links.asking import LONGEST_WAIT_S, PASSING
from sign_shelf.core.links.verdict import GOOD, LinkFinding

AGAIN = timedelta(minutes=3)
"""Between the first failure and the time that counts."""
WELL = timedelta(hours=24)
NOT_ASKED = timedelta(days=7)
FAILING = timedelta(hours=1)
"""Twice as long each time, up to a day."""


@dataclass(frozen=True)
class Known:
    """`since` when `found` stands; `fails` how many times in a row it was found to fail; `suspect`: it failed the last time,
    which does not count yet."""

    found: LinkFinding | None = None
    since: datetime | None = None
    suspect: bool = False
    fails: int = 0


def after(
    known: Known, address: str, found: LinkFinding, wait_s: float | None, now: datetime
) -> tuple[Known, datetime]:
    """What stands once this was found, and when to ask again. `wait_s` is what the host asked for."""
    wait = timedelta(seconds=min(wait_s or 0.0, LONGEST_WAIT_S))
    stood = known.found.verdict if known.found is not None else None
    if found.verdict in PASSING and not known.suspect and stood != found.verdict:
        return replace(known, suspect=True), now + max(AGAIN, wait)
    fails = 0 if found.verdict in GOOD else known.fails + 1
    since = known.since if stood == found.verdict and known.since is not None else now
    if found.verdict == "not-asked":
        pause = NOT_ASKED
    else:
        pause = min(FAILING * 2 ** min(fails - 1, 10), WELL) if fails else WELL
    return Known(found, since, fails=fails), now + max(pause, wait) * _spread(address)


def _spread(address: str) -> float:
    """Between nine tenths and one: what was first asked at once is not asked at once for ever."""
    return 0.9 + sha256(address.encode()).digest()[0] / 2_550
