"""The checks: each kind of finding where it belongs and none where nothing is wrong; again, only what an edit touches."""

import re
from collections.abc import Mapping
from dataclasses import replace
from functools import cache
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import JsonValue

from sign_shelf.core.checks import CHECKS, CODES, Checked, PlaceDrifted, SharedSeen, SiteView
from sign_shelf.core.checks.sarif import sarif
from sign_shelf.core.crawled import read_live, section_pages
from sign_shelf.core.fit import FontSet
from sign_shelf.core.formats.html_tree import parse
from sign_shelf.core.links import Hop, LinkFinding, Verdict
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import menu_document
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.sharing import PageName, filled
from sign_shelf.outside.fonts import shipped_fonts
from sign_shelf.settings import STATIC
from tests.ruled_sites import sites

TODAY = "2027-02-12"
PAGES = [
    {"ref": "home", "path": "/", "title": {"en": "Brackwater Ferries", "nl": "Brackwater Veren"}},
    {
        "ref": "fares",
        "path": "/fares",
        "title": {"en": "Fares", "nl": "Tarieven"},
        "parts": ["groups"],
        "overlays": ["ask"],
    },
    {"ref": "crew", "path": "/crew", "title": {"en": "Crew"}, "state": "hidden"},
]
LINE = {
    "key": "legal",
    "title": "Legal line",
    "shape": "line",
    "depth": 2,
    "kinds": ["link", "heading", "opener", "include"],
}
HUNG = {"location": "legal", "device": "desktop", "menu": "m"}


@cache
def fonts() -> FontSet:
    return shipped_fonts(STATIC / "fonts")


def view(
    outline: str | Mapping[str, str] = "",
    *,
    site: Mapping[str, JsonValue] | None = None,
    location: Mapping[str, JsonValue] | None = None,
    links: Mapping[str, LinkFinding] | None = None,
    measured: bool = False,
    live: str | None = None,
    sections: Mapping[str, str] | None = None,
    **more: Any,
) -> SiteView:
    """A small site with the menu `m`, which hangs in a legal line on its one device. `live` is the HTML of its home page,
    `sections` that of pages by their references."""
    menus = {"m": outline} if isinstance(outline, str) else outline
    placed = "m" in menus
    whole = {
        "format": "sign-shelf/site", "version": 1,
        "site": {"key": "b", "name": "B", "base": "https://b.example/", "zone": "Europe/London", "languages": ["en"],
                 "hosts": [{"host": "old.b.example", "kind": "old"}, {"host": "try.b.example", "kind": "staging"},
                           {"host": "show.b.example", "kind": "demo"}, {"host": "www.b.example", "kind": "alias"},
                           {"host": "other.example", "kind": "client"}]}
                | dict(site or {}),
        "template": {"key": "t", "devices": {"desktop": [0, None]},
                     "locations": [LINE | {"devices": ["desktop"]} | dict(location or {})]},
        "facts": {"visitor.id": {"type": "text"}},
        "menus": {key: parse_outline(text).to_json() for key, text in menus.items()},
        "placements": [HUNG] if placed else [], "pages": PAGES,
    } | more  # fmt: skip
    base = "https://b.example/"
    html = ({None: live} if live is not None else {}) | dict(sections or {})
    pages = tuple(read_live(base, parse(said.encode(), base), f"{TODAY}T12:00", ref) for ref, said in html.items())
    return SiteView(Prepared(read(SiteDocument, whole)), TODAY, links or {}, fonts() if measured else None, pages)


def found(seen: SiteView) -> list[str]:
    return [
        f"{one.code} {one.number or one.location or one.menu or '-'}: {one.says}" for one in Checked.of(seen).findings()
    ]


def answered(verdict: Verdict, *then: str, url: str = "https://x.example/") -> dict[str, LinkFinding]:
    return {url: LinkFinding(verdict, (Hop(url, 200), *(Hop(one, 200) for one in then)), "So it is.")}


