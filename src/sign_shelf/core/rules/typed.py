"""Rules held against the facts that there are: unknown facts, values outside their list, tests that a type lacks."""

import re
from collections.abc import Iterable, Mapping
from dataclasses import replace
from difflib import get_close_matches

from sign_shelf.core.model.facts import KEYWORDS, FactType, says_type
from sign_shelf.core.rules.grammar import LOOKALIKES, Written, parse, short
from sign_shelf.core.rules.model import AllOf, AnyOf, Const, FactTest, Not, Op, Rule, Value, all_of, any_of
from sign_shelf.core.rules.refused import RuleProblem, RuleRefused
from sign_shelf.core.rules.writing import written

_OPS: Mapping[str, tuple[Op, ...]] = {
    "flag": ("holds", "is"),
    "choice": ("is", "in"),
    "tags": ("has", "has any"),
    "number": ("is", "in", "<", "<=", ">", ">="),
    "path": ("is", "in", "under", "like"),
    "text": ("is", "in", "like"),
}
MOST_TESTS = 2_000
"""Of a rule with all that it names: names within names could make any number of them."""
DEEPEST_NAMES = 12
"""Rules named within rules."""

_BARE = re.compile(r"[\w.-]+")
_NUMBER = re.compile(r"-?[0-9]{1,15}(\.[0-9]{1,9})?")
_BOOLEANS = {"true": True, "false": False}


def ops_of(fact: FactType) -> tuple[Op, ...]:
    """What may be asked of a fact of this type."""
    return _OPS[fact.type]


def read_rule(
    text: str, facts: Mapping[str, FactType], named: Mapping[str, str] | None = None, *, opened: bool = True
) -> Rule:
    """A rule whose tests all mean something. A name that is no fact's may be that of a rule, which then stands there;
    unless it is to be `opened`, it stays a test of that name.

    Raises RuleRefused with every problem.
    """
    return _Reading(facts, named or {}, opened).rule(text)


class _Reading:
    def __init__(self, facts: Mapping[str, FactType], named: Mapping[str, str], opened: bool) -> None:
        self.facts = facts
        self.opened = opened
        self.named = named
        self.inside: list[str] = []
        self.tests = 0

    def rule(self, text: str) -> Rule:
        self.text = text
        problems: list[RuleProblem] = []
        rule = self._typed(parse(text), problems)
        if problems:
            raise RuleRefused(text, sorted(problems, key=lambda one: one.at))
        return rule

    def _typed(self, rule: Rule, problems: list[RuleProblem]) -> Rule:
        match rule:
            case Const():
                return rule
            case Not(inner):
                return Not(self._typed(inner, problems))
            case AllOf(parts):
                return all_of([self._typed(part, problems) for part in parts])
            case AnyOf(parts):
                return any_of([self._typed(part, problems) for part in parts])
            case FactTest():
                return self._test(rule, problems)

    def _test(self, test: FactTest, problems: list[RuleProblem]) -> Rule:
        self.tests += 1
        if self.tests > MOST_TESTS:
            says = f"with the rules that it names the rule has more than {MOST_TESTS} tests"
            raise RuleRefused(self.text, [RuleProblem(0, len(self.text), says, "ask for less, or give facts for it")])
        fact = self.facts.get(test.fact)
        if fact is None:
            return self._named(test, problems)

        def wrong(says: str, suggestion: str | None, where: Written | None = None, meant: str | None = None) -> Rule:
            at, length = (where.column, where.length) if where is not None else (test.column, len(test.fact))
            problems.append(RuleProblem(at, length, says, suggestion, meant))
            return test

        ops = _OPS[fact.type]
        if test.op not in ops:
            return wrong(
                f"{test.fact} is {_a(fact.type)}: it cannot be asked with {_asked(test.op)}",
                f"write {' or '.join(_example(test.fact, fact, op) for op in ops[:2])}",
            )
        values: list[Value] = []
        for given in test.values:
            assert isinstance(given, Written)
            value = _value(given, fact)
            if value is None:
                close = _close(given, fact.values)
                suggested = f"did you mean {close}?" if close else f"{test.fact} is {says_type(fact)}"
                wrong(
                    f'{test.fact} {test.op} "{short(given)}": {test.fact} has no such value',
                    suggested,
                    given,
                    _as_written(close),
                )
            else:
                values.append(value)
        if fact.type == "flag":
            plain = FactTest(test.fact, "holds", (), test.column)
            return plain if test.op == "holds" or values != [0.0] else Not(plain)
        return replace(test, values=tuple(dict.fromkeys(values)))

    def _named(self, test: FactTest, problems: list[RuleProblem]) -> Rule:
        if test.fact in self.named and test.op == "holds":
            if test.fact in self.inside or len(self.inside) >= DEEPEST_NAMES:
                back = test.fact in self.inside
                says = f"the rule {test.fact} {'leads back to itself' if back else 'is named through too many others'}"
                problems.append(RuleProblem(test.column, len(test.fact), says, None))
                return test
            self.inside.append(test.fact)
            try:
                inner: list[RuleProblem] = []
                found = self._typed(parse(self.named[test.fact]), inner)
            except RuleRefused as exc:
                if self.tests > MOST_TESTS:
                    raise
                inner = list(exc.problems)
            self.inside.pop()
            if inner:
                says = f"the rule {test.fact} is not valid: {inner[0].says}"
                problems.append(RuleProblem(test.column, len(test.fact), says, inner[0].suggestion))
                return test
            return found if self.opened else test
        known = [*self.facts, *self.named]
        close = _close(test.fact, known)
        suggested = f"did you mean {close}?" if close else f"the facts are {', '.join(known)}"
        problems.append(
            RuleProblem(test.column, len(test.fact), f'there is no fact "{short(test.fact)}"', suggested, close)
        )
        return test


def _value(written: Written, fact: FactType) -> Value | None:
    match fact.type:
        case "flag":
            found = _BOOLEANS.get(written)
            return None if found is None else float(found)
        case "number":
            return float(written) if _NUMBER.fullmatch(written) and not written.quoted else None
        case "path":
            return str(written) if written.startswith(("/", "*")) else None
        case "text":
            return str(written)
        case _:
            return str(written) if written in fact.values else None


def _as_written(value: str | None) -> str | None:
    return None if value is None else value if _BARE.fullmatch(value) and value not in KEYWORDS else written(value)


def _close(word: str, known: Iterable[str]) -> str | None:
    options = list(known)
    plain = word.casefold().translate(LOOKALIKES)
    folded = {one.casefold(): one for one in options}
    found = get_close_matches(plain, list(folded), 1, 0.6)
    return folded[found[0]] if found else None


def _a(kind: str) -> str:
    return "tags" if kind == "tags" else f"a {kind}"


def _asked(op: Op) -> str:
    return "nothing after it" if op == "holds" else op


def _example(name: str, fact: FactType, op: Op) -> str:
    usual = fact.values[0] if fact.values else {"number": "3", "path": "/about", "text": "word"}.get(fact.type, "…")
    match op:
        case "holds":
            return name
        case "is" if fact.type == "flag":
            return f"not {name}"
        case "in" | "has any":
            return f"{name} {op} ({usual})"
        case _:
            return f"{name} {op} {usual}"
