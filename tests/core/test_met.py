"""Conflicts in words: nothing of a machine's is shown to the people who settle them."""

import pytest

from sign_shelf.core.basics.languages import language_name
from sign_shelf.core.changes.arrangement import Arrangement
from sign_shelf.core.changes.conflict_words import state_met
from sign_shelf.core.changes.fields import REMOVED
from sign_shelf.core.changes.merging import StateConflict
from sign_shelf.core.changes.state import Contents
from sign_shelf.core.compare import Conflict, merge
from sign_shelf.core.compare.met import met
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import menu_document, walk
from sign_shelf.core.model.template import Template
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.outline.called import title

BASE = "Fares -> /fares\nRoutes -> /routes\n  North -> /north\nMore:\n  Ferry -> /ferry"


@pytest.mark.parametrize(
    ("ours", "theirs", "told"),
    [
        ("Fares -> /prices", "Fares -> @tickets#day", ("Fares", "where it leads", "/prices", "@tickets#day")),
        ("Fares -> ?", "Fares -> /tickets", ("Fares", "where it leads", "nowhere yet", "/tickets")),
        ('Fares -> /fares {nl "Prijzen"}', 'Fares -> /fares {nl "Tarieven"}',
         ("Fares", "its label in Dutch", "Prijzen", "Tarieven")),
        ("Fares -> /fares {from 2027-04-01T04:00}", "Fares -> /fares {from 2027-05-01T00:00}",
         ("Fares", "when it starts", "1 Apr 2027 04:00", "1 May 2027 00:00")),
        ("Fares -> /fares {on phone}", "Fares -> /fares {on desktop, tablet}",
         ("Fares", "on which devices it shows", "phone", "desktop, tablet")),
    ],
)  # fmt: skip
def test_a_conflict_is_told_as_people_speak(ours: str, theirs: str, told: tuple[str, ...]) -> None:
    base, mine, other = (parse_outline(text + BASE.removeprefix("Fares -> /fares")).items for text in
                         ("Fares -> /fares", ours, theirs))  # fmt: skip
    [conflict] = merge(base, mine, other).conflicts
    words = met(conflict, {item.id: title(item) for _, item in walk(base)})
    assert (words.title, words.field, words.ours, words.theirs) == told


def test_moves_are_told_by_what_they_lead_under() -> None:
    found = Conflict(id="ferry", kind="move-move", ours="routes", theirs=None)
    words = met(found, {"ferry": "Ferry", "routes": "Routes"})
    assert (words.title, words.ours, words.theirs) == ("Ferry", "under Routes", "at the top")


@pytest.mark.parametrize(
    ("conflict", "told"),
    [
        (StateConflict(menu=None, conflict=Conflict(id="place header phone", kind="edit-edit", ours="top", theirs=None)),
         ("What hangs in Header bar for phone", "Top menu", "none on purpose")),
        (StateConflict(menu=None, conflict=Conflict(id="place header phone", kind="edit-remove", ours=REMOVED, theirs="gone")),
         ("What hangs in Header bar for phone", "nothing of its own", "gone")),
        (StateConflict(menu=None, conflict=Conflict(id="menu top", kind="edit-remove", ours="kept", theirs=REMOVED)),
         ("The menu Top menu", "kept", "removed")),
        (StateConflict(menu=None, conflict=Conflict(id="template", kind="edit-edit", ours={"key": "quay", "version": 2},
                                                    theirs={"key": "quay", "version": 3})),
         ("The template", "quay, version 2", "quay, version 3")),
        (StateConflict(menu=None, conflict=Conflict(id="look header letter_case", kind="edit-edit", ours="upper", theirs=None)),
         ("The look of Header bar: letter case", "upper", "none")),
        (StateConflict(menu="top", conflict=Conflict(id="name", kind="edit-edit", field="name", ours="A", theirs="B")),
         ("Top menu", "A", "B")),
        (StateConflict(menu="top", conflict=Conflict(id="fares", kind="edit-edit", field="new_tab", ours=True, theirs=False)),
         ("Fares, in Top menu", "yes", "no")),
    ],
)  # fmt: skip
def test_what_a_change_and_live_do_not_agree_on_is_told_too(conflict: StateConflict, told: tuple[str, ...]) -> None:
    template = read(Template, {"key": "quay", "devices": {"phone": [0, None]},
                               "locations": [{"key": "header", "title": "Header bar", "shape": "bar"}]})  # fmt: skip
    arrangement = read(Arrangement, {"template": {"key": "quay", "version": 2}})
    menus = {"top": menu_document("Top menu", parse_outline(BASE).items)}
    words = state_met(conflict, [Contents(arrangement=arrangement, menus=menus)], template)
    assert (words.title, words.ours, words.theirs) == told


def test_languages_are_called_by_their_names_and_unknown_ones_by_their_tags() -> None:
    assert [language_name(tag) for tag in ("nl", "cy", "en-GB", "tlh")] == [
        "Dutch", "Welsh", "English (United Kingdom)", "tlh",
    ]  # fmt: skip
