"""Changes through the interface: several at once, the site as it is live, settling with what went live meanwhile."""

import re
from contextlib import suppress

from playwright.sync_api import Page, TimeoutError, expect

from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.outline_page import change_of, choose, lines, made, opened, put_live
from tests.browser.waiting import eventually


def within(page: Page, now: str, wanted: str | re.Pattern[str]) -> None:
    """Chooses in which change one looks."""
    page.get_by_role("button", name=f"Change: {now}").click()
    page.get_by_role("menuitemradio", name=wanted).click()


def begin(page: Page, now: str, title: str) -> None:
    page.get_by_role("button", name=f"Change: {now}").click()
    page.get_by_role("menuitem", name=labels.BEGIN_ANOTHER_CHANGE).click()
    page.get_by_label(labels.WHAT_IT_IS).fill(title)
    page.get_by_role("button", name=labels.BEGIN_IT).click()
    expect(page.get_by_role("button", name=f"Change: {title}")).to_be_visible()


def add_line(page: Page, after: str, words: str) -> None:
    choose(page, after)
    page.keyboard.press("Enter")
    page.keyboard.type(words)
    expect(page.get_by_text(labels.SAVED_LIKE)).to_be_visible()


def test_two_changes_of_one_menu_do_not_know_of_each_other(ines_page: Page, world: World) -> None:
    """And as it is live the menu has neither, and nobody edits it."""
    page = ines_page
    menu = "/sites/vesper/menus/footer"
    opened(page, f"{menu}?in=live")
    before = lines(page)
    last = before[-1].split(" ", 1)[1]
    begin(page, "as live", "Winter prices")
    page.get_by_role("row").first.wait_for()
    add_line(page, last, "Winter prices are out")
    begin(page, "Winter prices", "Spa opening")
    page.get_by_role("row").first.wait_for()
    assert lines(page) == before
    add_line(page, last, "The spa opens")
    within(page, "Spa opening", re.compile("^Winter prices"))
    expect(page.get_by_role("row").filter(has_text="Winter prices are out")).to_be_visible()
    expect(page.get_by_role("row").filter(has_text="The spa opens")).to_have_count(0)
    within(page, "Winter prices", re.compile("^as live"))
    expect(page.get_by_role("button", name=labels.CHANGE_AS_LIVE)).to_be_visible()
    expect(page.get_by_role("button", name=labels.UNDO)).to_have_count(0)
    page.get_by_role("row").first.wait_for()
    assert lines(page) == before
    assert "in=live" in page.url
    within(page, "as live", re.compile("^Spa opening"))
    expect(page.get_by_role("row").filter(has_text="The spa opens")).to_be_visible()


def test_two_people_in_one_change_see_each_other_and_what_the_other_saves(
    ines_page: Page, tom_page: Page, world: World
) -> None:
    """At once: it is told by the server, and not asked for every few seconds."""
    menu = made(world, "Seen by two", "Piers -> /piers\nBoats -> /boats\nTides -> /tides")
    change = change_of(world, "thornby")
    opened(ines_page, f"{menu}?in={change}")
    opened(tom_page, f"{menu}?in={change}")
    here = ines_page.get_by_role("status", name=labels.ALSO_HERE)
    expect(here).to_contain_text("Tom Arkwright is here too")
    choose(tom_page, "Tides")
    line = ines_page.get_by_role("row").filter(has_text="Tides")
    expect(line).to_contain_text("here: Tom Arkwright")
    choose(ines_page, "Piers")
    tom_page.keyboard.press("Enter")
    tom_page.keyboard.type("Moorings ->/moorings")
    tom_page.keyboard.press("Enter")
    expect(tom_page.get_by_text(labels.SAVED_LIKE)).to_be_visible()
    expect(ines_page.get_by_role("row").filter(has_text="Moorings")).to_be_visible(timeout=4_000)
    expect(ines_page.get_by_role("row", selected=True)).to_contain_text("/piers")
    tom_page.goto("/shelf")
    expect(here).to_have_count(0)

    tom_page.goto(f"/changes?change={change}")
    expect(ines_page.get_by_role("status", name=labels.ALSO_HERE)).to_contain_text("Tom Arkwright")
    since = tom_page.get_by_role("region", name=labels.SINCE_YOU_LOOKED)
    expect(tom_page.get_by_role("region", name=labels.THE_CHANGE).get_by_text("Moorings").first).to_be_visible()
    add_line(ines_page, "Boats", "Slipways")
    expect(since).to_contain_text("Slipways", timeout=8_000)
    expect(since).not_to_contain_text("Moorings")
    expect(ines_page.get_by_text(labels.SAVED_LIKE)).to_be_visible()

    def seen() -> bool:
        # What was saved while one pressed it was not seen yet: it is shown then, and pressed for again.
        with suppress(TimeoutError):
            since.get_by_role("button", name=labels.I_HAVE_SEEN_IT).click(timeout=1_000)
        return since.count() == 0

    eventually(seen)
    expect(since).to_have_count(0)


def test_what_went_live_meanwhile_is_settled_entry_by_entry(ines_page: Page, world: World) -> None:
    page = ines_page
    menu = made(world, "Trail map", "Trail -> /trail\nCastle -> /castle", site="thornby")
    opened(page, menu)
    now = page.get_by_role("button", name=labels.CHANGE).get_attribute("aria-label") or ""
    page.goto("/sites/thornby/menus/header")
    page.get_by_role("row").first.wait_for()
    first = lines(page)[0].split(" ", 1)[1]

    def relabel(words: str) -> None:
        choose(page, first)
        page.keyboard.press("End")
        page.keyboard.type(words)
        expect(page.get_by_text(labels.SAVED_LIKE)).to_be_visible()

    begin(page, now.removeprefix("Change: "), "Slow change")
    page.get_by_role("row").first.wait_for()
    relabel(" slowly")
    begin(page, "Slow change", "Quick change")
    page.get_by_role("row").first.wait_for()
    relabel(" quickly")
    put_live(page)
    expect(page.get_by_text(labels.LIVE_AND_VERIFIED)).to_be_visible()
    within(page, "as live", re.compile("^Slow change"))
    page.get_by_role("button", name=labels.LIVE_HAS_MOVED_ON_2).click()
    sheet = page.get_by_role("dialog", name=labels.LIVE_HAS_MOVED_ON)
    expect(sheet.get_by_role("group").get_by_text(f"{first} quickly")).to_be_visible()
    expect(sheet.get_by_role("button", name=labels.SET_OUT_FROM_WHAT_IS_LIVE)).to_be_disabled()
    result = sheet.get_by_role("region", name=labels.MENU_WHAT_COMES_OF_IT)
    expect(sheet.get_by_role("region", name=labels.MENU_LIVE)).to_contain_text(f"{first} quickly")
    expect(result).to_contain_text(f"{first} slowly")
    sheet.get_by_role("radio", name=re.compile("^in this change:")).focus()
    page.keyboard.press("ArrowRight")
    expect(sheet.get_by_role("radio", name=re.compile("^live:"))).to_be_checked()
    expect(result).to_contain_text(f"{first} quickly")
    sheet.get_by_role("button", name=labels.SET_OUT_FROM_WHAT_IS_LIVE).click()
    expect(sheet).to_have_count(0)
    expect(page.get_by_role("row").filter(has_text=f"{first} quickly")).to_be_visible()
    expect(page.get_by_role("button", name=labels.LIVE_HAS_MOVED_ON_2)).to_have_count(0)
