"""Rules in the browser: what is chosen is written there in its normal form, and what is offered while typing can stand
where it is offered. The core says what is right."""

import re
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.model.facts import FactType
from sign_shelf.core.rules import FactTest, Rule, RuleRefused, format_rule, ops_of, read_rule
from sign_shelf.core.rules.parts import part_of
from tests.interface.conftest import Interface
from tests.plain_rules import FACTS, rules, said

ALL = FACTS | {"tide": FactType(type="choice", values=("ebb", "not", "in"))}
NAMED = {"staff": 'flag and roles has "crew"'}
KNOWN = [
    {"name": name, "type": fact.type, "values": list(fact.values), "ops": list(ops_of(fact))}
    for name, fact in ALL.items()
] + [{"name": "staff", "type": "rule", "values": [], "ops": ["holds"]}]


_tests = rules().map(lambda rule: part_of(rule).model_dump()).filter(lambda part: part["kind"] == "test")
_parts = st.recursive(
    _tests | st.booleans().map(lambda value: {"kind": "const", "value": value}),
    lambda inner: st.builds(
        lambda kind, parts, no: {"kind": kind, "parts": parts, "no": no},
        st.sampled_from(["all", "any"]), st.lists(inner, max_size=3), st.booleans(),
    ),
    max_leaves=6,
)  # fmt: skip


@given(rules().map(lambda rule: part_of(rule).model_dump()) | _parts)
def test_whatever_is_chosen_is_written_as_the_core_writes_it(interface: Interface, part: dict[str, Any]) -> None:
    """Groups of one, empty groups, groups in groups of their kind, and all of them turned round."""
    text = interface("parts/rule/written", "written", part)
    assert text == format_rule(said(part))
    assert read_rule(text, FACTS) == said(part)


@pytest.mark.parametrize(
    ("fact", "op", "value", "text"),
    [
        ("path", "under", "/a b", 'path under "/a b"'),
        ("path", "under", "/timetables/winter", "path under /timetables/winter"),
        ("path", "under", "/it's", 'path under "/it\'s"'),
        ("path", "like", "/crew/*", 'path like "/crew/*"'),
        ("roles", "has", 'say "hi" \\', 'roles has "say \\"hi\\" \\\\"'),
    ],
)
def test_values_are_quoted_where_they_must_be(interface: Interface, fact: str, op: str, value: str, text: str) -> None:
    part = {"kind": "test", "fact": fact, "op": op, "values": [value], "no": False}
    assert interface("parts/rule/written", "written", part) == text
    assert read_rule(text, FACTS) == FactTest(fact, op, (value,))  # type: ignore[arg-type]


def offers(interface: Interface, text: str) -> tuple[list[str], int]:
    found = interface("parts/rule/complete", "completions", text, len(text), KNOWN)
    return found["offers"], found["from"]


TOKEN = re.compile(r'"(?:\\.|[^"\\])*"|[^\s()",]+|[(),]')


@given(rules(), st.booleans(), st.data())
def test_the_next_word_of_a_rule_is_offered_to_who_begins_it(
    interface: Interface, rule: Rule, plain: bool, data: st.DataObject
) -> None:
    """At every word of every rule, but numbers and addresses, of which there is no list."""
    text = format_rule(rule)
    if plain:
        text = re.sub(r'"([\w.-]+)"', r"\1", text)
    found = [one for one in TOKEN.finditer(text) if re.match(r"[A-Za-z_<>]", one.group())]
    if not found:
        return
    token = data.draw(st.sampled_from(found))
    signs = token.group()[0] in "<>"
    begun = text[: token.start() + (0 if signs else 1)]
    listed, begin = offers(interface, begun)
    words = {word for one in listed for word in (one, one.split()[0])}
    assert token.group() in words or len(token.group()) == 1 or len(listed) == 8, (begun, listed)
    assert begin == token.start()


@given(rules() | st.just(FactTest("tide", "is", ("not",))), st.data())
def test_nothing_is_offered_that_cannot_stand_there(interface: Interface, rule: Rule, data: st.DataObject) -> None:
    """With an offer taken, the rule is right, or only not at its end yet."""
    text = format_rule(rule)
    inside_quotes = [
        at for one in TOKEN.finditer(text) if one.group()[0] == '"' for at in range(one.start() + 1, one.end())
    ]
    cut = data.draw(st.sampled_from([at for at in range(len(text) + 1) if at not in set(inside_quotes)]))
    listed, begin = offers(interface, text[:cut])
    for one in listed:
        taken = f"{text[:begin]}{one} "
        try:
            read_rule(taken, ALL, NAMED)
        except RuleRefused as refused:
            wrong = [one for one in refused.problems if one.at < len(taken) - 1 and "nothing after it" not in one.says]
            assert not wrong, (taken, refused.problems)


@pytest.mark.parametrize(
    ("typed", "first"),
    [
        ("", "flag"), ("f", "flag"), ("not ", "flag"), ("plan ", "is"), ("plan is ", "not"), ("plan is not ", "free"),
        ("plan in (", "free"), ("plan in (free, ", "free"), ("roles has ", "any"), ("roles has any (cr", "crew"),
        ("flag a", "and"), ("flag and ", "flag"), ("(", "flag"), ("flag and (pl", "plan"), ("visits ", "is"),
        ("plan is a", '"a b"'), ('plan is "a', '"a b"'), ('roles has any (crew, "s', "skipper"), ("tide is not n", '"not"'), ("st", "staff"), ("staff ", "and"),
    ],
)  # fmt: skip
def test_offers_begin_with_what_is_most_likely(interface: Interface, typed: str, first: str) -> None:
    listed, _ = offers(interface, typed)
    assert listed, typed
    assert listed[0].strip('"').startswith(first.strip('"')), (typed, listed)