def following(before: str, now: str, *, own: str | None = None, current: bool = False) -> SiteView:
    """The site follows the shared menu Legal, as it was and as it is now; `own` is what it has of it, where that differs."""
    seen = view({"m": FIRST, "shared:legal": "Fares -> @fares"})
    site = seen.site
    pages = [
        PageName(page.ref, page.path, tuple(page.title.values())) for page in site.pages if page.state == "published"
    ]
    then, later, mine = (
        filled("shared:legal", menu_document("Legal", parse_outline(text).items), site.site, pages)
        for text in (before, now, own or before)
    )
    menus = {**site.menus, "shared:legal": mine.menu}
    shared = {"shared:legal": SharedSeen("Legal", current, then.menu, later)}
    return replace(seen, prepared=Prepared(site.model_copy(update={"menus": menus})), shared=shared)


NL: dict[str, Any] = {"languages": ["en", "nl"]}
FIRST = "Home -> @home\n"
"""Keeps the menu from being without the page that every other one is compared with."""
OUT = "Out -> https://x.example/"

LINKS = "<ul><li><a href=/a>A</a><li><a href=/b>B</a><li><a href=/c>C</a></ul>"
HITS: dict[str, tuple[SiteView, str]] = {
    "pending": (view("Soon -> ? {due 2027-02-13; owner Ines}"), "1: Soon leads nowhere yet, due 13 Feb 2027, Ines"),
    "pending-overdue": (view("Late -> ? {due 2027-02-12}"), "1: Late leads nowhere yet, due 12 Feb 2027"),
    "address-empty": (view("Empty -> <#>"), "1: Empty has the address # alone"),
    "page-unknown": (view("Gone -> @gone"), "1: Gone leads to @gone, which is no page of the site"),
    "page-hidden": (view("Crew -> @crew"), "1: Crew leads to /crew, which is hidden"),
    "page-draft": (view("A -> @a", pages=[*PAGES, {"ref": "a", "path": "/a", "state": "draft"}]), "1: A leads to /a, which is draft"),
    "page-gone": (view("A -> @a", pages=[*PAGES, {"ref": "a", "path": "/a", "state": "gone"}]), "1: A leads to /a, which is gone"),
    "part-gone": (view("Part -> @fares#dogs"), "1: Part leads to the part #dogs, which is not on /fares"),
    "overlay-gone": (view("Odd -> !other"), "1: Odd opens other, which is on no page of the site"),
    "overlay-partial": (view("Ask -> !ask"), "1: Ask opens ask, which 1 of 2 pages do not have"),
    "include-empty": (view("+ nothing"), '1: Includes nothing, which shows nothing here: there is no menu "nothing"'),
    "host-staging": (view("A -> https://try.b.example/a"), "1: A leads to try.b.example, a host of the site that is for trying"),
    "host-demo": (view("A -> https://show.b.example/a"), "1: A leads to show.b.example, a host of the site that is for showing"),
    "host-client": (view("A -> https://other.example/a"), "1: A leads to other.example, which is another client's"),
    "host-old": (view("A -> https://old.b.example/a"), "1: A leads to old.b.example, a host of the site that is no longer"),
    "http-plain": (view("A -> http://b.example/a"), "1: A leads to http://b.example/a, which answers with https as well"),
    "outside-tab": (view(OUT, site={"policy": {"outside_links": "new_tab"}}), "1: Out leads outside and opens in the same tab"),
    "opener-left": (view(OUT + " {new tab; rel opener}"), "1: Out lets x.example reach back"),
    "target-twice": (view("A -> /a\nB -> /a"), "2: B leads where 1 A leads"),
    "target-parent": (view("A -> /a\n  B -> /a"), "1.1: B leads where A leads, below which it stands"),
    "pattern-lacks": (view("Rota -> /crew/{visitor.id}", audiences={"guest": {"signed_in": False}}),
                      "1: Rota asks for visitor.id, which guest does not have"),
    **{f"link-{verdict}": (view(OUT, links=answered(verdict)), "1: Out leads to https://x.example/: So it is")
       for verdict in ("gone", "error", "no-host", "tls", "refused", "loop", "missing-part", "slow", "chain", "redirect", "too-big")},
    "heading-empty": (view("Head:"), "1: Head is a heading with nothing below it"),
    "too-deep": (view("A -> /a\n  B -> /b\n    C -> /c"), "1.1.1: C stands on level 3; Legal line shows 2"),
    "kind-refused": (view("A -> /a\n---\nB -> /b"), "2: a divider is a divider, which Legal line does not take"),
    "menu-empty": (view(""), "m: Menu has no entries"),
    "menu-nowhere": (view({"m": FIRST, "other": "A -> /a"}), "other: Menu hangs nowhere"),
    "menu-twin": (view({"m": "A -> /a\n+ other", "other": "B -> /b", "third": "B -> /b"}), "third: Menu has the same entries as Menu"),
    "place-empty": (view({}), "legal: Nothing hangs in Legal line on a desktop"),
    "covered": (view(FIRST, template={"key": "t", "devices": {"desktop": [0, None]}, "locations": [
        LINE, {"key": "top", "title": "Top", "shape": "bar", "fixed": {"covers": ["legal"]}, "devices": ["desktop"]}]}),
        "legal: Top lies over Legal line once the page scrolls"),
    "required-missing": (view("A -> /a", site={"policy": {"required": {"legal": ["fares"]}}}),
                         "legal: Legal line must lead to Fares, and does not on a desktop"),
    "too-wide": (view("\n".join(f"A long entry number {one} of many -> /{one}" for one in range(9)), measured=True,
                      location={"shape": "bar"}), "legal: Legal line on a desktop of 1280 px does not fit: it needs"),
    "top-many": (view("\n".join(f"A{one} -> /{one}" for one in range(10))), "legal: 10 entries stand side by side"),
    "wrong-parent": (view(
        "Boats -> @boats\n  Red -> @boats-red\n  Blue -> @boats-blue\n  Hours -> @trains-hours\n"
        "Trains -> @trains\n  Steam -> @trains-steam\n  Night -> @trains-night",
        pages=[{"ref": path.strip("/").replace("/", "-"), "path": path} for path in (
            "/boats", "/boats/red", "/boats/blue", "/trains", "/trains/steam", "/trains/night", "/trains/hours")]),
        "1.3: Hours stands below Boats; /trains/hours is under /trains, as 2 of its neighbours there are"),
    "label-missing": (view("A -> /a", site=NL), "1: A has no label in Dutch"),
    "label-vague": (view("Read more -> /a"), "1: “Read more” does not say where it leads"),
    "label-capitals": (view("OUR FARES -> /a"), "1: “OUR FARES” is typed in capitals"),
    "label-long": (view("A label that is a good deal too long for it -> /a"), "1: “A label that is a good deal too long for it” has"),
    "title-long": (view("-> @a", pages=[*PAGES, {"ref": "a", "path": "/a", "title": {"en": "All that we have to say of it"}}],
                        site={"policy": {"label_length": 20}}), "1: “All that we have to say of it” has 29 characters; the site's"),
    "icon-nameless": (view("-> @a {icon ticket; icon alone}", pages=[*PAGES, {"ref": "a", "path": "/a"}]), "1: /a shows its icon alone"),
    "label-differs": (view({"m": "Prices -> @fares\n+ other", "other": "Fares -> @fares"}), "1: Fares is called Prices in Menu"),
    "contrast-low": (view(FIRST, location={"look": {"text": "#999999"}}), "legal: Legal line: text has a contrast of 2.8 (normal, hover, current, open); 4.5"),
    "tap-small": (view(FIRST, location={"look": {"size": 10}}), "legal: Legal line: entries are 18.0 px high; 24 are needed"),
    "states-alike": (view(FIRST, location={"look": {"hover_line": "none"}}), "legal: Legal line: the hover state looks as normal"),
    "badge-over": (view('A -> /a {badge "New" until 2027-02-11}'), "1: the badge of A has not been shown since 11 Feb 2027"),
    "badge-endless": (view('A -> /a {badge "New"}'), "1: the badge of A never ends"),
    "rule-invalid": (view("A -> /a {when signed_in adn x}"), "1: A is hidden from everybody: the rule cannot be read"),
    "never-seen": (view("A -> /a {when signed_in}\n  B -> /b {when not signed_in}"), "1.1: nobody who sees what B stands below"),
    "rule-always": (view("A -> /a {when hour >= 0}"), "1: whoever supplies its facts meets the rule of A"),
    "fact-not-supplied": (view("Rota -> /crew/{visitor.id} {when signed_in}", site={"can": {"facts": ["signed_in"]}}),
                          "1: Rota asks for visitor.id, which this site does not say"),
    "opens-empty": (view("A -> /a\n  B -> /b {when signed_in}"), "1: A opens empty for anybody"),
    "sign-in-and-out": (view("Sign in -> /in\nSign out -> /out"), "1: Sign in and Sign out are shown together to anybody"),
    "only-one": (view("A -> /a {when signed_in}\nB -> /b", audiences={
        "guest": {"signed_in": False}, "crew": {"signed_in": True}, "press": {"signed_in": False}}),
        "1: A is only reachable by crew on a desktop"),
    "device-lacks": (view("Fares -> @fares {on desktop}", template={
        "key": "t", "devices": {"desktop": [768, None], "phone": [0, 767]}, "locations": [LINE]}),
        "-: A phone lacks Fares, which a desktop has"),
    "page-orphan": (view(FIRST), "-: Fares: in no menu"),
    "page-far": (view("A -> /a\n  Fares -> @fares", location={"shape": "bar"}, site={"policy": {"steps": 1}}),
                 "-: On a desktop, Fares: more than 1 choices from the home page"),
    "script-only": (view("Fares -> @fares", location={"readable": False}), "-: Fares: only in menus that a script writes"),
    "time-never": (view("A -> /a {from 2027-03-28T01:30}"), "1: A starts at 28 Mar 2027 01:30, which the clock of Europe/London never"),
    "time-twice": (view("A -> /a {until 2027-10-31T01:30}"), "1: A ends at 31 Oct 2027 01:30, which the clock of Europe/London shows"),
    "crawl-place": (view("A -> /a\nB -> /b", live="<nav>by script</nav>"), "legal: Legal line: none of its 2 entries is in the HTML of"),
    "crawl-entry": (view("A -> /a\nB -> /b", live="<nav><a href=/a>A</a></nav>"), "2: B is not in the HTML of https://b.example/"),
    "nav-landmark": (view("A -> /a", live=f"<header>{LINKS}</header>"), "-: 3 links at body > header of https://b.example/ stand in no navigation"),
    "nav-name": (view("A -> /a", live=f"<nav>{LINKS}</nav><nav aria-label=More>{LINKS}</nav>"), "-: The navigation"),
    "nav-list": (view("A -> /a", live="<nav><a href=/a>A</a><a href=/b>B</a><a href=/c>C</a></nav>"), "-: The navigation"),
    "nav-current": (view("A -> /a", live=f"<nav>{LINKS}<a href=/>Home</a></nav>"), "-: The navigation"),
    "nav-opener": (view("A -> /a", live=f"<nav><ul><li><a href='#'>More</a>{LINKS}</ul></nav>"), "-: The navigation"),
    "drift": (
        replace(view(FIRST), drifted=(PlaceDrifted("legal", "desktop", ("Added Sale, to /sale", "Removed Fares")),)),
        "legal: Legal line on a desktop was changed on the site itself: Added Sale, to /sale and 1 more",
    ),
    "shared-behind": (following("A -> /a", "A -> /a\nB -> /b"), "shared:legal: Legal has moved on, and what is here is an older"),
    "adjustment-left": (
        following("A -> /a", "A -> /a", own="A -> /a\nB -> /b", current=True), "2: B is no more in Legal, and stays here as it was adjusted"
    ),
    "detail-missing": (
        following("A -> /a", 'A -> /a\n"Call {site.phone}" -> /b', current=True), "shared:legal: Call {site.phone} of Legal is left out"
    ),
    "window-over": (view("A -> /a {until 2027-01-31T00:00}"), "1: A has not been shown since 31 Jan 2027 00:00"),
}  # fmt: skip


