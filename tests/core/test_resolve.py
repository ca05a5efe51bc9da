"""Resolving: placements, reasons, tidying, listings, includes, fold-ins."""

import itertools
from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import AnyItem, Link, MenuDocument, Query
from sign_shelf.core.model.site import Page, SiteDocument
from sign_shelf.core.model.tree import rebuilt
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.resolve import Lens, resolve, resolve_items
from sign_shelf.core.resolve.listing import listed_pages
from sign_shelf.core.resolve.resolved import Resolved, ResolvedMenu
from sign_shelf.core.visitors.moments import Moments
from tests.documents import documents


def site(outline: str = "", **more: object) -> SiteDocument:
    """A small ferry site whose header hangs on desktop and whose drawer stands in for it on phones."""
    raw: dict[str, object] = {
        "format": "sign-shelf/site",
        "version": 1,
        "site": {"key": "ferry", "name": "Ferry", "base": "https://ferry.example/", "languages": ["en", "nl"]},
        "template": {
            "key": "quay",
            "devices": {"phone": [0, 767], "tablet": [768, 1099], "desktop": [1100, None]},
            "locations": [
                {"key": "header", "title": "Header", "shape": "bar", "devices": ["tablet", "desktop"]},
                {"key": "drawer", "title": "Drawer", "shape": "drawer", "devices": ["phone"], "stand_in": "header"},
                {
                    "key": "top",
                    "title": "Top",
                    "shape": "strip",
                    "fold": [{"into": "drawer", "on": ["phone"], "heading": "More"}],
                },
            ],
        },
        "menus": {
            "header": parse_outline(outline).to_json(),
            "legal": parse_outline("Privacy -> @fares").to_json(),
        },
        "placements": [{"location": "header", "device": "desktop", "menu": "header"}],
        "pages": [
            {"ref": "fares", "path": "/fares", "title": {"en": "Fares", "nl": "Tarieven"}},
            {"ref": "old", "path": "/old", "title": {"en": "Old"}, "state": "hidden"},
            {"ref": "routes", "path": "/routes", "title": {"en": "Routes"}},
            {"ref": "north", "path": "/routes/north", "title": {"en": "North"}, "type": "route", "under": "routes"},
            {"ref": "east", "path": "/routes/east", "title": {"en": "East"}, "type": "route", "under": "routes"},
        ],
    }
    return read(SiteDocument, raw | more)


def through(document: SiteDocument, location: str = "header", **lens: object) -> ResolvedMenu:
    usual: dict[str, object] = {"device": "desktop", "language": "en", "at": "2026-11-24T12:00"}
    return resolve(document, location, Lens(**(usual | lens)))  # type: ignore[arg-type]


def shape(items: tuple[Resolved, ...]) -> list[object]:
    return [(item.label or item.kind) if not item.items else [item.label, *shape(item.items)] for item in items]


def reasons(menu: ResolvedMenu) -> dict[str, str]:
    return {one.id: one.because for one in menu.hidden}


def test_each_reason_is_named_and_the_first_counts() -> None:
    """Window, device, language, rule, page, parent: what is left out says why."""
    menu = through(
        site("""\
Later -> /a {from 2027-01-01T00:00; on phone}
  Below -> /b
Phones -> /c {on phone}
Welsh: {cy "x"}
Crew -> /d {when roles has "crew"}
Gone -> @nowhere
Hidden -> @old
Soon -> ?
Kept -> @fares
""")
    )
    assert shape(menu.items) == ["Kept"]
    assert menu.items[0].href == "https://ferry.example/fares"
    assert reasons(menu) == {
        "later": "window",
        "below": "parent",
        "phones": "device",
        "crew": "rule",
        "gone": "page",
        "hidden": "page",
        "soon": "page",
        "welsh": "empty",
    }


def test_tidy_takes_empty_headings_and_stray_dividers() -> None:
    menu = through(site("---\nA -> /a\n---\n---\nEmpty:\n  Soon -> ?\nB -> /b\n  Soon -> ?\n---"))
    assert shape(menu.items) == ["A", "divider", "B"]
    assert sorted(reasons(menu).values()) == ["empty", "page", "page", "tidy", "tidy", "tidy"]


