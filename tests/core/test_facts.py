"""Facts: their types, which values are theirs, sets over sets, and texts that patterns tell apart."""

from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.errors import InvalidDocument
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.facts import FactSet, FactType, built_in, fitting, problem_with, read_visitor, says_type
from sign_shelf.core.rules import FactTest
from sign_shelf.core.rules.evaluate import answers
from sign_shelf.core.rules.texts import TooManyTexts, texts_apart

PLAN = FactType(type="choice", values=("day", "season"))
ROLES = FactType(type="tags", values=("crew", "skipper"))
AGE = FactType(type="number", min=0, max=120, whole=True)
FLAG, PATH, TEXT = FactType(type="flag"), FactType(type="path"), FactType(type="text")


@pytest.mark.parametrize(
    ("fact", "good", "wrong"),
    [
        (FLAG, [True, False], [1, 0, "true", None, []]),
        (PLAN, ["day", "season"], ["Day", "", 1, ["day"], True]),
        (
            ROLES,
            [[], ["crew"], ("crew", "skipper"), ["crew", "crew"]],
            ["crew", ["cook"], [1], {"crew": 1}, [["crew"]]],
        ),
        (AGE, [0, 120, 3.0, 17], [-1, 121, 3.5, "3", True, float("nan"), float("inf")]),
        (FactType(type="number"), [-1e9, 0.5, 3], ["", False]),
        (PATH, ["/", "/a/b?c"], ["a", "", 1, "https://a.example/"]),
        (TEXT, ["", "a b", "/x"], [1, True, ["a"]]),
    ],
)
def test_a_value_is_a_fact_s_or_it_is_said_what_is(fact: FactType, good: list[object], wrong: list[object]) -> None:
    for value in good:
        assert problem_with(value, fact) is None
        assert fitting({"it": value}, {"it": fact})
    for value in wrong:
        assert problem_with(value, fact) == f"expected {says_type(fact)}"
        assert fitting({"it": value}, {"it": fact}) == {}
        if value is not None:
            with pytest.raises(InvalidDocument):
                read_visitor({"it": value}, {"it": fact})


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        ({"type": "flag", "values": ["a"]}, "a flag has no list of values"),
        ({"type": "choice"}, "a choice needs its values"),
        ({"type": "choice", "values": ["a", "a"]}, "listed twice"),
        ({"type": "tags", "min": 1}, "go with a number"),
        ({"type": "text", "whole": True}, "go with a number"),
        ({"type": "number", "min": 3, "max": 2}, "max (2) is less than min (3)"),
        ({"type": "number", "min": float("inf")}, "finite"),
        ({"type": "list"}, "type"),
        ({"type": "choice", "values": [""]}, "values[0]"),
    ],
)
def test_a_type_that_does_not_hang_together_is_refused(raw: dict[str, object], says: str) -> None:
    with pytest.raises(InvalidDocument) as refused:
        read(FactType, raw)
    assert says in str(refused.value)


@pytest.mark.parametrize(
    "name", ["and", "or", "not", "is", "in", "has", "any", "under", "like", "always", "never", "", "1a", "a b", "é"]
)
def test_a_fact_is_not_called_like_a_word_of_the_language(name: str) -> None:
    with pytest.raises(InvalidDocument):
        read(FactSet, {"facts": {name: {"type": "flag"}}})
    with pytest.raises(InvalidDocument):
        read(FactSet, {"rules": {name: "always"}})


def test_a_set_counts_over_another_name_by_name() -> None:
    below = read(FactSet, {"title": "Shared", "facts": {"a": {"type": "flag"}, "b": {"type": "text"}},
                           "audiences": {"x": {"a": True}}, "rules": {"r": "a"}})  # fmt: skip
    above = read(FactSet, {"title": "Own", "facts": {"b": {"type": "path"}}, "audiences": {"x": {"a": False}, "y": {}}})
    both = above.over(below)
    assert (both.title, {name: fact.type for name, fact in both.facts.items()}) == ("Own", {"a": "flag", "b": "path"})
    assert both.audiences == {"x": {"a": False}, "y": {}}
    assert both.rules == {"r": "a"}
    assert FactSet().over(below).facts == below.facts
    assert read(FactSet, both.to_json()) == both


def test_every_site_has_the_facts_of_its_requests() -> None:
    facts = built_in(["en", "nl", "en"])
    assert facts["language"].values == ("en", "nl")
    assert built_in([])["language"].values == ("en",)
    assert (facts["month"].min, facts["month"].max, facts["hour"].max) == (1, 12, 23)
    assert facts["roles"].values == (), "which roles there are, a site says"


_texts = st.sampled_from(["", "a", "b", "ab", "/a", "/a/b", "/", "a/"])
_globs = st.text(st.sampled_from("ab/*?"), max_size=4)
_asked = st.one_of(
    st.builds(lambda value: FactTest("t", "is", (value,)), _texts),
    st.builds(lambda values: FactTest("t", "in", tuple(values)), st.lists(_texts, min_size=1, max_size=2)),
    st.builds(lambda glob: FactTest("t", "like", (glob,)), _globs),
    st.builds(lambda value: FactTest("t", "under", (value,)), st.sampled_from(["/", "/a", "/a/", "/b", "/a/b"])),
)
EVERY = ["".join(letters) for length in range(6) for letters in product("ab/z", repeat=length)]
"""Every text up to five letters of what the patterns name, and one letter that stands for all others."""


@given(st.lists(_asked, min_size=1, max_size=4), st.booleans())
def test_texts_apart_are_one_of_each_kind_that_there_can_be(tests: list[FactTest], path: bool) -> None:
    def kinds(texts: list[str]) -> list[tuple[bool, ...]]:
        return [tuple(answers(test.op, test.values, text) for test in tests) for text in texts]

    found = texts_apart(tests, path=path)
    told = kinds(found)
    assert len(set(told)) == len(told), "each kind once"
    assert all(text.startswith("/") for text in found) or not path
    assert set(told) >= set(kinds([text for text in EVERY if text.startswith("/") or not path]))


def test_patterns_that_tell_too_many_texts_apart_are_left_undecided() -> None:
    """Each of thirty letters somewhere before another one: the sets of positions are too many to walk."""
    many = [FactTest("t", "like", (f"*{chr(97 + at % 26)}*{chr(97 + (7 * at) % 26)}*{at}*",)) for at in range(24)]
    with pytest.raises(TooManyTexts):
        texts_apart(many, path=False)
