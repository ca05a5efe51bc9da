"""What a draft changes in a site beside its items: each change is told once, in words, and nothing else is."""

from itertools import product
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.compare.sites import LookEdit, PlaceEdit, TemplateEdit, own_look, site_edits
from sign_shelf.core.look import PlaceLook
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import DEVICES
from sign_shelf.core.model.site import SiteDocument

PLACES = ("header", "drawer", "legal")
MENUS = {"main": "Header", "small": "Short", "end": "Legal"}
SLOTS = list(product(PLACES, DEVICES))
LOOKS: list[dict[str, Any]] = [
    {}, {"size": 18}, {"gap": 12, "text": "#000000"}, {"button_padding": {"m": 9}}, {"hover_ground": "#eeeeee"},
    {"size": 20, "gap": 3, "padding": 1, "weight": 700, "align": "end", "case": "uppercase"},
]  # fmt: skip
hangings = st.dictionaries(st.sampled_from(SLOTS), st.none() | st.sampled_from(list(MENUS)))
looks = st.fixed_dictionaries({place: st.sampled_from(LOOKS) for place in PLACES})


def site(hung: dict[tuple[str, str], str | None], look: dict[str, Any], version: int = 1) -> SiteDocument:
    locations = [
        {"key": place, "title": place.title(), "shape": "bar", "depth": 2, "look": look.get(place, {})}
        for place in PLACES
    ]
    if version == 2:
        locations = [*locations[:2], {"key": "foot", "title": "Foot", "shape": "line", "depth": 1}]
        hung = {slot: menu for slot, menu in hung.items() if slot[0] != "legal"}
    empty = {"format": "sign-shelf/menu", "version": 1, "items": []}
    return read(
        SiteDocument,
        {
            "format": "sign-shelf/site",
            "version": 1,
            "site": {"key": "s", "name": "S", "base": "https://s.example/", "languages": ["en"]},
            "template": {"key": "quay", "title": "Quayside", "version": version, "locations": locations,
                         "devices": {"phone": [0, 767], "tablet": [768, 1099], "desktop": [1100, None]}},
            "menus": {key: empty | {"name": name} for key, name in MENUS.items()},
            "placements": [{"location": place, "device": device, "menu": menu} for (place, device), menu in hung.items()],
        },
    )  # fmt: skip


@given(hangings, hangings, looks, looks)
def test_every_change_is_told_once_and_nothing_else_is(
    was: dict[tuple[str, str], str | None], now: dict[tuple[str, str], str | None], old: Any, new: Any
) -> None:
    edits = site_edits(site(was, old), site(now, new))
    keys = [edit.key for edit in edits]
    assert len(keys) == len(set(keys))
    absent = object()
    changed = {f"place {place} {device}" for place, device in SLOTS
               if was.get((place, device), absent) != now.get((place, device), absent)}  # fmt: skip
    changed |= {f"look {place}" for place in PLACES if PlaceLook(**old[place]) != PlaceLook(**new[place])}
    assert set(keys) == changed
    assert site_edits(site(now, new), site(now, new)) == ()
    back = site_edits(site(now, new), site(was, old))
    assert {edit.key for edit in back} == changed, "and the way back is as long"
    for edit in edits:
        if isinstance(edit, PlaceEdit):
            assert edit.location.title() in edit.says
            assert edit.device in edit.says
            menu = now.get((edit.location, edit.device))
            assert menu is None or MENUS[menu] in edit.says


@given(st.sampled_from(LOOKS), st.sampled_from(LOOKS))
def test_the_keys_of_an_own_look_lead_from_the_usual_one_to_it(usual: Any, wanted: Any) -> None:
    before, after = PlaceLook(**usual), PlaceLook(**wanted)
    own = own_look(before, after)
    assert before.adjusted(own) == after
    assert (own == {}) == (before == after)


@pytest.mark.parametrize(
    ("was", "now", "says"),
    [
        ({}, {"header": "main"}, "Hung Header in Header for desktop"),
        ({"header": "main"}, {"header": "small"}, "Hung Short in Header for desktop, instead of Header"),
        ({"header": "main"}, {}, "Took down Header from Header for desktop"),
        ({"header": "main"}, {"header": None}, "Left Header for desktop empty, on purpose"),
        ({"header": None}, {"header": "end"}, "Hung Legal in Header for desktop"),
        ({"header": None}, {}, "Took down what was none on purpose from Header for desktop"),
    ],
)
def test_what_hangs_otherwise_is_said_in_words(
    was: dict[str, str | None], now: dict[str, str | None], says: str
) -> None:
    before, after = ({(place, "desktop"): menu for place, menu in one.items()} for one in (was, now))
    assert [edit.says for edit in site_edits(site(before, {}), site(after, {}))] == [says]


@pytest.mark.parametrize(
    ("look", "says"),
    [
        (LOOKS[1], "Changed the look of Legal: size 18"),
        (LOOKS[2], "Changed the look of Legal: text #000000, gap 12"),
        (LOOKS[5], "Changed the look of Legal: size 20, weight 700, case uppercase, gap 3 and 2 more"),
    ],
)
def test_a_look_is_told_by_what_is_new_in_it(look: dict[str, Any], says: str) -> None:
    (edit,) = site_edits(site({}, {}), site({}, {"legal": look}))
    assert isinstance(edit, LookEdit)
    assert edit.says == says
    (back,) = site_edits(site({}, {"legal": {"hover_ground": "#eeeeee"}}), site({}, {}))
    assert back.says == "Changed the look of Legal: hover ground as usual"


def test_a_move_to_another_template_tells_its_looks_and_lost_places_by_itself() -> None:
    hung: dict[tuple[str, str], str | None] = {("header", "desktop"): "main", ("legal", "desktop"): "end"}
    edits = site_edits(site(hung, {}), site({**hung, ("drawer", "phone"): "small"}, {"header": LOOKS[1]}, version=2))
    assert [type(edit) for edit in edits] == [TemplateEdit, PlaceEdit]
    assert [edit.says for edit in edits] == [
        "Moved to the template Quayside, version 2", "Hung Short in Drawer for phone",
    ]  # fmt: skip