def test_listings_fill_themselves_and_includes_come_in() -> None:
    """A listing's entries are named by listing and page, an include's by include and item."""
    menu = through(site("Routes -> *route under @routes by title max 5 except @north\n-> *route\n+ legal"))
    assert shape(menu.items) == [["Routes", "East"], "North", "East", "Privacy"]
    assert [menu.items[0].items[0].id, menu.items[3].id] == ["routes:east", "include/privacy"]


def test_phones_inherit_through_stand_ins_and_fold_ins() -> None:
    """The drawer has no menu of its own: it shows the header's, then the top strip's under a heading."""
    document = site(
        "Fares -> @fares",
        placements=[
            {"location": "header", "device": "desktop", "menu": "header"},
            {"location": "top", "device": "desktop", "menu": "legal"},
        ],
    )
    drawer = through(document, "drawer", device="phone", language="nl")
    assert (drawer.source.placement, drawer.source.location, drawer.source.device) == ("stand-in", "header", "desktop")
    assert shape(drawer.items) == ["Fares", ["More", "Privacy"]]
    assert through(document, "top", device="phone").items == ()
    assert through(document, device="tablet").source.placement == "inherited"
    none = site("A -> /a", placements=[{"location": "drawer", "device": "phone", "menu": None}])
    assert through(none, "drawer", device="phone").source.placement == "none"


def test_a_location_folds_into_another_on_devices_that_it_does_not_exist_on() -> None:
    """The header is not on phones and folds into the drawer there, once, even where it stands in for the drawer."""
    folds = {
        "key": "header",
        "title": "Header",
        "shape": "bar",
        "devices": ["tablet", "desktop"],
        "fold": [{"into": "drawer", "on": ["phone"]}],
    }
    drawer = {"key": "drawer", "title": "Drawer", "shape": "drawer", "devices": ["phone"], "stand_in": "header"}
    template = {"key": "q", "devices": {"phone": [0, 767], "desktop": [768, None]}, "locations": [folds, drawer]}
    hung = [{"location": "header", "device": "desktop", "menu": "header"}]
    own = [*hung, {"location": "drawer", "device": "phone", "menu": "legal"}]
    standing_in = site("A -> /a", template=template, placements=hung)
    assert shape(through(standing_in, "drawer", device="phone").items) == ["A"]
    folded = site("A -> /a", template=template, placements=own)
    assert shape(through(folded, "drawer", device="phone").items) == ["Privacy", "A"]
    assert through(folded, "header", device="phone").items == ()


def test_current_page_marks_its_ancestors_and_titles_follow_the_language() -> None:
    menu = through(site("Routes -> @routes\n  -> @fares\n  -> @north"), page="fares", language="nl")
    assert (menu.items[0].current, [item.current for item in menu.items[0].items]) == ("branch", ["page", "none"])
    assert menu.items[0].items[0].label == "Tarieven"


def test_visitors_own_pages_need_the_fact() -> None:
    document = site("Rota -> /crew/{visitor.id}/rota")
    assert reasons(through(document)) == {"rota": "rule"}
    assert through(document, facts={"visitor.id": 7}).items[0].href == "/crew/7/rota"


@pytest.mark.parametrize(
    ("language", "ordered"),
    [
        ("cy", "Cwm Chwech Dydd Lôn Lwc Llan Ysgol"),
        ("sv", "Apa Zoo Öl"),
        ("de", "Apa Öl Oma Zoo"),
        ("pl", "Lublin Lwów Łódź Mazowsze"),
        ("en", "apple Apple école Oma zoo"),
        ("x-none", "a B c"),
    ],
)
def test_titles_stand_in_the_order_of_the_language(language: str, ordered: str) -> None:
    """Unicode collation with each language's tailoring: ch and ll are letters of Welsh, ö is one of Swedish."""
    words = ordered.split()
    pages = {
        word: Page.model_construct(ref=word, path=f"/{at}", title={language: word}, under=None)
        for at, word in enumerate(sorted(words))
    }
    found = listed_pages(pages, Query(order="title"), by_hand=(), title=lambda page: page.ref, language=language)
    assert [page.ref for page in found] == words


