"""A site in the browser: its page drawn to scale, hanging by hand and by key, looks, devices, another template; Setup."""

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import FrameLocator, Locator, Page, expect

from sign_shelf.settings import STATIC
from tests.api.test_places import renamed_font
from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.outline_page import lines, made, opened
from tests.browser.waiting import eventually

SITE = "/sites/saltmarsh"


def drawing(page: Page, site: str = "Saltmarsh Clay School", device: str = "desktop") -> FrameLocator:
    return page.frame_locator(f'iframe[title="The page of {site} on a {device}"]')


def place(page: Page, title: str) -> Locator:
    return (
        page.get_by_role("table")
        .get_by_role("row")
        .filter(has=page.get_by_role("rowheader", name=re.compile(f"^{title}")))
    )


def cell(page: Page, title: str, device: str) -> Locator:
    return place(page, title).get_by_role("cell").nth(["desktop", "tablet", "phone"].index(device))


def act(page: Page, title: str, device: str, what: str) -> None:
    """Chosen by key alone."""
    page.get_by_role("button", name=f"Hang a menu in {title} for {device}").press("Enter")
    page.get_by_role("menuitem", name=re.compile(f"^{what}")).press("Enter")


def test_the_page_is_drawn_to_scale_and_a_click_opens_the_menu(ines_page: Page) -> None:
    """Top and scrolled, what the fixed header covers, the section of the page, and the drawer on a phone."""
    page = ines_page
    page.goto("/sites/thornby")
    shown = drawing(page, "Thornby Heritage Railway")
    expect(shown.locator('[data-location="header"]')).to_contain_text("Ride with us")
    ratio = shown.locator(".elevation").evaluate("page => page.getBoundingClientRect().width")
    assert ratio == 1280
    page.get_by_role("radio", name=labels.SCROLLED).check(force=True)
    expect(shown.locator('[data-location="second"]')).to_have_class(re.compile("is-covered"))
    expect(page.get_by_text("Second bar is covered by Fixed header.")).to_be_visible()
    page.goto("/sites/kestrel")
    page.get_by_label(labels.PAGE_THAT_THE_VISITOR_IS_ON).select_option("Reading groups")
    expect(page).to_have_url(re.compile("page=events-reading-groups"))
    section = drawing(page, "Kestrel Vale Libraries").locator('[data-location="section"]')
    expect(section.locator(".current-page").filter(has_text="Reading groups")).to_be_visible()
    page.goto("/sites/brackwater?device=phone")
    phone = drawing(page, "Brackwater Ferries", "phone")
    expect(phone.locator('[data-location="drawer"]')).to_have_count(0)
    page.get_by_label(labels.DRAWER_OPEN).check()
    expect(phone.locator('[data-location="drawer"]')).to_contain_text("Service news")
    phone.locator('[data-location="footer"]').get_by_text("Groups").click(force=True)
    page.wait_for_url(re.compile("/sites/brackwater/menus/footer"))


def test_menus_hang_by_hand_and_by_key(ines_page: Page, world: World) -> None:
    """A loose menu is dragged onto a place; a too deep one is refused before the drop; devices get their own and lose it."""
    page = ines_page
    made(
        world,
        "Spring courses",
        "Throwing -> @courses-throwing-beginners\nGlazing -> @courses-glazing",
        site="saltmarsh",
    )
    made(world, "Deep", "A -> /a\n  B -> /b\n    C -> /c", site="saltmarsh")
    page.goto(SITE)
    expect(cell(page, "Phone drawer", "phone")).to_contain_text("nothing hangs")

    # Tray and places are in sight together, however many menus others left in the tray.
    page.set_viewport_size({"width": 1280, "height": 2_600})

    def drag(menu: str, title: str, device: str, held: Callable[[Locator], bool]) -> None:
        tray = page.get_by_role("region", name=labels.LOOSE_MENUS).get_by_role("link").filter(has_text=menu)
        there = cell(page, title, device)
        # A hover waits until it stands still.
        there.hover()
        tray.hover(position={"x": 20, "y": 10})
        begin = tray.bounding_box()
        assert begin
        page.mouse.down()
        page.mouse.move(begin["x"] + 30, begin["y"] - 10, steps=3)

        def over() -> bool:
            # What arrives late above the cell moves it from under the hand: followed, as an eye does.
            end = there.bounding_box()
            assert end
            page.mouse.move(end["x"] + 40, end["y"] + 14, steps=6)
            return held(there)

        eventually(over)
        page.mouse.up()

    drag("Deep", "Phone drawer", "phone", lambda there: "3 levels, takes 2" in (there.text_content() or ""))
    expect(page.get_by_text("Deep has 3 levels, Phone drawer takes 2.")).to_be_visible()
    drag("Spring courses", "Phone drawer", "phone", lambda there: there.locator(".outline-dusk").count() == 1)
    expect(cell(page, "Phone drawer", "phone").get_by_role("link")).to_have_text("Spring courses")
    act(page, "Wide panel", "tablet", "Give the tablet its own")
    expect(cell(page, "Wide panel", "tablet").get_by_role("link")).to_have_text("School and shop (tablet)")
    act(page, "Wide panel", "tablet", "Take down")
    expect(cell(page, "Wide panel", "tablet")).to_contain_text("← desktop")
    act(page, "Footer columns", "phone", "None on purpose")
    expect(cell(page, "Footer columns", "phone")).to_contain_text("none on purpose")
    expect(page.get_by_role("button", name=re.compile("^Change: Draft of"))).to_be_visible()


