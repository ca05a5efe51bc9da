"""Sweeps: what a query finds among entries, and the same edit made of all of them."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from sign_shelf.core.errors import Refusal
from sign_shelf.core.model.menu import walk
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.outline import format_outline
from sign_shelf.core.sweeps import Making, Swept, read_query, swept
from sign_shelf.core.sweeps.entry import entries_of
from sign_shelf.core.sweeps.query import NAMES, Sought, Term
from tests.core.test_checks import view

OUTLINE = """\
Fares -> @fares {nl "Tarieven"}
  Islander pass -> https://old.example/pass#top
  Groups -> mailto:groups@b.example {when "signed_in"; from 2027-04-01T04:00}
Straße: {until 2027-01-01T00:00}
  Marrow -> https://www.old.example/marrow
  ---
Press -> ?
Ask us -> !question
"""
SITE = view(OUTLINE).site
(MENU,) = SITE.menus
CODES = {(MENU, item.id): frozenset({"pending"}) for _, item in walk(SITE.menus[MENU].items) if item.id == "press"}
ENTRIES = list(entries_of(SITE, CODES, "2027-02-12T09:00"))
LABEL = {one.item: one.label.split("\n")[0] for one in ENTRIES}


@pytest.mark.parametrize(
    ("query", "found"),
    [
        ("islander", ["Islander pass"]),
        ("tarieven", ["Fares"]),
        ("old.example", ["Islander pass", "Marrow"]),
        ("host:old.example", ["Islander pass", "Marrow"]),
        ("host:=old.example", ["Islander pass"]),
        ("target:/fares", ["Fares"]),
        ("target:@fares -label:x", ["Fares"]),
        ("target:pending", ["Press"]),
        ("label:=fares", ["Fares"]),
        ("label:=fare", []),
        ('label:~"^(fares|marrow)$"', ["Fares", "Marrow"]),
        ("label:STRASSE", []),
        ("label:straße", ["Straße"]),
        ('"islander pass"', ["Islander pass"]),
        ("kind:opener", ["Ask us"]),
        ("kind:link -rule:any -host:old.example", ["Fares", "Press"]),
        ("rule:any", ["Groups"]),
        ("rule:signed", ["Groups"]),
        ("window:ahead", ["Groups"]),
        ("window:over", ["Straße"]),
        ("window:open", []),
        ("window:any", ["Groups", "Straße"]),
        ("finding:pend", ["Press"]),
        ("finding:any kind:link", ["Press"]),
        ("site:nobody fares", []),
        ("https://www.old.example/marrow", ["Marrow"]),
    ],
)
def test_a_query_finds(query: str, found: list[str]) -> None:
    sought = read_query(query)
    assert [LABEL[one.item] for one in ENTRIES if sought.finds(one)] == found


@pytest.mark.parametrize(
    ("query", "where", "says", "remedy"),
    [
        ("", "query", "Nothing is looked for", "host:old.example"),
        ("fares labl:x", "query, letter 7", '"labl"', "label:"),
        ("kind:lnk", "query, letter 1", "kind:lnk", "link?"),
        ("window:sometime", "query, letter 1", "none that there is", "any, none"),
        ('label:"fares', "query, letter 7", "not closed", '"'),
        ("label: x", "query, letter 1", "Nothing stands after", "value"),
        ("label:~(a", "query, letter 1", "no pattern: missing )", "RE2"),
        (" ".join("abcdefghijklmnopqrstuvw"), "query", "at most 20 terms", ""),
        ("x" * 1_001, "query", "at most 1000 letters", ""),
    ],
)
def test_a_query_that_is_none_is_refused_with_its_letter_and_what_would_do(
    query: str, where: str, says: str, remedy: str
) -> None:
    with pytest.raises(Refusal) as refused:
        read_query(query)
    assert refused.value.where == where
    assert says in refused.value.says
    assert remedy in (refused.value.remedy or "")


def written(sought: Sought) -> str:
    def term(one: Term) -> str:
        quoted = one.value.replace("\\", "\\\\").replace('"', '\\"') if one.form != "pattern" else one.value
        mark = {"holds": "", "is": "=", "pattern": "~"}[one.form]
        name = "" if one.name == "words" else f"{one.name}:"
        return f'{"-" if one.negated else ""}{name}{mark}"{quoted}"'

    return " ".join(map(term, sought.terms))


@st.composite
def terms(draw: st.DrawFn) -> Term:
    name = draw(st.sampled_from([one for one in NAMES if one not in {"kind", "window"}]))
    value = draw(st.text(st.characters(exclude_characters="\\"), min_size=1, max_size=12))
    form = "holds" if name == "words" else draw(st.sampled_from(["holds", "is"]))
    return Term(name, value, form, draw(st.booleans()))  # type: ignore[arg-type]


@given(st.lists(terms(), min_size=1, max_size=5))
def test_what_is_written_is_what_is_read(sought: list[Term]) -> None:
    assert read_query(written(Sought(tuple(sought)))).terms == tuple(sought)


@given(st.text(max_size=40))
def test_any_text_is_a_query_or_refused_as_one(text: str) -> None:
    try:
        sought = read_query(text)
    except Refusal as refused:
        assert refused.where is not None
        return
    assert sought.terms
    for term in sought.terms:
        inverse = Term(term.name, term.value, term.form, not term.negated)
        assert all(term.holds(one) != inverse.holds(one) for one in ENTRIES)


def made(query: str, **making: object) -> Swept:
    sought = read_query(query)
    items = {one.item for one in ENTRIES if sought.finds(one)}
    return swept(SITE, MENU, items, TypeAdapter(Making).validate_python(making))  # type: ignore[type-var]


def lines(done: Swept) -> list[str]:
    """Of the menu afterwards, those that it did not have before."""
    before = set(format_outline(SITE.menus[MENU]).splitlines())
    return [line.strip() for line in format_outline(done.menu).splitlines() if line not in before]


def test_the_same_edit_of_all_that_is_found_and_of_nothing_else() -> None:
    done = made("host:old.example", do="retarget", to="/fares#pass")
    assert lines(done) == ["Islander pass -> @fares#pass", "Marrow -> @fares#pass"]
    assert len(done.does) == 2
    assert lines(made("host:=old.example", do="retarget", to="/new")) == ["Islander pass -> /new"], "a path stays one"
    (call,) = lines(made("label:groups", do="retarget", to="tel:+44 20 7946 0000"))
    assert call.startswith("Groups -> <tel:+44 20 7946 0000> {")
    assert lines(made("fares", do="relabel", language="nl", label="Prijzen")) == ['Fares -> @fares {nl "Prijzen"}']
    assert lines(made("fares", do="relabel", language="nl")) == ["Fares -> @fares"]
    assert lines(made("label:pass", do="look", emphasis="button", size="l")) == [
        "Islander pass -> https://old.example/pass#top {button l}"
    ]
    assert lines(made("label:pass", do="rule", when="signed_in")) == [
        "Islander pass -> https://old.example/pass#top {when signed_in}"
    ]
    assert lines(made("label:straße", do="window", **{"from": "2027-03-01T00:00"})) == [
        "Straße: {from 2027-03-01T00:00}"
    ]
    gone = made("label:fares", do="remove")
    assert "with 2 below it" in next(iter(gone.does.values()))[0]
    assert [item.id for _, item in walk(gone.menu.items)] == [one.item for one in ENTRIES[3:]]


def test_text_is_replaced_in_labels_and_addresses_with_groups_taken_up_again() -> None:
    assert lines(made("host:old.example", do="replace", within="address", find="old.example", by="new.example")) == [
        "Islander pass -> https://new.example/pass#top", "Marrow -> https://www.new.example/marrow",
    ]  # fmt: skip
    turned = made("label:pass", do="replace", find=r"(\w+) (\w+)", by=r"\2 of \1", pattern=True)
    assert lines(turned) == ["pass of Islander -> https://old.example/pass#top"]
    with pytest.raises(Refusal, match="cannot be put in its place"):
        made("label:pass", do="replace", find="(a)", by=r"\2", pattern=True)
    only = made("tarieven", do="replace", find="ar", by="AR", language="nl")
    assert lines(only) == ['Fares -> @fares {nl "TARieven"}']


def test_what_cannot_be_done_to_an_entry_is_told_and_the_others_are_done() -> None:
    backwards = made("label:groups", do="window", until="2027-03-01T00:00", **{"from": "2027-04-01T04:00"})
    assert list(backwards.refused.values()) == ["until (2027-03-01T00:00) must be later than from (2027-04-01T04:00)"]
    opener = made("kind:opener", do="retarget", to="/fares")
    assert list(opener.refused.values()) == ["Only links are led elsewhere, and this is an opener."]
    assert opener.menu == SITE.menus[MENU]
    assert list(made("kind:heading", do="relabel", language="en").refused) == ["strae"]
    assert list(made("tarieven", do="retarget", to="/fares").refused.values()) == ["It is so already."]
    assert list(made("kind:divider", do="look", emphasis="strong").refused.values()) == ["A divider has no label."]
    assert [*made("label:pass", do="retarget", to="javascript:alert(1)").refused] == ["islander-pass"]


@given(st.sets(st.sampled_from([one.item for one in ENTRIES])))
def test_nothing_but_what_was_found_is_touched(items: set[str]) -> None:
    site: SiteDocument = SITE
    done = swept(site, MENU, items, TypeAdapter(Making).validate_python({"do": "rule", "when": "signed_in"}))  # type: ignore[type-var]
    before = dict(walked(site.menus[MENU].items))
    after = dict(walked(done.menu.items))
    assert before.keys() == after.keys()
    assert {one for one in before if before[one] != after[one]} == set(done.does) <= items
    assert items == done.does.keys() | done.refused.keys()


def walked(items: tuple) -> list[tuple[str, object]]:  # type: ignore[type-arg]
    return [(item.id, item.model_copy(update={"items": ()})) for _, item in walk(items)]


def test_entries_keep_their_order() -> None:
    assert all(first.number <= second.number for first, second in pairwise(ENTRIES))
