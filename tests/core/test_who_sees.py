"""Who sees what, whether anybody ever does, and when: laws over generated sites, and the cases people ask about."""

import csv
import io
from bisect import bisect_right
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import pairwise, product

from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.basics.clock import instant_of
from sign_shelf.core.formats.matrix_csv import matrix_csv
from sign_shelf.core.model.menu import DEVICES
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.visitors.ever_seen import ever_seen
from sign_shelf.core.visitors.timeline import Then, timeline
from sign_shelf.core.visitors.trace import trace
from sign_shelf.core.visitors.who_sees import walk_resolved, who_sees
from sign_shelf.core.visitors.without import affected, without
from tests.examples import examples
from tests.ruled_sites import NOW, WHEN, outlined, sites


@examples(60)
@given(sites())
def test_who_can_ever_see_an_item_is_the_truth_for_the_whole_site(document: SiteDocument) -> None:
    """Seen by somebody, or by none of all visitors, devices, languages, pages and moments that can be told apart."""
    prepared = Prepared(document)
    shown: set[str] = set()
    visitors = [
        {"signed_in": one, "roles": roles}
        for one in (False, True)
        for roles in product(*[("crew", ""), ("skipper", "")])
    ]
    for device, language, at, page in product(DEVICES, ["en", "nl"], WHEN, ["about", None]):
        for visitor in visitors:
            facts = {"signed_in": visitor["signed_in"], "roles": tuple(role for role in visitor["roles"] if role)}  # type: ignore[union-attr]
            lens = Lens(device=device, language=language, at=at, page=page, facts=facts)
            for location in document.template.locations:
                shown |= {item.id for item in walk_resolved(prepared.resolve(location.key, lens).items)}
    for told in ever_seen(prepared, NOW):
        assert told.answer == ("seen" if told.item in shown else "never"), told
        assert (told.by is not None) == (told.answer == "seen")
        assert bool(told.because) == (told.answer == "never")


@examples(40)
@given(sites())
def test_the_matrix_is_what_resolve_says(document: SiteDocument) -> None:
    """Every cell: seen where the resolver has the entry there or where it folds to, and hidden for its reason."""
    prepared = Prepared(document)
    found = who_sees(prepared, "header", at=NOW, languages=["en", "nl"])
    for at, column in enumerate(found.columns):
        facts = document.audiences[column.audience]
        lens = Lens(device=column.device, language=column.language, at=NOW, facts=facts)
        got = prepared.resolve("drawer" if column.device == "phone" else "header", lens)
        here = {item.id for item in walk_resolved(got.items)}
        out = {one.id: one.because for one in reversed(got.hidden)}
        for row in found.rows:
            cell = row.cells[at]
            assert (cell.seen != "none") == (row.item in here)
            if cell.seen == "none" and row.item in out:
                assert cell.because == out[row.item]
            assert (cell.place == "drawer") == (column.device == "phone" and row.item in here)


@examples(30)
@given(sites(), st.data())
def test_a_trace_ends_as_the_matrix_says_and_names_the_first_that_fails(
    document: SiteDocument, data: st.DataObject
) -> None:
    prepared = Prepared(document)
    found = who_sees(prepared, "header", at=NOW, languages=["en"])
    row = data.draw(st.sampled_from(found.rows))
    for column, cell in zip(found.columns, row.cells, strict=True):
        facts = document.audiences[column.audience]
        lens = Lens(device=column.device, language="en", at=NOW, facts=facts)
        steps = trace(prepared, "header", lens, row.item)
        assert all(step.holds for step in steps[:-1])
        if cell.seen == "none" and cell.because in {"window", "rule", "page"}:
            named = {"window": "window", "rule": "rule", "page": "page"}[cell.because]
            assert (steps[-1].item, steps[-1].step, steps[-1].holds) == (row.item, named, False)
        assert (steps[-1].holds is True) == (cell.seen != "none")
    assert trace(prepared, "header", lens, "no-such-item") == []