def test_a_place_is_seen_on_every_device_with_what_one_lacks(ines_page: Page) -> None:
    page = ines_page
    page.goto("/sites/brackwater")
    place(page, "Header bar").get_by_role("button", name=labels.DEVICES).click()
    sheet = page.get_by_role("dialog")
    phone = sheet.get_by_role("region", name=labels.PHONE)
    expect(phone).to_contain_text("Phone drawer · its own menu")
    expect(phone.get_by_text("Islander pass")).to_have_css("text-decoration-line", "line-through")
    expect(sheet.get_by_role("region", name=labels.TABLET)).to_contain_text("as on desktop")
    assert sheet.locator("svg path").count() > 20
    assert _found(page) == []


def test_a_look_is_changed_in_every_state_and_kept(ines_page: Page) -> None:
    """Drawn while it is changed, judged, copied from another site's place, then kept."""
    page = ines_page
    page.goto(SITE)
    place(page, "Basket corner").get_by_role("button", name=labels.LOOK).click()
    sheet = page.get_by_role("dialog")
    drawn = sheet.frame_locator('iframe[title="Basket corner, normal"]').locator(".place")
    sheet.get_by_label(labels.SIZE_PX, exact=True).fill("22")
    expect(drawn).to_have_css("font-size", "22px")
    sheet.get_by_label(labels.WORDS, exact=True).fill("#4b2d5f")
    expect(sheet.get_by_text(re.compile(r"1\.\d+, needs 4.5")).first).to_be_visible()
    sheet.get_by_label(labels.SITE_TO_COPY_A_LOOK_FROM).select_option("Thornby Heritage Railway")
    sheet.get_by_role("button", name=labels.A_PLACE).click()
    page.get_by_role("menuitem", name=re.compile("Second bar", re.IGNORECASE)).first.click()
    expect(drawn).to_have_css("font-size", "15px")
    sheet.get_by_label(labels.DIRECTION).select_option("right to left")
    expect(drawn).to_have_attribute("dir", "rtl")
    entries = drawn.locator(".level-1 > .entry")
    expect(entries).to_have_count(2)
    first, second = entries.nth(0).bounding_box(), entries.nth(1).bounding_box()
    assert first
    assert second
    assert first["x"] > second["x"], "read from the right, the first entry stands rightmost"
    sheet.get_by_label(labels.DIRECTION).select_option("as the language")
    sheet.get_by_label(labels.FONT, exact=True).select_option("Inter")
    assert _found(page) == []
    sheet.get_by_role("button", name=labels.KEEP_THIS_LOOK).click()
    expect(sheet).to_have_count(0)
    bar = drawing(page).locator('[data-location="basket"] .place')
    expect(bar).to_have_css("font-size", "15px")
    expect(bar).to_have_css("font-family", re.compile("^Inter"))


