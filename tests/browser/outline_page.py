"""The bench as tests speak of it: a menu of their own, its lines, the line that is chosen."""

from typing import Any
from uuid import uuid4

from playwright.sync_api import APIResponse, Locator, Page, Route, expect

from tests.browser import labels
from tests.browser.conftest import World

_SHOWN = """rows => rows.map(row => row.children[0].textContent + ' ' + (
  row.querySelector('input')?.value ?? row.querySelector('[role=gridcell]:last-child > span')?.textContent ?? ''))"""


def made(world: World, name: str, outline: str, site: str = "thornby") -> str:
    """The address of a new menu with these lines, made over HTTP by Ines in the change that she works in."""
    answer = world.ines.post(
        f"/api/sites/{site}/menus", json={"name": name, "outline": outline}, headers={"idempotency-key": str(uuid4())}
    )
    assert answer.status_code == 201, answer.text
    return f"/sites/{site}/menus/{answer.json()['key']}"


def outline_of(world: World, menu: str) -> str:
    """What is saved of the menu, as an outline."""
    return world.ines.get(f"/api{menu}/export/outline").text


def change_of(world: World, site: str) -> str:
    """The id of the change in which Ines works at the site."""
    return next(str(one["id"]) for one in world.ines.get(f"/api/sites/{site}/changes").json() if one["working"])


def opened(page: Page, menu: str) -> None:
    page.goto(menu)
    page.get_by_role("row").first.wait_for()


def unheard(page: Page, menu: str) -> None:
    """Keeps from the page what others save in the menu once it has read it, so that what is typed next meets their edits.

    No stream of events gets through, and each read finds the menu as it was at first. `page.unroute(reads_of(menu))` ends that.
    """
    first: list[APIResponse] = []

    def as_at_first(route: Route) -> None:
        if route.request.method != "GET":
            route.continue_()
            return
        if not first:
            first.append(route.fetch())
        route.fulfill(response=first[0])

    page.route("**/api/there/**", lambda route: route.abort() if route.request.method == "GET" else route.continue_())
    page.route(reads_of(menu), as_at_first)


def reads_of(menu: str) -> str:
    """The addresses at which a page reads and saves the menu."""
    return f"**/api{menu}*"


def put_live(page: Page) -> None:
    """Sees what goes, and lets it go."""
    page.get_by_role("button", name=labels.PUT_LIVE).click()
    page.get_by_role("button", name=labels.PUT_THIS_LIVE).click()


def drawn(page: Page) -> None:
    """Waits until the menu is drawn as visitors get it, in both frames. Networks being idle says less: a frame that is drawn
    anew gives up what it was loading, and Chromium may never call such a page idle."""
    for frame in (0, 1):
        entries = page.locator("[aria-label='As visitors get it'] iframe").nth(frame).content_frame
        expect(entries.get_by_role("listitem").first).to_be_visible()


def lines(page: Page) -> list[str]:
    """What the outline shows: number and label of each line."""
    found: list[str] = page.get_by_role("row").evaluate_all(_SHOWN)
    return found


def choose(page: Page, label: str) -> None:
    page.get_by_role("row").filter(has_text=label).get_by_text(label, exact=True).click()


def offers(page: Page, **which: Any) -> Locator:
    """What the chooser of targets offers."""
    return page.get_by_role("listbox", name=labels.TARGETS).get_by_role("option", **which)


def item_of(page: Page) -> Locator:
    return page.get_by_role("region", name=labels.ITEM)


def asked_of(page: Page, says: str, fact: str) -> None:
    """One more test in the rule of the chosen line, from the words that offer it."""
    item_of(page).get_by_role("button", name=says, exact=True).last.click()
    page.get_by_role("menuitem", name=fact, exact=True).click()
