"""Shared menus: written, followed by sites, adjusted, and rolled forward with what comes of it at each told before."""

import re
from collections.abc import Iterator

import psycopg
import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from tests.browser import labels
from tests.browser.conftest import World

SITES = ("vesper", "thornby")


@pytest.fixture(autouse=True)
def as_it_was(world: World) -> Iterator[None]:
    """Both sites are live as they were again, and nothing is shared."""
    with psycopg.connect(world.address, autocommit=True) as connection:
        before = connection.execute("SELECT key, live_state FROM site WHERE key = ANY (%s)", [list(SITES)]).fetchall()
        yield
        for key, state in before:
            connection.execute("UPDATE site SET live_state = %s WHERE key = %s", [state, key])
        connection.execute("UPDATE change SET state = 'withdrawn' WHERE title LIKE '%Small print%' AND state = 'draft'")
        connection.execute("DELETE FROM shared_menu")


def goes_live(world: World, page: Page) -> None:
    """The change that was looked at last, as if a release had put it live."""
    change = re.search(r"change=([0-9a-f-]{36})", page.url)
    assert change is not None
    with psycopg.connect(world.address, autocommit=True) as connection:
        connection.execute("UPDATE change SET state = 'live', live_at = now() WHERE id = %s", [change[1]])
        connection.execute(
            "UPDATE site SET live_state = part.head FROM change_part part WHERE part.site_id = site.id AND part.change_id = %s",
            [change[1]],
        )
        connection.execute("UPDATE change_part SET live_at = now() WHERE change_id = %s", [change[1]])


def test_a_shared_menu_is_written_followed_and_rolled_forward(ines_page: Page, world: World) -> None:
    page = ines_page
    page.goto("/sync")
    page.get_by_role("link", name="Shared menus").click()
    written = page.get_by_role("form", name=labels.A_NEW_SHARED_MENU)
    written.get_by_label(labels.NAME).fill("Small print")
    entries = written.get_by_label(labels.ENTRIES_ONE_A_LINE)
    entries.fill("Privacy -> @privacy\nCall {site.phone} -> tel:{site.phone}")
    written.get_by_role("button", name=labels.SHARE_IT).click()
    expect(written.get_by_role("alert")).to_contain_text("line 2")
    page.reload()
    expect(entries).to_have_value(re.compile("Call {site.phone}"))
    entries.fill('Privacy -> @privacy\n"Call {site.phone}" -> tel:{site.phone}\nRules -> /rules')
    written.get_by_role("button", name=labels.SHARE_IT).click()

    followers = page.get_by_role("region", name=labels.FOLLOWERS)
    expect(followers).to_contain_text("0 sites follow it")
    for name in ("Vesper Quay Festival", "Thornby Heritage Railway"):
        followers.get_by_label(labels.A_SITE_THAT_IS_TO_FOLLOW).select_option(label=name)
    followers.get_by_role("button", name=labels.THEY_FOLLOW).click()
    expect(followers).to_contain_text("Begins to follow in Follow Small print")
    followers.get_by_role("link", name="Look at the change").click()
    expect(page.get_by_role("region", name=labels.THE_CHANGE)).to_contain_text("Follow Small print")
    goes_live(world, page)

    page.goto("/sites/vesper/menus/shared:small-print?in=live")
    page.get_by_role("link", name="follows a shared menu").click()
    inside = page.get_by_role("form", name=labels.WHAT_STANDS_IN_IT)
    entries = inside.get_by_label(labels.ENTRIES_ONE_A_LINE)
    entries.fill("Your privacy -> @privacy\nRules -> /rules\nAccess -> /access")
    page.reload()
    expect(inside).to_contain_text("what you typed is no version yet")
    expect(entries).to_have_value(re.compile("Access"))
    inside.get_by_role("button", name=labels.MAKE_VERSION_2).click()
    expect(followers).to_contain_text("2 behind")
    found = Axe().run(page, options={"rules": {"region": {"enabled": False}}})
    assert found.response["violations"] == [], found.generate_report()
    ahead = page.get_by_role("region", name=labels.ROLL_FORWARD).get_by_role("list", name=labels.WHAT_IT_DOES)
    expect(ahead).to_contain_text("Relabelled Privacy to Your privacy")
    followers.get_by_role("checkbox", name="Thornby Heritage Railway").uncheck()
    expect(ahead).not_to_contain_text("Thornby")
    page.get_by_role("button", name=labels.ROLL_1_SITE_FORWARD).click()
    expect(page.get_by_role("status")).to_contain_text("takes 1 site along")
    expect(followers).to_contain_text("Taken along in Small print, version 2")
