"""Findings by cause: found by the worker, told on the shelf, given, waived and mended for everywhere it is, by keyboard."""

import asyncio
import re
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import BrowserContext, Page, expect

from sign_shelf.jobs import watching
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store.database import Database
from tests.browser import labels
from tests.browser.conftest import World, client_of
from tests.browser.hands import hands
from tests.browser.outline_page import made
from tests.constants import LOOPBACK, SEALS


async def _look(address: str) -> None:
    """As a worker does: a first time, and once what failed is due again."""
    database = Database(address, SEALS)
    async with Fetcher(LOOPBACK, timeout_s=5) as fetcher:
        for after in (0, 5):
            await watching.look(database, fetcher, lambda after=after: datetime.now(UTC) + timedelta(minutes=after))  # type: ignore[misc]
    await database.close()


@pytest.fixture(scope="module")
def looked(world: World) -> World:
    """None of the ticket offices and shops that the clients' menus lead to is known here: all their names are dead."""
    with ThreadPoolExecutor(1) as aside:  # Playwright's own event loop holds this thread.
        aside.submit(lambda: asyncio.run(_look(world.address))).result()
    return world


def target_of(world: World, path: str, label: str) -> object:
    with client_of(world.base, "ines") as client:
        menu = client.get(path).json()["document"]
    return next(item["target"] for item in menu["items"] if item["label"].get("en") == label)


def test_a_dead_address_is_given_waived_and_mended_once(context: BrowserContext, looked: World) -> None:
    with hands(context) as at:
        page = at.page
        at.where_to("findings", "Findings")
        lines = page.get_by_role("list", name=labels.FINDINGS_BY_CAUSE)
        dead = lines.get_by_role("button", name=re.compile(r"tickets\.brackwater\.example"))
        expect(dead).to_contain_text("2 entries, Brackwater Ferries")
        expect(page.get_by_role("link", name=re.compile(r"^Findings\s?, \d+ stop"))).to_be_visible()
        at.push(dead)
        aside = page.get_by_role("complementary", name=labels.THE_FINDING)
        expect(aside.get_by_role("region", name=labels.WHAT_WAS_ASKED)).to_contain_text(
            "https://tickets.brackwater.example/"
        )
        expect(aside.get_by_role("region", name=labels.WHERE_IT_IS_FOUND).get_by_role("listitem")).to_have_count(2)
        at.pick(aside.get_by_label(labels.GIVEN_TO), "Tom Arkwright")
        expect(dead).to_contain_text("Tom Arkwright")
        at.fill(aside.get_by_label(labels.DONE_BY), "1 Jan 2027")
        at.press("Enter")
        expect(dead).to_contain_text("due 1 Jan 2027")
        # Accepted, and no longer.
        at.button("Waive …", aside)
        at.type("the client moves it in spring")
        at.button("Waive it", aside)
        expect(dead).to_have_count(0)
        at.radio(page.get_by_role("group", name=labels.WHICH_ARE_SHOWN), "waived")
        expect(dead).to_contain_text("waived")
        at.push(dead)
        expect(aside).to_contain_text("Waived by Ines Calder: the client moves it in spring")
        at.button("Waive it no longer", aside)
        expect(dead).to_have_count(0)
        at.radio(page.get_by_role("group", name=labels.WHICH_ARE_SHOWN), "open")
        # One mend for both entries, in a change that one can look in.
        at.push(dead)
        at.fill(aside.get_by_label(labels.LEAD_THEM_TO), "mailto:us@brackwater.example")
        at.press("Enter")
        expect(aside.get_by_role("alert")).to_contain_text("no address that a visitor could follow")
        at.errors.clear()  # The refusal.
        at.fill(aside.get_by_label(labels.LEAD_THEM_TO), "/fares")
        at.press("Enter")
        done = aside.get_by_role("status")
        expect(done).to_contain_text("mends 2")
        change = str(done.get_by_role("link").get_attribute("href")).partition("in=")[2].partition("&")[0]
        mended = target_of(looked, f"/api/sites/brackwater/menus/header?in={change}", "Book")
        assert mended == {"page": "fares"}
        assert target_of(looked, "/api/sites/brackwater/menus/header?in=live", "Book") != mended


