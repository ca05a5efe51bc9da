"""Menus built and hung, from nothing to the live page, by keyboard alone: jobs A to D."""

import re

from playwright.sync_api import BrowserContext, Page, expect

from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.hands import Hands, hands, on_the_site
from tests.browser.outline_page import item_of, lines, offers


def live_page(context: BrowserContext, world: World, site: str, path: str = "") -> Page:
    page = context.new_page()
    page.goto(world.sites[site].base + path)
    return page


def begin_menu(at: Hands, name: str) -> None:
    at.fill(at.page.get_by_label(labels.BEGIN_A_MENU_CALLED), name)
    at.press("Enter")
    expect(at.page.get_by_role("textbox", name=labels.NAME_OF_THE_MENU)).to_have_value(name)
    expect(at.page.get_by_label(labels.LABEL_OF).first).to_be_focused()


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
        expect(page.get_by_role("row").first).to_be_focused()
        at.press("End", "ArrowUp", "Alt+ArrowRight", "Alt+ArrowRight", "Alt+ArrowRight")
        expect(page.get_by_role("status").filter(has_text=re.compile(r"takes 3 levels"))).to_be_visible()
        at.press("Control+z", "Control+z", "Control+z")
        at.saved()
        at.put_live()
        seen = live_page(context, world, "thornby")
        on_the_site(seen, seen.get_by_role("navigation", name="Fixed header").get_by_role("link", name="Find us"))
        # The old one back.
        at.where_to("thornby", "Thornby Heritage Railway")
        hang(at, "Header", "Fixed header")
        at.put_live()
        on_the_site(seen, seen.get_by_text("Find us"), so=False)


def test_b_a_menu_is_filled_with_lists_and_a_placeholder_gets_its_page(context: BrowserContext, world: World) -> None:
    """Entries that came by themselves dropped; collections and lists added and nested; a placeholder with owner and day."""
    with hands(context) as at:
        page = at.page
        at.where_to("saltmarsh", "Saltmarsh Clay School")
        at.begin_change("Job B")
        begin_menu(at, "Courses and shop")
        at.type("Default one")
        at.press("Enter")
        at.type("Default two")
        at.press("Enter")
        at.type("Courses ->")
        at.type("*course")
        expect(offers(page, selected=True)).to_contain_text("Every course")
        at.press("Enter", "Enter")
        at.type("Shop ->")
        at.type("shop")
        expect(offers(page, selected=True)).to_be_visible()
        at.press("Enter", "Enter")
        at.type("Glazes ->")
        at.type("*product rest")
        expect(offers(page, selected=True)).to_contain_text("The rest of product")
        expect(offers(page, selected=True)).to_contain_text(re.compile(r"\d+ now"))
        told = offers(page, selected=True).text_content() or ""
        at.press("Enter", "Enter")
        at.type("Open studio ->")
        at.type("? the hall is being painted")
        at.press("Enter", "Escape")
        # The entries that nobody wanted go.
        at.press("Home", "Shift+ArrowDown", "Delete")
        assert lines(page) == ["1 Courses", "2 Shop", "3 Glazes", "4 Open studio"]
        at.press("Home", "ArrowDown", "ArrowDown", "Alt+ArrowRight")
        assert lines(page) == ["1 Courses", "2 Shop", "2.1 Glazes", "3 Open studio"]
        # A list of the rest is as long in the chooser as in the entry's own words.
        now = re.search(r"(\d+) now", told)
        assert now
        expect(item_of(page)).to_contain_text(f"fills itself with {now[1]}")
        at.press("End")
        at.fill(item_of(page).get_by_label(labels.OWNER), "Tom Arkwright")
        at.fill(item_of(page).get_by_label(labels.DUE, exact=True), "12 Feb 2027")
        at.press("Tab")
        findings = page.get_by_role("region", name=labels.INDING)
        expect(findings).to_contain_text("Open studio leads nowhere yet, due 12 Feb 2027, Tom Arkwright")
        at.button("Choose a page", findings)
        expect(page.get_by_role("combobox", name=labels.LEADS_TO)).to_be_focused()
        at.type("tools")
        expect(offers(page, selected=True)).to_contain_text("Tools")
        at.press("Enter")
        expect(page.get_by_text(labels.OPEN_STUDIO_LEADS_NOWHERE_YET)).to_have_count(0)
        at.saved()


