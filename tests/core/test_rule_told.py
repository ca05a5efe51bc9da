"""What the interface is told of one rule as it stands at an item: held against every visitor there can be."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.model.documents import read
from sign_shelf.core.model.facts import FactSet
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.rules import Rule, RuleRefused, all_of, format_rule, read_rule
from sign_shelf.core.visitors.rule_told import rule_told
from tests.examples import examples
from tests.plain_rules import FACTS, every_visitor, plainly, rules
from tests.ruled_sites import TEMPLATE

SOME = ("flag", "plan", "roles")
AUDIENCES = {
    "guest": {"flag": False, "plan": "free", "roles": []},
    "crew": {"flag": True, "plan": "silver", "roles": ["crew"]},
    "half known": {"flag": True},
}
LENS = Lens(device="phone", language="en", at="2027-06-06T08:00", page=None)


def site(**named: str) -> Prepared:
    known = FactSet(facts={name: FACTS[name] for name in SOME}, audiences=AUDIENCES, rules=named).to_json()
    return Prepared(
        read(
            SiteDocument,
            {"format": "sign-shelf/site", "version": 1, "template": TEMPLATE,
             "site": {"key": "s", "name": "S", "base": "https://s.example/", "zone": "Europe/London"},
             **{key: known[key] for key in ("facts", "audiences", "rules") if key in known}},
        )
    )  # fmt: skip


SITE = site()


@examples(40)
@given(rules(SOME), st.lists(rules(SOME), max_size=2))
def test_what_is_told_is_true_of_every_visitor(rule: Rule, above: list[Rule]) -> None:
    told = rule_told(SITE, format_rule(rule), [format_rule(one) for one in above], LENS)
    together = all_of([*above, rule])
    everyone = list(every_visitor(SOME, unsupplied=False))
    assert told.never is not any(plainly(together, visitor) for visitor in everyone)
    assert told.always is all(plainly(together, visitor) for visitor in everyone)
    over = [visitor for visitor in everyone if plainly(all_of(above), visitor)]
    if above and len(over) < len(everyone):
        assert told.nothing_new is all(plainly(rule, visitor) for visitor in over)
    if told.example is not None:
        full = next(visitor for visitor in everyone if told.example.items() <= visitor.items())
        assert plainly(together, full)
    for one in told.seen_by:
        facts = {
            name: tuple(value) if isinstance(value, list) else value for name, value in AUDIENCES[one.audience].items()
        }
        assert one.value is plainly(together, facts)  # type: ignore[arg-type]
        assert bool(one.says) == (one.value is not True), "and why, where it does not show"
    assert read_rule(told.normal, SITE.site.all_facts()) == rule


@pytest.mark.parametrize(
    ("rule", "above", "lens", "seen", "says"),
    [
        ("device is phone", [], LENS, {"guest": True, "crew": True, "half known": True}, "on a phone"),
        ("device is phone", [], replace(LENS, device="desktop"), {"guest": False, "crew": False, "half known": False}, ""),
        ("weekday is sunday", [], LENS, {"guest": True, "crew": True, "half known": True}, "on Sundays"),
        ("weekday is sunday", [], replace(LENS, at="2027-06-07T08:00"), {"guest": False, "crew": False, "half known": False}, ""),
        ("roles has crew", ["flag"], LENS, {"guest": False, "crew": True, "half known": None}, "crew among their roles"),
        ("plan is silver", ["not flag"], LENS, {"guest": False, "crew": False, "half known": False}, "silver"),
        ("always", ["((", "flag"], LENS, {"guest": False, "crew": False, "half known": False}, "everyone"),
    ],
)  # fmt: skip
def test_it_is_told_for_the_lens_s_device_and_moment(
    rule: str, above: list[str], lens: Lens, seen: dict[str, bool | None], says: str
) -> None:
    told = rule_told(SITE, rule, above, lens)
    assert {one.audience: one.value for one in told.seen_by} == seen
    assert says in told.says


def test_a_named_rule_stands_in_its_name_and_is_told_in_its_words() -> None:
    named = site(staff='flag and roles has any ("crew", "skipper")', away="not staff")
    told = rule_told(named, "away and plan is silver", [], LENS)
    assert told.normal == 'away and plan is "silver"'
    assert "crew or skipper" in told.says
    assert {one.audience: one.value for one in told.seen_by} == {"guest": False, "crew": False, "half known": None}
    both = rule_told(named, "away", ["staff"], LENS)
    assert (both.never, both.nothing_new, both.example) == (True, False, None)
    same = rule_told(named, "staff", ["staff"], LENS)
    assert (same.never, same.nothing_new) == (False, True)
    with pytest.raises(RuleRefused, match="awayy"):
        rule_told(named, "awayy", [], LENS)
