"""Rules as trees. See docs/rules.md for the language."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import Literal

Op = Literal["holds", "is", "in", "has", "has any", "under", "like", "<", "<=", ">", ">="]
Value = str | float


@dataclass(frozen=True, slots=True)
class Const:
    """`always` and `never`."""

    value: bool


@dataclass(frozen=True, slots=True)
class FactTest:
    """A fact and what is asked of it. `column` is where it was written; equal tests may stand anywhere."""

    fact: str
    op: Op
    values: tuple[Value, ...] = ()
    column: int = field(default=0, compare=False)


@dataclass(frozen=True, slots=True)
class Not:
    rule: "Rule"


@dataclass(frozen=True, slots=True)
class AllOf:
    parts: tuple["Rule", ...]


@dataclass(frozen=True, slots=True)
class AnyOf:
    parts: tuple["Rule", ...]


Rule = Const | FactTest | Not | AllOf | AnyOf
ALWAYS, NEVER = Const(True), Const(False)


def fact_tests(rule: Rule) -> Iterator[FactTest]:
    """Every test, in the order in which they are written."""
    match rule:
        case FactTest():
            yield rule
        case Not(inner):
            yield from fact_tests(inner)
        case AllOf(parts) | AnyOf(parts):
            for part in parts:
                yield from fact_tests(part)
        case Const():
            pass


def all_of(parts: Iterable[Rule]) -> Rule:
    """All of these, without levels that say nothing; of none, always."""
    return _joined(parts, AllOf, ALWAYS)


def any_of(parts: Iterable[Rule]) -> Rule:
    return _joined(parts, AnyOf, NEVER)


def _joined(parts: Iterable[Rule], kind: type[AllOf] | type[AnyOf], none: Rule) -> Rule:
    flat = tuple(inner for part in parts for inner in (part.parts if isinstance(part, kind) else (part,)))
    return kind(flat) if len(flat) > 1 else flat[0] if flat else none
