"""Looks, templates, switching, the elevation, reach, and what a site is given when it asks."""

import json
import re
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from sign_shelf.core.basics.clock import clock_of, moment_of
from sign_shelf.core.changes.switch import switch_report, switched
from sign_shelf.core.drawing.elevation import State, elevation
from sign_shelf.core.drawing.sample import sample_site
from sign_shelf.core.errors import ClockRefused, EditRefused, InvalidDocument
from sign_shelf.core.look import PlaceLook, contrast_ratio, contrasts, tap_areas
from sign_shelf.core.look.export import css_properties, css_text, design_tokens
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.template import Template
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.protocol.delivery import LONGEST_S, holds_until, menu_html, menu_json
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.visitors.moments import Moments
from sign_shelf.core.visitors.reach import lacking, reach
from sign_shelf.demo.stand_ins.content import all_contents

AT = "2026-11-24T12:00"
colours = st.from_regex(r"#[0-9a-f]{6}", fullmatch=True)
TEMPLATES = {content.template.key: content.template for content in all_contents()}


# --- looks


@pytest.mark.parametrize(
    ("one", "other", "ratio"),
    [("#000000", "#ffffff", 21), ("#777777", "#ffffff", 4.48), ("#0000ff", "#ffffff", 8.59), ("#ffffff", "#ffffff", 1)],
)
def test_contrast_is_wcags(one: str, other: str, ratio: float) -> None:
    assert contrast_ratio(one, other) == pytest.approx(ratio, abs=0.005)


@given(colours, colours)
def test_contrast_is_symmetric_and_between_1_and_21(one: str, other: str) -> None:
    assert 1 <= contrast_ratio(one, other) == contrast_ratio(other, one) <= 21.001


def test_every_state_is_judged_and_large_text_needs_less() -> None:
    """Light words on a light ground fail in the state that has them, and pass where the text is large enough."""
    look = PlaceLook(text="#ffffff", ground="#10162b", hover_text="#888888", hover_ground="#ffffff", size=16)
    judged = {(one.pair, one.state): one for one in contrasts(look)}
    assert len(judged) == 6
    assert judged["text", "normal"].passes
    assert (judged["text", "hover"].passes, judged["text", "hover"].needed) == (False, 4.5)
    large = {(one.pair, one.state): one for one in contrasts(look.model_copy(update={"size": 24}))}
    assert (large["text", "hover"].passes, large["text", "hover"].needed) == (True, 3.0)
    assert contrasts(look.model_copy(update={"size": 18.7, "weight": 700}))[0].needed == 3.0
    assert [one.what for one in tap_areas(PlaceLook(size=12)) if not one.passes] == ["entry", "button s"]
    assert all(one.passes for one in tap_areas(PlaceLook(size=16)))


@pytest.mark.parametrize(
    ("look", "says"),
    [
        ({"text": "red"}, 'write it as #rgb or #rrggbb'),
        ({"text": "#12345"}, "is no colour"),
        ({"remember": True}, "goes with folded"),
        ({"drawer_below": 800}, "goes with overflow drawer"),
        ({"size": float("nan")}, "less than or equal"),
        ({"evil": "x"}, "unknown key"),
    ],
)  # fmt: skip
def test_looks_that_hang_apart_are_refused(look: dict[str, object], says: str) -> None:
    with pytest.raises((InvalidDocument, ValidationError), match=says):
        read(PlaceLook, look)


def test_a_site_s_own_look_sets_keys_and_gives_them_back() -> None:
    look = PlaceLook(text="#111", size=18)
    assert look.text == "#111111"
    assert look.adjusted({"size": 14, "gap": 10}) == PlaceLook(text="#111111", size=14, gap=10)
    drawer = PlaceLook(overflow="drawer", drawer_below=860)
    assert drawer.adjusted({"overflow": "wrap", "drawer_below": None}) == PlaceLook()
    template = TEMPLATES["quayside"].adjusted({"header": {"size": 20}, "gone": {"size": 9}})
    header = template.location("header")
    assert header is not None
    assert (header.look.size, header.look.font) == (20, "Atkinson Hyperlegible Next")


