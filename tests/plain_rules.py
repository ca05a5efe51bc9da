"""The rule language read plainly: a rule for one visitor at a time, and every visitor there can be. Laws are held against
it, and the benchmark's yardstick is made of it."""

from collections.abc import Iterator, Mapping, Sequence
from itertools import combinations, product
from typing import Any

from hypothesis import strategies as st

from sign_shelf.core.model.facts import FactType, FactValue, Visitor
from sign_shelf.core.rules import AllOf, AnyOf, Const, FactTest, Not, Rule, all_of, any_of

FACTS = {
    "flag": FactType(type="flag"),
    "other.flag": FactType(type="flag"),
    "plan": FactType(type="choice", values=("free", "silver", "a b")),
    "roles": FactType(type="tags", values=("crew", "skipper", 'say "hi" \\')),
    "visits": FactType(type="number", min=0, max=4, whole=True),
    "path": FactType(type="path"),
}
PATHS = ["/" + "".join(letters) for length in range(4) for letters in product("ab/z", repeat=length)]
PATHS += [f"/a/b/{rest}" for rest in ("", "a", "b", "z")]
"""Every path that the patterns below can tell apart: three letters, and what is under the longest address."""

_paths = st.sampled_from(["/", "/a", "/a/", "/b", "/a/b", "/ab"])
_globs = st.sampled_from(["*", "/*", "/a*", "*b", "/?", "/a?", "/*/*", "/?*b", "/a"])
_tests = {
    "flag": st.just(("holds", ())),
    "other.flag": st.just(("holds", ())),
    "plan": st.tuples(st.just("is"), st.tuples(st.sampled_from(FACTS["plan"].values)))
    | st.tuples(st.just("in"), st.lists(st.sampled_from(FACTS["plan"].values), min_size=1, max_size=3, unique=True)),
    "roles": st.tuples(st.just("has"), st.tuples(st.sampled_from(FACTS["roles"].values)))
    | st.tuples(st.just("has any"), st.lists(st.sampled_from(FACTS["roles"].values), min_size=1, unique=True)),
    "visits": st.tuples(
        st.sampled_from(["is", "<", "<=", ">", ">="]), st.tuples(st.sampled_from([-1.0, 0.0, 1.0, 2.5, 4.0, 9.0]))
    ),
    "path": st.tuples(st.sampled_from(["is", "under"]), st.tuples(_paths)) | st.tuples(st.just("like"), st.tuples(_globs)),
}  # fmt: skip


@st.composite
def tests(draw: st.DrawFn, names: Sequence[str]) -> FactTest:
    name = draw(st.sampled_from(names))
    op, values = draw(_tests.get(name, st.just(("holds", ()))))
    return FactTest(name, op, tuple(values))


def rules(names: Sequence[str] = tuple(FACTS)) -> st.SearchStrategy[Rule]:
    return st.recursive(
        tests(names) | st.sampled_from([Const(True), Const(False)]),
        lambda inner: inner.map(Not) | st.lists(inner, min_size=2, max_size=4).map(all_of)
        | st.lists(inner, min_size=2, max_size=4).map(any_of),
        max_leaves=7,
    )  # fmt: skip


def said(part: dict[str, Any]) -> Rule:
    """The rule that the parts are."""
    if part["kind"] == "const":
        return Const(part["value"])
    if part["kind"] == "test":
        values = tuple(float(one) if isinstance(one, int) else one for one in part["values"])
        rule: Rule = FactTest(part["fact"], part["op"], values)
    else:
        rule = (all_of if part["kind"] == "all" else any_of)(map(said, part["parts"]))
    return Not(rule) if part["no"] else rule


def every_value(fact: FactType) -> list[FactValue]:
    match fact.type:
        case "flag":
            return [False, True]
        case "choice":
            return list(fact.values)
        case "tags":
            return [some for count in range(len(fact.values) + 1) for some in combinations(fact.values, count)]
        case "number":
            assert fact.min is not None
            assert fact.max is not None
            return [float(one) for one in range(int(fact.min), int(fact.max) + 1)]
        case _:
            return list(PATHS)


def every_visitor(
    names: Sequence[str], *, unsupplied: bool, facts: Mapping[str, FactType] = FACTS
) -> Iterator[dict[str, FactValue]]:
    columns: list[list[Any]] = [[*every_value(facts[name]), *([None] if unsupplied else [])] for name in names]
    for row in product(*columns):
        yield {name: value for name, value in zip(names, row, strict=True) if value is not None}


def plainly(rule: Rule, visitor: Visitor) -> bool | None:
    """Kleene's tables, written out."""
    match rule:
        case Const(value):
            return value
        case Not(inner):
            return {True: False, False: True, None: None}[plainly(inner, visitor)]
        case AllOf(parts):
            outcomes = [plainly(part, visitor) for part in parts]
            return False if False in outcomes else None if None in outcomes else True
        case AnyOf(parts):
            outcomes = [plainly(part, visitor) for part in parts]
            return True if True in outcomes else None if None in outcomes else False
        case FactTest(name, op, values):
            return _asked(op, values, visitor[name]) if name in visitor else None


def _asked(op: str, values: tuple[Any, ...], known: Any) -> bool:
    if op == "under":
        top = values[0].rstrip("/")
        return bool(known in (values[0], top) or known[: len(top) + 1] == top + "/")
    if op == "like":
        return _like(known, values[0])
    if op in {"has", "has any"}:
        return not set(values).isdisjoint(known)
    compares = {
        "holds": lambda: known is True,
        "is": lambda: known == values[0],
        "in": lambda: any(known == value for value in values),
        "<": lambda: known < values[0],
        "<=": lambda: known <= values[0],
        ">": lambda: known > values[0],
        ">=": lambda: known >= values[0],
    }
    return compares[op]()


def _like(text: str, glob: str) -> bool:
    if not glob:
        return not text
    if glob[0] == "*":
        return _like(text, glob[1:]) or (bool(text) and _like(text[1:], glob))
    return bool(text) and glob[0] in {"?", text[0]} and _like(text[1:], glob[1:])