def test_the_ruler_is_moved_by_key_and_makes_a_bar_fit(ines_page: Page, world: World) -> None:
    """The strip is drawn at the ruler's width; what would fit is told with its width, and done."""
    page = ines_page
    words = [
        "Courses and workshops",
        "Shop",
        "The kilns",
        "Stay with us",
        "Teachers",
        "Visit the school",
        "Getting here",
        "Basket",
    ]
    menu = made(world, "Wide", "\n".join(f"{one} -> /{at}" for at, one in enumerate(words)), site="saltmarsh")
    page.goto(SITE)
    act(page, "Basket corner", "desktop", "Wide")
    expect(cell(page, "Basket corner", "desktop").get_by_role("link")).to_have_text("Wide")
    opened(page, menu)
    ruler = page.get_by_role("region", name=labels.RULER)
    expect(ruler).to_contain_text(re.compile(r"fits from \d+"))
    slider = ruler.get_by_role("slider")
    slider.focus()
    slider.press("Home")
    expect(slider).to_have_attribute("aria-valuenow", "320")
    for _ in range(3):
        slider.press("PageUp")
    width = int(slider.get_attribute("aria-valuenow") or 0)
    assert width > 320
    frame = page.locator('iframe[title="What a desktop shows"]')
    expect(frame).to_have_css("width", f"{width}px")
    expect(ruler).to_contain_text("first to go: Basket")
    ruler.get_by_role("button", name=labels.MAKE_IT_FIT).click()
    assert _found(page) == []
    page.get_by_role("button", name=re.compile("Do it: Call Courses and workshops just Courses")).click()
    expect(page.get_by_role("row").first).to_contain_text("Courses")
    assert any(line.endswith("Courses") for line in lines(page))
    slider.focus()
    slider.press("End")
    expect(ruler.get_by_role("button", name=labels.MAKE_IT_FIT)).to_have_count(0)


def test_a_site_is_tried_on_another_template_and_moved(ines_page: Page) -> None:
    page = ines_page
    page.goto(SITE)
    page.get_by_role("button", name=labels.TRY_ANOTHER_TEMPLATE).click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_role("button", name=re.compile("^Dome")).click()
    expect(sheet.get_by_text(re.compile("would hang nowhere")).first).to_be_visible()
    basket = sheet.get_by_role("row").filter(has=page.get_by_role("rowheader", name=re.compile("^Basket corner")))
    expect(basket).to_contain_text("its menus would hang nowhere")
    expect(sheet.get_by_text(re.compile("too deep")).first).to_be_visible()
    expect(sheet.get_by_role("button", name=labels.MOVE_THE_SITE_IN_ITS_DRAFT)).to_be_disabled()
    basket.get_by_role("combobox").select_option("Phone drawer")
    expect(basket).to_contain_text("by hand")
    sheet.get_by_label(labels.WHERE_WIDE_PANEL_GOES).select_option("nowhere")
    assert _found(page) == []
    sheet.get_by_role("button", name=labels.MOVE_THE_SITE_IN_ITS_DRAFT).click()
    expect(sheet).to_have_count(0)
    expect(page.get_by_text(re.compile("template Dome 1"))).to_be_visible()
    expect(cell(page, "Phone drawer", "phone").get_by_role("link")).to_have_text("Wide")
    page.get_by_role("button", name=re.compile(r"^Draft of .* · \d+$")).click()
    told = page.get_by_role("dialog", name=labels.WHAT_THE_DRAFT_CHANGES)
    expect(told.get_by_role("link", name="Wide")).to_be_visible()
    assert _found(page) == []
    told.get_by_role("button", name=re.compile("^Take back: Moved to the template Dome")).click()
    expect(page.get_by_text(re.compile("template Kiln 1"))).to_be_visible()
    expect(told.get_by_text(re.compile("Moved to the template"))).to_have_count(0)


