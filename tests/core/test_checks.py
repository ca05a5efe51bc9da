"""The checks: each finding by case, at its exact place, and none where nothing is wrong."""

import pytest

from sign_shelf.core.checks import check_menu
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.facts import FactType
from sign_shelf.core.model.site import Abilities, SiteDocument
from sign_shelf.core.outline import parse_outline
from tests.core.test_site import BASE

SITE = read(
    SiteDocument,
    BASE
    | {
        "template": {
            "key": "t", "devices": {"desktop": [0, None]},
            "locations": [{"key": "legal", "title": "Legal line", "shape": "line", "depth": 2, "kinds": ["link", "heading"]}],
        },
        "menus": {}, "placements": [],
        "pages": [
            {"ref": "fares", "path": "/fares", "parts": ["groups"], "overlays": ["question-form"]},
            {"ref": "crew", "path": "/crew", "state": "hidden"},
        ],
    },
)  # fmt: skip


def found(outline: str, *, hangs: bool = False) -> list[str]:
    site = SITE.model_copy(
        update={
            "menus": {"m": parse_outline(outline)},
            "placements": read(SiteDocument, SITE.to_json() | {
                "menus": {"m": parse_outline(outline).to_json()},
                "placements": [{"location": "legal", "device": "desktop", "menu": "m"}] if hangs else [],
            }).placements,
        }
    )  # fmt: skip
    return [f"{one.code} {one.number}: {one.says}" for one in check_menu(site, "m", today="2027-02-12")]


@pytest.mark.parametrize(
    ("says", "expected"),
    [
        (None, []),
        (("signed_in", "visitor.id"), []),
        (("signed_in",), ["fact-not-supplied 1: Rota asks for visitor.id, which this site does not say"]),
        ((), ["fact-not-supplied 1: Rota asks for signed_in, visitor.id, which this site does not say",
              "fact-not-supplied 2: Sign in asks for signed_in, which this site does not say"]),
    ],
)  # fmt: skip
def test_what_a_site_does_not_know_of_its_visitors(says: tuple[str, ...] | None, expected: list[str]) -> None:
    outline = "Rota -> /crew/{visitor.id} {when signed_in}\nSign in -> /in {when not signed_in}\nHere -> /x {when section is /x}"
    whole = SITE.model_copy(update={
        "site": SITE.site.model_copy(update={"can": Abilities(facts=says)}), "menus": {"m": parse_outline(outline)},
        "facts": {"visitor.id": FactType(type="text")},
    })  # fmt: skip
    told = [f"{one.code} {one.number}: {one.says}" for one in check_menu(whole, "m", today="2027-02-12")]
    assert [one for one in told if one.startswith("fact-")] == expected


@pytest.mark.parametrize(
    ("outline", "expected"),
    [
        ('Fares -> @fares#groups {nl "Tarieven"}', []),
        ("-> @fares", []),
        ("Soon -> ?", ["pending 1: Soon leads nowhere yet"]),
        (
            'Soon -> ? {nl "Straks"; due 2027-02-13; owner Ines}',
            ["pending 1: Soon leads nowhere yet, due 13 Feb 2027, Ines"],
        ),
        ("Late -> ? {due 2027-02-12}", ["pending-overdue 1: Late leads nowhere yet, due 12 Feb 2027"]),
        ("Gone -> @gone", ["page-unknown 1: Gone leads to @gone, which is no page of the site"]),
        ("Crew -> @crew", ["page-hidden 1: Crew leads to /crew, which is hidden"]),
        ("Part -> @fares#dogs", ["part-gone 1: Part leads to the part #dogs, which is not on /fares"]),
        ("Empty -> <#>", ["address-empty 1: Empty has the address # alone"]),
        ("Ask -> !question-form\nOdd -> !other", ["overlay-gone 2: Odd opens other, which is on no page of the site"]),
        ("Head:", ["heading-empty 1: Head is a heading with nothing below it"]),
    ],
)
def test_targets_and_headings(outline: str, expected: list[str]) -> None:
    assert [one for one in found(outline) if not one.startswith("label-missing")] == expected


@pytest.mark.parametrize(
    ("outline", "expected"),
    [
        (
            "A -> /a {when signed_in adn x}",
            "rule-invalid 1: A is hidden from everybody: the rule cannot be read: expected",
        ),
        ("A -> /a {when signed_in and not signed_in}", "never-seen 1: nobody can ever meet the rule of A"),
        (
            "A -> /a {when signed_in}\n  B -> /b {when not signed_in}",
            "never-seen 1.1: nobody who sees what B stands below",
        ),
        ("A -> /a {when hour >= 0}", "rule-always 1: whoever supplies its facts meets the rule of A"),
        ("A -> /a {until 2027-01-31T00:00}", "window-over 1: A has not been shown since 31 Jan 2027 00:00"),
        (
            "A -> /a {from 2027-03-28T01:30}",
            "time-never 1: A starts at 28 Mar 2027 01:30, which the clock of Europe/London",
        ),
        (
            "A -> /a {until 2027-10-31T01:30}",
            "time-twice 1: A ends at 31 Oct 2027 01:30, which the clock of Europe/London",
        ),
        ("A -> /a {until 2027-10-31T01:30+00:00}", ""),
        ('A -> /a {badge "New" until 2027-02-11}', "badge-over 1: the badge of A has not been shown since 11 Feb 2027"),
        ('A -> /a {badge "New" until 2027-02-12; when always}', ""),
    ],
)
def test_rules_and_times_that_nobody_can_have_meant(outline: str, expected: str) -> None:
    told = [one for one in found(outline) if not one.startswith("label-missing")]
    assert len(told) == bool(expected)
    assert not told or told[0].startswith(expected)


def test_a_label_is_missed_in_the_language_that_it_lacks() -> None:
    assert found('A -> /a\n"" -> /b {nl "B"}\n-> @fares') == [
        "label-missing 1: A has no label in Dutch", "label-missing 2: B has no label in English",
    ]  # fmt: skip


def test_the_places_where_the_menu_hangs_say_what_they_do_not_take() -> None:
    outline = 'A -> /a {nl "A"}\n  B -> /b {nl "B"}\n    C -> /c {nl "C"}\n---'
    assert found(outline) == []
    assert found(outline, hangs=True) == [
        "too-deep 1.1.1: C stands on level 3; Legal line shows 2",
        "kind-refused 2: a divider is a divider, which Legal line does not take",
    ]


def test_the_gravest_comes_first() -> None:
    codes = [one.split()[0] for one in found("Head:\nSoon -> ?\nGone -> @gone")]
    assert codes == ["page-unknown", "heading-empty", "label-missing", "label-missing", "label-missing", "pending"]
