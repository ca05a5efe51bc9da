"""What is found of an address."""

from dataclasses import dataclass
from typing import Literal

Verdict = Literal[
    "ok", "redirect", "chain", "loop", "gone", "missing-part", "error", "slow", "no-host", "tls", "refused", "too-big",
    "not-asked",
]  # fmt: skip
"""`redirect` leads on once, `chain` more often; `gone` is 404 or 410; `error` is any other status of 400 and more, or one
that no browser shows a page for; `refused` is no connection, or one that was hung up."""

GOOD: frozenset[Verdict] = frozenset({"ok", "redirect", "chain", "not-asked"})
"""Those that nobody has to see to at once."""


@dataclass(frozen=True)
class Hop:
    """An address that was asked, and its answer; None where there was none."""

    address: str
    status: int | None


@dataclass(frozen=True)
class LinkFinding:
    """`hops` in the order in which they were asked, the last of them included; `says` is a sentence."""

    verdict: Verdict
    hops: tuple[Hop, ...]
    says: str

    @property
    def status(self) -> int | None:
        """Of the last hop."""
        return self.hops[-1].status if self.hops else None