def test_templates_are_changed_with_their_page_beside_them_and_fonts_are_added(ines_page: Page, tmp_path: Path) -> None:
    page = ines_page
    page.goto("/setup")
    expect(page.get_by_role("row").filter(has_text="Dome")).to_be_visible()
    assert _found(page) == []
    page.get_by_role("button", name=labels.LOOK_AT_DOME).click()
    sheet = page.get_by_role("dialog")
    drawn = sheet.frame_locator("iframe")
    expect(drawn.locator('[data-location="header"]')).to_have_attribute("data-here", "")
    sheet.get_by_label(labels.TITLE, exact=True).fill("Head of the page")
    sheet.get_by_label(labels.STAYS_WHEN_THE_PAGE_SCROLLS).check()
    sheet.get_by_label(labels.HEIGHT_ONCE_SCROLLED_PX).fill("40")
    sheet.get_by_label(labels.SCROLLED, exact=True).check()
    expect(drawn.locator('[data-location="header"]')).to_have_css("min-height", "40px")
    sheet.get_by_label(labels.GROUND_ONCE_SCROLLED).fill("#224466")
    expect(drawn.locator('[data-location="header"] > *').first).to_have_css("background-color", "rgb(34, 68, 102)")
    sheet.get_by_text("Its look, before a site changes it").click()
    sheet.get_by_label(labels.SIZE_PX).fill("23")
    expect(drawn.locator('[data-location="header"] a').first).to_have_css("font-size", "23px")
    sheet.get_by_role("button", name=labels.ADD_ONE).click()
    sheet.get_by_label(labels.INTO).select_option("Phone drawer")
    sheet.get_by_label(labels.UNDER_THE_HEADING).fill("Everything")
    sheet.get_by_role("button", name=labels.PHONE, exact=True).click()
    sheet.get_by_label(labels.DRAWER_OPEN).check()
    sheet.get_by_role("button", name=re.compile("^Phone drawer")).click()
    assert _found(page) == []
    sheet.get_by_role("button", name=labels.ADD_A_PLACE).click()
    sheet.get_by_label(labels.TITLE, exact=True).fill("Second line")
    sheet.get_by_label(labels.SHAPE).select_option("line")
    sheet.get_by_role("button", name=labels.KEEP_AS_VERSION_2).click()
    expect(sheet).to_have_count(0)
    expect(page.get_by_role("row").filter(has_text="Dome")).to_have_count(2)
    font = tmp_path / "own.ttf"
    font.write_bytes(renamed_font((STATIC / "fonts" / "inter-latin-wght-normal.woff2").read_bytes(), "Quillfen Sans"))
    fonts = page.get_by_role("region", name=labels.FONTS)
    fonts.get_by_label(labels.ADD_A_FONT).set_input_files(font)
    expect(fonts.get_by_text("our own · 100–900")).to_be_visible()
    fonts.get_by_label(labels.ADD_A_FONT).set_input_files(
        files=[{"name": "x.ttf", "mimeType": "font/ttf", "buffer": b"no"}]
    )
    expect(fonts.get_by_role("alert")).to_contain_text("no font file")


def test_pages_tell_their_steps_and_what_a_device_lacks(ines_page: Page) -> None:
    page = ines_page
    page.goto("/sites/brackwater/pages")
    row = page.get_by_role("row").filter(has_text="/fares/islander-pass")
    expect(row.get_by_text("no way")).to_be_visible()
    page.get_by_role("button", name=labels.THAT_A_PHONE_LACKS).click()
    expect(page.get_by_role("row").filter(has_text="/timetables")).to_have_count(0)
    expect(row).to_be_visible()
    assert _found(page) == []


@pytest.mark.parametrize("address", [SITE, "/sites/thornby?device=phone"])
def test_axe_finds_nothing_on_a_site(ines_page: Page, address: str) -> None:
    ines_page.goto(address)
    ines_page.get_by_role("heading", name=labels.ELEVATION).wait_for()
    expect(ines_page.locator("iframe").first).to_be_visible()
    assert _found(ines_page) == []


def _found(page: Page) -> list[str]:
    """What axe finds in our own interface; client sites' colours in the drawings are theirs."""
    results = Axe().run(page, options={"iframes": False})
    return [f"{one['id']}: {one['nodes'][0]['html'][:160]}" for one in results.response["violations"]]


