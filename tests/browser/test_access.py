"""Every view: axe finds nothing, the script stays small, and nothing of the page complains."""

import gzip
import re
from pathlib import Path

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from sign_shelf.settings import STATIC
from tests.browser.conftest import World
from tests.browser.outline_page import drawn, offers

VIEWS: dict[str, tuple[str, str | re.Pattern[str]]] = {
    "shelf": ("/shelf", "Kestrel Vale"),
    "site": ("/sites/brackwater", "Brackwater Ferries"),
    "bench": ("/sites/brackwater/menus/header", "Brackwater Ferries"),
    "bench on a phone": ("/sites/kestrel/menus/header?device=phone", "Kestrel Vale"),
    "take-in": ("/take-in", "Take in a site"),
    "pages": ("/sites/brackwater/pages", "/timetables"),
    "placeholders": ("/placeholders", "Travelling with a dog"),
    "ledger": (
        "/ledger",
        re.compile("^(Took in|Took back|Began|Put|Removed|Changed|Brought|Asked to put|Left|Called) "),
    ),
    "you": ("/you", "Where you are signed in"),
}


def violations(page: Page) -> list[str]:
    return [f"{one['id']}: {one['nodes'][0]['html'][:200]}" for one in Axe().run(page).response["violations"]]


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_axe_finds_nothing(ines_page: Page, scheme: str) -> None:
    page = ines_page
    page.emulate_media(color_scheme=scheme)  # type: ignore[arg-type]
    problems: list[str] = []
    page.on("pageerror", lambda error: problems.append(str(error)))
    page.on("console", lambda message: message.type == "error" and problems.append(message.text))
    for name, (path, words) in VIEWS.items():
        page.goto(path)
        expect(page.get_by_text(words).first).to_be_visible()
        if name == "site":
            page_of_site = page.frame_locator('iframe[title^="The page of"]')
            expect(page_of_site.get_by_text("Timetables").first).to_be_visible()
        if name.startswith("bench"):
            drawn(page)
            page.get_by_role("row").nth(1).click()
        assert violations(page) == [], name
    assert problems == []


def test_axe_finds_nothing_before_signing_in_and_in_choosers(page: Page, world: World) -> None:
    page.goto("/")
    page.get_by_label("Password").wait_for()
    assert violations(page) == []


def test_the_target_chooser_is_accessible(ines_page: Page) -> None:
    ines_page.goto("/sites/brackwater/menus/footer")
    ines_page.get_by_text("Groups", exact=True).first.click()
    ines_page.keyboard.press("Control+Enter")
    expect(offers(ines_page).first).to_be_visible()
    assert violations(ines_page) == []
    ines_page.keyboard.press("Escape")
    expect(ines_page.get_by_label(re.compile("^Label of"))).to_be_focused()


def test_the_first_load_is_small() -> None:
    """At most 250 kB of script, gzipped, before views are split: what index.html itself asks for."""
    front = (STATIC / "index.html").read_text()
    scripts = re.findall(r'(?:src|href)="/(assets/[^"]+\.js)"', front)
    assert scripts
    assert sum(len(gzip.compress(Path(STATIC / name).read_bytes())) for name in scripts) <= 250_000
