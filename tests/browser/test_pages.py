"""A site's pages: new ones placed or left out, what changed, what goes with one, and what is asked before pages are gone."""

import re
from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.waiting import eventually

PAGES = "/sites/saltmarsh/pages"


@pytest.fixture(autouse=True)
def as_it_was(world: World) -> Iterator[None]:
    """The site has the pages that it had again, whatever comes of it here."""
    site = world.sites["saltmarsh"]
    yield
    site.more_pages.wanted = {}
    site.faults.at = {}


def read_now(page: Page) -> None:
    """Asks for a reading, and waits for its end: what an earlier one said stands there until this one is asked for."""
    before = known(page)["read_at"]
    page.get_by_role("button", name=labels.READ_THE_PAGES_NOW).click()
    eventually(lambda: (now := known(page))["reading"] is None and now["read_at"] != before, within_s=60)
    expect(page.get_by_role("status").filter(has_text=re.compile(r"^read \d\d:\d\d; again "))).to_be_visible(
        timeout=60_000
    )


def known(page: Page) -> dict[str, Any]:
    answer: dict[str, Any] = page.request.get("/api/sites/saltmarsh/inventory").json()
    return answer


def test_new_pages_are_placed_or_left_out_and_what_changed_is_told(ines_page: Page, world: World) -> None:
    page = ines_page
    page.goto(PAGES)
    read_now(page)
    world.sites["saltmarsh"].more_pages.wanted = {
        "/courses/raku": "Raku in a day", "/shop/gift-cards": "Gift cards", "/colophon": "Colophon",
        "/shop/sacks": {"was": "/shop/clay"},
    }  # fmt: skip
    page.get_by_role("button", name=labels.READ_THE_PAGES_NOW).click()
    fresh = page.get_by_role("region", name=labels.NEW_PAGES)
    expect(fresh.get_by_role("heading")).to_contain_text("3 new pages", timeout=60_000)
    raku = fresh.get_by_role("listitem").filter(has_text="Raku in a day")
    expect(raku).to_contain_text("below Courses")
    expect(raku).to_contain_text("its address is under /courses")
    raku.get_by_role("button", name=labels.PUT_RAKU_IN_A_DAY_THERE).click()
    expect(fresh.get_by_role("status")).to_contain_text(re.compile(r"Raku in a day stands as 1\.\d in "))
    fresh.get_by_role("button", name=labels.LEAVE_COLOPHON_OUT).click()
    expect(fresh.get_by_role("heading")).to_contain_text("1 new page")
    page.get_by_text("1 page is left out of the menus on purpose").click()
    page.get_by_role("button", name=labels.BRING_COLOPHON_BACK).click()
    expect(fresh.get_by_role("heading")).to_contain_text("2 new pages")
    fresh.get_by_role("button", name=labels.LEAVE_COLOPHON_OUT).click()
    expect(fresh.get_by_role("heading")).to_contain_text("1 new page")
    changed = page.get_by_role("region", name=labels.WHAT_CHANGED_ON_THE_SITE)
    expect(changed).to_contain_text(re.compile("3 new, 1 moved"))
    changed.get_by_role("button", name=labels.WHAT_CHANGED_ON_THE_SITE).click()
    expect(changed.get_by_role("listitem").filter(has_text="/shop/clay → /shop/sacks")).to_be_visible()
    expect(changed.get_by_role("listitem").filter(has_text="Raku in a day")).to_contain_text(", for ")
    changed.get_by_role("button", name=labels.RAKU_IN_A_DAY).click()
    sheet = page.get_by_role("dialog", name=labels.RAKU_IN_A_DAY)
    expect(sheet.get_by_role("list", name=labels.ENTRIES_THAT_LEAD_THERE)).to_contain_text("Raku in a day")
    page.keyboard.press("Escape")
    fresh.get_by_role("status").get_by_role("link").click()
    expect(page.get_by_role("row").first).to_be_focused()
    expect(page.get_by_role("row").filter(has_text="Raku in a day")).to_be_visible()