@given(documents)
def test_links_whose_conditions_are_seen_at_once_come_out_as_the_others_do(document: MenuDocument) -> None:
    """A rule that everybody passes changes nothing but the way by which a link is found to show."""
    lens = Lens(device="desktop", language="en", at="2026-11-24T12:00")

    def asked(item: AnyItem) -> dict[str, object]:
        return {"when": "always"} if isinstance(item, Link) and item.when is None else {}

    longer = tuple(rebuilt(item, asked) for item in document.items)
    assert resolve_items(site(), longer, lens) == resolve_items(site(), document.items, lens)


@given(documents)
def test_every_item_is_shown_or_has_a_reason(document: MenuDocument) -> None:
    """Nothing is lost in silence, and no divider stands first, last or doubled."""
    empty = site()
    menu = resolve_items(empty, document.items, Lens(device="desktop", language="en", at="2026-11-24T12:00"))
    told = {one.id for one in menu.hidden}
    stack, expected = [menu.items], set()
    while stack:
        level = stack.pop()
        kinds = [item.kind for item in level]
        assert not kinds or "divider" not in (kinds[0], kinds[-1])
        assert ("divider", "divider") not in list(itertools.pairwise(kinds))
        told.update(item.id.split(":")[0].split("/")[0] for item in level)
        stack += [item.items for item in level]
    pending = list(document.items)
    while pending:
        item = pending.pop()
        expected.add(item.id)
        pending += getattr(item, "items", ())
    assert expected <= told


@pytest.mark.parametrize(
    ("language", "ordered"), [("cy", "Dydd Lwc Llan"), ("en", "Dydd Llan Lwc"), ("sv", "Dydd Lwc Llan")]
)
def test_a_listing_stands_in_the_order_of_a_language_that_the_site_speaks(language: str, ordered: str) -> None:
    """Its titles are in that language, or in the site's first one, whatever else is asked for."""
    pages = [
        {"ref": name.lower(), "path": f"/{name}", "title": {"cy": name, "en": name}, "type": "place"}
        for name in ("Llan", "Lwc", "Dydd")
    ]
    spoken = {"key": "ferry", "name": "Ferry", "base": "https://ferry.example/", "languages": ["cy", "en"]}
    listed = through(site("-> *place by title", site=spoken, pages=pages), language=language)
    assert " ".join(item.label for item in listed.items) == ordered


ENDS = st.sampled_from([None, "2026-11-20", "2026-12-01", "2026-12-24", "2027-01-01"])


@given(st.lists(ENDS, min_size=1, max_size=6), st.sampled_from([None, 1, 3]), st.booleans(), st.sampled_from(
    ["2026-11-19T23:59", "2026-11-24T12:00", "2026-11-30T23:59", "2026-12-01T00:00", "2026-12-31T12:00", "2027-01-01T00:00"]
))  # fmt: skip
def test_a_listing_is_as_if_pages_whose_end_came_were_gone(
    ends: list[str | None], limit: int | None, named: bool, at: str
) -> None:
    """One that is limited takes the next instead; where none is left, it says so."""
    routes = [
        {"ref": f"r{n}", "path": f"/r{n}", "title": {"en": f"R {n}"}, "type": "route", **({"ends": end} if end else {})}
        for n, end in enumerate(ends)
    ]
    listing = {"id": "all", "kind": "listing", "list": {"type": "route", "order": "path"}}
    if limit:
        listing["list"] |= {"limit": limit}  # type: ignore[operator]
    if named:
        listing["label"] = {"en": "Routes"}
    menu = {"format": "sign-shelf/menu", "version": 1, "name": "Header", "items": [listing]}
    gone = [one | {"state": "gone"} if one.get("ends", "9999") <= at[:10] else one for one in routes]
    whole, without = (site(menus={"header": menu}, pages=pages) for pages in (routes, gone))
    got, wanted = through(whole, at=at), through(without, at=at)
    assert (got.items, got.hidden) == (wanted.items, wanted.hidden)
    ending = sorted({end for end in ends if end is not None})
    told = Moments(whole).between(datetime(2026, 11, 1, tzinfo=UTC), datetime(2027, 2, 1, tzinfo=UTC))
    assert [moment[:10] for moment, _ in told] == ending, "and everybody who keeps an answer is told when"
