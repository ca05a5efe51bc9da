"""The main job, as a person does it: sign in, take a site in, edit by keyboard, put live, see it live."""

import re

from playwright.sync_api import BrowserContext, Page, expect

from tests.browser import labels
from tests.browser.conftest import World, signed_in
from tests.browser.outline_page import offers, put_live


def test_from_a_clients_address_to_a_changed_page(context: BrowserContext, world: World) -> None:
    """Nothing but keys in the outline; the stand-in's own page shows the new entry at the end."""
    site = world.sites["hollin"]
    page = signed_in(context, "ines")
    page.goto("/")
    page.get_by_role("link", name="Take in a site").click()
    page.get_by_label(labels.ADDRESS_OF_ITS_HOME_PAGE).fill(site.base)
    page.keyboard.press("Enter")
    expect(page.get_by_text("2 menus, 14 pages")).to_be_visible(timeout=60_000)
    page.get_by_label(labels.KEY_FOR_ADDRESSES).fill("hollin")
    page.get_by_label(labels.SIGNING_KEY).fill(site.places.secret)
    page.get_by_role("button", name=labels.PUT_IT_ON_THE_SHELF).dblclick()
    expect(page.get_by_role("heading", name="Hollin Moor Observatory")).to_be_visible()
    page.get_by_role("link", name="Header", exact=True).click()

    outline = page.get_by_role("treegrid", name=labels.OUTLINE_OF_THE_MENU)
    outline.get_by_role("row").filter(has_text="Open nights").get_by_text("Open nights").click()
    page.keyboard.press("Enter")
    page.keyboard.type("Night walks ->")
    page.keyboard.type("meteor")
    expect(offers(page, name="Meteor showers")).to_have_attribute("aria-selected", "true")
    page.keyboard.press("Enter")
    page.keyboard.press("Enter")
    page.keyboard.type("Weather ->")
    page.keyboard.type("https://weather.hollin-moor.example/")
    page.keyboard.press("Enter")
    page.keyboard.press("Shift+Tab")
    row = outline.get_by_role("row").filter(has=page.get_by_label(labels.LABEL_OF))
    expect(row).to_have_attribute("aria-level", "1")
    expect(page.get_by_text("draft, 2 edits")).to_be_visible()

    put_live(page)
    expect(page.get_by_text(labels.LIVE_AND_VERIFIED)).to_be_visible(timeout=60_000)
    expect(page.get_by_role("button", name=labels.PUT_LIVE)).to_be_disabled()
    with context.expect_page() as opened:
        page.get_by_role("link", name="open the live page").click()
    live = opened.value
    live.get_by_role("navigation", name="Header bar").get_by_role("link", name="Visit").hover()
    expect(live.get_by_role("link", name="Night walks")).to_have_attribute("href", "/sky/meteors")
    expect(live.get_by_role("link", name="Weather").first).to_be_visible()
    assert site.places.writes == 1


def test_the_shelf_is_walked_by_arrows_and_seen_through_the_lens(ines_page: Page) -> None:
    page = ines_page
    page.goto("/")
    brackwater = page.get_by_role("region", name="Brackwater Ferries")
    brackwater.get_by_role("link", name=re.compile("^Top strip")).focus()
    page.keyboard.press("ArrowRight")
    expect(brackwater.get_by_role("link", name=re.compile("^Header bar"))).to_be_focused()
    page.get_by_role("region", name="Kestrel Vale Libraries").get_by_role(
        "link", name=re.compile("^Account corner")
    ).focus()
    page.keyboard.press("ArrowDown")
    saltmarsh = page.get_by_role("region", name="Saltmarsh Clay School")
    # Its header bar, by whichever name its template calls it by now.
    expect(saltmarsh.get_by_role("link", name=re.compile("^(Wide panel|Header bar):"))).to_be_focused()
    expect(brackwater.get_by_role("link", name=re.compile("^Phone drawer, on a phone"))).to_be_visible()
    page.get_by_role("button", name=labels.DEVICE_DESKTOP).click()
    page.get_by_role("menuitemradio", name=labels.PHONE).click()
    expect(page).to_have_url(re.compile("device=phone"))
    expect(brackwater.get_by_role("link", name=re.compile("^Phone drawer: Drawer"))).to_be_visible()
    page.reload()
    expect(page.get_by_role("button", name=labels.DEVICE_PHONE)).to_be_visible()


def test_the_site_says_which_menu_hangs_where_and_takes_another(ines_page: Page) -> None:
    page = ines_page
    page.goto("/sites/vesper")
    table = page.get_by_role("table")
    header = table.get_by_role("row").filter(has=page.get_by_role("rowheader", name=re.compile("^Header bar")))
    expect(header.get_by_role("cell").nth(1)).to_contain_text("← desktop")
    expect(header.get_by_role("cell").nth(2)).to_contain_text("not on a phone")
    page.get_by_label(labels.ITS_NAME).or_(page.get_by_label(labels.BEGIN_A_MENU_CALLED)).fill("Mijn festival")
    page.get_by_role("button", name=labels.BEGIN, exact=True).dblclick()
    expect(page.get_by_role("textbox", name=labels.NAME_OF_THE_MENU)).to_have_value("Mijn festival")
    page.get_by_role("button", name=labels.TYPE_A_LABEL).click()
    page.keyboard.type("Mijn kaarten ->")
    page.keyboard.type("/mijn")
    page.keyboard.press("Enter")
    expect(page.get_by_text("draft, 1 edit", exact=True)).to_be_visible()
    page.goto("/sites/vesper")
    expect(
        page.get_by_role("region", name=labels.LOOSE_MENUS).get_by_role("link", name=re.compile("Mijn festival"))
    ).to_have_count(1)
    page.get_by_role("button", name=labels.HANG_A_MENU_IN_ACCOUNT_CORNER).click()
    page.get_by_role("menuitem", name=re.compile("Hoofdmenu")).click()
    expect(page.get_by_role("alert")).to_contain_text("Hoofdmenu has 2 levels, Account corner takes 1")
    page.get_by_role("button", name=labels.HANG_A_MENU_IN_ACCOUNT_CORNER).click()
    page.get_by_role("menuitem", name=re.compile("Mijn festival")).click()
    account = table.get_by_role("row").filter(has=page.get_by_role("rowheader", name=re.compile("^Account corner")))
    expect(account.get_by_role("cell").nth(0)).to_contain_text("Mijn festival")
    expect(account.get_by_role("cell").nth(1)).to_contain_text("← desktop")


def test_a_viewer_sees_no_way_to_change_anything(context: BrowserContext) -> None:
    page = signed_in(context, "guest")
    page.goto("/")
    expect(page.get_by_role("link", name="Take in a site")).to_have_count(0)
    page.goto("/sites/thornby/menus/header")
    expect(page.get_by_role("row")).not_to_have_count(0)
    expect(page.get_by_role("button", name=labels.PUT_LIVE)).to_have_count(0)
    page.get_by_text("Sunday steam").first.click()
    page.keyboard.press("Delete")
    page.keyboard.press("Alt+ArrowUp")
    expect(page.get_by_role("row").nth(1)).to_contain_text("Sunday steam")


def test_wrong_passwords_are_told_in_the_form(page: Page) -> None:
    page.goto("/")
    page.get_by_label(labels.E_MAIL_ADDRESS).fill("nobody@quillfen.example")
    page.get_by_label(labels.PASSWORD).fill("wrong password")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("do not match")
    expect(page.get_by_label(labels.E_MAIL_ADDRESS)).to_have_value("nobody@quillfen.example")