@pytest.mark.parametrize("code", CODES)
def test_what_is_wrong_is_found_where_it_is(code: str) -> None:
    seen, says = HITS[code]
    mine = [one for one in found(seen) if one.startswith(f"{code} ")]
    assert len(mine) == 1, mine
    assert mine[0].startswith(f"{code} {says}"), mine


GOOD = """Home -> @home {nl "Begin"}
Fares -> @fares#groups {nl "Tarieven"}
Sign in -> /in {nl "Inloggen"; when not signed_in}
Sign out -> /out {nl "Uitloggen"; when signed_in}
RSPCA -> https://x.example/ {nl "RSPCA"; new tab; rel noopener, external}
Tides -> https://www.b.example/a {nl "Getij"; until 2027-10-31T01:30+00:00}
Sailing: {nl "Varen"}
  Winds -> /x {nl "Wind"; when section is /x or signed_in; badge "New" until 2027-02-12}
"""


def test_nothing_is_found_where_nothing_is_wrong() -> None:
    good = {
        "site": NL | {"policy": {"outside_links": "new_tab", "required": {"legal": ["home"]}}, "can": {"facts": ["signed_in"]}},
        "audiences": {"guest": {"signed_in": False}, "crew": {"signed_in": True}},
        "pages": PAGES[:2],
        "links": answered("ok"),
        "measured": True,
        "live": "<nav aria-label=Legal><ul><li><a href=/ aria-current=page>Home</a><li><a href=/fares>Fares</a><li><a href=/in>In</a>"
        "<li><a href=/out>Out</a><li><a href='https://x.example/'>X</a><li><a href='https://www.b.example/a'>T</a>"
        "<li><button aria-expanded=false>Sailing</button><ul><li><a href=/x>Winds</a></ul></ul></nav>",
    }  # fmt: skip
    assert found(view(GOOD, **good)) == []  # type: ignore[arg-type]
    as_shared = following("Fares -> @fares", "Fares -> @fares", current=True)
    assert [one for one in found(as_shared) if "shared" in one.split()[0] or "adjustment" in one] == []


