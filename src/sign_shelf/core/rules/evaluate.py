"""Whether a rule holds for a visitor, in Kleene's three-valued logic: a fact that is not supplied makes its test unknown.

S. C. Kleene, Introduction to Metamathematics, 1952, section 64 (strong tables).
"""

import re
from collections.abc import Callable
from dataclasses import dataclass
from fnmatch import translate
from functools import lru_cache

from sign_shelf.core.model.facts import FactValue, Visitor
from sign_shelf.core.rules.model import AllOf, AnyOf, Const, FactTest, Not, Op, Rule, Value
from sign_shelf.core.rules.writing import format_rule

Truth = bool | None
"""None is unknown."""

Predicate = Callable[[Visitor], Truth]


@dataclass(frozen=True, slots=True)
class Why:
    """A test that decided: how it came out, and what was known."""

    test: FactTest
    value: Truth
    says: str


def compiled(rule: Rule) -> Predicate:
    """The rule as a function; made once, asked for many visitors."""
    match rule:
        case Const(value):
            return lambda visitor: value
        case FactTest():
            return _compiled_test(rule)
        case Not(inner):
            asked = compiled(inner)

            def negated(visitor: Visitor) -> Truth:
                truth = asked(visitor)
                return None if truth is None else not truth

            return negated
        case AllOf(parts):
            return _decided_by(tuple(map(compiled, parts)), False)
        case AnyOf(parts):
            return _decided_by(tuple(map(compiled, parts)), True)


def _decided_by(parts: tuple[Predicate, ...], decides: bool) -> Predicate:
    """One part that is `decides` decides; else one that is unknown leaves it unknown."""

    def asked(visitor: Visitor) -> Truth:
        unknown = False
        for part in parts:
            truth = part(visitor)
            if truth is decides:
                return decides
            unknown = unknown or truth is None
        return None if unknown else not decides

    return asked


def _compiled_test(test: FactTest) -> Predicate:
    name, op, values = test.fact, test.op, test.values

    def asked(visitor: Visitor) -> Truth:
        known = visitor.get(name)
        return None if known is None else answers(op, values, known)

    return asked


def answers(op: Op, values: tuple[Value, ...], known: FactValue) -> bool:
    """What a test says of a fact that is supplied."""
    match op:
        case "holds":
            return bool(known)
        case "is" | "in":
            return known in values
        case "has" | "has any":
            return isinstance(known, tuple | list) and any(value in known for value in values)
        case "under":
            return under(str(known), str(values[0]))
        case "like":
            return pattern(str(values[0])).fullmatch(str(known)) is not None
        case _:
            return _compares(op, known, values[0])


def _compares(op: Op, known: FactValue, bound: Value) -> bool:
    if not isinstance(known, int | float) or not isinstance(bound, int | float):
        return False
    return (
        known < bound if op == "<" else known <= bound if op == "<=" else known > bound if op == ">" else known >= bound
    )


def under(path: str, top: str) -> bool:
    """Whether the path is that address or stands below it."""
    stem = top.rstrip("/")
    return path in {top, stem} or path.startswith(f"{stem}/")


@lru_cache(4_096)
def pattern(glob: str) -> re.Pattern[str]:
    """`*` stands for any characters, `?` for one; everything else for itself. Matches without backtracking."""
    return re.compile(translate(glob.replace("[", "[[]")))


def why(rule: Rule, visitor: Visitor) -> tuple[Why, ...]:
    """The tests that decided how the rule came out, in the order of writing."""
    truth = compiled(rule)(visitor)
    return tuple(_why(rule, visitor, truth))


def _why(rule: Rule, visitor: Visitor, truth: Truth) -> list[Why]:
    match rule:
        case Const():
            return []
        case FactTest():
            return [Why(rule, truth, _says(rule, visitor))]
        case Not(inner):
            return _why(inner, visitor, None if truth is None else not truth)
        case AllOf(parts) | AnyOf(parts):
            outcomes = [(part, compiled(part)(visitor)) for part in parts]
            decisive = [(part, one) for part, one in outcomes if one == truth]
            # One part was enough where one decides; all of them were needed where none did.
            alone = truth is (isinstance(rule, AnyOf))
            chosen = decisive[:1] if alone else decisive
            return [reason for part, one in chosen for reason in _why(part, visitor, one)]


def _says(test: FactTest, visitor: Visitor) -> str:
    text = format_rule(test)
    known = visitor.get(test.fact)
    if known is None:
        return f"needs {text}, and this visitor does not supply {test.fact}"
    return f"needs {text}, and the visitor {_has(test.fact, known)}"


def _has(name: str, known: FactValue) -> str:
    if isinstance(known, bool):
        return f"is {'' if known else 'not '}{name.replace('_', ' ')}"
    if isinstance(known, tuple | list):
        return f"has {', '.join(known) if known else 'none'}"
    return f"has {known:g}" if isinstance(known, float) else f"has {known}"
