"""Every view: axe finds nothing, the script stays small, and nothing of the page complains."""

import gzip
import re
from pathlib import Path

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from sign_shelf.settings import STATIC
from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.outline_page import offers


def violations(page: Page) -> list[str]:
    return [f"{one['id']}: {one['nodes'][0]['html'][:200]}" for one in Axe().run(page).response["violations"]]


def test_axe_finds_nothing_before_signing_in_and_in_choosers(page: Page, world: World) -> None:
    page.goto("/")
    page.get_by_label(labels.PASSWORD).wait_for()
    assert violations(page) == []


def test_the_target_chooser_is_accessible(ines_page: Page) -> None:
    ines_page.goto("/sites/brackwater/menus/footer")
    ines_page.get_by_text("Groups", exact=True).first.click()
    ines_page.keyboard.press("Control+Enter")
    expect(offers(ines_page).first).to_be_visible()
    assert violations(ines_page) == []
    ines_page.keyboard.press("Escape")
    expect(ines_page.get_by_label(labels.LABEL_OF)).to_be_focused()


def test_the_first_load_is_small() -> None:
    """At most 250 kB of script, gzipped, before views are split: what index.html itself asks for."""
    front = (STATIC / "index.html").read_text()
    scripts = re.findall(r'(?:src|href)="/(assets/[^"]+\.js)"', front)
    assert scripts
    assert sum(len(gzip.compress(Path(STATIC / name).read_bytes())) for name in scripts) <= 250_000