def test_what_a_section_place_shows_is_looked_for_on_pages_of_its_sections() -> None:
    """The home page shows nothing of it. One page is read for each navigation that differs; what stands on several pages is
    told once."""
    outline = "Sail -> @sail\n  Boats -> @boats\n  Winds -> @winds\nShop -> @shop\n  Ropes -> @ropes\nFares -> @fares\n"
    pages = [*PAGES, *({"ref": one, "path": f"/{one}"} for one in ("sail", "boats", "winds", "shop", "ropes"))]
    near = {
        "key": "near",
        "title": "In this part",
        "shape": "section",
        "of": "legal",
        "start": 2,
        "devices": ["desktop"],
    }
    head = "<header><a href=/sail>S</a><a href=/shop>S</a><a href=/fares>F</a></header>"
    below = "<a href=/boats>B</a><a href=/winds>W</a><a href=/ropes>R</a>"

    def seen(**sections: str) -> SiteView:
        template = {"key": "t", "devices": {"desktop": [0, None]}, "locations": [LINE | {"devices": ["desktop"]}, near]}
        return view(outline, pages=pages, template=template, live=head + below, sections=sections)

    lens = Lens(device="desktop", language="en", at=f"{TODAY}T12:00")
    assert section_pages(seen().prepared, lens) == ("sail", "shop")
    crawl = [one for one in found(seen(sail="<a href=/boats>B</a>", shop=head + below)) if one.startswith("crawl")]
    assert crawl == ["crawl-entry 1.2: Winds is not in the HTML of https://b.example/"]
    crawl = [one for one in found(seen(sail=head, shop=head)) if one.startswith("crawl")]
    assert crawl == ["crawl-place near: In this part: none of its 3 entries is in the HTML of https://b.example/"]
    assert len([one for one in found(seen(sail=head, shop=head)) if one.startswith("nav-landmark")]) == 1
    assert [one for one in found(seen()) if one.startswith("crawl")] == [], (
        "nothing is known of a page that is not read"
    )


