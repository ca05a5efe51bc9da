"""Rules: read, written, asked, analysed. The laws hold them against the plain reading of tests/plain_rules.py."""

from itertools import product

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from sign_shelf.core.errors import InvalidDocument
from sign_shelf.core.model.facts import FactType, built_in, read_visitor
from sign_shelf.core.rules import (
    Const,
    FactTest,
    Not,
    Rule,
    RuleRefused,
    all_of,
    any_of,
    compiled,
    fact_tests,
    format_rule,
    read_rule,
    sentence,
    why,
)
from sign_shelf.core.rules.analyse import analyse
from sign_shelf.core.rules.typed import MOST_TESTS
from tests.examples import examples
from tests.plain_rules import FACTS, every_visitor, plainly, rules

SITE = {
    **built_in(["en", "nl"]),
    "roles": FactType(type="tags", values=("crew", "skipper")),
    "visits": FactType(type="number", min=0, max=1000),
    "plan": FactType(type="choice", values=("free", "gold")),
}
SMALL = ("flag", "other.flag", "plan", "roles", "visits")


@given(rules())
def test_a_rule_is_the_same_after_it_was_written_and_read(rule: Rule) -> None:
    """And its normal form is written the same again."""
    text = format_rule(rule)
    again = read_rule(text, FACTS)
    assert again == rule
    assert format_rule(again) == text


@given(rules(), st.data())
def test_a_rule_comes_out_as_the_plain_reading_says(rule: Rule, data: st.DataObject) -> None:
    """For visitors who supply all facts, some or none; and what is said to have decided it did."""
    names = sorted({test.fact for test in fact_tests(rule)})
    visitor = data.draw(st.sampled_from(list(every_visitor(names[:3], unsupplied=True))))
    truth = plainly(rule, visitor)
    assert compiled(rule)(visitor) is truth
    for reason in why(rule, visitor):
        assert plainly(reason.test, visitor) is reason.value
        if truth is None:
            assert reason.value is None
            assert f"does not supply {reason.test.fact}" in reason.says


@examples(60)
@given(st.lists(rules(SMALL), min_size=1, max_size=5), st.booleans())
@example([any_of([Not(Const(True)), Const(False)]), Const(True)], False)
def test_analysis_says_what_full_enumeration_says(some: list[Rule], unsupplied: bool) -> None:
    """Never, always, examples, equal, implied: over every visitor of five facts, up to 2 880 of them."""
    _held_against_enumeration(some, SMALL, unsupplied)


@examples(40)
@example(  # /a/b/a is under /a/b and does not end with b
    [Not(FactTest("path", "under", ("/a/b",))), Not(FactTest("path", "like", ("/?*b",))), Const(True)], False
)
@given(st.lists(rules(("path", "flag", "roles")), min_size=1, max_size=4), st.booleans())
def test_analysis_knows_which_paths_there_can_be(some: list[Rule], unsupplied: bool) -> None:
    _held_against_enumeration(some, ("path", "flag", "roles"), unsupplied)


def _held_against_enumeration(some: list[Rule], names: tuple[str, ...], unsupplied: bool) -> None:
    everyone = list(every_visitor(names, unsupplied=unsupplied))
    shown = [[plainly(rule, visitor) is True for visitor in everyone] for rule in some]
    for at, (rule, told) in enumerate(zip(some, analyse(some, FACTS, unsupplied=unsupplied), strict=True)):
        mine = shown[at]
        assert told.never is not any(mine)
        assert told.always is all(mine)
        assert (told.example is None) is told.never
        assert (told.counter_example is None) is told.always
        fill = everyone[0]
        if told.example is not None:
            assert plainly(rule, told.example if unsupplied else {**fill, **told.example}) is True
        if told.counter_example is not None:
            assert plainly(rule, told.counter_example if unsupplied else {**fill, **told.counter_example}) is not True
        others = [other for other in range(len(some)) if other != at]
        assert told.same_as == tuple(one for one in others if shown[one] == mine)
        implied = tuple(one for one in others if all(b for a, b in zip(shown[one], mine, strict=True) if a))
        assert told.implied_by == implied
        assert told.not_decided == ()


SIXTEEN = tuple(f"f{at}" for at in range(16))


@examples(2)
@given(st.lists(rules(SIXTEEN), min_size=2, max_size=3))
def test_analysis_says_what_all_combinations_of_sixteen_facts_say(some: list[Rule]) -> None:
    """2¹⁶ visitors."""
    everyone = [dict(zip(SIXTEEN, row, strict=True)) for row in product((False, True), repeat=16)]
    shown = [[plainly(rule, visitor) is True for visitor in everyone] for rule in some]
    told = analyse(some, _flags(16))
    for at, one in enumerate(told):
        assert (one.never, one.always) == (not any(shown[at]), all(shown[at]))
        others = [other for other in range(len(some)) if other != at]
        assert one.implied_by == tuple(
            other for other in others if not any(a and not b for a, b in zip(shown[other], shown[at], strict=True))
        )