@examples(25)
@given(sites(), sites(), st.integers(1, 250 * 24 * 60), st.lists(st.integers(0, 300 * 24 * 60), min_size=1, max_size=8))
def test_within_a_stretch_nothing_changes_and_at_its_end_something_does(
    document: SiteDocument, later: SiteDocument, goes: int, minutes: list[int]
) -> None:
    """Whether it changes by itself, or another state is scheduled."""
    prepared, other = Prepared(document), Prepared(later)
    clock = prepared.clock
    first = datetime(2027, 2, 1, 12, tzinfo=UTC)
    begins_then = first + timedelta(minutes=goes)
    then = [Then(begins=begins_then, prepared=other, says="Summer goes live")]
    lens = Lens(device="desktop", language="en", at=NOW, facts=document.audiences["crew"])
    line = timeline(
        prepared, first, first + timedelta(days=300), lens, then=then, locations=["header"], devices=["desktop"]
    )
    assert len(line.places) == 1

    def got(reading: str) -> object:
        at = other if clock.instant(reading) >= instant_of(begins_then) else prepared
        return at.resolve("header", replace(lens, at=reading)).items

    stretches = line.places[0].stretches
    begins = [clock.instant(one.begins) for one in stretches]
    for minute in minutes:
        at = instant_of(first + timedelta(minutes=minute))
        held = stretches[bisect_right(begins, at) - 1]
        assert got(clock.reading_at(at)) == got(held.begins)
    for before, after in pairwise(stretches):
        assert got(before.begins) != got(after.begins)
        assert after.causes == before.ended_by
        assert after.causes
        if any(cause.kind == "change" for cause in after.causes):
            assert clock.instant(after.begins) == instant_of(begins_then)


CREW = """Boats -> /boats
  Rota -> /rota {when signed_in and roles has "crew"; on tablet, desktop}
Sign in -> /sign-in
Sign out -> /sign-out {when signed_in}
Skippers -> /skippers {when roles has "skipper"; on desktop}
Old -> /old {until 2026-01-01T00:00}
Pointless -> /p {when signed_in and not signed_in}
Empty: {when signed_in}
  Gone -> ? {due 2027-03-01}
"""


@given(sites(), st.data())
def test_what_happened_to_a_page_bears_on_those_who_would_have_it(document: SiteDocument, data: st.DataObject) -> None:
    """Whatever became of it: as if it were there, each page as by itself."""
    prepared = Prepared(document)
    lens = Lens(device="desktop", language=document.site.languages[0], at=NOW)
    refs = [page.ref for page in document.pages]
    told = affected(prepared, [*refs, "no-such-page"], lens)
    assert set(told) == set(refs)
    ref = data.draw(st.sampled_from(refs))
    there = tuple(
        page.model_copy(update={"state": "published", "ends": None}) if page.ref in refs else page
        for page in document.pages
    )
    published = Prepared(document.model_copy(update={"pages": there}))
    assert told[ref].had_by == without(published, ref, lens).had_by
    assert set(told[ref].windows) == {
        (one.opens, one.closes)
        for one in without(published, ref, lens).entries
        if (one.opens or one.closes) and not one.lists
    }


def test_warnings_say_what_nobody_can_have_meant() -> None:
    prepared = Prepared(outlined(CREW))
    told = [one.says for one in who_sees(prepared, "header", at=NOW, languages=["en"]).warnings]
    assert "Boats opens empty for visitor; crew and skipper on a phone" in told
    assert "Sign in and Sign out are shown together to crew and skipper" in told
    assert "Skippers is only reachable by skipper on a desktop" in told
    assert {"Old is seen by none of the audiences now", "Pointless is seen by none of the audiences now"} <= set(told)
    never = {one.item: one.because for one in ever_seen(prepared, NOW) if one.answer == "never"}
    assert never == {
        "old": "it ended 1 Jan 2026 00:00",
        "pointless": "nobody meets all the rules on the way to it",
        "gone": "it leads nowhere yet",
        "empty": "nothing below it is ever seen",
    }
    by = {one.item: one.by for one in ever_seen(prepared, NOW) if one.by is not None}
    assert by["skippers"].facts["roles"] == ("crew", "skipper")
    table = list(csv.reader(io.StringIO(matrix_csv(who_sees(prepared, "header", at=NOW, languages=["en"])))))
    assert table[0][:4] == ["level", "entry", "id", "visitor, desktop"]
    assert table[2][3].startswith("hidden: needs signed_in, and the visitor is not signed in")
    assert next(row for row in table if row[1] == "Boats")[5] == "seen in part in drawer"


