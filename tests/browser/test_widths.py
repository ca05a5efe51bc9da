"""Any width and any light: the outline has half of a short screen, nothing is cut on a narrow one, axe finds nothing."""

import re

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from tests.browser.outline_page import choose, opened

HEADER = "/sites/brackwater/menus/header"
VIEWS = {
    "shelf": "/shelf", "site": "/sites/brackwater", "bench": HEADER, "pages": "/sites/brackwater/pages",
    "audiences": "/sites/brackwater/audiences/header", "findings": "/findings", "placeholders": "/placeholders", "ledger": "/ledger", "setup": "/setup", "take-in": "/take-in",
    "you": "/you", "changes": "/changes",
}  # fmt: skip


@pytest.mark.parametrize(("width", "height"), [(1280, 720), (1366, 650), (720, 450)])
def test_the_outline_has_half_of_a_short_screen_and_the_strip_comes_back(
    ines_page: Page, width: int, height: int
) -> None:
    """720 × 450 is what 1440 × 900 has at 200 % zoom."""
    page = ines_page
    page.set_viewport_size({"width": width, "height": height})
    opened(page, HEADER)
    outline = page.get_by_role("region", name="Outline").bounding_box()
    assert outline is not None
    assert outline["height"] >= height / 2
    expect(page.get_by_role("region", name="Ruler")).to_contain_text("px wide in English")
    page.get_by_role("button", name="unfold", exact=True).click()
    expect(page.get_by_role("slider", name="Width that is drawn")).to_be_visible()
    page.get_by_role("button", name="fold", exact=True).click()
    expect(page.get_by_role("slider", name="Width that is drawn")).to_have_count(0)


def test_on_a_narrow_screen_outline_and_entry_stand_in_turn(ines_page: Page) -> None:
    page = ines_page
    page.set_viewport_size({"width": 390, "height": 844})
    opened(page, HEADER)
    choose(page, "Cabins")
    expect(page.get_by_role("region", name="Item")).to_have_count(0)
    page.get_by_role("button", name="The entry").click()
    expect(page.get_by_role("region", name="Item")).to_contain_text("4.2 Cabins")
    page.get_by_role("button", name="The outline", exact=True).click()
    expect(page.get_by_role("row", selected=True)).to_contain_text("4.2")
    page.get_by_role("button", name="Where to go").click()
    page.get_by_role("menuitem", name="Ledger").click()
    expect(page.get_by_role("heading", name="Ledger")).to_be_visible()


@pytest.mark.parametrize("view", VIEWS)
def test_nothing_is_cut_and_axe_finds_nothing(ines_page: Page, view: str) -> None:
    page = ines_page
    page.goto(VIEWS[view])
    page.get_by_role("heading", level=1).first.wait_for()
    for width in (1280, 390):
        page.set_viewport_size({"width": width, "height": 844})
        for light in ("light", "dark"):
            page.emulate_media(color_scheme=light)  # type: ignore[arg-type]
            expect(page.locator("main")).to_have_js_property(
                "scrollWidth", page.locator("main").evaluate("m => m.clientWidth")
            )
            found = Axe().run(page)
            told = [(one["id"], one["nodes"][0]["html"][:200]) for one in found.response["violations"]]
            assert told == [], (view, width, light)


def test_dialogs_stand_on_a_narrow_screen_too(ines_page: Page) -> None:
    page = ines_page
    page.set_viewport_size({"width": 390, "height": 844})
    opened(page, "/sites/kestrel/menus/header")
    page.get_by_role("button", name="Put live").click()
    page.get_by_role("button", name=re.compile("^Put this live")).wait_for()
    for light in ("light", "dark"):
        page.emulate_media(color_scheme=light)  # type: ignore[arg-type]
        told = [one["id"] for one in Axe().run(page).response["violations"]]
        assert told == [], light
    page.keyboard.press("Escape")
    page.keyboard.press("Control+.")
    page.keyboard.type("cabins")
    expect(page.get_by_role("option", selected=True)).to_contain_text("Cabins")
    assert [one["id"] for one in Axe().run(page).response["violations"]] == []
