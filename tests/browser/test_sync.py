"""Sync: what somebody does in a site's own back office is seen, and put back."""

import html
import re

import httpx
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.waiting import eventually


def test_what_somebody_edits_on_the_site_is_told_and_put_back(ines_page: Page, world: World) -> None:
    page = ines_page
    site = world.sites["thornby"]
    with httpx.Client(base_url=site.base, trust_env=False, timeout=30) as client:
        form = client.get("back-office").text
        outline = re.search(r'aria-label="second on a desktop">(.*?)</textarea>', form, re.DOTALL)
        assert outline is not None
        before = html.unescape(outline[1])
        client.post(
            "back-office/second/desktop", data={"outline": before + "\nCome and see -> /see", "who": "Ada at Thornby"}
        )
    page.goto("/sync?site=thornby")
    here = page.get_by_role("region", name=labels.THE_SITE)
    here.get_by_role("button", name=labels.READ_NOW).click()
    place = here.get_by_role("region", name=labels.SECOND_ON_THE_DESKTOP)
    expect(place).to_contain_text("edited by Ada at Thornby", timeout=60_000)
    expect(place).to_contain_text("Added Come and see, to /see")
    found = Axe().run(page, options={"rules": {"region": {"enabled": False}}})
    assert found.response["violations"] == [], found.generate_report()
    place.get_by_role("button", name=labels.PUT_BACK_WHAT_WAS_APPROVED).click()
    expect(here).to_contain_text("It shows what was verified", timeout=60_000)
    eventually(lambda: "Come and see" not in httpx.get(site.base, trust_env=False).text)
