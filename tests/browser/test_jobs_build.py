"""Menus built and hung, from nothing to the live page, by keyboard alone: jobs A to D."""

import re

from playwright.sync_api import BrowserContext, Page, expect

from tests.browser.conftest import World
from tests.browser.hands import Hands, hands
from tests.browser.outline_page import item_of, lines


def live_page(context: BrowserContext, world: World, site: str, path: str = "") -> Page:
    page = context.new_page()
    page.goto(world.sites[site].base + path)
    return page


def begin_menu(at: Hands, name: str) -> None:
    at.fill(at.page.get_by_label("begin a menu called"), name)
    at.press("Enter")
    expect(at.page.get_by_role("textbox", name="Name of the menu")).to_have_value(name)
    expect(at.page.get_by_label(re.compile("^Label of")).first).to_be_focused()


def hang(at: Hands, menu: str, place: str, device: str = "desktop") -> None:
    at.menu(at.page.get_by_role("button", name=f"Hang a menu in {place} for {device}"), re.compile(f"^{menu}"))


def test_a_a_menu_from_nothing_is_hung_put_live_and_the_old_one_comes_back(
    context: BrowserContext, world: World
) -> None:
    with hands(context) as at:
        page = at.page
        at.where_to("thornby", "Thornby Heritage Railway")
        at.begin_change("Job A")
        begin_menu(at, "New line")
        for label in ("Ride ->ride", "Sunday steam ->sunday", "Dining train ->dining", "Take part ->take part", "Join ->join",
                      "Workdays ->https://work.thornby.example/", "Shop ->/shop", "Find us ->/find-us"):  # fmt: skip
            words, _, sought = label.partition("->")
            at.type(f"{words}->")
            at.type(sought)
            at.press("Enter", "Enter")
        at.press("Backspace")
        at.press("Escape")
        # Levels: what was typed in a row is put below what it belongs to.
        at.press("Home", "ArrowDown", "Alt+ArrowRight", "ArrowDown", "Alt+ArrowRight")
        at.press("ArrowDown", "ArrowDown", "Alt+ArrowRight", "ArrowDown", "Alt+ArrowRight", "Alt+ArrowRight")
        # The shop stands under the wrong parent, is seen there, and comes out again.
        at.press("ArrowDown", "Alt+ArrowRight")
        assert lines(page)[6] == "2.2 Shop"
        expect(item_of(page).get_by_role("heading")).to_contain_text("under Take part")
        at.press("Alt+ArrowLeft")
        assert lines(page) == [
            "1 Ride", "1.1 Sunday steam", "1.2 Dining train", "2 Take part", "2.1 Join", "2.1.1 Workdays", "3 Shop", "4 Find us",
        ]  # fmt: skip
        at.saved()
        at.where_to("thornby", "Thornby Heritage Railway")
        hang(at, "New line", "Fixed header")
        expect(
            page.get_by_role("row").filter(has_text="Fixed header").get_by_role("link", name="New line").first
        ).to_be_visible()
        # A fourth level is refused in words, and nothing moves.
        at.where_to("new line", "New line")
        at.press("ArrowDown", "ArrowDown", "ArrowDown", "ArrowDown", "ArrowDown", "ArrowDown", "ArrowUp")
        at.press("End", "ArrowUp", "Alt+ArrowRight", "Alt+ArrowRight", "Alt+ArrowRight")
        expect(page.get_by_role("status").filter(has_text=re.compile(r"takes 3 levels"))).to_be_visible()
        at.press("Control+z", "Control+z", "Control+z")
        at.saved()
        at.put_live()
        seen = live_page(context, world, "thornby")
        expect(seen.get_by_role("navigation", name="Fixed header").get_by_role("link", name="Ride")).to_be_visible()
        expect(seen.get_by_text("Find us").first).to_be_attached()
        # The old one back.
        at.where_to("thornby", "Thornby Heritage Railway")
        hang(at, "Header", "Fixed header")
        at.put_live()
        seen.reload()
        expect(seen.get_by_text("Find us")).to_have_count(0)
