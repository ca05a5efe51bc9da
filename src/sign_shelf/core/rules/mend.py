"""Rules brought along when facts or their values get other names or go."""

from collections.abc import Mapping
from dataclasses import replace

from sign_shelf.core.rules.grammar import parse
from sign_shelf.core.rules.model import (
    ALWAYS,
    NEVER,
    AllOf,
    AnyOf,
    Const,
    FactTest,
    Not,
    Rule,
    Value,
    all_of,
    any_of,
    fact_tests,
)
from sign_shelf.core.rules.writing import format_rule

Renamed = Mapping[str, str]


def mended(text: str, facts: Renamed, values: Mapping[str, Renamed]) -> str:
    """The rule with facts and values by their new names. Raises RuleRefused for a text that is no rule."""
    rule = parse(text)
    after = _map(rule, facts, values)
    return text if after == rule else format_rule(after)


def without(text: str, facts: Mapping[str, object], values: Mapping[str, frozenset[str]]) -> str:
    """The rule without facts and values that go: what asks for a value that nobody can have any more holds for nobody,
    and what asks for a fact that is gone is left to a person, as never."""
    return format_rule(_drop(parse(text), facts, values))


def _map(rule: Rule, facts: Renamed, values: Mapping[str, Renamed]) -> Rule:
    match rule:
        case FactTest():
            renamed = values.get(rule.fact, {})
            kept: tuple[Value, ...] = tuple(
                renamed.get(str(value), str(value)) if isinstance(value, str) else value for value in rule.values
            )
            return replace(rule, fact=facts.get(rule.fact, rule.fact), values=_numbers(rule, kept))
        case Not(inner):
            return Not(_map(inner, facts, values))
        case AllOf(parts):
            return all_of(_map(part, facts, values) for part in parts)
        case AnyOf(parts):
            return any_of(_map(part, facts, values) for part in parts)
        case Const():
            return rule


def _numbers(test: FactTest, values: tuple[Value, ...]) -> tuple[Value, ...]:
    """As written, values have no type yet: those of comparisons are numbers again."""
    return tuple(float(value) for value in values) if test.op in {"<", "<=", ">", ">="} else values


def _drop(rule: Rule, gone: Mapping[str, object], values: Mapping[str, frozenset[str]]) -> Rule:
    match rule:
        case FactTest():
            if rule.fact in gone:
                return NEVER
            left = tuple(value for value in rule.values if str(value) not in values.get(rule.fact, frozenset()))
            if rule.values and not left:
                return NEVER
            return replace(rule, values=_numbers(rule, left))
        case Not(inner):
            below = _drop(inner, gone, values)
            # A test of a fact that is gone lets nobody in, asked the one way or the other.
            lost = any(test.fact in gone for test in fact_tests(inner))
            return NEVER if lost else ALWAYS if below == NEVER else Not(below)
        case AllOf(parts):
            kept = [_drop(part, gone, values) for part in parts]
            return NEVER if NEVER in kept else all_of(part for part in kept if part != ALWAYS)
        case AnyOf(parts):
            kept = [_drop(part, gone, values) for part in parts]
            return ALWAYS if ALWAYS in kept else any_of(part for part in kept if part != NEVER)
        case Const():
            return rule
