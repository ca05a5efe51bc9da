"""States: the laws of the tree's merge held for whole sites, names by content, returns, futures, the life of a change."""

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from sign_shelf.core.changes.arrangement import (
    Arrangement,
    SetVersion,
    TemplateVersion,
    arrangement_name,
    arrangement_of,
    fields_of,
)  # fmt: skip
from sign_shelf.core.changes.documents import merge_sites
from sign_shelf.core.changes.going_live import as_reviewed, given_back, target
from sign_shelf.core.changes.leaving_out import left_out
from sign_shelf.core.changes.life import OPEN, deeds, step
from sign_shelf.core.changes.merging import Merged, merge_states
from sign_shelf.core.changes.state import Contents, Part, change_name
from sign_shelf.core.changes.steps import slots_to_send
from sign_shelf.core.errors import Clash, EditRefused
from sign_shelf.core.model.menu import DEVICES, MenuDocument, menu_document
from sign_shelf.core.model.site import Placement
from sign_shelf.core.model.template import Template
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.protocol.placed import placed_menu
from tests.core.test_merge import edited, heading, headings
from tests.core.test_site_edits import LOOKS, site
from tests.examples import ON_STATES

KEYS = ("main", "small", "end")
OLD, NEW = TemplateVersion(key="quay", version=1), TemplateVersion(key="quay", version=2)


def templates(version: TemplateVersion) -> Template:
    return site({}, {}, version.version).template


@st.composite
def contents(draw: st.DrawFn) -> Contents:
    menus = {key: menu_document(key, draw(headings())) for key in draw(st.lists(st.sampled_from(KEYS), unique=True))}
    hung = draw(st.dictionaries(_slots(OLD), st.none() | st.sampled_from(sorted(menus)) if menus else st.none()))
    away = draw(st.lists(st.sampled_from(sorted(menus)), unique=True, max_size=2)) if menus else []
    arrangement = Arrangement(template=OLD, looks=draw(_looks), archived=tuple(away)).hanging(hung)
    return Contents(arrangement=draw(_known(arrangement)), menus=menus)


def _slots(version: TemplateVersion) -> st.SearchStrategy[tuple[str, str]]:
    return st.tuples(st.sampled_from([one.key for one in templates(version).locations]), st.sampled_from(DEVICES))


_looks = st.dictionaries(st.sampled_from(["header", "drawer"]), st.sampled_from(LOOKS[1:]))


@st.composite
def _known(draw: st.DrawFn, arrangement: Arrangement) -> Arrangement:
    flags = draw(st.lists(st.sampled_from(["member", "crew", "press"]), unique=True))
    rules = draw(st.dictionaries(st.sampled_from(["staff", "guests"]), st.sampled_from(["signed_in", "not signed_in"])))
    sets = tuple(
        SetVersion(key=key, version=draw(st.integers(1, 2))) for key in draw(st.sampled_from([(), ("a",), ("a", "b")]))
    )
    facts: Any = {"facts": {name: {"type": "flag"} for name in flags}, "rules": rules, "sets": sets}
    return Arrangement.model_validate(arrangement.model_dump() | facts)


@st.composite
def after(draw: st.DrawFn, base: Contents, mark: str) -> Contents:
    """The state after edits of any sort: of menus, of what hangs where, of looks and facts, to another template."""
    menus = {
        key: menu_document(draw(st.sampled_from([one.name, f"{mark} {key}"])), draw(edited(one.items, mark)))
        for key, one in base.menus.items()
        if draw(st.integers(0, 5))
    }
    if draw(st.booleans()):
        menus[draw(st.sampled_from([mark, "new"]))] = menu_document(mark, draw(headings()))
    version = draw(st.sampled_from([OLD, OLD, OLD, NEW]))
    placed = {slot: menu for slot, menu in base.arrangement.placed().items() if menu in {None, *menus}}
    if draw(st.booleans()) and menus:
        placed[draw(_slots(version))] = draw(st.sampled_from(sorted(menus)))
    there = {one.key for one in templates(version).locations}
    arrangement = base.arrangement.hanging({slot: menu for slot, menu in placed.items() if slot[0] in there})
    arrangement = arrangement.model_copy(
        update={"template": version, "looks": draw(st.just(arrangement.looks) | _looks)}
    )
    return Contents(arrangement=draw(st.just(arrangement) | _known(arrangement)), menus=menus)


