"""Rules written out: in their normal form, and as words for people."""

import re
from collections.abc import Sequence

from sign_shelf.core.rules.model import AllOf, AnyOf, Const, FactTest, Not, Rule, Value

_BARE_PATH = re.compile(r"/[^\s()\",<>=!&|']*")
MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip


def format_rule(rule: Rule) -> str:
    """The rule's normal form: read again it is the same rule, and its normal form the same text."""
    match rule:
        case Const(value):
            return "always" if value else "never"
        case FactTest():
            return _test(rule)
        case Not(FactTest(op="is") as test):
            return _test(test).replace(f"{test.fact} is ", f"{test.fact} is not ", 1)
        case Not(inner):
            return f"not {_inside(inner, Not, AllOf, AnyOf)}"
        case AllOf(parts):
            return " and ".join(_inside(part, AllOf, AnyOf) for part in parts)
        case AnyOf(parts):
            return " or ".join(_inside(part, AnyOf) for part in parts)


def _inside(rule: Rule, *bracketed: type[Rule]) -> str:
    plain = isinstance(rule, Not) and isinstance(rule.rule, FactTest) and rule.rule.op == "is"
    text = format_rule(rule)
    return f"({text})" if isinstance(rule, bracketed) and not plain else text


def _test(test: FactTest) -> str:
    match test.op:
        case "holds":
            return test.fact
        case "in" | "has any":
            return f"{test.fact} {test.op} ({', '.join(written(value) for value in test.values)})"
        case "under" if _BARE_PATH.fullmatch(str(test.values[0])):
            return f"{test.fact} under {test.values[0]}"
        case _:
            return f"{test.fact} {test.op} {written(test.values[0])}"


def written(value: Value) -> str:
    """A value as it is written in a rule."""
    if isinstance(value, float):
        return f"{value:.9f}".rstrip("0").rstrip(".")
    return '"' + value.replace("\\", "\\\\").replace('"', '\\"') + '"'


def sentence(rule: Rule) -> str:
    """Whom the rule lets see an item, to follow the words "Shows to"."""
    if isinstance(rule, Const):
        return "everyone" if rule.value else "nobody"
    return f"visitors {_clause(rule)}"


def _clause(rule: Rule, *, no: bool = False) -> str:
    match rule:
        case Const(value):
            return "of any kind" if value != no else "of no kind"
        case FactTest():
            return _phrase(rule, no)
        case Not(inner):
            return _clause(inner, no=not no)
        case AllOf(parts) | AnyOf(parts):
            every = isinstance(rule, AllOf) != no
            told = [_clause(part, no=no) for part in parts]
            if every:
                nested = [f"({one})" if _is_choice(part, no) else one for part, one in zip(parts, told, strict=True)]
                return " and ".join(nested)
            return "either " + " or ".join(told)


def _is_choice(rule: Rule, no: bool) -> bool:
    if isinstance(rule, Not):
        return _is_choice(rule.rule, not no)
    return isinstance(rule, AllOf if no else AnyOf)


def _phrase(test: FactTest, no: bool) -> str:
    values = [written(value) if isinstance(value, float) else value for value in test.values]
    nots = "not " if no else ""
    name = re.sub(r"[_.-]+", " ", test.fact)
    among = _or(values)
    match test.fact, test.op:
        case _, "holds":
            return f"who are {nots}{name}"
        case "device", _:
            return f"{nots}on a {_or(values, 'a ')}"
        case "language", _:
            return f"{nots}in {among}"
        case "weekday", _:
            return f"{nots}on {_or([value.capitalize() + 's' for value in values])}"
        case "month", _:
            return nots + _span(test, [_month(value) for value in test.values], "in")
        case "hour", _:
            return nots + _span(test, [f"{value}:00" for value in values], "at")
        case (("page" | "section"), "under"):
            return f"{nots}on {among} or below it"
        case (("page" | "section"), "like"):
            return f"{nots}on a page like {among}"
        case (("page" | "section"), _):
            return f"{nots}on {among}"
        case _, ("has" | "has any"):
            return f"who have {'none of ' if no and len(values) > 1 else 'no ' if no else ''}{among} among their {name}"
        case _, ("under" | "like"):
            return f"whose {name} is {nots}{test.op} {among}"
        case _, ("<" | "<=" | ">" | ">="):
            says = {"<": "less than", "<=": "at most", ">": "more than", ">=": "at least"}[test.op]
            return f"whose {name} is {nots}{says} {among}"
        case _:
            return f"whose {name} is {nots}{among}"


def _span(test: FactTest, values: Sequence[str], at: str) -> str:
    says = {"<": "before", "<=": "up to", ">": "after", ">=": "from"}.get(test.op, at)
    return f"{says} {_or(list(values))}" + (" on" if test.op == ">=" else "")


def _month(value: Value) -> str:
    return MONTHS[int(value) - 1] if isinstance(value, float) and value in range(1, 13) else written(value)


def _or(words: Sequence[str], article: str = "") -> str:
    return f" or {article}".join(words)