def test_looks_go_out_as_custom_properties_and_as_design_tokens() -> None:
    """Every value of the CSS can be read back from the tokens."""
    look = PlaceLook(font='My "Font"', hover_text="#f2c14e", letter_spacing=0.5, max=1_180, align="fill")
    css = css_properties(look)
    assert css["--font"] == '"My Font"'
    assert (css["--letter-spacing"], css["--max"], css["--align"]) == ("0.5px", "1180px", "space-between")
    text = css_text({"header": look})
    assert "--header-hover-text: #f2c14e;" in text
    assert text.count("{") == text.count("}") == 1
    tokens = json.loads(json.dumps(design_tokens({"header": look})))["header"]
    assert tokens["gap"] == {"$type": "dimension", "$value": {"value": 24, "unit": "px"}}
    assert tokens["hover"]["text"]["$value"]["hex"] == "#f2c14e"
    assert tokens["hover"]["text"]["$value"]["components"] == [0.94902, 0.75686, 0.30588]
    assert tokens["$extensions"]["sign-shelf.look"]["align"] == "fill"
    every = [value for group in _groups(tokens) for value in group]
    assert all("$type" in one and "$value" in one for one in every)


def _groups(tokens: dict[str, object]) -> list[list[dict[str, object]]]:
    found: list[list[dict[str, object]]] = []
    for key, value in tokens.items():
        if key != "$extensions" and isinstance(value, dict):
            found += [[value]] if "$value" in value else _groups(value)
    return found


# --- templates


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"locations": [{"key": "a", "title": "A", "shape": "bar"}] * 2}, "two locations have the key"),
        ({"locations": [{"key": "a", "title": "A", "shape": "bar", "stand_in": "b"}]}, 'names "b"'),
        ({"locations": [{"key": "a", "title": "A", "shape": "bar", "fixed": {"covers": ["b"]}}]}, 'names "b"'),
        ({"locations": [{"key": "a", "title": "A", "shape": "bar", "stand_in": "a"}]}, "names itself"),
        ({"locations": [{"key": "a", "title": "A", "shape": "bar", "fold": [{"into": "a"}]}]}, "needs the devices"),
        ({"devices": {"phone": [800, 300]}}, "are not a range"),
        ({"locations": [
            {"key": "a", "title": "A", "shape": "bar", "fold": [{"into": "b", "on": ["phone"]}]},
            {"key": "b", "title": "B", "shape": "bar", "fold": [{"into": "c", "on": ["phone"]}]},
            {"key": "c", "title": "C", "shape": "drawer"}]}, "folds away itself"),
    ],
)  # fmt: skip
def test_templates_that_hang_apart_are_refused(change: dict[str, object], says: str) -> None:
    with pytest.raises(InvalidDocument, match=says):
        read(Template, {"key": "t", "devices": {"desktop": [0, None]}, "locations": []} | change)


def test_the_demo_has_six_different_templates() -> None:
    assert len(TEMPLATES) == 6
    told = {
        json.dumps([(one.key, one.shape, one.depth) for one in template.locations]) for template in TEMPLATES.values()
    }
    assert len(told) == 6
    for template in TEMPLATES.values():
        assert template.device_at(template.width_of("phone")) == "phone"
        assert template.device_at(5_000) == "desktop"
        drawn = elevation(Prepared(sample_site(template)), Lens(device="desktop", language="en", at=AT))
        assert len(drawn.standing) >= 2


# --- switching


def _site(
    template: Template, menus: dict[str, str], hung: list[tuple[str, str, str | None]], **more: object
) -> SiteDocument:
    raw: dict[str, object] = {
        "format": "sign-shelf/site",
        "version": 1,
        "site": {"key": "s", "name": "Sæt", "base": "https://s.example/", "zone": "Europe/London"},
        "template": template.to_json(),
        "menus": {key: parse_outline(text).to_json() for key, text in menus.items()},
        "placements": [{"location": place, "device": device, "menu": menu} for place, device, menu in hung],
    }
    return read(SiteDocument, raw | more)


DEEP = "A -> /a\n  B -> /b\n    C -> /c\n"


