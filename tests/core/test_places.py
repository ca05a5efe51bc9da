"""Laws of places: limits hold, fold-ins lose and double nothing, inheritance ends, preparing changes nothing."""

import itertools
from collections import Counter
from collections.abc import Iterator

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import DEVICES, MenuDocument, walk
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.template import ITEM_KINDS, Template
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.resolve import Lens, Prepared, find_placement, resolve, search_path
from sign_shelf.core.resolve.resolved import Resolved, ResolvedMenu
from sign_shelf.core.visitors.side_by_side import side_by_side
from tests.documents import documents

AT = "2026-11-24T12:00"
PAGES = [
    {"ref": ref, "path": f"/{ref}", "title": {"en": ref}, "type": kind, "under": under}
    for ref, kind, under in [("a", "page", None), ("b", "page", "a"), ("c", "post", "b"), ("z", "post", None)]
]
kinds = st.lists(st.sampled_from(ITEM_KINDS), min_size=1, max_size=6, unique=True)


@st.composite
def sites(draw: st.DrawFn) -> SiteDocument:
    """Three places: a bar, a strip that folds into the drawer, and the drawer, with whatever limits."""
    fold = {
        "into": "drawer",
        "on": ["phone"],
        "where": draw(st.sampled_from(["before", "after"])),
        "heading": draw(st.sampled_from([None, "More"])),
    }
    places = [
        {"key": "bar", "title": "Bar", "shape": "bar", "depth": draw(st.integers(1, 4)), "kinds": draw(kinds)},
        {"key": "strip", "title": "Strip", "shape": "strip", "depth": draw(st.integers(1, 3)), "fold": [fold]},
        {"key": "drawer", "title": "Drawer", "shape": "drawer", "depth": draw(st.integers(1, 3)), "kinds": draw(kinds)},
    ]
    menus = {name: draw(documents).to_json() for name in ("one", "two", "three")}
    hung = [
        {"location": place, "device": "desktop", "menu": menu}
        for place, menu in zip(("bar", "strip", "drawer"), menus, strict=True)
    ]
    return read(
        SiteDocument,
        {
            "format": "sign-shelf/site",
            "version": 1,
            "site": {"key": "s", "name": "S", "base": "https://s.example/", "languages": ["en", "nl"]},
            "template": {"key": "t", "devices": {"phone": [0, 767], "desktop": [768, None]}, "locations": places},
            "menus": menus,
            "placements": hung,
            "pages": PAGES,
        },
    )


def through(site: SiteDocument, place: str, device: str = "desktop", **more: object) -> ResolvedMenu:
    return resolve(site, place, Lens(**({"device": device, "language": "en", "at": AT} | more)))  # type: ignore[arg-type]


def flat(items: tuple[Resolved, ...], level: int = 1) -> Iterator[tuple[int, Resolved]]:
    for item in items:
        yield level, item
        yield from flat(item.items, level + 1)


quick = settings(
    max_examples=30, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)


@quick
@given(sites(), st.sampled_from(["bar", "strip", "drawer"]), st.sampled_from(DEVICES))
def test_a_resolved_menu_keeps_within_its_place(site: SiteDocument, place: str, device: str) -> None:
    """Its depth, its kinds; no divider first, last or doubled at any level; no empty heading."""
    location = site.template.location(place)
    assert location is not None
    got = through(site, place, device)
    for level, item in flat(got.items):
        assert level <= location.depth
        assert item.listed or item.kind in location.kinds
    for siblings in [got.items, *(item.items for _, item in flat(got.items))]:
        dividers = [item.kind == "divider" for item in siblings]
        assert not dividers or not (dividers[0] or dividers[-1])
        assert not any(one and other for one, other in itertools.pairwise(dividers))


@quick
@given(sites())
def test_a_fold_in_loses_and_doubles_no_entry(site: SiteDocument) -> None:
    """What the strip would show stands in the phone's drawer once, or is named among what was left out; nothing else."""
    strip = through(site.model_copy(update={"template": _unfolded(site.template)}), "strip", "phone")
    alone = [one for one in site.placements if one.location == "strip"]
    drawer = through(site.model_copy(update={"placements": tuple(alone)}), "drawer", "phone")
    wanted = Counter(item.id for _, item in flat(strip.items) if item.kind != "divider")
    got = Counter(item.id for _, item in flat(drawer.items) if item.kind != "divider" and item.id != "strip:heading")
    out = {one.id for one in drawer.hidden}
    assert all(count == 1 for count in (got - Counter()).values()) or got == wanted
    assert not got - wanted
    assert set(wanted - got) <= out


