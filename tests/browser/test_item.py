"""The item beside the outline and the chooser of targets: every field, every kind of target, saved as written."""

import re

from playwright.sync_api import Page, expect

from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.outline_page import choose, item_of, lines, made, offers, opened, outline_of
from tests.browser.waiting import eventually


def saved(page: Page) -> None:
    expect(page.get_by_text(labels.SAVED_LIKE)).to_be_visible()


OUT = "{new tab; rel noopener, external}"
"""What an address elsewhere gets by itself."""
TARGETS = [
    ("", "Brackwater Ferries", "@home"),  # later the pages that were chosen last come first
    ("winter", "Winter timetable", "@timetables-winter"),
    ("/fares/groups", "Group travel", "@fares-groups"),
    ("/not/a/page", "The address /not/a/page", "/not/a/page"),
    (
        "https://tickets.brackwater.example/x",
        "The address https://tickets",
        f"https://tickets.brackwater.example/x {OUT}",
    ),
    ("tickets.brackwater.example", "The address https://tickets", f"https://tickets.brackwater.example {OUT}"),
    ("desk@brackwater.example", "Write to desk@", "mailto:desk@brackwater.example"),
    ("+44 20 7946 0000", "Call +44", "<tel:+44 20 7946 0000>"),
    ("#top", "The part #top", "#top"),
    ("zzz nothing like it", "Nothing yet, with the note", "? {note zzz nothing like it}"),
]
"""What is typed, what is offered for it first, and what the item leads to then, as outline text."""


def test_every_kind_of_target_is_chosen_by_typing_it(ines_page: Page, world: World) -> None:
    """What the words look like comes first; Enter right after typing takes what was typed, not what was found before."""
    page = ines_page
    menu = made(world, "Targets", "\n".join(f"Line {at} -> ?" for at in range(len(TARGETS))), site="brackwater")
    opened(page, menu)
    for at, (typed, offered, _) in enumerate(TARGETS):
        choose(page, f"Line {at}")
        page.keyboard.press("Control+Enter")
        page.get_by_role("combobox", name=labels.LEADS_TO).wait_for()
        page.keyboard.type(typed)
        expect(offers(page, selected=True)).to_contain_text(offered)
        page.keyboard.press("Enter")
        expect(page.get_by_label(re.compile(rf"^Label of {at + 1}$"))).to_be_focused()
    saved(page)
    wanted = [f"Line {at} -> {target}" for at, (_, _, target) in enumerate(TARGETS)]
    eventually(lambda: wanted == outline_of(world, menu).splitlines()[-len(wanted) :])


def test_fast_typing_takes_the_page_that_was_meant(ines_page: Page, world: World) -> None:
    """Every key at once, without waiting for any search."""
    page = ines_page
    menu = made(world, "Fast", "First -> ?", site="brackwater")
    opened(page, menu)
    choose(page, "First")
    page.keyboard.press("End")
    page.keyboard.press("Enter")
    page.keyboard.type("Where we go ->")
    page.keyboard.type("tollan")
    page.keyboard.press("Enter")
    expect(page.get_by_role("combobox", name=labels.LEADS_TO)).to_have_count(0)
    page.keyboard.press("Enter")
    page.keyboard.type("Last")
    expect(page.get_by_role("row").filter(has_text="@routes-tollan")).to_have_count(1)
    assert lines(page) == ["1 First", "2 Where we go", "3 Last"]


def test_a_page_gives_its_title_to_a_line_without_label(ines_page: Page, world: World) -> None:
    page = ines_page
    menu = made(world, "Titles", "First -> /x", site="brackwater")
    opened(page, menu)
    page.get_by_role("button", name=labels.TYPE_A_LABEL).click()
    page.keyboard.press("Control+Enter")
    page.keyboard.type("lost")
    expect(offers(page, selected=True)).to_contain_text("Lost property")
    offers(page, name="Lost property").click()
    expect(page.get_by_label(labels.LABEL_OF_2)).to_have_value("Lost property")
    expect(item_of(page)).to_contain_text("page title: Lost property")
    expect(item_of(page)).to_contain_text("published")