def test_a_switch_tells_what_keeps_its_place_and_what_does_not() -> None:
    site = _site(
        TEMPLATES["quayside"],
        {"h": DEEP, "top": "Ask -> !form", "legal": "P -> /p"},
        [
            ("header", "desktop", "h"),
            ("strip", "desktop", "top"),
            ("legal", "desktop", "legal"),
            ("drawer", "phone", "h"),
        ],
    )
    told = switch_report(site, TEMPLATES["dome"])
    kept = {one.location: one for one in told.kept}
    assert (kept["header"].to, kept["header"].by) == ("header", "key")
    assert [one.says for one in kept["header"].too_deep] == ["stands at level 3, Header bar shows 2"]
    assert [one.location for one in told.without_place] == ["strip", "legal"]
    assert kept["strip"].devices_lost == ("tablet", "desktop")
    assert {one[0] for one in told.widths} == {"phone", "tablet", "desktop"}
    assert told.empty == ("footer",)
    by_hand = switch_report(site, TEMPLATES["branch-line"], {"strip": "legal", "legal": None})
    strip = next(one for one in by_hand.kept if one.location == "strip")
    assert (strip.to, strip.by, strip.kinds_refused[0].says) == ("legal", "by hand", "Legal line takes no opener")
    assert switched(site, TEMPLATES["dome"], {"strip": "footer"})[1].location == "footer"
    with pytest.raises(EditRefused, match='"strip" cannot become "nowhere"'):
        switch_report(site, TEMPLATES["dome"], {"strip": "nowhere"})


@given(st.sampled_from(sorted(TEMPLATES)), st.sampled_from(sorted(TEMPLATES)))
def test_a_switch_hangs_nothing_twice_and_only_where_the_template_has_a_place(before: str, after: str) -> None:
    """And to the same template nothing moves."""
    template = TEMPLATES[before]
    hung = [(one.key, one.devices[-1], "m") for one in template.locations]
    site = _site(template, {"m": "A -> /a"}, hung)  # type: ignore[arg-type]
    then = switched(site, TEMPLATES[after])
    places = {(one.location, one.device) for one in then}
    assert len(places) == len(then)
    for one in then:
        location = TEMPLATES[after].location(one.location)
        assert location is not None
        assert one.device in location.devices
    if before == after:
        assert then == site.placements


# --- elevation


THORNBY = next(content for content in all_contents() if content.key == "thornby")


def test_the_elevation_shows_what_a_fixed_header_covers() -> None:
    site = _site(
        THORNBY.template, {"h": DEEP, "s": "Today -> /t"}, [("header", "desktop", "h"), ("second", "desktop", "s")]
    )
    lens = Lens(device="desktop", language="en", at=AT)
    top = elevation(Prepared(site), lens)
    down = elevation(Prepared(site), lens, State(scrolled=True))
    assert {one.location: one.covered_by for one in top.standing}["second"] is None
    assert {one.location: one.covered_by for one in down.standing}["second"] == "Fixed header"
    assert "min-height:76px" in top.html
    assert re.search(r'is-fixed[^>]*min-height:48px[^>]*data-location="header"', down.html)
    assert "--ground:#47150f" in down.html
    assert "is-covered" in down.html
    assert "is-covered" not in top.html
    assert top.width == 1_280


def test_the_elevation_has_drawers_open_and_closed_and_the_page_s_section() -> None:
    kestrel = next(content for content in all_contents() if content.key == "kestrel")
    pages = [page.to_json() for page in kestrel.pages]
    site = _site(kestrel.template, {}, [], pages=pages)
    site = site.model_copy(update={"menus": kestrel.menus, "placements": read(SiteDocument, site.to_json() | {
        "menus": {"header": kestrel.menus["header"].to_json()},
        "placements": [{"location": "header", "device": "desktop", "menu": "header"}]}).placements})  # fmt: skip
    on = Lens(device="desktop", language="en", at=AT, page="events-reading-groups")
    drawn = elevation(Prepared(site), on)
    assert "section" in {one.location for one in drawn.standing}
    assert "current-branch" in drawn.html
    assert "section" not in {
        one.location for one in elevation(Prepared(site), Lens(device="desktop", language="en", at=AT)).standing
    }
    phone = sample_site(TEMPLATES["quayside"])
    closed = elevation(Prepared(phone), Lens(device="phone", language="en", at=AT))
    opened = elevation(Prepared(phone), Lens(device="phone", language="en", at=AT), State(drawer_open=True))
    assert ("page-over" in closed.html, "page-over" in opened.html) == (False, True)
    assert "drawer-button" in closed.html
    assert "<script" not in opened.html


# --- reach