def _unfolded(template: Template) -> Template:
    return template.model_copy(
        update={"locations": tuple(one.model_copy(update={"fold": ()}) for one in template.locations)}
    )


@quick
@given(
    sites(),
    st.sampled_from(DEVICES),
    st.sampled_from(["a", "b", "c", "z", None]),
    st.sampled_from([AT, "2030-06-01T00:00"]),
)
def test_a_prepared_site_says_what_one_resolved_anew_says(
    site: SiteDocument, device: str, page: str | None, at: str
) -> None:
    """However many visitors came before; nobody's visit shows in another's."""
    prepared = Prepared(site)
    lenses = [
        Lens(device=device, language=language, at=when, page=here)  # type: ignore[arg-type]
        for language, when, here in [("en", at, page), ("nl", at, None), ("en", AT, "b"), ("en", at, page)]
    ]
    for place in ("bar", "drawer"):
        for lens in lenses:
            assert prepared.resolve(place, lens) == resolve(site, place, lens)


@given(st.lists(st.sampled_from(["a", "b", "c", None]), min_size=3, max_size=3), st.sampled_from(DEVICES))
def test_inheritance_always_ends(stand_ins: list[str | None], device: str) -> None:
    """Even where places stand in for each other in a ring."""
    places = [
        {"key": key, "title": key, "shape": "bar", "stand_in": other if other != key else None}
        for key, other in zip("abc", stand_ins, strict=True)
    ]
    site = read(
        SiteDocument,
        {
            "format": "sign-shelf/site",
            "version": 1,
            "site": {"key": "s", "name": "S", "base": "https://s.example/"},
            "template": {"key": "t", "devices": {"desktop": [0, None]}, "locations": places},
        },
    )
    path = list(search_path(site, "a", device))  # type: ignore[arg-type]
    assert path[0] == ("a", device)
    assert len(path) == len(set(path)) <= 9
    assert find_placement(site, "a", device).placement == "none"  # type: ignore[arg-type]


def _site(
    locations: list[dict[str, object]], menus: dict[str, str], hung: list[tuple[str, str, str | None]]
) -> SiteDocument:
    return read(
        SiteDocument,
        {
            "format": "sign-shelf/site",
            "version": 1,
            "site": {"key": "s", "name": "S", "base": "https://s.example/"},
            "template": {"key": "t", "devices": {"phone": [0, 767], "desktop": [768, None]}, "locations": locations},
            "menus": {key: parse_outline(text).to_json() for key, text in menus.items()},
            "placements": [{"location": place, "device": device, "menu": menu} for place, device, menu in hung],
            "pages": PAGES,
        },
    )


def labels(items: tuple[Resolved, ...]) -> list[object]:
    return [[item.label, *labels(item.items)] if item.items else item.label for item in items]


def test_several_fold_in_in_order_under_headings_and_by_width() -> None:
    """Before and after what hangs there, by their order; a device of an item's own keeps it out."""
    into = {"key": "drawer", "title": "Drawer", "shape": "drawer", "depth": 2}
    bar = {"title": "B", "shape": "bar"}
    site = _site(
        [
            bar | {"key": "late", "fold": [{"into": "drawer", "on": ["phone"], "order": 2, "heading": "Late"}]},
            bar | {"key": "early", "fold": [{"into": "drawer", "on": ["phone"], "order": 1}]},
            bar | {"key": "top", "fold": [{"into": "drawer", "below": 900, "where": "before"}]},
            into,
        ],
        {"m": "Own -> /own", "x": "X -> /x\n  Y -> /y", "e": "E -> /e\nWide -> /w {on desktop}", "t": "T -> /t"},
        [("drawer", "desktop", "m"), ("late", "desktop", "x"), ("early", "desktop", "e"), ("top", "desktop", "t")],
    )
    assert labels(through(site, "drawer", "phone").items) == ["T", "Own", "E", ["Late", "X", "Y"]]
    assert labels(through(site, "drawer", "desktop").items) == ["Own"]
    assert labels(through(site, "drawer", "desktop", width=880).items) == ["T", "Own"]
    assert through(site, "top", "desktop", width=880).items == ()
    hidden = {one.id: (one.because, one.detail) for one in through(site, "drawer", "phone").hidden}
    assert hidden["wide"] == ("device", "only on desktop")


