"""Any width and any light: the outline has half of a short screen, nothing is cut on a narrow one, axe finds nothing."""

import re
from typing import Literal

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from tests.browser import labels
from tests.browser.outline_page import choose, drawn, opened

HEADER = "/sites/brackwater/menus/header"
LEDGER = re.compile("^(Took in|Took back|Began|Put|Removed|Changed|Brought|Asked to put|Left|Called) ")
VIEWS: dict[str, tuple[str, str | re.Pattern[str]]] = {
    "shelf": ("/shelf", "Kestrel Vale"), "site": ("/sites/brackwater", "Brackwater Ferries"), "bench": (HEADER, "Brackwater Ferries"),
    "bench on a phone": ("/sites/kestrel/menus/header?device=phone", "Kestrel Vale"), "pages": ("/sites/brackwater/pages", "/timetables"),
    "audiences": ("/sites/brackwater/audiences/header", "Crew rota"), "findings": ("/findings", "Findings"),
    "placeholders": ("/placeholders", "Travelling with a dog"), "ledger": ("/ledger", LEDGER), "setup": ("/setup", "Dome"),
    "take-in": ("/take-in", "Take in a site"), "you": ("/you", "Where you are signed in"), "changes": ("/changes", "Changes"),
}  # fmt: skip
"""Where each view is, and words that it shows once everything is there."""
LOOKS: list[tuple[int, Literal["light", "dark"]]] = [(1280, "light"), (1280, "dark"), (390, "light")]
"""Colours do not depend on the width."""


EVERYTHING = {"rules": {"target-size": {"enabled": True}}}
"""What axe looks for by itself, and WCAG 2.2, 2.5.8: 24 by 24 px, or as much room around."""
COLOURS = {"runOnly": ["color-contrast"]}
TO_SCALE = "one => document.querySelector(one)?.closest('[data-to-scale]') !== null"
"""A stretch of time is as wide as it is long: its size is essential (the same), and the moment can be typed."""
MOVING = """() => [...document.querySelectorAll('*')].filter((one) => {
  const style = getComputedStyle(one)
  const moves = style.transitionProperty !== 'none' && style.transitionDuration.split(', ').some((s) => s !== '0s')
  return style.animationName !== 'none' || moves
}).map((one) => one.outerHTML.slice(0, 80))"""


@pytest.mark.parametrize(("width", "height"), [(1280, 720), (1366, 650), (720, 450)])
def test_the_outline_has_half_of_a_short_screen_and_the_strip_comes_back(
    ines_page: Page, width: int, height: int
) -> None:
    """720 × 450 is what 1440 × 900 has at 200 % zoom."""
    page = ines_page
    page.set_viewport_size({"width": width, "height": height})
    opened(page, HEADER)
    outline = page.get_by_role("region", name=labels.OUTLINE).bounding_box()
    assert outline is not None
    assert outline["height"] >= height / 2
    expect(page.get_by_role("region", name=labels.RULER)).to_contain_text("px wide in English")
    page.get_by_role("button", name=labels.UNFOLD, exact=True).click()
    expect(page.get_by_role("slider", name=labels.WIDTH_THAT_IS_DRAWN)).to_be_visible()
    page.get_by_role("button", name=labels.FOLD, exact=True).click()
    expect(page.get_by_role("slider", name=labels.WIDTH_THAT_IS_DRAWN)).to_have_count(0)


def test_on_a_narrow_screen_outline_and_entry_stand_in_turn(ines_page: Page) -> None:
    page = ines_page
    page.set_viewport_size({"width": 390, "height": 844})
    opened(page, HEADER)
    choose(page, "Cabins")
    expect(page.get_by_role("region", name=labels.ITEM)).to_have_count(0)
    page.get_by_role("button", name=labels.THE_ENTRY).click()
    expect(page.get_by_role("region", name=labels.ITEM)).to_contain_text("4.2 Cabins")
    page.get_by_role("button", name=labels.THE_OUTLINE, exact=True).click()
    expect(page.get_by_role("row", selected=True)).to_contain_text("4.2")
    page.get_by_role("button", name=labels.WHERE_TO_GO).click()
    page.get_by_role("menuitem", name=labels.LEDGER).click()
    expect(page.get_by_role("heading", name=labels.LEDGER)).to_be_visible()


@pytest.mark.parametrize("view", VIEWS)
def test_nothing_is_cut_or_too_small_axe_finds_nothing_and_the_console_is_silent(ines_page: Page, view: str) -> None:
    page = ines_page
    problems: list[str] = []
    page.on("pageerror", lambda error: problems.append(str(error)))
    page.on("console", lambda message: message.type == "error" and problems.append(message.text))
    path, words = VIEWS[view]
    page.goto(path)
    expect(page.get_by_text(words).first).to_be_visible()
    if view == "site":
        expect(page.frame_locator('iframe[title^="The page of"]').get_by_text("Timetables").first).to_be_visible()
    if view.startswith("bench"):
        drawn(page)
        page.get_by_role("row").nth(1).click()
    for width, light in LOOKS:
        page.set_viewport_size({"width": width, "height": 844})
        page.emulate_media(color_scheme=light)
        expect(page.locator("main")).to_have_js_property(
            "scrollWidth", page.locator("main").evaluate("m => m.clientWidth")
        )
        # So high that nothing is cut by the window's edge.
        page.set_viewport_size({"width": width, "height": 3_000})
        found = Axe().run(page, options=EVERYTHING if light == "light" else COLOURS)
        told = [
            (rule["id"], node["html"][:200])
            for rule in found.response["violations"]
            for node in rule["nodes"]
            if rule["id"] != "target-size" or not page.evaluate(TO_SCALE, node["target"][0])
        ]
        assert told == [], (view, width, light)
    assert page.evaluate(MOVING) == [], "everything stands still where that is asked"
    assert problems == []


def test_dialogs_stand_on_a_narrow_screen_too(ines_page: Page) -> None:
    page = ines_page
    page.set_viewport_size({"width": 390, "height": 844})
    opened(page, "/sites/kestrel/menus/header")
    page.get_by_role("button", name=labels.PUT_LIVE).click()
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