def test_labels_devices_and_tabs_are_edited_in_place(ines_page: Page, world: World) -> None:
    """Each field as a person uses it; the outline line says only what differs from the default."""
    page = ines_page
    menu = made(world, "Fields", "Fares -> @fares\nOther -> /other", site="brackwater")
    opened(page, menu)
    choose(page, "Fares")
    item = item_of(page)
    item.get_by_label(labels.LABEL_IN_DUTCH).fill("Tarieven")
    item.get_by_label(labels.IN_A_NEW_TAB).check()
    item.get_by_label(labels.PHONE).uncheck()
    row = page.get_by_role("row").first
    expect(row).to_contain_text("on desktop, tablet")
    expect(row).to_contain_text("new tab")
    saved(page)
    page.wait_for_function(
        "(path) => fetch(path).then((answer) => answer.text()).then((found) => found.includes('on tablet'))"
        " || fetch(path).then((answer) => answer.text()).then((found) => found.includes('on desktop'))",
        arg=f"/api{menu}/export/outline",
    )
    assert 'Fares -> @fares {nl "Tarieven"; on desktop, tablet; new tab}' in outline_of(world, menu)
    item.get_by_label(labels.PHONE).check()
    item.get_by_label(labels.IN_A_NEW_TAB).uncheck()
    item.get_by_label(labels.LABEL_IN_DUTCH).fill("")
    expect(row).not_to_contain_text("new tab")
    expect(row).not_to_contain_text("on desktop")
    for device in ("desktop", "tablet"):
        item.get_by_label(device).click()
    expect(item.get_by_label(labels.PHONE)).to_be_checked()
    expect(item.get_by_label(labels.PHONE)).to_be_disabled()


def test_a_pending_target_has_a_note_an_owner_and_a_day(ines_page: Page, world: World) -> None:
    page = ines_page
    menu = made(world, "Pending", "Press -> ?", site="brackwater")
    opened(page, menu)
    choose(page, "Press")
    item = item_of(page)
    item.get_by_label(labels.NOTE).fill("page is being written")
    item.get_by_label(labels.OWNER).fill("Ines Calder")
    item.get_by_label(labels.DUE).fill("2027-02-12")
    expect(page.get_by_role("row").first).to_contain_text("to come: page is being written, Ines Calder, 12 Feb 2027")
    expect(item).to_contain_text("this visitor does not get it: leads nowhere yet")
    expect(item).to_contain_text("seen by nobody: it leads nowhere yet")
    saved(page)
    page.reload()
    page.get_by_role("row").first.wait_for()
    assert "{due 2027-02-12; owner Ines Calder; note page is being written}" in outline_of(world, menu)


def test_the_menu_is_renamed_and_the_name_is_never_lost(ines_page: Page, world: World) -> None:
    page = ines_page
    menu = made(world, "Old name", "One -> /1", site="brackwater")
    opened(page, menu)
    name = page.get_by_role("textbox", name=labels.NAME_OF_THE_MENU)
    name.fill("New name")
    saved(page)
    name.fill("")
    expect(name).to_have_value("New name")
    page.reload()
    expect(page.get_by_role("textbox", name=labels.NAME_OF_THE_MENU)).to_have_value("New name")


def test_the_strip_opens_what_the_outline_chooses_and_the_other_way_round(ines_page: Page) -> None:
    page = ines_page
    opened(page, "/sites/brackwater/menus/header")
    desktop = page.frame_locator('iframe[title="What a desktop shows"]')
    expect(desktop.get_by_text("Cabins")).to_be_hidden()
    choose(page, "Cabins")
    expect(desktop.locator("[data-chosen] > .words")).to_have_text("Cabins")
    expect(desktop.get_by_text("Cabins")).to_be_visible()
    desktop.get_by_text("Fares & passes").click()
    expect(page.get_by_role("row", selected=True)).to_contain_text("Fares & passes")
    phone = page.frame_locator('iframe[title="What a phone shows"]')
    expect(phone.get_by_text("Contact")).to_have_count(1)
    expect(page.get_by_text("gets another menu")).to_be_visible()


def test_lines_that_this_visitor_does_not_get_say_why(ines_page: Page) -> None:
    page = ines_page
    opened(page, "/sites/brackwater/menus/header")
    expect(page.get_by_role("row").filter(has_text="Summer")).to_contain_text("starts 1 Apr 2027 04:00")
    expect(page.get_by_role("row").filter(has_text="Travelling with a dog")).to_contain_text("leads nowhere yet")
    expect(page.get_by_role("row").filter(has_text="Crew rota")).to_contain_text("does not supply signed_in")
    page.goto("/sites/brackwater/menus/header?device=phone")
    page.get_by_role("row").first.wait_for()
    expect(page.get_by_role("button", name=labels.DEVICE_PHONE)).to_be_visible()


def test_what_did_i_change_tells_sentences(ines_page: Page, world: World) -> None:
    """In the change that Tom has under way, chosen through the lens from the site as it is live."""
    page = ines_page
    opened(page, "/sites/kestrel/menus/header?in=live")
    page.get_by_role("button", name=labels.CHANGE_AS_LIVE).click()
    page.get_by_role("menuitemradio", name=re.compile("by Tom Arkwright")).click()
    expect(page.get_by_role("row").filter(has_text="Summer reading")).to_be_visible()
    page.get_by_role("button", name=re.compile("What did I change")).click()
    told = page.get_by_role("dialog").get_by_role("listitem").all_inner_texts()
    assert "Added Summer reading under What's on, to @events-reading-groups\nTake back" in told
    assert any(sentence.startswith("Put Learn") for sentence in told)
