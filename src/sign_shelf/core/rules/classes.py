"""The finite classes of visitors that a set of rules tells apart: for each fact used, values that its tests answer
alike are one class. A rule is then a question about a product of small axes."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from sign_shelf.core.model.facts import FactType, FactValue
from sign_shelf.core.rules.evaluate import answers
from sign_shelf.core.rules.model import FactTest, Rule, Value, fact_tests
from sign_shelf.core.rules.texts import TooManyTexts, texts_apart

_NOT_SUPPLIED = object()


@dataclass(eq=False)
class Axis:
    """One fact, or one tag of a fact. `members` stand for their classes; None is the class of visitors who do not
    supply the fact."""

    fact: str
    tag: str | None
    members: list[FactValue | None]
    masks: dict[FactTest, tuple[int, int]] = field(default_factory=dict)
    """By test, the classes for which it is true, and those for which it is false, as bits."""

    @property
    def whole(self) -> int:
        return (1 << len(self.members)) - 1


Cube = dict[int, int]
"""Visitors, as the classes allowed on each axis (bits); an axis that is absent allows all."""


class Classes:
    """The axes of all facts that the rules use. With `unsupplied`, visitors who do not supply a fact count as well.

    A fact whose tests tell too many texts apart has no axis; tests of it are not decided.
    """

    def __init__(self, rules: Iterable[Rule], facts: Mapping[str, FactType], *, unsupplied: bool = False) -> None:
        self.axes: list[Axis] = []
        self._leaves: dict[FactTest, tuple[list[Cube], list[Cube], list[Cube], list[Cube]]] = {}
        by_fact: dict[str, dict[FactTest, None]] = {}
        for rule in rules:
            for test in fact_tests(rule):
                by_fact.setdefault(test.fact, {})[test] = None
        for name, tests in by_fact.items():
            if facts[name].type == "tags":
                self._tags(name, list(tests), unsupplied)
            else:
                self._plain(name, facts[name], list(tests), unsupplied)

    def cubes(self, test: FactTest, *, value: bool, complement: bool) -> list[Cube] | None:
        """Where the test is `value`, or with `complement` where it is not; None where that is not decided."""
        leaf = self._leaves.get(test)
        return leaf[2 * complement + (not value)] if leaf else None

    def visitor(self, cube: Cube) -> dict[str, FactValue]:
        """A visitor of the cube."""
        found: dict[str, FactValue] = {}
        tags: dict[str, list[str]] = {}
        absent: set[str] = set()
        for at, axis in enumerate(self.axes):
            allowed = cube.get(at, axis.whole)
            member = axis.members[(allowed & -allowed).bit_length() - 1]
            if member is None:
                absent.add(axis.fact)
            elif axis.tag is not None:
                tags.setdefault(axis.fact, [])
                if member:
                    tags[axis.fact].append(axis.tag)
            elif axis.fact not in tags:
                found[axis.fact] = member
        found.update({name: tuple(one) for name, one in tags.items()})
        return {name: value for name, value in found.items() if name not in absent}

    def _plain(self, name: str, fact: FactType, tests: list[FactTest], unsupplied: bool) -> None:
        try:
            candidates = _candidates(fact, tests)
        except TooManyTexts:
            return
        by_answers: dict[tuple[bool, ...], FactValue] = {}
        for value in candidates:
            by_answers.setdefault(tuple(answers(test.op, test.values, value) for test in tests), value)
        members: list[FactValue | None] = list(by_answers.values())
        axis = Axis(name, None, members)
        at = self._add(axis, unsupplied)
        for number, test in enumerate(tests):
            true = sum(1 << place for place, row in enumerate(by_answers) if row[number])
            false = sum(1 << place for place, row in enumerate(by_answers) if not row[number])
            axis.masks[test] = (true, false)
            self._leaves[test] = (
                [{at: true}], [{at: false}], [{at: axis.whole ^ true}], [{at: axis.whole ^ false}],
            )  # fmt: skip

    def _tags(self, name: str, tests: list[FactTest], unsupplied: bool) -> None:
        tags = dict.fromkeys(str(value) for test in tests for value in test.values)
        places = {tag: self._add(Axis(name, tag, [False, True]), False) for tag in tags}
        supplied = {self._add(Axis(name, None, [False]), True): 1} if unsupplied else {}
        for test in tests:
            mine = [places[str(value)] for value in test.values]
            true = [{**supplied, at: 2} for at in mine]
            false = [{**supplied, **dict.fromkeys(mine, 1)}]
            not_true: list[Cube] = [dict.fromkeys(mine, 1), *({at: 2} for at in supplied)]
            not_false: list[Cube] = [*({at: 2} for at in mine), *({at: 2} for at in supplied)]
            self._leaves[test] = (true, false, not_true, not_false)

    def _add(self, axis: Axis, unsupplied: bool) -> int:
        if unsupplied:
            axis.members.append(None)
        self.axes.append(axis)
        return len(self.axes) - 1


def _candidates(fact: FactType, tests: Sequence[FactTest]) -> Iterable[FactValue]:
    """Values of which at least one is in every class that the tests make."""
    match fact.type:
        case "flag":
            return (False, True)
        case "choice":
            return fact.values
        case "number":
            return _numbers(fact, [value for test in tests for value in test.values])
        case _:
            return texts_apart(tests, path=fact.type == "path")


def _numbers(fact: FactType, bounds: Iterable[Value]) -> list[float]:
    """The bounds, a number on either side of each, and the ends of the range."""
    cuts = sorted({float(one) for one in bounds} | {one for one in (fact.min, fact.max) if one is not None})
    if fact.whole:
        near = {float(int(cut) + step) for cut in cuts for step in (-1, 0, 1)}
    else:
        between = {(low + high) / 2 for low, high in pairwise(cuts)}
        near = {*cuts, *between, *(end for cut in cuts for end in (cut - 1, cut + 1))}
    inside = [one for one in near if (fact.min is None or one >= fact.min) and (fact.max is None or one <= fact.max)]
    return sorted(inside) or [0.0]
