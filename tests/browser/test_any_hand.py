"""Any hand and any eye: tap areas, the system's own colours, no motion, paper; a browser that has no room."""

import re
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import BrowserContext, Page, Route, expect

from tests.browser import labels
from tests.browser.conftest import World, signed_in
from tests.browser.outline_page import choose, made, opened
from tests.browser.test_widths import HEADER, VIEWS
from tests.browser.waiting import eventually

SHOWN = """(kind) => [...document.querySelectorAll(`[data-mark=${kind}]`)].map((mark) => {
  const shape = getComputedStyle(mark, '::before')
  const there = [shape.borderTopColor, shape.backgroundColor]
  const drawn = [parseFloat(shape.borderTopWidth) > 0, shape.backgroundColor !== 'rgba(0, 0, 0, 0)']
  const ground = getComputedStyle(document.body).backgroundColor
  return there.some((colour, at) => drawn[at] && colour !== ground && colour !== 'rgba(0, 0, 0, 0)')
})"""


def test_the_systems_own_colours_keep_every_mark(ines_page: Page) -> None:
    page = ines_page
    page.emulate_media(forced_colors="active")
    seen: dict[str, list[bool]] = {}
    for at in (VIEWS["audiences"][0], HEADER, "/shelf"):
        page.goto(at)
        page.locator("[data-mark]").first.wait_for()
        for kind in ("stop", "ok", "next", "waiting", "drift", "open"):
            seen.setdefault(kind, []).extend(page.evaluate(SHOWN, kind))
    assert {"stop", "ok", "open"} <= {kind for kind, shown in seen.items() if shown}
    assert all(all(shown) for shown in seen.values()), seen


def test_a_browser_without_room_says_so_while_nothing_is_saved(ines_page: Page, world: World) -> None:
    page = ines_page
    page.add_init_script("Storage.prototype.setItem = () => { throw new DOMException('full', 'QuotaExceededError') }")
    menu = made(world, "No room", "Shop -> /shop\n")
    opened(page, menu)

    def away(route: Route) -> None:
        if route.request.method == "PUT":
            route.abort()
        else:
            route.continue_()

    page.route("**/menus/*", away)
    choose(page, "Shop")
    page.keyboard.type("s")
    expect(page.get_by_role("alert").filter(has_text="this browser has no room to keep it")).to_be_visible()
    page.unroute_all()
    expect(page.get_by_text(labels.SAVED)).to_be_visible(timeout=60_000)


@pytest.mark.parametrize(("view", "last"), [("shelf", "Account corner"), ("audiences", "Book"), ("bench", "Book")])
def test_a_view_is_printed_whole_and_nothing_but_it(ines_page: Page, view: str, last: str) -> None:
    page = ines_page
    page.set_viewport_size({"width": 1000, "height": 400})
    page.goto(VIEWS[view][0])
    page.get_by_role("heading", level=1).first.wait_for()
    page.emulate_media(media="print")
    expect(page.get_by_role("navigation", name="Sign Shelf")).to_be_hidden()
    expect(page.get_by_text(re.compile(f"^{last}")).last).to_be_visible()
    # Nothing scrolls on paper: all that there is stands on the page itself.
    cut = "() => [...document.querySelectorAll('main, main *')].filter((one) => one.scrollHeight > one.clientHeight + 2"
    cut += " && /auto|scroll|hidden/.test(getComputedStyle(one).overflowY) && one.clientHeight > 40).length"
    assert page.evaluate(cut) == 0


@pytest.mark.parametrize("sparing", [False, True])
def test_views_are_read_ahead_unless_data_is_to_be_saved(context: BrowserContext, sparing: bool) -> None:
    page = signed_in(context, "ines", sparing=sparing)
    asked: list[str] = []
    page.on("request", lambda request: asked.append(urlsplit(request.url).path))
    page.goto("/setup")
    page.get_by_role("heading", name=labels.FONTS).wait_for()
    if sparing:
        page.wait_for_load_state("networkidle")
        assert "/api/sync" not in asked
    else:
        eventually(lambda: page.title() and "/api/sync" in asked)
