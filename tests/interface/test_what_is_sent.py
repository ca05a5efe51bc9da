"""What the interface makes of addresses and of what is typed, and what it sends: the core takes every bit of it."""

from datetime import datetime
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.errors import InvalidDocument
from sign_shelf.core.model.documents import read_menu
from sign_shelf.core.model.facts import FactSet
from tests.documents import AWKWARD
from tests.interface.conftest import Interface
from tests.plain_rules import FACTS

odd = st.one_of(
    st.none(), st.booleans(), st.integers(), st.text(max_size=20), st.sampled_from(AWKWARD),
    st.lists(st.integers(), max_size=2), st.dictionaries(st.text(max_size=4), st.integers(), max_size=2),
)  # fmt: skip
kept = {
    "device": st.sampled_from(["desktop", "tablet", "phone"]),
    "language": st.sampled_from(["en", "nl", "pt-BR", "cy"]),
    "audience": st.sampled_from(["crew", "visitor", "ship's crew & co"]),
    "facts": st.dictionaries(st.sampled_from(["roles", "signed_in"]), st.booleans(), min_size=1, max_size=2),
    "at": st.sampled_from(["2027-04-01T04:00", "2026-10-25T01:30+00:00"]),
    "page": st.sampled_from(["timetables", "fares-groups", "/a/b"]),
}


@given(st.dictionaries(st.sampled_from([*kept, "other"]), odd))
def test_an_address_with_anything_in_it_gives_a_lens(interface: Interface, search: dict[str, Any]) -> None:
    lens = interface("lens/lens", "readLens", search)
    assert lens["device"] in {"desktop", "tablet", "phone"}
    assert lens.keys() <= kept.keys()
    assert interface("lens/lens", "readLens", lens) == lens, "read again it is the same"
    sent = interface("lens/lens", "point", lens)
    assert all(isinstance(value, str) for value in sent.values()), "it goes into the address of the server"


@given(st.fixed_dictionaries({}, optional=kept))
def test_a_lens_that_is_sent_on_is_the_same_lens(interface: Interface, lens: dict[str, Any]) -> None:
    assert interface("lens/lens", "readLens", lens) == {"device": "desktop"} | lens


@pytest.mark.parametrize(
    ("languages", "wanted", "spoken"),
    [
        (["en", "nl"], "nl", ["nl", "en"]), (["en", "nl"], "de", ["en", "nl"]), (["en"], None, ["en"]),
        (["cy", "en", "ar"], "ar", ["ar", "cy", "en"]),
    ],
)  # fmt: skip
def test_the_languages_begin_with_the_one_asked_for(
    interface: Interface, languages: list[str], wanted: str | None, spoken: list[str]
) -> None:
    lens = {"device": "desktop", **({"language": wanted} if wanted else {})}
    assert interface("lens/lens", "spoken", languages, lens) == spoken


VOCABULARY = {
    "types": [{"type": "news", "pages": 4}, {"type": "page", "pages": 40}],
    "overlays": [{"key": "search", "pages": 3}, {"key": "tide-table", "pages": 1}],
    "facts": [{"name": "visitor.id", "type": "text"}, {"name": "roles", "type": "tags"}],
    "menus": ["header", "legal", "shared:legal"],
}
PAGES = [
    {"ref": "timetables", "path": "/timetables", "title": {"en": "Timetables"}, "type": "page", "state": "published",
     "parts": ["winter", "fares"]},
    {"ref": "news/1", "path": "/news/1", "title": {}, "type": "news", "state": "draft", "parts": []},
]  # fmt: skip
KNOWN = {
    "vocabulary": VOCABULARY,
    "usual": {"new_tab": True, "rel": ["noopener"], "own_hosts": ["brackwater.example"]},
    "menu": "header",
}
typed = st.one_of(
    st.text(max_size=30),
    st.sampled_from([*AWKWARD, "!", "*", "+", "?", "#", "!se", "*ne", "*rest", "+le", "@timetables#w", "a@b.c", "+44 20 7946"]),
    st.sampled_from(["!", "*", "+", "?", "#", "/", "https://", "{", "/{", "mailto:"]).flatmap(
        lambda sign: st.text(max_size=15).map(lambda rest: sign + rest)
    ),
)  # fmt: skip


def item_of(choice: dict[str, Any]) -> dict[str, Any]:
    match choice["kind"]:
        case "link":
            return {"id": "a", "kind": "link", "label": {"en": "A"}, "target": choice["target"]}
        case "opener":
            return {"id": "a", "kind": "opener", "label": {"en": "A"}, "target": {"overlay": choice["overlay"]}}
        case "listing":
            return {"id": "a", "kind": "listing", "list": choice["list"]}
        case "include":
            return {"id": "a", "kind": "include", "menu": choice["menu"]}
        case _:
            return {"id": "a", "kind": "heading", "label": {"en": "A"}}


def taken(choice: dict[str, Any]) -> bool:
    try:
        read_menu({"format": "sign-shelf/menu", "version": 1, "name": "Menu", "items": [item_of(choice)]})
    except InvalidDocument:
        return False
    return True


@given(typed)
def test_whatever_is_typed_what_is_offered_can_be_kept(interface: Interface, words: str) -> None:
    offers = interface("outline/choices", "offersFor", words, PAGES, KNOWN)
    keys = [offer["key"] for offer in offers]
    assert len(keys) == len(set(keys))
    for offer in offers:
        assert offer["says"]
        assert taken(offer["choice"]), (words, offer)
        assert offer["choice"].get("menu") != "header", "a menu does not include itself"


