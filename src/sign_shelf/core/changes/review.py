"""Approvals of a change. One is given to a content name (core/changes/state.py): any edit makes another name, and it is void."""

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from typing import Literal

Verdict = Literal["approved", "declined"]


@dataclass(frozen=True, kw_only=True)
class Given:
    """What somebody said of a change as it was under that content name; in the order in which they said it."""

    person: str
    content: str
    verdict: Verdict


def approved_by(given: Iterable[Given], content: str, authors: Collection[str]) -> tuple[str, ...]:
    """Who approved exactly this, in the order in which they did. Whoever wrote any of it does not count, and of each person what
    they said last."""
    last = {one.person: one.verdict for one in given if one.content == content and one.person not in authors}
    return tuple(person for person, verdict in last.items() if verdict == "approved")


def wanted(policies: Iterable[int]) -> int:
    """How many approvals a change of these sites needs: as many as the strictest of them, and never none."""
    return max((1, *policies))
