"""A shelf of many sites: boards are there where one looks, and are found by name."""

import asyncio
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime

import pytest
from playwright.sync_api import Page, expect
from pydantic import SecretStr

from sign_shelf.demo import cluster as clusters
from sign_shelf.demo.portfolio import portfolio
from sign_shelf.demo.seed import PASSWORD
from sign_shelf.desk.people import add_person
from sign_shelf.desk.whole_sites import put_on_shelf
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database
from tests.browser import labels
from tests.constants import KEY, SEALS
from tests.databases import make_database
from tests.in_process import server_in_thread

SITES = 40


async def _filled(address: str) -> None:
    database = Database(address, SEALS)
    now = datetime.now(UTC)
    await add_person(database, email="ines@x.example", name="Ines", password=PASSWORD, role="lead", now=now)
    for document in portfolio(SITES, 1):
        await put_on_shelf(database, document, now)
    await database.close()


@pytest.fixture(scope="module")
def many_sites(cluster: clusters.Cluster) -> Iterator[str]:
    address = make_database(cluster, "long_shelf")
    with ThreadPoolExecutor(1) as aside:  # Playwright's own event loop holds this thread.
        aside.submit(asyncio.run, _filled(address)).result()
    port = clusters.free_port()
    with server_in_thread(Settings(database=SecretStr(address), key=KEY), port):
        yield f"http://127.0.0.1:{port}"


@pytest.fixture
def long_shelf(many_sites: str, page: Page) -> Page:
    page.goto(many_sites)
    page.get_by_label(labels.E_MAIL_ADDRESS).fill("ines@x.example")
    page.get_by_label(labels.PASSWORD).fill(PASSWORD)
    page.get_by_role("button", name=labels.SIGN_IN).click()
    return page


def test_boards_come_into_sight_by_scrolling_by_keys_and_by_name(long_shelf: Page) -> None:
    page = long_shelf
    boards = page.get_by_role("region")
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url) if "/api/shelf/signs" in request.url else None)
    expect(page.get_by_text(f"{SITES} sites")).to_be_visible()
    first = boards.first.locator("[data-sign]")
    expect(first).to_have_count(6)
    assert boards.count() < 15, "boards out of sight are not there"
    assert len(asked) <= 2, "what comes into sight together is asked for together"
    # The arrows walk on to boards that were not there at first, and the sign that has the focus stays.
    first.first.focus()
    name = page.evaluate("document.activeElement.closest('[data-site]').dataset.site")
    seen = {name}
    for _ in range(24):
        page.keyboard.press("ArrowDown")
        page.wait_for_function("document.activeElement.matches('[data-sign]')")
        seen.add(page.evaluate("document.activeElement.closest('[data-site]').dataset.site"))
        expect(page.locator("[aria-busy=true]")).to_have_count(0)
    assert len(seen) >= 8, seen
    page.get_by_label(labels.FIND_A_SITE).fill("no such site")
    expect(page.get_by_text("No site's name or key has")).to_be_visible()
    page.get_by_label(labels.FIND_A_SITE).fill("museum")
    expect(boards.first).to_have_accessible_name("Brant Museum")
    expect(page.get_by_text(f"of {SITES} sites")).to_be_visible()
    expect(boards.first.locator("[data-sign]")).to_have_count(6)


def test_the_shelf_tells_what_it_knows_before_the_signs_are_there(long_shelf: Page) -> None:
    page = long_shelf
    page.route("**/api/shelf/signs*", lambda route: route.abort())
    page.get_by_role("link", name="Ledger").click()
    page.get_by_role("link", name="Shelf").click()
    page.reload()
    expect(page.get_by_text("6 menus · 360 entries").first).to_be_visible()
    page.unroute("**/api/shelf/signs*")
    page.reload()
    expect(page.locator("[data-sign]").first).to_be_visible()


def test_a_view_of_the_shelf_is_kept_under_a_name_and_let_go_of(long_shelf: Page) -> None:
    page = long_shelf
    expect(page.get_by_text(f"{SITES} sites")).to_be_visible()
    page.get_by_label(labels.THEIR_ORDER).select_option("by client")
    page.get_by_label(labels.CLOSE_TOGETHER).check()
    page.get_by_label(labels.FIND_A_SITE).fill("1")
    expect(page.get_by_role("heading", name=labels.THE_OTHERS)).to_be_visible()
    page.get_by_role("button", name=labels.KEEP_THIS_VIEW).click()
    page.get_by_label(labels.WHAT_THIS_VIEW_IS_CALLED).fill("With a one")
    page.get_by_role("button", name=labels.KEEP_IT).click()
    kept = page.get_by_role("button", name=labels.WITH_A_ONE, exact=True)
    expect(kept).to_have_attribute("aria-pressed", "true")
    shown = page.get_by_role("region").count()
    page.goto(page.url.partition("/shelf")[0] + "/shelf")
    expect(page.get_by_text(f"{SITES} sites")).to_be_visible()
    kept.click()
    expect(page.get_by_label(labels.FIND_A_SITE)).to_have_value("1")
    expect(page.get_by_label(labels.CLOSE_TOGETHER)).to_be_checked()
    expect(page.get_by_role("region")).to_have_count(shown)
    page.get_by_role("button", name=labels.LET_GO_OF_WITH_A_ONE).click()
    expect(kept).to_have_count(0)