def test_who_may_only_look_sees_it_and_is_offered_nothing(context: BrowserContext, looked: World) -> None:
    with hands(context, "guest") as at:
        at.where_to("findings", "Findings")
        lines = at.page.get_by_role("list", name=labels.FINDINGS_BY_CAUSE).get_by_role("button")
        at.push(lines.first)
        at.press("ArrowDown")
        expect(lines.nth(1)).to_have_attribute("aria-pressed", "true")
        aside = at.page.get_by_role("complementary", name=labels.THE_FINDING)
        expect(aside.get_by_role("region", name=labels.WHERE_IT_IS_FOUND)).to_be_visible()
        expect(aside.get_by_role("button", name=labels.INTO_A_CHANGE)).to_have_count(0)
        expect(aside.get_by_role("region", name=labels.WHO_SEES_TO_IT)).to_have_count(0)


@pytest.mark.parametrize("width", [1280, 390])
def test_it_is_accessible_at_any_width_and_comes_back_by_its_address(
    ines_page: Page, looked: World, width: int
) -> None:
    page = ines_page
    page.set_viewport_size({"width": width, "height": 800})
    page.goto("/findings?site=brackwater")
    lines = page.get_by_role("list", name=labels.FINDINGS_BY_CAUSE).get_by_role("button")
    lines.first.click()
    expect(page.get_by_role("complementary", name=labels.THE_FINDING).get_by_role("heading").first).to_be_visible()
    page.reload()
    expect(page.get_by_role("region", name=labels.WHERE_IT_IS_FOUND)).to_be_visible()
    expect(page.get_by_label(labels.AT, exact=True)).to_have_value("brackwater")
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    found = Axe().run(page)
    assert found.violations_count == 0, found.generate_report()


def test_placeholders_are_work_and_a_page_that_fits_is_one_press_away(ines_page: Page, world: World) -> None:
    page = ines_page
    made(world, "Waiting for pages", "Sunday steam -> ? {due 2026-01-05; owner Tom Arkwright}\nMoon base -> ?")
    page.goto("/findings")
    page.get_by_role("link", name="Placeholders").click()
    mine = page.get_by_role("region", name="Owed by Tom Arkwright")
    line = mine.get_by_role("listitem").filter(has_text="Waiting for pages")
    expect(line).to_contain_text("since 5 Jan 2026")
    expect(line).to_contain_text("it is called so")
    nobody = page.get_by_role("region", name=labels.OWED_BY_NOBODY)
    expect(nobody.get_by_role("listitem").filter(has_text="Moon base")).to_contain_text("no page fits it yet")
    page.get_by_role("combobox", name=re.compile("owed by")).select_option("Tom Arkwright")
    expect(nobody).to_have_count(0)
    line.get_by_role("button", name=labels.LEAD_SUNDAY_STEAM_TO_SUNDAY_STEAM).click()
    told = page.get_by_role("status").filter(has_text="leads to Sunday steam now")
    expect(told).to_be_visible()
    expect(line).to_have_count(0)
    told.get_by_role("link").click()
    expect(page.get_by_role("row").filter(has_text="Sunday steam")).to_contain_text("@ride-sunday-steam")


@pytest.mark.timeout(400)
def test_entries_that_only_a_script_makes_are_mended_by_a_plain_navigation(ines_page: Page, world: World) -> None:
    page, site = ines_page, world.sites["saltmarsh"]
    page.goto("/findings?site=saltmarsh")
    line = page.get_by_role("list", name=labels.FINDINGS_BY_CAUSE).get_by_role("button", name=re.compile("none of its"))
    site.faults.at = {"/": "by script"}
    try:
        page.get_by_role("button", name=labels.CHECK_NOW).click()
        line.first.click(timeout=120_000)
        mend = page.get_by_role("region", name=labels.WHAT_MENDS_IT)
        expect(mend.get_by_role("textbox")).to_have_value(re.compile(r'^<nav aria-label="[^"]+" lang="en"><ul><li>'))
        expect(mend).to_contain_text(f"{world.base}/live/saltmarsh/")
        page.context.grant_permissions(["clipboard-read", "clipboard-write"])
        mend.get_by_role("button", name=labels.COPY_THE_HTML).click()
        expect(mend.get_by_role("status")).to_have_text("Copied.")
        assert page.evaluate("navigator.clipboard.readText()") == mend.get_by_role("textbox").input_value()
    finally:
        site.faults.at = {}
    page.get_by_role("button", name=labels.CHECK_NOW).click()
    expect(line).to_have_count(0, timeout=120_000)
