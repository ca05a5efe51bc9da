"""Why a rule is not valid: each problem with its column, a caret below it, and what would work."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sign_shelf.core.errors import Refusal

_BEFORE, _AFTER = 44, 30


@dataclass(frozen=True)
class RuleProblem:
    """`at` counts characters from 0, `length` is how many are wrong."""

    at: int
    length: int
    says: str
    suggestion: str | None
    replacement: str | None = None
    """What to write in their stead, where that would work."""


class RuleRefused(Refusal):
    """Carries every problem; the first is the sentence."""

    code = "rule-refused"

    def __init__(self, text: str, problems: Sequence[RuleProblem]) -> None:
        first = problems[0]
        super().__init__(first.says, where=f"column {first.at + 1}", remedy=first.suggestion)
        self.text = text
        self.problems = tuple(problems)

    def caret(self) -> str:
        """The rule around the first problem, and a line with a caret below it."""
        at = self.problems[0].at
        begin, end = max(at - _BEFORE, 0), at + _AFTER
        line = self.text[begin:end].replace("\t", " ").replace("\n", " ")
        return f"{line}\n{' ' * (at - begin)}^"

    def extras(self) -> Mapping[str, object]:
        return {
            "problems": [
                {
                    "column": one.at + 1,
                    "length": one.length,
                    "says": one.says,
                    "suggestion": one.suggestion,
                    "replacement": one.replacement,
                }
                for one in self.problems
            ]
        }