def test_steps_are_counted_from_the_home_page_over_menus_and_sections() -> None:
    places = [
        {"key": "bar", "title": "Bar", "shape": "bar", "devices": ["desktop"]},
        {"key": "drawer", "title": "Drawer", "shape": "drawer", "devices": ["phone"]},
        {"key": "foot", "title": "Foot", "shape": "columns"},
        {"key": "near", "title": "Near", "shape": "section", "of": "hidden", "start": 2},
        {"key": "hidden", "title": "Hidden", "shape": "bar", "devices": ["tablet"]},
    ]
    template = read(Template, {"key": "t", "devices": {"phone": [0, 700], "desktop": [701, None]}, "locations": places})
    refs = ["home", "top", "below", "deep", "footed", "near", "lost"]
    pages = [{"ref": ref, "path": "/" if ref == "home" else f"/{ref}", "title": {"en": ref}} for ref in refs]
    pages.append({"ref": "draft", "path": "/draft", "state": "draft"})
    site = _site(
        template,
        {
            "bar": "Top -> @top\n  Below -> @below\n    Deep -> @deep",
            "drawer": "Top -> @top",
            "foot": "H:\n  Footed -> @footed",
            "hidden": "Top -> @top\n  Near -> @near",
        },
        [
            ("bar", "desktop", "bar"),
            ("drawer", "phone", "drawer"),
            ("foot", "desktop", "foot"),
            ("hidden", "desktop", "hidden"),
        ],
        pages=pages,
    )
    prepared = Prepared(site)
    desktop = reach(prepared, Lens(device="desktop", language="en", at=AT))
    phone = reach(prepared, Lens(device="phone", language="en", at=AT))
    assert {one.ref: one.steps for one in desktop} == {
        "home": 0, "top": 1, "below": 2, "deep": 3, "footed": 1, "near": 2, "lost": None,
    }  # fmt: skip
    assert {one.ref: one.steps for one in phone}["top"] == 2, "the drawer has to be opened"
    near = next(one for one in desktop if one.ref == "near")
    assert [(choice.location, choice.item) for choice in near.via] == [("bar", "top"), ("near", "near")]
    assert lacking(desktop, phone) == ["below", "deep"]
    assert reach(Prepared(_site(template, {}, [])), Lens(device="phone", language="en", at=AT)) == []


# --- delivery


ZONES = ["Europe/London", "America/Halifax", "Pacific/Auckland", "Asia/Kathmandu"]


@given(
    st.sampled_from(ZONES),
    st.datetimes(datetime(2026, 1, 1), datetime(2028, 1, 1)),
    st.lists(st.datetimes(datetime(2026, 1, 1), datetime(2028, 1, 1)), max_size=4),
    st.integers(0, 400),
)
def test_an_answer_never_holds_past_the_second_in_which_something_changes(
    zone: str, moment: datetime, bounds: list[datetime], ahead: int
) -> None:
    """Within what it is said to hold, everybody gets the same: windows, badges, rules that ask the clock, clock changes."""
    now = moment.replace(tzinfo=UTC)
    clock = clock_of(zone)
    near = clock.now(now + timedelta(seconds=ahead))
    windows = [near, *(bound.strftime("%Y-%m-%dT%H:%M") for bound in bounds)]
    lines = [f"W{at} -> /w {{from {wall}}}" for at, wall in enumerate(windows)]
    lines += [f"{name} -> /r {{when {rule}}}" for name, rule in CLOCK_RULES.items()]
    lines.append(f'Badge -> /b {{badge "New" until {near[:10]}}}')
    site = _site(TEMPLATES["dome"], {"m": "\n".join(lines)}, [("header", "desktop", "m")])
    site = site.model_copy(update={"site": site.site.model_copy(update={"zone": zone})})
    until = holds_until(Moments(site), now)
    assert now < until <= now + timedelta(seconds=LONGEST_S)
    prepared = Prepared(site)

    def got(at: datetime) -> object:
        return prepared.resolve("header", Lens(device="desktop", language="en", at=clock.now(at))).items

    for second in range(0, int((until - now).total_seconds()), 20):
        assert got(now + timedelta(seconds=second)) == got(now)


CLOCK_RULES = {
    "Day": "hour >= 9 and hour < 17",
    "Weekend": "weekday in (saturday, sunday)",
    "Spring": "month >= 3 and month <= 5",
    "Night": "not (hour > 4 and month is 12)",
}


