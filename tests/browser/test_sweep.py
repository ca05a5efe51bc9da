"""A sweep: entries found in many menus, each seen in its menu, what would come of each, and one change of all of them."""

import re

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from tests.browser import labels
from tests.browser.conftest import World


def test_an_address_is_led_elsewhere_in_every_menu_that_has_it(ines_page: Page, world: World) -> None:
    page = ines_page
    page.goto("/shelf")
    page.get_by_role("link", name="Sweep").click()
    page.get_by_role("button", name=labels.HOST, exact=True).click()
    query = page.get_by_role("searchbox", name=labels.ENTRIES_WITH)
    expect(query).to_be_focused()
    query.fill("kind:lnk")
    query.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Did you mean link?")
    query.fill("target:=/timetables")
    query.press("Enter")
    expect(page.get_by_role("heading", name=labels.SWEEP)).to_be_visible()
    hits = page.get_by_role("region", name=re.compile("of Brackwater Ferries$"))
    expect(hits.first).to_be_visible()
    hits.first.get_by_role("button").first.click()
    here = page.get_by_role("complementary", name=labels.IN_ITS_MENU)
    expect(here.get_by_role("listitem").filter(has_text="Timetables").first).to_have_attribute("aria-current", "true")

    edit = page.get_by_role("form", name=labels.THE_EDIT)
    edit.get_by_role("textbox", name=labels.TO_2).fill("/fares")
    edit.get_by_role("button", name=labels.SEE_WHAT_COMES_OF_IT).click()
    expect(edit.get_by_role("status")).to_contain_text("would be edited")
    expect(hits.first).to_contain_text("Pointed Timetables at @fares")
    found = Axe().run(page, options={"rules": {"region": {"enabled": False}}})
    assert found.response["violations"] == [], found.generate_report()
    box = hits.first.get_by_role("checkbox").first
    before = int((edit.get_by_role("status").text_content() or "").split()[0])
    box.uncheck()
    expect(hits.first).to_contain_text("left out")
    expect(edit.get_by_role("status")).to_contain_text(f"{before - 1} of")
    box.check()
    edit.get_by_role("textbox", name=labels.AS, exact=True).fill("Timetables are fares now")
    edit.get_by_role("button", name=labels.INTO_A_CHANGE).click()
    expect(page.get_by_role("status").filter(has_text="makes the edit")).to_contain_text(f"of {before} entries")
    page.get_by_role("link", name="Look at the change").click()
    change = page.get_by_role("region", name=labels.THE_CHANGE)
    expect(change).to_contain_text("Timetables are fares now")


def test_a_refused_edit_keeps_what_was_typed(ines_page: Page) -> None:

    page = ines_page
    page.goto("/sweep?query=label:~%22(timetables%7Cfares)%22")
    edit = page.get_by_role("form", name=labels.THE_EDIT)
    edit.get_by_role("radio", name=labels.REPLACE_TEXT).check(force=True)
    edit.get_by_role("textbox", name=labels.THE_TEXT).fill("(fares")
    edit.get_by_role("checkbox").check()
    edit.get_by_role("button", name=labels.SEE_WHAT_COMES_OF_IT).click()
    expect(edit.get_by_role("alert")).to_contain_text("no pattern: missing )")
    expect(edit.get_by_role("textbox", name=labels.THE_TEXT)).to_have_value("(fares")