def test_what_a_place_does_not_take_is_hidden_with_the_reason() -> None:
    site = _site(
        [{"key": "corner", "title": "Account corner", "shape": "corner", "depth": 1, "kinds": ["link"]}],
        {"m": "A -> /a\n  B -> /b\nH:\n  C -> /c\nAsk -> !form"},
        [("corner", "desktop", "m")],
    )
    got = through(site, "corner")
    assert labels(got.items) == ["A"]
    told = {one.id: one.detail for one in got.hidden}
    assert told["b"] == "Account corner shows one level"
    assert told["h"] == "Account corner takes no heading"
    assert (told["c"], told["ask"]) == ("because H is hidden", "Account corner takes no opener")


def test_a_badge_is_worn_until_its_last_day_is_over() -> None:
    site = _site(
        [{"key": "bar", "title": "B", "shape": "bar"}],
        {"m": 'A -> /a {badge "New" until 2026-12-01}'},
        [("bar", "desktop", "m")],
    )
    prepared = Prepared(site)
    worn = [
        prepared.resolve("bar", Lens(device="desktop", language="en", at=at)).items[0].look.badge is not None
        for at in ("2026-11-30T10:00", "2026-12-01T23:59", "2026-12-02T00:00")
    ]
    assert worn == [True, True, False]


def test_devices_side_by_side_know_the_same_entries_and_what_one_lacks() -> None:
    """By the line of copies, else by where they lead; the phone gets the drawer in the bar's stead."""
    places = [
        {"key": "bar", "title": "Bar", "shape": "bar", "devices": ["tablet", "desktop"]},
        {"key": "drawer", "title": "Drawer", "shape": "drawer", "devices": ["phone"], "stand_in": "bar"},
    ]
    site = _site(
        places, {"wide": "A -> @a\nB -> @b\nGo -> /go", "narrow": "Off -> /go\nA, short -> @a"},
        [("bar", "desktop", "wide"), ("drawer", "phone", "narrow")],
    )  # fmt: skip
    desktop, tablet, phone = side_by_side(Prepared(site), "bar", Lens(device="desktop", language="en", at=AT))
    assert [one.title for one in (desktop, tablet, phone)] == ["Bar", "Bar", "Drawer"]
    assert (tablet.how, phone.how, phone.lacks, desktop.lacks) == ("as on desktop", "its own menu", ("B",), ())
    assert phone.entries[1].same == desktop.entries[0].same
    copied = site.menus["narrow"].model_copy(
        update={
            "items": (
                site.menus["wide"].items[1].model_copy(update={"id": "n", "origin": "wide/b", "label": {"en": "Else"}}),
            )
        }
    )
    twin = site.model_copy(update={"menus": {**site.menus, "narrow": copied}})
    *_, phone = side_by_side(Prepared(twin), "bar", Lens(device="phone", language="en", at=AT))
    assert phone.lacks == ("A", "Go")


@given(documents)
def test_hidden_and_shown_are_all_there_is(document: MenuDocument) -> None:
    """No item vanishes without a word: every one is shown, hidden, or stands for what came in its place."""
    site = _site([{"key": "bar", "title": "B", "shape": "bar", "depth": 12}], {}, [])
    site = site.model_copy(update={"menus": {"m": document}, "placements": read(SiteDocument, {
        "format": "sign-shelf/site", "version": 1, "site": {"key": "s", "name": "S", "base": "https://s.example/"},
        "template": site.template.to_json(), "menus": {"m": document.to_json()},
        "placements": [{"location": "bar", "device": "desktop", "menu": "m"}],
    }).placements})  # fmt: skip
    got = through(site, "bar")
    named = {item.id.split(":")[0].split("/")[0] for _, item in flat(got.items)} | {one.id for one in got.hidden}
    for _, item in walk(document.items):
        assert item.id in named or item.kind in {"include", "listing"}
