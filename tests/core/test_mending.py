"""Rules that go along when facts get other names or go, and rules as parts: laws over generated rules."""

from collections.abc import Mapping

from hypothesis import assume, given
from hypothesis import strategies as st

from sign_shelf.core.model.facts import FactType, FactValue
from sign_shelf.core.rules import Rule, compiled, fact_tests, format_rule, read_rule
from sign_shelf.core.rules.mend import mended, without
from sign_shelf.core.rules.parts import part_of
from tests.plain_rules import FACTS, every_visitor, plainly, rules, said

NAMES = {"flag": "member", "plan": "ticket", "roles": "duties"}
VALUES = {"plan": {"free": "guest", "a b": "b c"}, "roles": {"crew": "sailor"}}
SOME = ("flag", "other.flag", "plan", "roles")


def _renamed_facts() -> dict[str, FactType]:
    return {
        NAMES.get(name, name): fact.model_copy(
            update={"values": tuple(VALUES.get(name, {}).get(value, value) for value in fact.values)}
        )
        for name, fact in FACTS.items()
    }


def _renamed(visitor: Mapping[str, FactValue]) -> dict[str, FactValue]:
    def value(name: str, known: FactValue) -> FactValue:
        words = VALUES.get(name, {})
        if isinstance(known, tuple):
            return tuple(words.get(one, one) for one in known)
        return words.get(known, known) if isinstance(known, str) else known

    return {NAMES.get(name, name): value(name, known) for name, known in visitor.items()}


@given(rules(SOME), st.data())
def test_a_rule_with_new_names_says_the_same_of_visitors_with_new_names(rule: Rule, data: st.DataObject) -> None:
    text = mended(format_rule(rule), NAMES, VALUES)
    after = read_rule(text, _renamed_facts())
    visitor = data.draw(st.sampled_from(list(every_visitor(SOME, unsupplied=True))))
    assert compiled(after)(_renamed(visitor)) is plainly(rule, visitor)


@given(rules(SOME))
def test_a_rule_in_which_nothing_has_a_new_name_is_left_as_it_was_typed(rule: Rule) -> None:
    text = f"  {format_rule(rule)} ".replace(" and ", "  and ")
    assert mended(text, {"visits": "calls"}, {"path": {"/a": "/b"}}) == text


@given(rules(SOME), st.data())
def test_what_is_suggested_where_something_goes_lets_nobody_in_who_was_not(rule: Rule, data: st.DataObject) -> None:
    """For visitors of whom what went is no longer known, and whatever way round the rule asked for it."""
    gone = {"flag": None}
    values = {"plan": frozenset({"free"}), "roles": frozenset({"crew"})}
    suggested = read_rule(without(format_rule(rule), gone, values), FACTS)
    everyone = every_visitor(("other.flag", "plan", "roles"), unsupplied=True)
    left = [one for one in everyone if one.get("plan") != "free" and "crew" not in one.get("roles", ())]  # type: ignore[operator]
    visitor = data.draw(st.sampled_from(left))
    if compiled(suggested)(visitor) is True:
        # A fact that is not supplied leaves the old rule unknown where the new one no longer asks.
        full = {"plan": "silver", "roles": (), **visitor}
        assert plainly(rule, full) is True


@given(rules())
def test_the_parts_of_a_rule_say_the_rule(rule: Rule) -> None:
    """But for what is turned round twice, which they say plainly."""
    again = said(part_of(rule).model_dump())
    assert part_of(again) == part_of(rule)
    names = sorted({test.fact for test in fact_tests(rule)} - {"path"})[:3]
    assume(all(test.fact != "path" for test in fact_tests(rule)))
    for visitor in every_visitor(names, unsupplied=True):
        assert plainly(again, visitor) == plainly(rule, visitor)