def test_an_end_is_planned_and_stands_on_the_timeline(ines_page: Page) -> None:
    page = ines_page
    page.goto(PAGES)
    page.get_by_role("table").get_by_role("button", name=labels.HAND_BUILDING).click()
    sheet = page.get_by_role("dialog", name=labels.HAND_BUILDING)
    field = sheet.get_by_role("textbox", name=labels.THE_DAY_FROM_WHICH_ON_IT)
    with page.expect_response(lambda answer: answer.url.endswith("/ends") and answer.status == 204):
        field.fill("1 May 2027")
    field.press("Enter")
    expect(field).to_have_value("1 May 2027")
    sheet.get_by_role("button", name=labels.CLOSE).click()
    page.goto("/sites/saltmarsh")
    expect(
        page.get_by_role("button", name=re.compile("Look at 1 May 2027: the page of Hand building ends")).first
    ).to_be_visible()


def test_too_much_at_once_is_asked_about(ines_page: Page, world: World) -> None:
    page = ines_page
    page.goto(PAGES)
    read_now(page)
    page.reload()
    page.get_by_role("table").get_by_role("row").nth(1).wait_for()
    gone = page.get_by_role("table").get_by_text("gone").count()
    site = world.sites["saltmarsh"]
    site.faults.at = {one.path: "404" for one in site.content.pages if one.path != "/"}
    page.get_by_role("button", name=labels.READ_THE_PAGES_NOW).click()
    asked = page.get_by_role("region", name=labels.TO_BE_CONFIRMED)
    expect(asked).to_contain_text("pages answered that they are not there", timeout=60_000)
    expect(page.get_by_role("table").get_by_text("gone")).to_have_count(gone)
    asked.get_by_role("button", name=labels.THEY_STAY).click()
    expect(asked).to_have_count(0)
    site.faults.at = {}
    read_now(page)
    expect(asked).to_have_count(0)


def test_a_site_says_when_it_is_read_where_new_pages_go_and_what_must_be_led_to(ines_page: Page) -> None:
    page = ines_page

    def settings() -> Locator:
        page.goto("/sites/saltmarsh")
        page.get_by_role("button", name=labels.SETTINGS, exact=True).click()
        return page.get_by_role("dialog", name="Settings of Saltmarsh Clay School")

    sheet = settings()
    sheet.get_by_label(labels.ITS_PAGES_ARE_READ_AGAIN).select_option("week")
    sheet.get_by_label(labels.NEW_PAGES_OF_ITS_TOP_LEVEL).select_option(label="into a draft of School and shop")
    required = sheet.get_by_role("region", name=labels.REQUIRED_PAGES)
    required.get_by_label(labels.PLACE_THAT_MUST_LEAD_TO_A).select_option(label="Footer columns")
    required.get_by_label(labels.PAGE_THAT_MUST_BE_LED_TO).select_option(label="The kilns")
    required.get_by_role("button", name=labels.ADD).click()
    expect(required).to_contain_text("The kilns from Footer columns")
    sheet.get_by_role("button", name=labels.KEEP, exact=False).first.click()
    expect(sheet).to_have_count(0)
    sheet = settings()
    expect(sheet.get_by_label(labels.ITS_PAGES_ARE_READ_AGAIN)).to_have_value("week")
    expect(sheet.get_by_label(labels.NEW_PAGES_OF_ITS_TOP_LEVEL)).to_have_value("header")
    sheet.get_by_role("button", name=labels.THE_KILNS_NEED_NOT_BE_IN).click()
    sheet.get_by_label(labels.NEW_PAGES_OF_ITS_TOP_LEVEL).select_option("")
    sheet.get_by_role("button", name=labels.KEEP, exact=False).first.click()
    expect(sheet).to_have_count(0)
