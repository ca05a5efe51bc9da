"""A visitor for whom rules come out as wanted, found by trying: for rules that are too tangled for cubes.

Backtracking over the axes with the rules read on what is settled so far (M. Davis, G. Logemann and D. Loveland, A Machine
Program for Theorem-Proving, CACM 5, 1962), within a budget.
"""

from collections.abc import Sequence

from sign_shelf.core.model.facts import FactValue
from sign_shelf.core.rules.classes import Classes, Cube
from sign_shelf.core.rules.model import AllOf, AnyOf, Const, FactTest, Not, Rule, fact_tests

BUDGET = 3_000
DEEPEST = 300
"""Axes that are settled one within the other."""


class OutOfBudget(Exception):
    """Neither found nor shown to be impossible within the budget."""


def find_visitor(wanted: Sequence[tuple[Rule, bool]], classes: Classes) -> dict[str, FactValue] | None:
    """A visitor for whom each rule holds or does not, as wanted; None where there is none. Raises OutOfBudget."""
    counts: dict[int, int] = {}
    for rule, _ in wanted:
        for test in fact_tests(rule):
            cubes = classes.cubes(test, value=True, complement=False)
            if cubes is None:
                raise OutOfBudget
            for cube in cubes:
                for at in cube:
                    counts[at] = counts.get(at, 0) + 1
    order = sorted(counts, key=lambda at: -counts[at])
    return _Search(wanted, classes, order).run()


class _Search:
    def __init__(self, wanted: Sequence[tuple[Rule, bool]], classes: Classes, order: Sequence[int]) -> None:
        self.wanted = wanted
        self.classes = classes
        self.order = order
        self.left = BUDGET

    def run(self) -> dict[str, FactValue] | None:
        found = self._try({}, 0)
        return None if found is None else self.classes.visitor(found)

    def _try(self, settled: Cube, depth: int) -> Cube | None:
        self.left -= 1
        if self.left < 0 or depth > DEEPEST:
            raise OutOfBudget
        outcomes = [self._holds(rule, settled, value=True) for rule, _ in self.wanted]
        if any(out is not None and out != want for out, (_, want) in zip(outcomes, self.wanted, strict=True)):
            return None
        if all(out is not None for out in outcomes):
            return settled
        at = self.order[depth]
        for member in range(len(self.classes.axes[at].members)):
            found = self._try({**settled, at: 1 << member}, depth + 1)
            if found is not None:
                return found
        return None

    def _holds(self, rule: Rule, settled: Cube, *, value: bool) -> bool | None:
        """Whether the rule is `value` for every visitor that is left; None where it is for some only."""
        match rule:
            case Const(constant):
                return constant == value
            case FactTest():
                return self._leaf(rule, settled, value=value)
            case Not(inner):
                return self._holds(inner, settled, value=not value)
            case AllOf(parts) | AnyOf(parts):
                every = isinstance(rule, AllOf) == value
                unknown = False
                for part in parts:
                    out = self._holds(part, settled, value=value)
                    if out is (not every):
                        return not every
                    unknown = unknown or out is None
                return None if unknown else every

    def _leaf(self, test: FactTest, settled: Cube, *, value: bool) -> bool | None:
        inside = self.classes.cubes(test, value=value, complement=False) or []
        outside = self.classes.cubes(test, value=value, complement=True) or []
        if not any(self._meets(cube, settled) for cube in outside):
            return True
        if not any(self._meets(cube, settled) for cube in inside):
            return False
        return None

    def _meets(self, cube: Cube, settled: Cube) -> bool:
        return all(allowed & settled.get(at, allowed) for at, allowed in cube.items())
