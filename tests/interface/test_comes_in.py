"""What comes into a menu, and what is exchanged in it, worked out in the browser before anything is kept."""

from datetime import date, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.model.menu import children, walk
from sign_shelf.core.model.tree import Tree, count
from tests.documents import trees
from tests.interface.conftest import Interface
from tests.interface.test_tree_moves import got, sent

grown = trees.filter(lambda items: count(items) > 1)


def ids(items: Tree) -> list[str]:
    return [item.id for _, item in walk(items)]


def wanted(out: list[str], pages: dict[str, str]) -> Any:
    return {"out": {"set": out}, "pages": {"map": list(pages.items())}}


@given(grown, st.data())
def test_what_stays_out_is_gone_and_all_else_comes_in_its_order(
    interface: Interface, items: Tree, data: st.DataObject
) -> None:
    out = data.draw(st.lists(st.sampled_from(ids(items)), unique=True))
    found = got(interface("incoming/taken", "taken", sent(items), wanted(out, {})))
    headings = {
        item.id for _, item in walk(items)
        if item.kind == "heading" and item.items and all(one in out for one in ids(item.items))
    }  # fmt: skip
    kept = [one for one in ids(items) if one not in out]
    assert [one for one in kept if one not in headings] == [one for one in ids(found) if one not in headings]
    above = {child.id: item.id for _, item in walk(found) for child in children(item)}
    was = {child.id: item.id for _, item in walk(items) for child in children(item)}
    for one in ids(found):
        # It stands below the nearest of those above it that comes in as well.
        parent = was.get(one)
        while parent is not None and parent in out:
            parent = was.get(parent)
        assert above.get(one) == parent


@given(grown, st.data())
def test_titles_lead_to_the_pages_that_were_chosen(interface: Interface, items: Tree, data: st.DataObject) -> None:
    pages = dict.fromkeys(data.draw(st.lists(st.sampled_from(ids(items)), unique=True)), "fares")
    found = got(interface("incoming/taken", "taken", sent(items), wanted([], pages)))
    kinds = {item.id: item.kind for _, item in walk(items)}
    for _, item in walk(found):
        if item.id in pages and kinds[item.id] in {"link", "heading"}:
            assert item.kind == "link"
            assert item.target.to_json() == {"page": "fares"}
        else:
            assert item.kind == kinds[item.id]


def sought(find: str, by: str, **more: bool) -> dict[str, Any]:
    return {"find": find, "by": by, "labels": True, "addresses": True, "exact": False} | more


@given(grown, st.sampled_from(["a", "E", "men", ".", "*", "l"]), st.sampled_from(["x", "$&", "", "\\1", "lo ng"]))
def test_every_hit_is_shown_and_becomes_what_was_shown(interface: Interface, items: Tree, find: str, by: str) -> None:
    hits = interface("outline/replace", "hitsIn", sent(items), sought(find, by))
    after = got(interface("outline/replace", "replaced", sent(items), hits))
    assert ids(after) == ids(items)
    for hit in hits:
        item = next(one for _, one in walk(after) if one.id == hit["id"])
        text = item.label[hit["field"][6:]] if hit["field"] != "address" else next(iter(item.target.to_json().values()))  # type: ignore[union-attr]
        assert text == (hit["before"] if hit["refused"] else hit["after"])
        assert find.casefold() in hit["before"].casefold()
    told = {(hit["id"], hit["field"]) for hit in hits}
    for _, item in walk(items):
        for language, words in getattr(item, "label", {}).items():
            if (item.id, f"label.{language}") not in told and find.isascii() and words.isascii():
                assert find.lower() not in words.lower() or find.lower() == by.lower()


@given(st.dates(date(1970, 1, 1), date(2199, 12, 31)))
def test_a_day_reads_back_as_it_is_written(interface: Interface, day: date) -> None:
    iso = day.isoformat()
    written = interface("parts/days", "written", iso)
    assert interface("parts/days", "readDay", written, "2026-11-26") == iso
    assert (
        interface("parts/days", "readMoment", interface("parts/days", "written", f"{iso}T04:30"), "2026-11-26")
        == f"{iso}T04:30"
    )
    assert interface("parts/days", "daysOn", iso, 31) == (day + timedelta(days=31)).isoformat()
    weeks = interface("parts/days", "weeksOf", iso)
    assert [iso in week for week in weeks].count(True) == 1
    assert all(date.fromisoformat(week[0]).weekday() == 0 and len(week) == 7 for week in weeks)


@pytest.mark.parametrize(
    ("text", "day"),
    [
        ("2026-2-3", "2026-02-03"), ("3 Feb 2027", "2027-02-03"), ("Feb 3, 2027", "2027-02-03"), ("3rd february", "2027-02-03"),
        ("Thu 26 November", "2026-11-26"), ("25 Nov", "2027-11-25"), ("31/12/2026", "2026-12-31"), ("12/31/2026", "2026-12-31"),
        ("5.5.2027", "2027-05-05"), ("3/4/2027", None), ("31 Feb 2027", None), ("soon", None), ("", None),
    ],
)  # fmt: skip
def test_days_are_read_where_every_country_reads_the_same(interface: Interface, text: str, day: str | None) -> None:
    assert interface("parts/days", "readDay", text, "2026-11-26") == day
    assert interface("parts/days", "readMoment", f"{text} 16:05", "2026-11-26") == (day and f"{day}T16:05")
