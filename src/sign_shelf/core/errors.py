"""The tree of refusals. Every one says what, where, why, and what would work.

Refusal
├── InvalidDocument     a document does not follow its format; carries every problem, each with a path
├── OutlineRefused      an outline cannot be read; carries line and column
├── EditRefused         a tree operation is impossible (no such item, would loop, cannot hold items, too deep)
├── ResolveRefused      a lens names a location, device or language that the site does not have
├── ClockRefused        a reading that a site's clock does not show, or shows twice
├── RuleRefused         a rule cannot be read (core/rules/refused.py); carries every problem with its column
├── NotFound            a record that was named does not exist
├── NotAllowed          the person may not do this here
├── StaleWrite          somebody saved in between; carries what they did and the merge worked out
├── Clash               a key or name is taken, or a repeated request says something else
├── SourceRefused       an outside address may not be read, or what it holds cannot be used
│   ├── HostUnknown     nothing is known by its host's name
│   ├── PrivateHost     its host stands in a private network
│   ├── TooLarge        its answer is larger than what is read
│   └── NoAnswer        it did not answer this time, and may the next
├── SiteRefused         a client site did not take what it was sent
│   └── SiteAway        it could not just now, and may the next time
└── Busy                it cannot be done now and may be in a moment: the database is away, or too much is asked for
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Problem:
    """One thing wrong in an input: `where` is a path such as `items[2].target.url`, `says` the sentence."""

    where: str
    says: str


class Refusal(Exception):
    """A sentence for people first, then the parts that a program needs."""

    code = "refused"

    def __init__(self, says: str, *, where: str | None = None, remedy: str | None = None) -> None:
        super().__init__(says)
        self.says = says
        self.where = where
        self.remedy = remedy

    def __str__(self) -> str:
        place = f"{self.where}: " if self.where else ""
        return f"{place}{self.says.rstrip('.')}. {self.remedy}" if self.remedy else f"{place}{self.says}"

    def extras(self) -> Mapping[str, object]:
        """What a client program may use beyond the sentences, as JSON-ready values."""
        return {}


class InvalidDocument(Refusal):
    code = "invalid-document"

    def __init__(self, problems: Sequence[Problem], *, what: str = "document") -> None:
        first = problems[0]
        more = f" (and {len(problems) - 1} more)" if len(problems) > 1 else ""
        super().__init__(f"{first.says}{more}", where=first.where or what)
        self.problems = tuple(problems)

    def extras(self) -> Mapping[str, object]:
        return {"problems": [{"where": problem.where, "says": problem.says} for problem in self.problems]}


class OutlineRefused(Refusal):
    code = "outline-refused"

    def __init__(self, says: str, *, line: int, column: int, remedy: str | None = None) -> None:
        super().__init__(says, where=f"line {line}, column {column}", remedy=remedy)
        self.line = line
        self.column = column

    def extras(self) -> Mapping[str, object]:
        return {"line": self.line, "column": self.column}


class EditRefused(Refusal):
    code = "edit-refused"


class ResolveRefused(Refusal):
    code = "resolve-refused"


class ClockRefused(Refusal):
    code = "clock-refused"

    def __init__(self, says: str, *, where: str, remedy: str, comes: str, offers: Sequence[str]) -> None:
        super().__init__(says, where=where, remedy=remedy)
        self.comes = comes
        self.offers = tuple(offers)

    def extras(self) -> Mapping[str, object]:
        return {"comes": self.comes, "offers": list(self.offers)}


class FitRefused(Refusal):
    code = "fit-refused"


class NotFound(Refusal):
    code = "not-found"


class NotAllowed(Refusal):
    code = "not-allowed"


class StaleWrite(Refusal):
    code = "stale-write"

    def __init__(self, says: str, *, remedy: str, merge: Mapping[str, object]) -> None:
        super().__init__(says, remedy=remedy)
        self.merge = merge

    def extras(self) -> Mapping[str, object]:
        return {"merge": self.merge}


class Clash(Refusal):
    code = "clash"


class SourceRefused(Refusal):
    code = "source-refused"


class HostUnknown(SourceRefused):
    pass


class PrivateHost(SourceRefused):
    pass


class TooLarge(SourceRefused):
    pass


class NoAnswer(SourceRefused):
    pass


class SiteRefused(Refusal):
    code = "site-refused"


class SiteAway(SiteRefused):
    pass


class Busy(Refusal):
    code = "busy"

    def __init__(self, says: str, *, remedy: str = "Try again in a moment.", again_in_s: int = 5) -> None:
        super().__init__(says, remedy=remedy)
        self.again_in_s = again_in_s