@pytest.mark.parametrize(
    ("words", "first"),
    [
        ("/timetables", {"page": "timetables"}), ("/nowhere", {"url": "/nowhere"}),
        ("tickets.brackwater.example", {"url": "https://tickets.brackwater.example"}),
        ("a@b.example", {"email": "a@b.example"}), ("+44 20 7946 0000", {"phone": "+44 20 7946 0000"}),
        ("/crew/{vis", {"url": "/crew/{visitor.id}"}), ("?the new boats", {"pending": {"note": "the new boats"}}),
        ("timetables#win", {"page": "timetables", "part": "winter"}), ("#top", {"part": "top"}),
    ],
)  # fmt: skip
def test_the_first_offer_is_what_was_meant(interface: Interface, words: str, first: dict[str, Any]) -> None:
    assert interface("outline/choices", "offersFor", words, PAGES, KNOWN)[0]["choice"]["target"] == first


def test_an_address_elsewhere_comes_with_what_is_usual_there(interface: Interface) -> None:
    away, own = (
        interface("outline/choices", "offersFor", f"https://{host}/", PAGES, KNOWN)[0]
        for host in ("tide.example", "Brackwater.example")
    )
    assert (away["choice"]["usual"], away["note"]) == (
        {"new_tab": True, "rel": ["noopener"]}, "another site, opens in a new tab",
    )  # fmt: skip
    assert "usual" not in own["choice"]


KNOWN_FACTS = FactSet(
    title="Ferry passengers",
    facts=dict(FACTS),
    audiences={"crew": {"flag": True, "roles": ("crew",)}, "silver": {"plan": "silver"}, "visitor": {}},
    rules={"staff": 'flag and roles has "crew"'},
)


def test_facts_that_nobody_changed_are_sent_as_they_are_kept(interface: Interface) -> None:
    body = interface("views/setup/known", "bodyOf", interface("views/setup/known", "draftOf", KNOWN_FACTS.to_json()))
    assert FactSet.model_validate(body["known"]) == KNOWN_FACTS
    assert (body["renamed"], body["renamed_values"]) == ({}, {})


@given(st.data())
def test_a_renamed_fact_takes_what_audiences_know_along(interface: Interface, data: st.DataObject) -> None:
    draft = interface("views/setup/known", "draftOf", KNOWN_FACTS.to_json())
    at = data.draw(st.integers(0, len(draft["facts"]) - 1))
    was = draft["facts"][at]["name"]
    name = data.draw(st.sampled_from([was, "called.otherwise"]))
    values = [one["value"] for one in draft["facts"][at]["values"]]
    new = [data.draw(st.sampled_from([value, f"new {value}"])) for value in values]
    row = draft["facts"][at] | {
        "name": name,
        "values": [{"was": value, "value": next_} for value, next_ in zip(values, new, strict=True)],
    }
    body = interface("views/setup/known", "bodyOf", interface("views/setup/known", "withFact", draft, at, row))
    sent = FactSet.model_validate(body["known"])
    called = dict(zip(values, new, strict=True))
    assert sent.facts[name].values == tuple(new)
    assert body["renamed"] == ({was: name} if name != was else {})
    assert body["renamed_values"] == (
        {was: dict(changed)} if (changed := [(a, b) for a, b in called.items() if a != b]) else {}
    )
    for audience, facts in KNOWN_FACTS.audiences.items():
        expected = {
            name if key == was else key: renamed(value, called if key == was else {}) for key, value in facts.items()
        }
        assert sent.audiences[audience] == expected, "and every value is still one of the fact's"


def renamed(value: Any, called: dict[str, str]) -> Any:
    if isinstance(value, tuple):
        return tuple(called.get(one, one) for one in value)
    return called.get(value, value) if isinstance(value, str) else value


def test_a_fact_that_goes_is_known_of_no_audience_any_more(interface: Interface) -> None:
    draft = interface("views/setup/known", "draftOf", KNOWN_FACTS.to_json())
    at = list(KNOWN_FACTS.facts).index("roles")
    left = interface("views/setup/known", "withFact", draft, at, None)
    assert "roles" not in [fact["name"] for fact in left["facts"]]
    assert [audience["facts"] for audience in left["audiences"]] == [{"flag": True}, {"plan": "silver"}, {}]
    row = draft["facts"][at] | {"values": [{"was": "skipper", "value": "skipper"}]}
    fewer = interface("views/setup/known", "withFact", draft, at, row)
    assert fewer["audiences"][0]["facts"]["roles"] == [], "and a value that goes is none of them"


def test_names_are_free_and_doubled_ones_are_told_before_one_is_lost(interface: Interface) -> None:
    rows = [{"name": "fact2"}, {"name": "fact3"}]
    assert interface("views/setup/known", "freeName", "fact", rows) == "fact4"
    draft = interface("views/setup/known", "draftOf", KNOWN_FACTS.to_json())
    assert interface("views/setup/known", "doubled", draft) is None
    draft["facts"][0]["name"] = draft["facts"][1]["name"]
    assert interface("views/setup/known", "doubled", draft) == draft["facts"][1]["name"]
    once_more = draft["facts"][0] | {"name": "apart"}
    apart = interface("views/setup/known", "withFact", draft, 0, once_more)
    assert apart["audiences"] == draft["audiences"], "what is known by a doubled name is the other's"


@given(
    st.datetimes(datetime(1000, 1, 1), datetime(8000, 1, 1)).map(lambda one: one.strftime("%Y-%m-%dT%H:%M")),
    st.integers(0, 600_000),
)
def test_readings_are_counted_with_as_if_the_clock_never_changed(interface: Interface, at: str, minutes: int) -> None:
    later = interface("parts/readings", "shifted", at, minutes)
    assert interface("parts/readings", "spanMinutes", at, later) == minutes
    assert interface("parts/readings", "shifted", later, -minutes) == at
    assert str(int(at[8:10])) in interface("parts/readings", "reading", at)
