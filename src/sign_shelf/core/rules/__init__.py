"""The rule language: who sees an item, as an expression over facts. See docs/rules.md.

`core.rules.analyse`, which needs numbers, is imported by whoever analyses.
"""

from sign_shelf.core.rules.evaluate import Predicate, Truth, Why, compiled, why
from sign_shelf.core.rules.model import (
    ALWAYS,
    NEVER,
    AllOf,
    AnyOf,
    Const,
    FactTest,
    Not,
    Rule,
    all_of,
    any_of,
    fact_tests,
)
from sign_shelf.core.rules.refused import RuleProblem, RuleRefused
from sign_shelf.core.rules.typed import ops_of, read_rule
from sign_shelf.core.rules.writing import format_rule, sentence

__all__ = [
    "ALWAYS",
    "NEVER",
    "AllOf",
    "AnyOf",
    "Const",
    "FactTest",
    "Not",
    "Predicate",
    "Rule",
    "RuleProblem",
    "RuleRefused",
    "Truth",
    "Why",
    "all_of",
    "any_of",
    "compiled",
    "fact_tests",
    "format_rule",
    "ops_of",
    "read_rule",
    "sentence",
    "why",
]