three = contents().flatmap(lambda base: st.tuples(st.just(base), after(base, "o"), after(base, "t")))


def merged(base: Contents, ours: Contents, theirs: Contents, **more: Any) -> Merged:
    return merge_states(base, ours, theirs, templates=templates, **more)


def same(one: Contents, other: Contents) -> bool:
    return arrangement_name(one.arrangement) == arrangement_name(other.arrangement) and one.menus == other.menus


@given(three)
@ON_STATES
def test_an_unchanged_side_gives_way(states: tuple[Contents, Contents, Contents]) -> None:
    base, changed, _ = states
    for ours, theirs in ((base, changed), (changed, base), (changed, changed)):
        result = merged(base, ours, theirs)
        assert result.conflicts == ()
        assert same(result.contents, changed)


@given(three)
@ON_STATES
def test_conflicts_are_symmetric_can_be_settled_and_what_comes_out_hangs_together(
    states: tuple[Contents, Contents, Contents],
) -> None:
    base, ours, theirs = states
    one, two = merged(base, ours, theirs), merged(base, theirs, ours)
    swapped = {
        (a.key, a.conflict.kind, a.conflict.field, repr(a.conflict.theirs), repr(a.conflict.ours))
        for a in two.conflicts
    }
    assert {
        (a.key, a.conflict.kind, a.conflict.field, repr(a.conflict.ours), repr(a.conflict.theirs))
        for a in one.conflicts
    } == swapped
    there = {slot.location for slot in one.contents.arrangement.placements}
    template = templates(one.contents.arrangement.template)
    assert there <= {location.key for location in template.locations}
    assert {slot.menu for slot in one.contents.arrangement.placements} <= {None, *one.contents.menus}
    template.adjusted(one.contents.arrangement.looks)


@given(contents())
def test_an_arrangement_is_its_fields_and_is_named_by_all_that_people_see(state: Contents) -> None:
    arrangement = state.arrangement
    again = arrangement_of(fields_of(arrangement))
    assert arrangement_name(again) == arrangement_name(arrangement)
    turned = arrangement.model_copy(update={"facts": dict(reversed(arrangement.facts.items()))})
    assert (arrangement_name(turned) == arrangement_name(arrangement)) == (len(arrangement.facts) < 2)
    hung_otherwise = arrangement.hanging(dict(reversed(arrangement.placed().items())))
    assert arrangement_name(hung_otherwise) == arrangement_name(arrangement)


@given(three)
@ON_STATES
def test_undone_at_once_is_as_before_and_later_edits_survive(states: tuple[Contents, Contents, Contents]) -> None:
    before, made, _ = states
    assert same(given_back(made, made, before, templates=templates).contents, before)
    later = replace(made, menus={**made.menus, "later": menu_document("Later", (heading("l"),))})
    given_up = given_back(made, later, before, templates=templates)
    assert given_up.conflicts == ()
    assert same(
        replace(given_up.contents, menus={k: v for k, v in given_up.contents.menus.items() if k != "later"}), before
    )
    assert given_up.contents.menus["later"] == later.menus["later"]


def state(**menus: str) -> Contents:
    hung = {("header", "desktop"): next(iter(menus))} if menus else {}
    made = {key: menu_document(key, tuple(heading(word) for word in words.split())) for key, words in menus.items()}
    return Contents(arrangement=Arrangement(template=OLD).hanging(hung), menus=made)


def ids(one: MenuDocument) -> str:
    return " ".join(item.id for item in one.items)


def test_an_approval_stands_only_where_what_goes_live_is_what_was_reviewed() -> None:
    base, head = state(main="a b"), state(main="a b c")
    elsewhere = replace(base, menus={**base.menus, "small": menu_document("small", (heading("x"),))})
    goes = target(base, head, elsewhere, templates=templates)
    assert as_reviewed(base, head, elsewhere, goes.contents)
    same_edit = state(main="a b c")
    assert not as_reviewed(base, head, same_edit, target(base, head, same_edit, templates=templates).contents)
    parts = [Part(site="s", base="1", head="2"), Part(site="r", base="1", head="2")]
    assert change_name(parts) == change_name(parts[::-1])
    assert change_name(parts) != change_name([parts[0], Part(site="r", base="1", head="3")])