def _flags(count: int) -> dict[str, FactType]:
    return {f"f{at}": FactType(type="flag") for at in range(count)}


def test_analysis_searches_rules_that_are_too_tangled_for_cubes() -> None:
    """Thirty facts have 2³⁰ combinations; twenty pairs of which one must hold make a million cubes."""
    facts = _flags(40)
    pairs = " and ".join(f"(f{2 * at} or f{2 * at + 1})" for at in range(20))
    all_thirty = " and ".join(f"f{at}" for at in range(30))
    texts = [pairs, f"({pairs}) and not f0 and not f1", all_thirty, f"not ({all_thirty}) or f3"]
    told = analyse([read_rule(text, facts) for text in texts], facts)
    assert [one.never for one in told] == [False, True, False, False]
    assert [one.always for one in told] == [False, False, False, True]
    assert told[0].example is not None
    assert plainly(read_rule(pairs, facts), told[0].example)
    assert told[3].implied_by == (0, 1, 2)


@pytest.mark.timeout(60)
def test_what_would_cost_too_much_is_not_decided() -> None:
    """Whether an odd number of 14 facts holds is as hard as it gets: nothing wrong is said of it, and it ends."""
    facts = _flags(14)
    odd = "f0"
    for at in range(1, 4):
        odd = f"(({odd}) and not f{at} or not ({odd}) and f{at})"
    pigeons = " and ".join(f"({' or '.join(f'f{3 * p + h}' for h in range(3))})" for p in range(4))
    facts |= _flags(12)
    one_each = " and ".join(
        f"not (f{3 * p + h} and f{3 * q + h})" for h in range(3) for p in range(4) for q in range(p)
    )  # fmt: skip
    rules = [read_rule(text, facts) for text in (odd, f"{pigeons} and {one_each}")]
    parity, crowded = analyse(rules, facts)
    assert (parity.never, parity.always) == (False, False)
    assert crowded.never in {True, "not decided"}, "four pigeons do not fit into three holes"


@pytest.mark.parametrize(
    ("text", "column", "says", "suggestion"),
    [
        ('roles has "crwe"', 11, 'roles has "crwe"', "did you mean crew?"),
        ("signd_in", 1, 'no fact "signd_in"', "did you mean signed_in?"),
        ("signed_in adn visits > 3", 11, "found “adn”", "write and"),
        ("signed_in == true", 11, "no sign of the rule language", "write is"),
        ("signed_in && visits > 3", 11, "“&&”", "write and"),
        ("visits ≥ 3", 8, "greater-than or equal to", "write >="),
        ("signed_in аnd visits > 3", 11, "cyrillic small letter a", "write and"),
        ("ѕigned_in", 1, "no fact", "did you mean signed_in?"),
        ("plan is “gold”", 9, "left double quotation mark", 'write "'),
        ("signed_in AND visits > 3", 11, "found “AND”", "write and"),
        ("visits has 3", 1, "visits is a number", "write visits is 3 or visits in (3)"),
        ("plan > 3", 1, "plan is a choice", "plan is free"),
        ('visits > "3"', 10, "no such value", "a number from 0 to 1000"),
        ("page under about", 12, "no such value", "beginning with /"),
        ("(signed_in", 11, "expected )", None),
        ("signed_in and", 14, "the end of the rule", None),
        ('plan is "gold', 9, "does not end", 'close it with "'),
        ("", 1, "the rule is empty", "signed_in"),
        ("signed_in or loops", 14, "leads back to itself", None),
        ("broken", 1, "the rule broken is not valid", "did you mean crew?"),
    ],
)
def test_a_wrong_rule_is_refused_where_it_is_wrong(text: str, column: int, says: str, suggestion: str | None) -> None:
    named = {"loops": "loops_too", "loops_too": "signed_in and loops", "broken": "roles has crwe"}
    with pytest.raises(RuleRefused) as refused:
        read_rule(text, SITE, named)
    problem = refused.value.problems[0]
    assert problem.at + 1 == column
    assert says in problem.says
    assert suggestion is None or suggestion in (problem.suggestion or "")
    line, caret = refused.value.caret().split("\n")
    assert caret.endswith("^")
    assert len(caret) == column
    assert line == text