def test_one_line_goes_anywhere_and_does_anything_by_name(ines_page: Page) -> None:
    page = ines_page
    page.goto("/shelf")
    page.get_by_role("button", name=labels.WHERE_TO_2).wait_for()
    line = page.get_by_role("combobox", name=labels.WHERE_TO_OR_WHAT_TO_DO)
    first = page.get_by_role("option", selected=True)

    def go(words: str, says: str) -> None:
        page.keyboard.press("Control+.")
        expect(line).to_be_focused()
        page.keyboard.type(words)
        expect(first).to_contain_text(says)
        page.keyboard.press("Enter")
        expect(line).to_have_count(0)

    go("brack header", "Brackwater Ferries › Header")
    expect(page).to_have_url(re.compile("/sites/brackwater/menus/header"))
    page.get_by_role("row").first.wait_for()
    go("cabins header", "4.2 Cabins")
    expect(page.get_by_role("row", selected=True)).to_contain_text("Cabins")
    go("past", "Look at the menu’s past")
    expect(page.get_by_role("dialog").get_by_text(re.compile("past", re.IGNORECASE)).first).to_be_visible()
    page.keyboard.press("Escape")
    go("ledg", "Ledger")
    expect(page.get_by_role("heading", name=labels.LEDGER)).to_be_visible()
    page.keyboard.press("Control+.")
    page.keyboard.type("no such thing anywhere")
    expect(page.get_by_role("status").filter(has_text="Nothing is called so.")).to_be_visible()


def test_a_new_menu_begins_under_the_cursor_is_hung_copied_and_put_away(ines_page: Page, world: World) -> None:
    """From its name to its first entry without a click; a copy of it is put away, and taken out again."""
    page = ines_page
    page.goto("/sites/thornby")
    field = page.get_by_label(labels.BEGIN_A_MENU_CALLED)
    field.fill("Header")
    expect(page.get_by_text("another menu is called so already")).to_be_visible()
    field.fill("Guided tours")
    page.keyboard.press("Enter")
    expect(page.get_by_label(labels.LABEL_OF_1, exact=True)).to_be_focused()
    page.keyboard.type("Signal box")
    item = page.get_by_role("region", name=labels.ITEM)
    expect(item.get_by_text("1 Signal box")).to_be_visible()
    page.goto("/sites/thornby")
    tile = page.get_by_role("link", name=re.compile("^Guided tours 1"))
    expect(tile).to_be_visible()
    page.get_by_role("button", name=labels.WHAT_TO_DO_WITH_GUIDED_TOURS, exact=True).click()
    page.get_by_role("menuitem", name=labels.MAKE_A_COPY_OF_IT).click()
    page.get_by_role("button", name=labels.WHAT_TO_DO_WITH_GUIDED_TOURS_2).click()
    page.get_by_role("menuitem", name=labels.PUT_IT_AWAY).click()
    page.get_by_text("1 menu put away").click()
    page.get_by_role("button", name=labels.TAKE_IT_OUT_AGAIN).click()
    page.get_by_role("button", name=labels.WHAT_TO_DO_WITH_GUIDED_TOURS_2).click()
    page.get_by_role("menuitem", name=labels.REMOVE_IT_IF_IT_WAS_NEVER).click()
    expect(page.get_by_role("button", name=labels.WHAT_TO_DO_WITH_GUIDED_TOURS_2)).to_have_count(0)


def test_a_setting_that_the_site_does_not_show_says_so_beside_itself(ines_page: Page, world: World) -> None:
    page = ines_page
    opened(page, made(world, "Dressed", "Boats -> /boats {icon ticket; button}"))
    page.get_by_role("row").first.locator("span").last.click()
    item = page.get_by_role("region", name=labels.ITEM)
    expect(item.get_by_text("this site does not show icons")).to_be_visible()
    expect(item.get_by_text("this site does not show buttons")).to_have_count(0)


def test_the_ledger_answers_to_who_what_and_where(ines_page: Page, world: World) -> None:
    page = ines_page
    made(world, "Told of", "A -> /a")
    page.goto("/ledger")
    lines = page.get_by_role("row").filter(has_text="thornby")
    expect(lines.filter(has_text="Began the menu Told of")).to_be_visible()
    page.get_by_label(labels.WHAT, exact=True).select_option("places and looks")
    expect(lines.filter(has_text="Began the menu Told of")).to_have_count(0)
    page.get_by_label(labels.WHAT, exact=True).select_option("edits of menus")
    page.get_by_label(labels.BY, exact=True).select_option("Ines Calder")
    page.get_by_label(labels.AT, exact=True).select_option("Thornby Heritage Railway")
    page.get_by_role("link", name="Began the menu Told of").click()
    expect(page).to_have_url(re.compile("/sites/thornby/menus/told-of"))