def test_what_one_side_hung_where_the_other_s_template_has_no_place_is_told() -> None:
    base = state(main="a")
    hung = replace(base, arrangement=base.arrangement.hanging({("legal", "phone"): "main"}))
    moved = replace(base, arrangement=base.arrangement.model_copy(update={"template": NEW}))
    found = merged(base, hung, moved)
    assert [(one.key, one.conflict.kind) for one in found.conflicts] == [("place legal phone", "edit-remove")]
    assert merged(base, hung, moved, choices={"place legal phone": "theirs"}).conflicts == ()


def test_a_removed_menu_that_the_other_edited_or_hung_is_kept_until_it_is_chosen() -> None:
    base = state(main="a", small="x")
    without = replace(base, menus={"main": base.menus["main"]})
    edits = replace(base, menus={**base.menus, "small": menu_document("small", (heading("x"), heading("y")))})
    found = merged(base, without, edits)
    assert [(one.key, one.conflict.ours, one.conflict.theirs) for one in found.conflicts] == [
        ("menu small", "removed", "kept")
    ]
    assert ids(found.contents.menus["small"]) == "x y"
    assert "small" not in merged(base, without, edits, choices={"menu small": "ours"}).contents.menus
    hung = replace(base, arrangement=base.arrangement.hanging({("drawer", "phone"): "small"}))
    assert [one.key for one in merged(base, hung, without).conflicts] == ["menu small"]


def test_what_either_may_hang_is_not_gone_before_it_is_chosen() -> None:
    """One hangs a menu in a place where the other hangs another, having removed it: told whichever of them asks."""
    base = state(a="x", b="y", small="z")

    def hanging(menu: str, *menus: str) -> Contents:
        kept = {key: base.menus[key] for key in menus}
        return Contents(arrangement=base.arrangement.hanging({("header", "desktop"): menu}), menus=kept)

    ours, theirs = hanging("small", "a", "b", "small"), hanging("b", "a", "b")
    for one, other in ((ours, theirs), (theirs, ours)):
        result = merged(base, one, other)
        assert {met.key for met in result.conflicts} == {"place header desktop", "menu small"}
        assert "small" in result.contents.menus
        chosen = "ours" if one is theirs else "theirs"
        settled = merged(base, one, other, choices={"place header desktop": chosen})
        assert (settled.conflicts, "small" in settled.contents.menus) == ((), False)


def test_site_documents_merge_with_their_pages_particulars_and_looks() -> None:
    base = site({("header", "desktop"): "main"}, {})
    ours = base.model_copy(update={"site": base.site.model_copy(update={"name": "Ours"})})
    theirs = site({("header", "desktop"): "main", ("legal", "phone"): "end"}, {"header": {"size": 18}})
    both = merge_sites(base, ours, theirs)
    assert both.conflicts == ()
    assert both.site == theirs.model_copy(update={"site": ours.site})
    away = base.model_copy(update={"archived": ("small",)})
    assert merge_sites(base, ours, away).site.archived == ("small",)
    gone = base.model_copy(update={"menus": {key: one for key, one in base.menus.items() if key != "small"}})
    assert merge_sites(base, away, gone).site.archived == (), "what is gone is not put away"
    named = base.model_copy(update={"site": base.site.model_copy(update={"name": "Theirs"})})
    assert [one.key for one in merge_sites(base, ours, named).conflicts] == ["site name"]


