"""Icons, relations, the strip, listings for the rest, and copies."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.drawing.strip import direction_of, strip_html
from sign_shelf.core.errors import OutlineRefused
from sign_shelf.core.icons import icon_svg, icons, known_icon, search_icons
from sign_shelf.core.look import PlaceLook
from sign_shelf.core.model.copying import PagesBetween, already_there, copy_items
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import Link, MenuDocument, walk
from sign_shelf.core.model.rel import KNOWN, RELATIONS, usual_for_outside
from sign_shelf.core.model.site import Page, Particulars, SiteDocument
from sign_shelf.core.model.template import Location
from sign_shelf.core.outline import format_outline, parse_outline
from sign_shelf.core.resolve import Lens, resolve, resolve_items
from tests.core.test_site import BASE
from tests.documents import documents

SITE = read(SiteDocument, BASE)
AT = "2027-02-01T12:00"


def page(ref: str, kind: str = "page", **more: object) -> Page:
    return read(Page, {"ref": ref, "path": f"/{ref}", "title": {"en": ref.capitalize()}, "type": kind} | more)


# --- icons and relations


def test_icons_are_found_by_name_and_by_word() -> None:
    assert len(icons()) > 1_500
    assert search_icons("ticket", 3)[0].name == "ticket"
    assert "ship" in {icon.name for icon in search_icons("boat", 20)}
    assert search_icons("nothing-like-it", 5) == []
    assert known_icon("bed") == "bed"
    assert re.fullmatch(r"<svg [^<>]+>(<[a-z]+ [^<>]+/>)+</svg>", icon_svg("ticket"))


def test_an_unknown_icon_is_refused_with_the_nearest() -> None:
    with pytest.raises(OutlineRefused, match="did you mean ticket"):
        parse_outline("Book -> /book {icon tickett}")


def test_relations_are_explained_in_a_sentence_each() -> None:
    assert {"noopener", "external", "nofollow", "license", "canonical", "up"} <= KNOWN.keys()
    assert len(KNOWN) == len(RELATIONS) > 70
    assert all(re.fullmatch(r"[A-Z].{10,}\.", relation.says) for relation in RELATIONS)


@pytest.mark.parametrize(
    ("policy", "line", "expected"),
    [
        ("new_tab", "Out -> https://else.example/", "Out -> https://else.example/ {new tab; rel noopener, external}"),
        ("new_tab", "Out -> https://else.example/ {rel help}",
         "Out -> https://else.example/ {new tab; rel help, noopener, external}"),
        ("same_tab", "Out -> https://else.example/ {new tab}", "Out -> https://else.example/ {rel external}"),
        ("new_tab", "In -> https://site.example/x", "In -> https://site.example/x"),
        ("new_tab", "Old -> https://old.example:8080/x", "Old -> https://old.example:8080/x"),
        ("new_tab", "In -> /x", "In -> /x"),
        ("new_tab", "Odd -> http://[", "Odd -> http://["),
        ("new_tab", "Out -> //ELSE.example/x", "Out -> //ELSE.example/x {new tab; rel noopener, external}"),
        (None, "Out -> https://else.example/", "Out -> https://else.example/"),
    ],
)  # fmt: skip
def test_the_sites_policy_fills_in_what_is_usual_for_outside_links(policy: str, line: str, expected: str) -> None:
    site = read(Particulars, {
        "key": "s", "name": "S", "base": "https://site.example/",
        "hosts": [{"host": "old.example:8080", "kind": "old"}], "policy": {"outside_links": policy} if policy else {},
    })  # fmt: skip
    document = parse_outline(line)
    (item,) = document.items
    assert isinstance(item, Link)
    assert format_outline(document.with_items((usual_for_outside(item, site),))) == expected + "\n"


# --- listings


def resolved_labels(outline: str, pages: list[Page]) -> list[str]:
    site = SITE.model_copy(update={"pages": tuple(pages)})
    found = resolve_items(site, parse_outline(outline).items, Lens(device="desktop", language="en", at=AT))
    return [item.label for item in found.items]


def test_the_rest_is_what_no_link_of_the_menu_leads_to() -> None:
    pages = [page("north", "route"), page("south", "route"), page("east", "route"), page("news")]
    assert resolved_labels("South -> @south\n-> *route rest by title", pages) == ["South", "East", "North"]
    seasonal = "South -> @south {from 2030-01-01T00:00}\n-> *route rest"
    assert resolved_labels(seasonal, pages) == ["North", "East"], "placed by hand counts, shown now or not"
    assert resolved_labels("-> * rest max 2", pages) == ["North", "South"]
    assert format_outline(parse_outline("-> * rest\n-> *rest")) == "-> * rest\n-> *rest\n"


def test_lists_are_ordered_by_date_newest_first() -> None:
    pages = [page("a", "post", date="2026-01-01"), page("b", "post", date="2027-01-01"), page("c", "post")]
    assert resolved_labels("-> *post by date", pages) == ["B", "A", "C"]
    assert resolved_labels("-> *post by path except @b", pages) == ["A", "C"]


# --- the strip


@given(documents)
def test_labels_are_text_in_the_strip_and_nothing_leads_anywhere(document: MenuDocument) -> None:
    lens = Lens(device="desktop", language="en", at=AT)
    site = SITE.model_copy(update={"menus": {"header": document}})
    html = strip_html(resolve(site, "header", lens).items, SITE.template.locations[0], device="desktop", language="en",
                      name='<b>"')  # fmt: skip
    assert set(re.findall(r"<(\w+)", html)) <= {
        "div", "ul", "li", "a", "span", "small", "hr", "svg", "img",
        "path", "circle", "rect", "line", "polyline", "polygon", "ellipse", "g",
    }  # fmt: skip
    assert not re.search(r"<[^<>]* (?:href|on\w+)=", html)


def test_every_look_is_drawn() -> None:
    outline = (
        'Book -> /b {button xl; icon ticket; badge "New" nl "Nieuw" warn; picture /boat.jpg; hooks a, b; new tab}\n'
        "Home -> /h {icon house; icon alone; strong}\n"
        "Menu:\n  One -> /1\n  ---\n  Two -> @timetables"
    )
    lens = Lens(device="desktop", language="nl", at=AT, page="timetables")
    items = resolve_items(SITE, parse_outline(outline).items, lens).items
    look = PlaceLook(ground="#123", opens="panel", font='Odd "font"; x', reserved=200)
    place = Location(key="h", title="H", shape="bar", look=look)
    wide = strip_html(items, place, device="desktop", language="nl", name="Site", base="https://s.example/in/")
    for piece in (
        "shape-bar opens-panel", "--ground:#112233;", "--font:&quot;Odd font; x&quot;;", "speaks-button size-xl", '<span class="blank">boat.jpg</span><img src="https://s.example/boat.jpg" alt=""',
        'data-hooks="a b"', '<small class="badge tone-warn">Nieuw</small>', "icon-alone", "speaks-strong",
        'class="entry holds"', "<hr>", "current-page", "current-branch", '<span class="name">Site</span>',
    ):  # fmt: skip
        assert piece in wide, piece
    phone = strip_html(items, place, device="phone", language="nl", name="Site")
    assert "icon-alone" not in phone, "an icon stands alone on wide screens only"
    assert "shape-drawer opens-in-place" in phone


@pytest.mark.parametrize(
    ("language", "direction"), [("en", "ltr"), ("ar", "rtl"), ("fa-IR", "rtl"), ("uz-Arab", "rtl"), ("he", "rtl"), ("nl", "ltr")]
)  # fmt: skip
def test_the_direction_follows_the_language_and_the_look_may_say_otherwise(language: str, direction: str) -> None:
    assert direction_of(language) == direction
    plain = Location(key="h", title="H", shape="line")
    assert f'dir="{direction}"' in strip_html((), plain, device="desktop", language=language, name="S")
    turned = plain.model_copy(update={"look": PlaceLook(direction="rtl")})
    assert 'dir="rtl"' in strip_html((), turned, device="desktop", language=language, name="S")


# --- copies


@given(documents, st.sampled_from(["", "header/", "hollin/header/"]))
def test_a_copy_has_ids_of_its_own_and_remembers(document: MenuDocument, origin: str) -> None:
    ids = [item.id for _, item in walk(document.items)]
    items, _ = copy_items(document.items, origin=origin, taken=ids)
    copied = [item for _, item in walk(items)]
    assert [item.origin for item in copied] == [f"{origin}{one}" for one in ids]
    assert not {item.id for item in copied} & set(ids)
    assert len({item.id for item in copied}) == len(ids)


def test_on_another_site_pages_are_found_again_or_become_pending() -> None:
    between = PagesBetween(
        [page("privacy", title={"en": "Privacy"}), page("help", path="/help/"), page("crew", title={"en": "Crew"})],
        [page("datenschutz", title={"en": "privacy"}), page("hilfe", path="/help")],
    )
    items, notes = copy_items(
        parse_outline("Privacy -> @privacy#x\nHelp -> @help\n-> @crew\n+ legal\nHead:\n  + legal\n  -> @gone").items,
        origin="hollin/footer/", between=between,
    )  # fmt: skip
    text = format_outline(MenuDocument(format="sign-shelf/menu", version=1, name="Menu", items=items))
    assert text.splitlines() == [
        "Privacy -> @datenschutz#x {origin hollin/footer/privacy}",
        "Help -> @hilfe {origin hollin/footer/help}",
        "Crew (/crew) -> ? {note was Crew (/crew); origin hollin/footer/link}",
        "Head: {origin hollin/footer/head}",
        "  gone -> ? {note was gone; origin hollin/footer/link-2}",
    ]
    assert [note.says.partition(";")[0] for note in notes] == [
        "included legal, which is a menu there", "included legal, which is a menu there",
        "there is no page like Crew (/crew) here", "there is no page like gone here",
    ]  # fmt: skip


def test_what_a_menu_leads_to_already_is_named() -> None:
    menu = parse_outline("Fares -> @fares\nOut -> https://x.example/\nSoon -> ?")
    incoming = parse_outline("Prices -> @fares#top\nElse -> https://x.example/\nSoon -> ?\nNew -> /new").items
    assert already_there(incoming, menu) == {"prices", "else"}
