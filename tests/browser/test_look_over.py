"""The owner's one look: the shelf narrowed and close together, sites side by side, a client's month on paper."""

import re

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.outline_page import made


def test_the_shelf_is_narrowed_ordered_and_close_together_by_its_address(ines_page: Page, world: World) -> None:
    made(world, "A menu of mine", "One -> /one")
    page = ines_page
    page.goto("/shelf")
    boards = page.get_by_role("region").filter(has=page.get_by_role("heading", level=2))
    expect(boards.first).to_be_visible()
    everything = boards.count()
    mine = page.get_by_role("button", name=labels.MINE)
    expect(mine).to_be_enabled()
    many = int((mine.text_content() or "0").split()[0])
    mine.click()
    expect(boards).to_have_count(many)
    expect(page.get_by_role("region", name="Thornby Heritage Railway")).to_be_visible()
    page.get_by_role("checkbox", name=labels.CLOSE_TOGETHER).check()
    page.get_by_label(labels.THEIR_ORDER).select_option("by trouble")
    expect(boards).to_have_count(many)
    assert re.search(r"show=mine.*order=by|order=by.*show=mine", page.url)
    found = Axe().run(page, options={"rules": {"region": {"enabled": False}}})
    assert found.response["violations"] == [], found.generate_report()
    page.reload()
    expect(boards).to_have_count(many)
    expect(page.get_by_role("checkbox", name=labels.CLOSE_TOGETHER)).to_be_checked()
    page.get_by_role("button", name=labels.MINE).click()
    expect(boards).to_have_count(everything)


def test_what_another_site_has_is_brought_over(ines_page: Page, world: World) -> None:
    page = ines_page
    page.goto("/sync")
    page.get_by_role("link", name="Compare sites").click()
    page.get_by_label(labels.ANOTHER_SITE).select_option("vesper")
    page.get_by_label(labels.ANOTHER_SITE).select_option("kestrel")
    page.get_by_label(labels.THE_PLACE).select_option("footer")
    table = page.get_by_role("table")
    expect(table.get_by_role("columnheader")).to_have_count(2)
    # What either has is what other tests left there: any entry that one has and the other has not.
    row = table.get_by_role("row").filter(has_text="not here").first
    expect(row).to_be_visible()
    found = Axe().run(page, options={"rules": {"region": {"enabled": False}, "color-contrast": {"enabled": False}}})
    assert found.response["violations"] == [], found.generate_report()
    row.get_by_role("button", name=labels.BRING_IT_OVER).first.click()
    told = page.get_by_role("status").filter(has_text="Brought over")
    told.get_by_role("link", name="Look at the change").click()
    expect(page.get_by_role("region", name=labels.THE_CHANGE)).to_contain_text("Added")


def test_a_clients_month_opens_from_the_site(ines_page: Page, world: World) -> None:
    page = ines_page
    page.goto("/sites/brackwater")
    page.get_by_role("button", name=labels.TAKE_OUT).click()
    with page.expect_popup() as opened:
        page.get_by_role("menuitem", name=re.compile("to print or send$")).first.click()
    report = opened.value
    expect(report.get_by_role("heading", name=labels.WHAT_IS_TO_COME)).to_be_visible()