@pytest.mark.parametrize(
    ("zone", "skipped", "twice"),
    [
        ("Europe/London", "2027-03-28T01:30", "2027-10-31T01:30"),
        ("America/Halifax", "2027-03-14T02:30", "2027-11-07T01:15"),
        ("Pacific/Auckland", "2027-09-26T02:30", "2027-04-04T02:30"),
    ],
)
def test_windows_open_and_close_right_over_clock_changes(zone: str, skipped: str, twice: str) -> None:
    """One that opens at a time that does not exist opens with the first that does; one that opens at a time that comes
    twice opens the first time and stays open, or the second time where it says so."""
    clock = clock_of(zone)
    first, second = clock.reading(twice).offers
    lines = f"Skip -> /s {{from {skipped}}}\nFirst -> /f {{from {twice}}}\nSecond -> /z {{from {second}}}"
    site = _site(TEMPLATES["dome"], {"m": lines}, [("header", "desktop", "m")])
    site = site.model_copy(update={"site": site.site.model_copy(update={"zone": zone})})
    prepared = Prepared(site)

    def shown(at: datetime) -> list[str]:
        lens = Lens(device="desktop", language="en", at=clock.now(at))
        return [item.label for item in prepared.resolve("header", lens).items]

    opens = moment_of(clock.instant(skipped))
    last, following = clock.reading(skipped).offers
    assert clock.now(opens) == following
    assert clock.now(opens - timedelta(minutes=1)) == last
    assert ("Skip" in shown(opens - timedelta(minutes=1)), "Skip" in shown(opens)) == (False, True)
    begins, again = (moment_of(clock.instant(one)) for one in (first, second))
    assert again - begins == timedelta(hours=1)
    minutes = [begins + timedelta(minutes=at) for at in range(-40, 140)]
    assert ["First" in shown(at) for at in minutes] == [at >= begins for at in minutes]
    assert ["Second" in shown(at) for at in minutes] == [at >= again for at in minutes]
    assert {
        instant for instant, _ in Moments(site).between(begins - timedelta(days=400), begins + timedelta(days=400))
    } == {clock.instant(one) for one in (skipped, first, second)}
    for wrong, offers in [(skipped, (last, following)), (twice, (first, second))]:
        with pytest.raises(ClockRefused) as refused:
            clock.checked(wrong)
        assert refused.value.offers == offers
    assert clock.checked(second) == second
    changes = [one.instant for one in clock.changes(begins - timedelta(days=3), begins + timedelta(days=3))]
    assert len(changes) == 1


def test_what_is_delivered_is_what_the_visitor_gets_and_nothing_else() -> None:
    site = _site(
        TEMPLATES["dome"],
        {
            "m": 'A & B -> /a {new tab; rel external}\n  Deep -> /d {badge "New" until 2026-12-01}\nLater -> /secret {from 2027-01-01T00:00}\nAsk -> !form\n---\nHead:\n  X -> /x'
        },
        [("header", "desktop", "m")],
    )
    got = Prepared(site).resolve("header", Lens(device="desktop", language="en", at=AT))
    body = menu_json(site, "header", got, device="desktop", language="en")
    html = menu_html("Header & bar", got, language="en").decode()
    assert json.loads(body)["items"][0]["label"] == "A & B"
    for text in (body.decode(), html):
        assert "secret" not in text
        assert "Later" not in text
    assert (
        '<nav aria-label="Header &amp; bar" lang="en"><ul><li><a href="/a" target="_blank" rel="external">A &amp; B</a>'
        in html
    )
    assert '<button type="button" data-overlay="form">Ask</button>' in html
    ahead = Moments(site).between(datetime(2026, 1, 1, tzinfo=UTC), datetime(2028, 1, 1, tzinfo=UTC))
    assert [(instant, [cause.kind for cause in causes]) for instant, causes in ahead] == [
        ("2026-12-02T00:00", ["badge"]), ("2027-01-01T00:00", ["window"]),
    ]  # fmt: skip


def test_widths_cut_into_devices_do_not_overlap_in_the_demo() -> None:
    for template in TEMPLATES.values():
        ranges = [template.devices[device] for device in ("phone", "tablet", "desktop")]
        for (_, high), (low, _) in pairwise(ranges):
            assert high is not None
            assert high + 1 == low
