"""Site documents and templates: what hangs together and what does not; ids made from words."""

import re
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.basics.ids import ReadableIds, slug
from sign_shelf.core.errors import InvalidDocument
from sign_shelf.core.model.documents import parse_json, read
from sign_shelf.core.model.site import Page, SiteDocument
from sign_shelf.core.model.tree import targeted_pages
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.protocol.placed import placed_menu

BASE: dict[str, Any] = {
    "format": "sign-shelf/site",
    "version": 1,
    "site": {
        "key": "brackwater",
        "name": "Brackwater Ferries",
        "base": "https://brackwater.example/",
        "zone": "Europe/London",
        "hosts": [{"host": "staging.brackwater.example", "kind": "staging"}],
        "languages": ["en", "nl"],
        "policy": {"outside_links": "new_tab", "required": {"legal": ["privacy"]}, "approvals": 1},
    },
    "template": {
        "key": "quayside",
        "devices": {"phone": [0, 767], "tablet": [768, 1099], "desktop": [1100, None]},
        "locations": [
            {
                "key": "header",
                "title": "Header bar",
                "shape": "bar",
                "depth": 3,
                "kinds": ["link", "heading", "divider", "opener", "listing", "include"],
                "devices": ["tablet", "desktop"],
                "readable": True,
                "look": {},
                "fold": [{"into": "drawer", "on": ["phone"], "where": "after", "heading": None}],
            },
            {
                "key": "drawer",
                "title": "Phone drawer",
                "shape": "drawer",
                "depth": 3,
                "devices": ["phone"],
                "stand_in": "header",
                "readable": False,
            },
            {
                "key": "section",
                "title": "Nearby pages",
                "shape": "section",
                "of": "header",
                "start": 2,
                "levels": 2,
                "pages": ["under:about"],
            },
        ],
    },
    "facts": {"signed_in": {"type": "flag"}, "roles": {"type": "tags", "values": ["crew", "skipper"]}},
    "audiences": {"visitor": {"signed_in": False, "roles": []}, "crew": {"signed_in": True, "roles": ["crew"]}},
    "menus": {"header": {"format": "sign-shelf/menu", "version": 1, "name": "Header", "items": []}},
    "placements": [
        {"location": "header", "device": "desktop", "menu": "header"},
        {"location": "drawer", "device": "phone", "menu": None},
    ],
    "pages": [
        {
            "ref": "timetables",
            "path": "/timetables",
            "title": {"en": "Timetables"},
            "type": "page",
            "state": "published",
            "under": None,
            "parts": ["fares"],
            "overlays": ["question-form"],
        }
    ],
    "changes": [],
}


def changed(**parts: Any) -> dict[str, Any]:
    return BASE | parts


def template(**parts: Any) -> dict[str, Any]:
    return changed(template=BASE["template"] | parts)


def test_the_example_of_the_format_is_read() -> None:
    document = read(SiteDocument, BASE)
    assert document.template.location("drawer").stand_in == "header"  # type: ignore[union-attr]
    assert document.placements[1].menu is None
    assert document.pages[0].overlays == ("question-form",)
    assert read(SiteDocument, document.to_json()) == document


@pytest.mark.parametrize(
    ("raw", "where", "says"),
    [
        (changed(colour=1), "colour", "unknown key"),
        (changed(site=BASE["site"] | {"zone": "Mars/Olympus"}), "site.zone", "IANA"),
        (changed(site=BASE["site"] | {"base": "/x"}), "site", "http:// or https://"),
        (changed(site=BASE["site"] | {"languages": []}), "site.languages", "at least 1"),
        (changed(site=BASE["site"] | {"hosts": [{"host": "a b", "kind": "old"}]}), "site.hosts[0].host", "pattern"),
        (template(locations=[BASE["template"]["locations"][1]] * 2), "template", "two locations"),
        (template(devices={"phone": [700, 10]}), "template", "not a range"),
        (template(devices={"watch": [0, 10]}), "template.devices.watch.[key]", "phone"),
        (template(locations=[{"key": "x", "title": "X", "shape": "blob"}]), "template.locations[0].shape", "bar"),
        (changed(placements=[{"location": "moon", "device": "phone", "menu": None}]), "document", "no such location"),
        (changed(placements=[{"location": "header", "device": "phone", "menu": "nope"}]), "document", 'no menu "nope"'),
        (changed(placements=[BASE["placements"][0]] * 2), "document", "given twice"),
        (changed(pages=[BASE["pages"][0]] * 2), "document", '"timetables"'),
        (changed(pages=[BASE["pages"][0] | {"state": "lost"}]), "pages[0].state", "published"),
        (changed(menus={"header": {"format": "x"}}), "menus.header.format", "sign-shelf/menu"),
    ],
)
def test_what_does_not_hang_together_is_named(raw: dict[str, Any], where: str, says: str) -> None:
    with pytest.raises(InvalidDocument) as caught:
        read(SiteDocument, raw)
    found = caught.value
    assert says in str(found)
    assert where in {problem.where or "document" for problem in found.problems}


def test_a_location_that_is_named_must_be_there() -> None:
    lonely = [{"key": "drawer", "title": "Drawer", "shape": "drawer", "stand_in": "header"}]
    with pytest.raises(InvalidDocument, match='names "header", which the template does not have'):
        read(SiteDocument, template(locations=lonely) | {"placements": []})


def test_json_is_read_with_and_without_a_byte_order_mark() -> None:
    assert parse_json(b'\xef\xbb\xbf{"a": 1}') == {"a": 1}
    assert parse_json('{"a": "\u00e9"}') == {"a": "é"}


@given(st.lists(st.text(max_size=60), max_size=30))
def test_readable_ids_are_given_once_and_are_ids(words: list[str]) -> None:
    ids = ReadableIds()
    given_out = [ids.take(one, otherwise="item") for one in words]
    assert len(set(given_out)) == len(given_out)
    assert all(re.fullmatch(r"[a-z0-9][a-z0-9-]{0,63}", one) for one in given_out)


@pytest.mark.parametrize(
    ("words", "name"),
    [
        ("Fares & passes", "fares-passes"),
        ("Café", "cafe"),
        ("  --  ", ""),
        ("x" * 60, "x" * 40),
        ("Ὀδυσσεύς", ""),
        ("/on-board/cabins", "on-board-cabins"),
    ],
)
def test_slugs(words: str, name: str) -> None:
    assert slug(words) == name


def test_a_placed_menu_carries_the_pages_that_it_leads_to_and_no_others() -> None:
    pages = [
        Page(ref="fares", path="/fares", title={"en": "Fares"}),
        Page(ref="other", path="/other"),
        Page(ref="north", path="/routes/north", title={"en": "North"}),
    ]
    menu = parse_outline("Fares -> @fares\n  Again -> @fares#top\n  -> @north\nGone -> @gone\nOut -> /x")
    assert targeted_pages(menu.items) == ("fares", "north", "gone")
    placed = placed_menu("header", "desktop", menu, pages)
    assert {ref: page.path for ref, page in placed.pages.items()} == {"fares": "/fares", "north": "/routes/north"}
    menus = {
        "legal": parse_outline("+ more"), "more": parse_outline("Other -> @other\n+ legal"), "beside": menu,
    }  # fmt: skip
    placed = placed_menu("footer", "desktop", parse_outline("+ legal\n+ gone"), pages, menus)
    assert (sorted(placed.included), list(placed.pages)) == (["legal", "more"], ["other"])