def test_a_release_writes_the_places_that_differ_and_no_other() -> None:
    before = site({("header", "desktop"): "main", ("legal", "desktop"): "end"}, {})
    edited_end = before.menus["end"].with_items((heading("a"),))
    after = before.model_copy(update={"menus": before.menus | {"end": edited_end}})
    assert [(one.location, one.device, one.menu) for one in slots_to_send(before, after)] == [
        ("legal", "desktop", "end")
    ]
    assert slots_to_send(before, before) == ()
    placed = [*before.placements, Placement(location="drawer", device="phone", menu="small")]
    hung = before.model_copy(update={"placements": tuple(placed[1:])})
    told = [(one.location, one.device, one.menu) for one in slots_to_send(before, hung)]
    assert told == [("drawer", "phone", "small"), ("header", "desktop", None)]
    within = before.menus["main"].with_items(parse_outline("+ small").items)
    including = before.model_copy(update={"menus": before.menus | {"main": within}})
    edited_small = before.menus["small"].with_items((heading("a"),))
    fresh = including.model_copy(update={"menus": including.menus | {"small": edited_small}})
    told = [(one.location, one.menu) for one in slots_to_send(including, fresh)]
    assert told == [("header", "main")], "it shows the menu that was edited"
    rule = {"rules": {"staff": "signed_in", "guests": "not staff", "others": "never"}}
    asking = before.menus["end"].with_items(parse_outline("Rota -> /rota {when guests}").items)
    asked = before.model_copy(update={"menus": before.menus | {"end": asking}, **rule})
    for name, slots in (("staff", ["legal"]), ("others", [])):
        other = asked.model_copy(update={"rules": asked.rules | {name: "signed_in and hour < 9"}})
        assert [one.location for one in slots_to_send(asked, other)] == slots, "where its rules come out otherwise"
    sent = placed_menu("legal", "desktop", asking, (), {}, asked.known())
    assert sent.rules == {"staff": "signed_in", "guests": "not staff"}


def test_every_change_that_is_not_over_can_be_edited_or_ended_and_a_refusal_says_what_can_be_done() -> None:
    for life in OPEN:
        assert {"withdraw"} <= deeds(life).keys()
        assert {"edit", "take up"} & deeds(life).keys()
    assert deeds("withdrawn") == {}
    with pytest.raises(Clash, match="cannot edit") as refused:
        step("live", "edit", title="Summer", where="changes/1")
    assert refused.value.remedy == "What can be done with it: undo."


@given(contents().flatmap(lambda base: st.tuples(st.just(base), after(base, "o"))), st.data())
@ON_STATES
def test_what_is_left_out_and_what_stays_are_the_change_together(
    states: tuple[Contents, Contents], data: st.DataObject
) -> None:
    base, head = states
    touched = [key for key, one in head.menus.items() if one != base.menus.get(key)]
    assume(touched)
    menu = data.draw(st.sampled_from(touched))
    try:
        kept, alone = left_out(base, head, menu)
    except EditRefused:
        assume(False)
    assert kept.menus.get(menu) == base.menus.get(menu)
    assert {key for key, one in alone.menus.items() if one != base.menus.get(key)} == {menu}
    for part in (kept, alone):
        assert {slot.menu for slot in part.arrangement.placements} <= {None, *part.menus}
        assert set(part.arrangement.archived) <= {*part.menus, *base.arrangement.archived}
    together = merged(base, kept, alone)
    assert together.conflicts == ()
    assert same(together.contents, head)


def test_what_cannot_be_without_the_other_is_not_left_out() -> None:
    """A menu that nothing is done to, a new one within another, one in place of a menu that is gone, one that goes."""
    placed = {("header", "desktop"): "main"}
    base = Contents(
        arrangement=Arrangement(template=OLD).hanging(placed),
        menus={"main": menu_document("Main", parse_outline("Shop -> /shop\n").items)},
    )
    new = menu_document("New", parse_outline("News -> /news\n").items)
    holding = menu_document("Main", parse_outline("Shop -> /shop\n+ new\n").items)
    gone = Contents(arrangement=base.arrangement.hanging({("header", "desktop"): "new"}), menus={"new": new})
    for head, menu, says in (
        (base, "main", "does nothing"),
        (Contents(arrangement=base.arrangement, menus={"main": holding, "new": new}), "new", "Main holds this menu"),
        (gone, "new", "in place of main"),
        (gone, "main", "removes this menu"),
    ):
        with pytest.raises(EditRefused, match=says):
            left_out(base, head, menu)