def test_c_dress_is_seen_on_the_sites_own_page(context: BrowserContext, world: World) -> None:
    """Buttons, badges on parent and child, icons, an overlay that is there and one that is not, a picture."""
    with hands(context) as at:
        page = at.page
        at.where_to("vesper hoofd", "Hoofdmenu")
        expect(page.get_by_role("row").first).to_be_focused()
        at.begin_change("Job C")
        expect(page.get_by_role("row").first).to_be_visible()
        at.reach(page.get_by_role("row").first)
        first = lines(page)[0].partition(" ")[2]
        item = item_of(page)
        at.radio(item.get_by_role("group", name=labels.HOW_IT_SPEAKS), "button")
        at.fill(item.get_by_label(labels.BADGE_IN).first, "Nieuw")
        # A child with a badge and a picture, which the previews name where they cannot load it.
        at.reach(page.get_by_role("row").nth(1).or_(page.get_by_role("row").first))
        at.press("ArrowDown")
        child = lines(page)[1].partition(" ")[2]
        expect(item.get_by_role("heading")).to_contain_text(child)
        at.fill(item.get_by_label(labels.BADGE_IN).first, "Nog plaats")
        at.fill(item.get_by_label(labels.PICTURE), "/boat.jpg")
        strip = page.locator("[aria-label='As visitors get it'] iframe").first.content_frame
        expect(strip.get_by_text("boat.jpg")).to_be_attached()
        # An overlay that no page has is doubted, and can be meant all the same.
        at.reach(page.get_by_role("row").nth(1))
        at.press("End", "Enter")
        at.type("Vraag het ->")
        at.type("!vragen")
        expect(offers(page, selected=True)).to_contain_text("no page has this overlay")
        at.press("Enter", "Escape")
        at.saved()
        # What would lead nowhere stops it, and says so before anything goes.
        at.button("Put live")
        expect(page.get_by_role("dialog")).to_contain_text("vragen")
        expect(page.get_by_role("button", name=labels.PUT_THIS_LIVE)).to_be_disabled()
        at.press("Escape")
        at.reach(page.get_by_role("treegrid"))
        at.press("Control+Backspace")
        at.saved()
        at.put_live()
        seen = live_page(context, world, "vesper")
        on_the_site(seen, seen.locator("small.badge", has_text="Nieuw"))
        expect(seen.locator("a[data-button]", has_text=first)).to_have_count(1)
        expect(seen.locator("small.badge", has_text="Nog plaats")).to_have_count(1)


def test_d_a_bar_above_the_first_and_a_footer_out_of_the_header(context: BrowserContext, world: World) -> None:
    with hands(context) as at:
        page = at.page
        at.where_to("kestrel", "Kestrel Vale Libraries")
        at.begin_change("Job D")
        begin_menu(at, "Footer out of the header")
        at.press("Escape")
        at.button("Bring in")
        sheet = page.get_by_role("dialog")
        at.reach(sheet.get_by_role("radio", name=labels.PASTE_OR_FILE))
        at.press("ArrowRight")
        at.pick(sheet.get_by_label(labels.ANOTHER_MENU_S_SITE), "Kestrel Vale Libraries")
        at.pick(sheet.get_by_label(labels.ANOTHER_MENU, exact=True), "Header")
        at.button("Read it", sheet)
        expect(sheet.get_by_role("region", name=labels.WHAT_WOULD_COME_IN)).to_contain_text("1")
        at.push(sheet.get_by_role("checkbox").first, "Space")
        at.button("Bring in", sheet)
        expect(sheet).to_have_count(0)
        before = lines(page)
        at.press("End", "Alt+ArrowUp")
        assert lines(page) != before
        at.saved()
        at.where_to("kestrel", "Kestrel Vale Libraries")
        hang(at, "Footer out of the header", "Footer columns")
        expect(
            page.get_by_role("row")
            .filter(has_text="Footer columns")
            .get_by_role("link", name="Footer out of the header")
            .first
        ).to_be_visible()
        at.put_live()
