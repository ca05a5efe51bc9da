"""Facts: what is known of a visitor or a request, with the type and the possible values of each."""

from collections.abc import Iterable, Mapping
from typing import Annotated, Literal, Self, cast

from pydantic import AfterValidator, Field, StringConstraints, model_validator

from sign_shelf.core.basics.text import RuleText, Words
from sign_shelf.core.errors import InvalidDocument, Problem
from sign_shelf.core.model.menu import DEVICES, Model

KEYWORDS = frozenset({"and", "or", "not", "is", "in", "has", "any", "under", "like", "always", "never"})
"""Words of the rule language; no fact is called so."""

FactKind = Literal["flag", "choice", "tags", "number", "path", "text"]


def _no_keyword(name: str) -> str:
    if name in KEYWORDS:
        raise ValueError(f'"{name}" is a word of the rule language; call the fact otherwise')
    return name


FactName = Annotated[str, StringConstraints(pattern=r"^[A-Za-z_][A-Za-z0-9_.-]{0,63}$"), AfterValidator(_no_keyword)]


class FactType(Model):
    """`values` are those of a choice, or those that tags are taken from; `min` and `max` bound a number, `whole` says
    that it has no fractions."""

    type: FactKind
    values: tuple[Words, ...] = Field(default=(), max_length=500)
    min: float | None = Field(default=None, allow_inf_nan=False)
    max: float | None = Field(default=None, allow_inf_nan=False)
    whole: bool = False

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        if self.values and self.type not in {"choice", "tags"}:
            raise ValueError(f"a {self.type} has no list of values")
        if self.type == "choice" and not self.values:
            raise ValueError("a choice needs its values")
        if len(set(self.values)) != len(self.values):
            raise ValueError("a value is listed twice")
        if self.type != "number" and (self.min is not None or self.max is not None or self.whole):
            raise ValueError(f"min, max and whole go with a number, not with a {self.type}")
        if self.min is not None and self.max is not None and self.max < self.min:
            raise ValueError(f"max ({self.max:g}) is less than min ({self.min:g})")
        return self


FactValue = bool | str | float | tuple[str, ...]
Visitor = Mapping[str, FactValue]
"""Facts that are supplied, by name. A fact that is absent is not supplied."""


class FactSet(Model):
    """Facts with the audiences and the named rules that are made of them: a site's own, or shared by many sites."""

    title: Words = "Facts"
    facts: dict[FactName, FactType] = {}
    audiences: dict[Words, dict[FactName, FactValue]] = {}
    rules: dict[FactName, RuleText] = {}

    def over(self, other: "FactSet") -> "FactSet":
        """Both; where they differ this one counts."""
        return FactSet(
            title=self.title,
            facts=other.facts | self.facts,
            audiences=other.audiences | self.audiences,
            rules=other.rules | self.rules,
        )


WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
CLOCK = frozenset({"weekday", "month", "hour"})
"""Facts that the site's clock supplies."""

COMPUTED = CLOCK | {"device", "language", "page", "section"}
"""Facts that the request supplies by itself, whatever the visitor claims."""


def built_in(languages: Iterable[str]) -> dict[str, FactType]:
    """The facts that every site has. `page` is the address of the visitor's page, `section` that of the page at the top
    of its branch; `month` counts from 1, `hour` from 0 on the site's clock."""
    return {
        "device": FactType(type="choice", values=DEVICES),
        "language": FactType(type="choice", values=tuple(dict.fromkeys(languages)) or ("en",)),
        "page": FactType(type="path"),
        "section": FactType(type="path"),
        "signed_in": FactType(type="flag"),
        "roles": FactType(type="tags"),
        "weekday": FactType(type="choice", values=WEEKDAYS),
        "month": FactType(type="number", min=1, max=12, whole=True),
        "hour": FactType(type="number", min=0, max=23, whole=True),
    }


def says_type(fact: FactType) -> str:
    match fact.type:
        case "flag":
            return "true or false"
        case "choice":
            return f"one of {', '.join(fact.values)}"
        case "tags":
            return f"any of {', '.join(fact.values)}" if fact.values else "tags, of which none are declared"
        case "number":
            low, high = fact.min, fact.max
            return (
                "a number"
                + (f" from {low:g}" if low is not None else "")
                + (f" to {high:g}" if high is not None else "")
            )
        case "path":
            return "an address within the site, beginning with /"
        case "text":
            return "words"


def problem_with(value: object, fact: FactType) -> str | None:
    """Why the value is none of the fact's; None where it is."""
    match fact.type:
        case "flag":
            good = isinstance(value, bool)
        case "choice":
            good = isinstance(value, str) and value in fact.values
        case "tags":
            good = isinstance(value, list | tuple) and all(one in fact.values for one in value)
        case "number":
            good = _is_number(value, fact)
        case "path":
            good = isinstance(value, str) and value.startswith("/")
        case "text":
            good = isinstance(value, str)
    return None if good else f"expected {says_type(fact)}"


def _is_number(value: object, fact: FactType) -> bool:
    if not isinstance(value, int | float) or isinstance(value, bool):
        return False
    low, high = fact.min, fact.max
    return (low is None or value >= low) and (high is None or value <= high) and (not fact.whole or value % 1 == 0)


def fitting(values: Mapping[str, object], facts: Mapping[str, FactType]) -> Visitor:
    """Those of the values that are a declared fact's; the others count as not supplied."""
    return {
        name: tuple(value) if isinstance(value, list | tuple) else cast(bool | str | float, value)
        for name, value in values.items()
        if name in facts and problem_with(value, facts[name]) is None
    }


def read_visitor(values: Mapping[str, object], facts: Mapping[str, FactType], *, what: str = "visitor") -> Visitor:
    """The supplied facts among these values; null is not supplied, and a fact that is not declared does nothing. Raises
    InvalidDocument for a value that is none of its fact's."""
    read: dict[str, FactValue] = {}
    problems = []
    for name, value in values.items():
        fact = facts.get(name)
        if value is None or fact is None:
            continue
        wrong = problem_with(value, fact)
        if wrong:
            problems.append(Problem(where=f"{what}.{name}", says=wrong))
        else:
            read[name] = tuple(value) if isinstance(value, list | tuple) else cast(bool | str | float, value)
    if problems:
        raise InvalidDocument(problems, what=what)
    return read