def test_the_gravest_of_a_menu_comes_first() -> None:
    codes = [one.split()[0] for one in found(view("Head:\nSoon -> ?\nGone -> @gone"))]
    assert codes[:4] == ["page-unknown", "heading-empty", "pending", "page-orphan"]


def test_a_finding_is_the_same_however_its_menu_is_rearranged() -> None:
    def dead(outline: str) -> set[str]:
        ids = {"Out": "out", "Home": "home"}
        site = view(outline, links=answered("gone")).site
        items = tuple(item.model_copy(update={"id": ids[item.label["en"]]}) for item in site.menus["m"].items)  # type: ignore[union-attr]
        moved = site.model_copy(update={"menus": {"m": site.menus["m"].with_items(items)}})
        checked = Checked.of(SiteView(Prepared(moved), TODAY, answered("gone")))
        return {one.fingerprint() for one in checked.findings() if one.code == "link-gone"}

    assert len(dead(f"{OUT}\nHome -> @home")) == 1
    assert dead(f"{OUT}\nHome -> @home") == dead(f"Home -> @home\n{OUT}")


def test_pipelines_are_told_what_each_kind_means() -> None:
    log = sarif(Checked.of(view("Gone -> @gone", location={"look": {"size": 10}})).findings(), file="a b.json")
    (run,) = log["runs"]
    rules = {one["id"]: one["shortDescription"]["text"] for one in run["tool"]["driver"]["rules"]}
    assert rules["page-unknown"] == "Found when the page is not in the inventory: the entry shows to nobody."
    places = {one["ruleId"]: one["locations"][0]["logicalLocations"][0]["fullyQualifiedName"] for one in run["results"]}
    assert re.fullmatch("menus/m/items/.+", places["page-unknown"])
    assert places["tap-small"] == "locations/legal"
    assert places["page-orphan"] == "site"


@given(sites(), st.data())
def test_again_comes_to_the_same_and_looks_only_where_something_differs(
    site: SiteDocument, data: st.DataObject
) -> None:
    seen = SiteView(Prepared(site), TODAY)
    first = Checked.of(seen)
    assert first.again(seen).ran == 0
    key = data.draw(st.sampled_from(sorted(site.menus)))
    menu = parse_outline(data.draw(st.sampled_from(["A -> /a", "Soon -> ?", "Head:\nB -> @nowhere"])))
    later = site.model_copy(update={"menus": dict(site.menus) | {key: menu}})
    edited = replace(seen, prepared=Prepared(later))
    again = first.again(edited)
    assert again.findings() == Checked.of(edited).findings()
    per_menu = sum(1 for check in CHECKS if "tree" in check.reads and "trees" not in check.reads)
    others = len(site.menus) - 1
    assert again.ran <= first.ran - per_menu * others
    tomorrow = replace(seen, today="2027-02-13")
    assert first.again(tomorrow).findings() == Checked.of(tomorrow).findings()
    asked = replace(seen, links=answered("gone"))
    assert first.again(asked).findings() == Checked.of(asked).findings()