def test_every_wrong_value_is_told_at_once() -> None:
    with pytest.raises(RuleRefused) as refused:
        read_rule("plan is silver and roles has any (crew, mate) and signd_in", SITE)
    assert [problem.at for problem in refused.value.problems] == [8, 40, 50]


@pytest.mark.parametrize(
    "text",
    ["a" * 100_000, "(" * 10_000 + "signed_in" + ")" * 10_000, "not " * 3_000, "signed_in and " * 7_000, "«" * 3_000,
     "(" * 51 + "signed_in" + ")" * 51, '"' * 3_999, "\\" * 3_000, "plan in (" + "gold," * 700, "\0", "１ ＜ ２"],
)  # fmt: skip
def test_hostile_rules_are_refused_without_delay(text: str) -> None:
    with pytest.raises(RuleRefused) as refused:
        read_rule(text, SITE)
    assert len(str(refused.value)) < 600


def test_names_within_names_are_refused_before_they_grow() -> None:
    """Each names the one before twice: forty of them would be a million million tests."""
    doubling = {"r0": "signed_in"} | {f"r{at}": f"r{at - 1} or r{at - 1}" for at in range(1, 41)}
    chain = {"c0": "signed_in"} | {f"c{at}": f"c{at - 1}" for at in range(1, 41)}
    for name, named, says in [
        ("r11", doubling, "more than 2000 tests"),
        ("r40", doubling, "more than 2000 tests"),
        ("c40", chain, "named through too many others"),
    ]:
        with pytest.raises(RuleRefused) as refused:
            read_rule(name, SITE, named)
        assert says in str(refused.value)
    assert format_rule(read_rule("c11", SITE, chain)) == "signed_in"
    wide = {"w": " or ".join(["signed_in"] * 100)}
    with pytest.raises(RuleRefused):
        read_rule(" or ".join(["w"] * 30), SITE, wide)
    facts = _flags(800)
    tangled = " and ".join(f"(f{2 * at} or f{2 * at + 1})" for at in range(200))
    told = analyse([read_rule(tangled, facts)], facts)[0]
    assert told.never in {False, "not decided"}


def test_a_rule_has_as_many_tests_as_it_may_and_not_one_more() -> None:
    """The name of a rule counts, and every test in it each time that it is named."""
    named = {"few": " or ".join(["signed_in"] * 99)}
    twenty = " and ".join(["few"] * (MOST_TESTS // 100))
    assert len(list(fact_tests(read_rule(twenty, SITE, named)))) == MOST_TESTS // 100 * 99
    with pytest.raises(RuleRefused, match=f"more than {MOST_TESTS} tests"):
        read_rule(f"{twenty} and signed_in", SITE, named)


def test_named_rules_stand_where_they_are_named() -> None:
    named = {"staff": "signed_in and roles has any (crew, skipper)", "staff_at_sea": "staff and device is phone"}
    found = read_rule("staff_at_sea or visits > 100", SITE, named)
    assert format_rule(found) == (
        'signed_in and roles has any ("crew", "skipper") and device is "phone" or visits > 100'
    )


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("always", "everyone"),
        ("never", "nobody"),
        ("signed_in and roles has crew", "visitors who are signed in and who have crew among their roles"),
        ("not signed_in", "visitors who are not signed in"),
        ("not (signed_in and device is phone)", "visitors either who are not signed in or not on a phone"),
        ("month >= 4 and month < 10", "visitors from April on and before October"),
        ("weekday in (saturday, sunday) and hour >= 9", "visitors on Saturdays or Sundays and from 9:00 on"),
        ("page under /about or language is nl", "visitors either on /about or below it or in nl"),
        ("not (visits < 3 or plan is gold)", "visitors whose visits is not less than 3 and whose plan is not gold"),
    ],
)
def test_a_rule_is_said_in_plain_words(text: str, says: str) -> None:
    assert sentence(read_rule(text, SITE)) == says


def test_a_visitor_is_read_against_the_declared_facts() -> None:
    read = read_visitor({"roles": ["crew"], "visits": 3, "plan": None, "unheard_of": 1}, SITE)
    assert read == {"roles": ("crew",), "visits": 3}
    with pytest.raises(InvalidDocument) as refused:
        read_visitor({"roles": ["cook"], "visits": True, "signed_in": "yes", "page": "about", "month": 4.5}, SITE)
    assert {problem.where for problem in refused.value.problems} == {
        "visitor.roles", "visitor.visits", "visitor.signed_in", "visitor.page", "visitor.month",
    }  # fmt: skip


def test_all_of_and_any_of_drop_levels_that_say_nothing() -> None:
    assert all_of([]) == Const(True)
    assert any_of([any_of([Const(True)])]) == Const(True)
