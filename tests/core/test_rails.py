"""Before and after, entry beside entry: told alike by both sides, and by the edits between them."""

from hypothesis import given
from hypothesis import strategies as st

from sign_shelf.core.compare import diff
from sign_shelf.core.compare.rails import rails
from sign_shelf.core.model.menu import walk
from sign_shelf.core.model.tree import Tree, move, numbers
from sign_shelf.core.outline import parse_outline
from tests.core.test_merge import edited, headings


@given(headings(), st.data())
def test_both_sides_tell_the_same_of_what_both_have(before: Tree, data: st.DataObject) -> None:
    after = data.draw(edited(before, "x"))
    same = before == after
    found = rails(before, after, "en")
    for items, lines in ((before, found.before), (after, found.after)):
        assert [(line.level, line.id) for line in lines] == [(level, item.id) for level, item in walk(items)]
        assert {line.id: line.number for line in lines} == numbers(items)
    was, now = ({line.id: (line.what, line.edited) for line in lines} for lines in (found.before, found.after))
    assert {id for id, (what, _) in was.items() if what == "removed"} == was.keys() - now.keys()
    assert {id for id, (what, _) in now.items() if what == "added"} == now.keys() - was.keys()
    assert all(was[id] == now[id] for id in was.keys() & now.keys())
    touched = {edit.id for edit in diff(before, after)}
    assert {id for id, (what, _) in (was | now).items() if what != "kept"} <= touched | (was.keys() - now.keys())
    if same:
        assert {what for what, _ in was.values()} <= {"kept"}


def test_a_line_that_moved_and_one_that_is_called_otherwise() -> None:
    before = parse_outline("Timetables\n  Winter -> /w\nFares -> /f\nPress -> /p\nBook -> /b").items
    ids = {item.label["en"]: item.id for _, item in walk(before)}  # type: ignore[union-attr]
    after = move(before, ids["Winter"], parent=ids["Fares"], at=0)
    after = parse_relabelled(after, ids["Fares"], "Fares & passes")
    after = tuple(item for item in after if item.id != ids["Press"])
    found = rails(before, after, "en")
    assert [(line.number, line.label, line.what) for line in found.before] == [
        ("1", "Timetables", "kept"), ("1.1", "Winter", "moved"), ("2", "Fares", "edited"), ("3", "Press", "removed"),
        ("4", "Book", "kept"),
    ]  # fmt: skip
    assert [(line.number, line.level, line.label, line.what) for line in found.after] == [
        ("1", 1, "Timetables", "kept"), ("2", 1, "Fares & passes", "edited"), ("2.1", 2, "Winter", "moved"), ("3", 1, "Book", "kept"),
    ]  # fmt: skip


def parse_relabelled(items, item_id: str, words: str):  # type: ignore[no-untyped-def]
    return tuple(item.model_copy(update={"label": {"en": words}}) if item.id == item_id else item for item in items)
