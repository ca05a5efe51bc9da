"""What goes out, told before it does: whose edits, where and for whom, and what stops it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.checks import Checked, SiteView
from sign_shelf.core.compare import diff
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import DEVICES, Device
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.tree import rebuilt
from sign_shelf.core.outgoing import Turn, brings, goes_out, stops, whose
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.visitors.reach import reach
from sign_shelf.core.visitors.who_sees import walk_resolved
from tests.examples import examples
from tests.ruled_sites import NOW, sites

AT = "2026-12-01T12:00"
LINES = "\n".join(f"Entry {number} -> /{number}" for number in range(5))


@given(st.lists(st.tuples(st.sampled_from(["Ines", "Tomasz", "Wren"]), st.integers(0, 4)), min_size=1, max_size=12))
def test_an_edit_is_whose_who_made_it_last(saves: list[tuple[str, int]]) -> None:
    before = parse_outline(LINES).items
    tree, turns, last = before, [], {}
    for at, (author, number) in enumerate(saves):
        chosen = before[number].id
        earlier = tree
        tree = tuple(
            rebuilt(one, lambda item: {"label": {"en": f"Words {at}"}} if item.id == chosen else {})  # noqa: B023
            for one in tree
        )
        turns.append(Turn(author, earlier, tree))
        last[chosen] = author
    edits = diff(before, tree)
    assert dict(zip((edit.id for edit in edits), whose(edits, turns), strict=True)) == last


def site(header: str, *, pages: str = "Pages -> /pages", hung: str = "header", beside: str = "") -> SiteDocument:
    menus = {"header": header, "pages": pages, "beside": beside}
    return read(SiteDocument, {
        "format": "sign-shelf/site", "version": 1,
        "site": {"key": "x", "name": "X", "base": "https://x.example/"},
        "template": {
            "key": "t", "devices": {"desktop": [900, None], "phone": [0, 900]},
            "locations": [
                {"key": "header", "title": "Header bar", "shape": "bar", "depth": 2, "devices": ["phone", "desktop"]},
                {"key": "legal", "title": "Legal line", "shape": "line", "devices": ["phone", "desktop"]},
            ],
        },
        "facts": {"crew": {"type": "flag"}}, "audiences": {"visitors": {"crew": False}, "crew": {"crew": True}},
        "menus": {key: parse_outline(text).to_json() for key, text in menus.items()},
        "placements": [{"location": "header", "device": "desktop", "menu": hung}],
    })  # fmt: skip


HEADER = "Fares -> /fares\nRota -> /rota {when crew}"


@pytest.mark.parametrize(
    ("after", "devices", "audiences"),
    [
        ("Prices -> /fares\nRota -> /rota {when crew}", ("desktop", "phone"), ("visitors", "crew")),
        ("Fares -> /fares\nShifts -> /rota {when crew}", ("desktop", "phone"), ("crew",)),
        (f"{HEADER}\nCall us -> tel:+44123456 {{on phone}}", ("phone",), ("visitors", "crew")),
        (f"{HEADER}\nSummer -> /summer {{from 2027-06-01T00:00}}", (), ()),
    ],
)
def test_it_is_told_on_which_devices_and_for_whom_something_is_another(
    after: str, devices: tuple[str, ...], audiences: tuple[str, ...]
) -> None:
    [goes] = goes_out(Prepared(site(HEADER)), Prepared(site(after)), at=AT)
    assert (goes.menu, goes.new, goes.hangs, bool(goes.edits)) == ("header", False, True, True)
    assert [one.devices for one in goes.places] == ([devices] if devices else [])
    assert (goes.audiences, goes.everybody) == (audiences, len(audiences) == 2)


def test_a_menu_shows_where_another_includes_it_and_one_that_hangs_nowhere_is_told_as_such() -> None:
    before = site(f"{HEADER}\n+ pages")
    after = site(f"{HEADER}\n+ pages", pages="Other pages -> /pages", beside="Beside -> /beside")
    pages, beside = goes_out(Prepared(before), Prepared(after), at=AT)
    assert (pages.menu, [one.location for one in pages.places], pages.everybody) == ("pages", ["header"], True)
    assert (beside.menu, beside.hangs, beside.places, beside.audiences) == ("beside", False, (), ())


def test_a_menu_hung_instead_of_another_goes_without_edits() -> None:
    [goes] = goes_out(Prepared(site(HEADER)), Prepared(site(HEADER, hung="pages")), at=AT)
    assert (goes.menu, goes.edits, [one.title for one in goes.places]) == ("pages", (), ["Header bar"])


def test_only_what_is_not_live_already_stops_it() -> None:
    late = "Press -> ? {due 2026-11-01}"
    assert stops(site(late), site(f"{late}\nFares -> /fares"), today=AT[:10]) == []
    [found] = stops(site(HEADER), site(f"{HEADER}\n{late}"), today=AT[:10])
    assert (found.code, found.menu) == ("pending-overdue", "header")
    assert stops(site(HEADER), site(f"{HEADER}\nPress -> ?"), today=AT[:10]) == [], "that is a note"
    [goes] = goes_out(Prepared(site(late)), Prepared(site(f"{late}\nA -> ? {{due 2026-11-02}}")), at=AT)
    assert [one.item for one in goes.findings] == ["a"]


def told(
    before: SiteDocument, after: SiteDocument
) -> list[tuple[bool, tuple[str, ...], tuple[Device, ...], tuple[str, ...]]]:
    found = brings(Prepared(before), Prepared(after), at=AT).seen
    return [(one.sees, () if one.everybody else one.audiences, one.devices, one.entries) for one in found]


def test_who_sees_an_entry_anew_or_no_longer_is_told_and_a_name_that_became_another_is_not() -> None:
    both: tuple[Device, ...] = ("desktop", "phone")
    assert told(site(HEADER), site("Fares -> /fares\nNews -> /news")) == [
        (True, (), both, ("News",)), (False, ("crew",), both, ("Rota",)),
    ]  # fmt: skip
    assert told(site(HEADER), site(f"{HEADER}\nDesk -> /desk {{on phone}}\nShip -> /ship {{on phone}}")) == [
        (True, (), ("phone",), ("Desk", "Ship")),
    ]  # fmt: skip
    renamed = parse_outline(HEADER).to_json()
    renamed["items"][0]["label"] = {"en": "Prices"}
    fresh = site(HEADER)
    menus = fresh.to_json()["menus"] | {"header": renamed}
    assert told(fresh, read(SiteDocument, fresh.to_json() | {"menus": menus})) == []
    moved = "More\n  Rota -> /rota {when crew}\nFares -> /fares"
    assert told(site(HEADER), site(moved)) == [(True, ("crew",), both, ("More",))], (
        "what stands elsewhere is seen as before"
    )


@examples(30)
@given(sites(), sites())
def test_nothing_is_won_or_lost_but_what_is_told(before: SiteDocument, after: SiteDocument) -> None:
    was, now = Prepared(before), Prepared(after)
    found = brings(was, now, at=NOW)
    for location in ("header", "drawer", "legal"):
        place = before.template.location(location)
        assert place is not None
        for device in DEVICES:
            for audience, facts in before.audiences.items():
                lens = Lens(device=device, language="en", at=NOW, facts=facts)
                shown = [
                    {one.id: one.href for one in walk_resolved(side.resolve(location, lens).items) if one.label}
                    if device in place.devices else {}
                    for side in (was, now)
                ]  # fmt: skip
                for sees, mine, theirs in ((False, *shown), (True, *shown[::-1])):
                    anew = any(id not in theirs and href not in theirs.values() for id, href in mine.items())
                    says = [
                        one for one in found.seen
                        if (one.location, one.sees) == (location, sees) and device in one.devices and audience in one.audiences
                    ]  # fmt: skip
                    assert bool(says) == anew
    for won_or_lost, device in [(each, device) for each in found.reach for device in each.devices]:
        lens = Lens(device=device, language="en", at=NOW)
        steps = [{page.ref: page.steps for page in reach(side, lens)} for side in (was, now)]
        assert all(steps[0][ref] is None and steps[1][ref] is not None for ref in won_or_lost.won)
        assert all(steps[0][ref] is not None and steps[1][ref] is None for ref in won_or_lost.lost)
    stands = {one.fingerprint() for one in Checked.of(SiteView(now, NOW[:10])).findings()}
    assert not stands & {one.fingerprint() for one in found.mended}


def test_what_is_mended_is_told_and_what_is_only_elsewhere_is_not() -> None:
    broken = site("Nowhere -> ?\nFares -> /fares")
    assert [one.code for one in brings(Prepared(broken), Prepared(site(HEADER)), at=AT).mended] == ["pending"]
    again = site("Fares -> /fares\nNowhere -> ?")
    assert brings(Prepared(broken), Prepared(again), at=AT).mended == ()