def test_a_rule_is_read_together_with_what_stands_above_it_and_when_it_is_open() -> None:
    """Each by itself could show; together they cannot."""
    lines = """Top -> /t {when not signed_in}
  Contrary -> /c {when signed_in}
Summer: {from 2027-06-01T00:00; until 2027-09-01T00:00}
  Skating -> /s {when month in (12, 1, 2)}
  Swimming -> /w {when month is 7 and weekday is sunday}
  Too soon -> /x {until 2027-05-01T00:00}
Phones {on phone} -> /f
  Desks -> /d {on desktop}
Two -> /2
  Three -> /3
    Too deep -> /4
""".replace("Phones {on phone} -> /f", "Phones -> /f {on phone}")
    found = {one.item: one for one in ever_seen(Prepared(outlined(lines, legal="m")), NOW)}
    assert {item for item, one in found.items() if one.answer == "seen"} == {"top", "phones", "two"}
    found = {one.item: one for one in ever_seen(Prepared(outlined(lines)), NOW)}
    never = {item: one.because for item, one in found.items() if one.answer == "never"}
    assert never == {
        "contrary": "nobody meets all the rules on the way to it",
        "skating": "nobody meets all the rules on the way to it",
        "too-soon": "its window is never open while what it stands below is",
        "desks": "its menu does not hang anywhere on the devices that it is for",
        "too-deep": "no place where its menu hangs takes it",
    }
    swims = found["swimming"].by
    assert swims is not None
    assert (swims.at[:7], datetime.fromisoformat(swims.at).weekday()) == ("2027-07", 6)


def test_a_timeline_tells_stretches_their_causes_and_trouble_ahead() -> None:
    lines = """Summer -> /s {from 2027-04-01T04:00; until 2027-10-01T04:00}
News -> /n {badge "New" until 2027-02-14}
Night desk -> /d {when hour >= 22 or hour < 6; until 2027-02-03T00:00}
Later -> @soon {from 2027-05-01T00:00}
"""
    prepared = Prepared(outlined(lines))
    lens = Lens(device="desktop", language="en", at=NOW)
    first, last = datetime(2027, 2, 1, 12, tzinfo=UTC), datetime(2028, 1, 1, tzinfo=UTC)
    found = timeline(prepared, first, last, lens, locations=["header"], devices=["desktop"])
    line = found.places[0]
    assert [(one.begins, one.entries) for one in line.stretches] == [
        ("2027-02-01T12:00", 1), ("2027-02-01T22:00", 2), ("2027-02-02T06:00", 1), ("2027-02-02T22:00", 2),
        ("2027-02-03T00:00", 1), ("2027-02-15T00:00", 1), ("2027-04-01T04:00", 2), ("2027-10-01T04:00", 1),
    ]  # fmt: skip
    assert [one.ends for one in line.stretches] == [one.begins for one in line.stretches[1:]] + [None]
    assert [cause.kind for one in line.stretches[1:] for cause in one.causes] == [
        "rule", "rule", "rule", "window", "badge", "window", "window",
    ]  # fmt: skip
    assert [at for at, _ in found.notches] == [one.begins for one in line.stretches[1:]]
    troubles = [(one.kind, one.at) for one in found.troubles]
    assert troubles == [
        ("clock-change", "2027-03-28T02:00"), ("page-not-published", "2027-05-01T00:00"),
        ("clock-change", "2027-10-31T01:00+00:00"),
    ]  # fmt: skip
    only = timeline(Prepared(outlined("A -> /a {from 2027-03-01T00:00; until 2027-04-01T00:00}")), first, last, lens)
    assert [one.kind for one in only.troubles if one.kind == "empty-place"].count("empty-place") == 6
