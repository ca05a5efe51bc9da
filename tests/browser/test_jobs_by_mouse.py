"""Jobs A, B and D once more, by mouse: words are typed, everything else is clicked and dragged."""

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import BrowserContext, Locator, Page, expect

from tests.browser import labels
from tests.browser.conftest import World, signed_in
from tests.browser.hands import on_the_site
from tests.browser.outline_page import asked_of, item_of, lines, offers, put_live
from tests.browser.waiting import eventually

LEVEL = 26
ROW = 30


@pytest.fixture
def page(context: BrowserContext) -> Iterator[Page]:
    page = signed_in(context, "ines")
    errors: list[str] = []
    page.on("console", lambda said: errors.append(f"{said.text} {said.location}") if said.type == "error" else None)
    page.on("pageerror", lambda error: errors.append(str(error)))
    page.goto("/")
    yield page
    assert errors == []


def to_the_site(page: Page, name: str, change: str) -> None:
    page.get_by_role("link", name="Shelf", exact=True).click()
    page.get_by_role("heading", name=name).get_by_role("link").click()
    page.get_by_role("button", name=labels.CHANGE).click()
    page.get_by_role("menuitem", name=re.compile("begin another change")).click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_role("textbox").first.fill(change)
    sheet.get_by_role("button", name=re.compile("^Begin")).click()
    expect(page.get_by_role("button", name=f"Change: {change}")).to_be_visible()


def begin(page: Page, name: str) -> None:
    page.get_by_label(labels.BEGIN_A_MENU_CALLED).fill(name)
    page.get_by_role("button", name=labels.BEGIN, exact=True).click()
    expect(page.get_by_role("textbox", name=labels.NAME_OF_THE_MENU)).to_have_value(name)


# For a moment after a drag a click is taken for its end, and goes nowhere: clicked until one arrives.
CLICKS_ARRIVE = """() => new Promise((done) => {
  let arrived = false
  document.body.addEventListener('click', () => { arrived = true; done() }, { once: true })
  const click = () => {
    if (arrived) return
    document.body.click()
    requestAnimationFrame(click)
  }
  click()
})"""


def let_go(page: Page) -> None:
    page.mouse.up()
    page.evaluate(CLICKS_ARRIVE)


def drag(page: Page, line: str, *, levels: int = 0, rows: float = 0) -> None:
    """The line by its number, so many levels to the right and rows down; negative to the left and up."""
    number = page.get_by_role("row").filter(has_text=line).first.locator("[role=gridcell]").first
    box = number.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 6, y + 2, steps=2)
    page.mouse.move(x + levels * LEVEL, y + rows * ROW, steps=8)
    let_go(page)


def dropped(page: Page, line: Locator, cell: Locator) -> None:
    # Both are in sight, however many menus others left beside this one; a hover waits until it stands still.
    usual = page.viewport_size
    assert usual is not None
    page.set_viewport_size({"width": usual["width"], "height": 3_000})
    expect(page.get_by_text("is on its way")).to_have_count(0)
    expect(page.get_by_text("not saved yet")).to_have_count(0)
    cell.hover()
    line.hover(position={"x": 20, "y": 10})
    page.mouse.down()
    begins = line.bounding_box()
    assert begins is not None
    page.mouse.move(begins["x"] + 30, begins["y"] - 10, steps=3)

    def held_over() -> bool:
        # What arrives late above the cell moves it from under the hand: followed, as an eye does.
        ends = cell.bounding_box()
        assert ends is not None
        page.mouse.move(ends["x"] + 40, ends["y"] + 14, steps=6)
        return cell.locator(".outline-dusk").count() == 1

    eventually(held_over)
    let_go(page)
    page.set_viewport_size(usual)


def cell(page: Page, place: str) -> Locator:
    """The place's cell for a desktop."""
    row = page.get_by_role("row").filter(has=page.get_by_role("rowheader", name=re.compile(f"^{place}")))
    return row.get_by_role("cell").first


def test_a_a_menu_from_nothing_is_hung_put_live_and_the_old_one_comes_back(page: Page, world: World) -> None:
    to_the_site(page, "Thornby Heritage Railway", "Job A by mouse")
    begin(page, "Drawn by hand")
    for label in ("Ride", "Steam", "Dining", "Join", "Work", "Shop", "Find", "News"):
        if label != "Ride":
            page.get_by_role("button", name=labels.TYPE_A_LABEL).click()
        page.keyboard.type(f"{label} ->/{label.lower()}")
        offers(page).first.click()
        page.keyboard.press("Escape")
    assert len(lines(page)) == 8
    drag(page, "Steam", levels=1)
    eventually(lambda: lines(page)[1] == "1.1 Steam")
    drag(page, "Dining", levels=2)
    eventually(lambda: lines(page)[2] == "1.1.1 Dining")
    # Under the wrong parent, seen and brought back.
    drag(page, "Shop", levels=1)
    expect(item_of(page).get_by_role("heading")).to_contain_text("under Work")
    page.get_by_role("button", name=labels.UNDO).click()
    eventually(lambda: lines(page)[5].endswith("Shop"))
    page.get_by_role("link", name="Thornby Heritage Railway").click()
    loose = page.get_by_role("region", name=labels.LOOSE_MENUS).get_by_role("link").filter(has_text="Drawn by hand")
    before = (cell(page, "Fixed header").get_by_role("link").first.text_content() or "").strip()
    dropped(page, loose, cell(page, "Fixed header"))
    expect(cell(page, "Fixed header").get_by_role("link", name="Drawn by hand")).to_be_visible()
    cell(page, "Fixed header").get_by_role("link", name="Drawn by hand").click()
    expect(page.get_by_role("row").first).to_be_focused()
    # A fourth level is refused while it is still in the hand.
    drag(page, "Join", levels=3)
    expect(page.get_by_role("status").filter(has_text="takes 3 levels")).to_be_visible()
    assert lines(page)[3].endswith("Join")
    put_live(page)
    expect(page.get_by_text(labels.LIVE_AND_VERIFIED)).to_be_visible(timeout=60_000)
    seen = page.context.new_page()
    seen.goto(world.sites["thornby"].base)
    on_the_site(seen, seen.get_by_role("navigation", name="Fixed header").get_by_role("link", name="News"))
    page.get_by_role("link", name="Thornby Heritage Railway").click()
    cell(page, "Fixed header").get_by_role("button", name=re.compile("^Hang a menu")).click()
    page.get_by_role("menuitem", name=re.compile(f"^{re.escape(before)}")).first.click()
    expect(cell(page, "Fixed header").get_by_role("link", name=before, exact=True)).to_be_visible()
    put_live(page)
    on_the_site(seen, seen.get_by_role("link", name="News"), so=False)


def test_b_a_menu_is_filled_with_lists_and_a_placeholder_gets_its_page(page: Page) -> None:
    to_the_site(page, "Saltmarsh Clay School", "Job B by mouse")
    begin(page, "Filled by hand")
    for label in ("Default", "Courses", "Shop", "Open studio"):
        if label != "Default":
            page.get_by_role("button", name=labels.TYPE_A_LABEL).click()
        page.keyboard.type(label)
        page.keyboard.press("Escape")
    page.get_by_role("row").filter(has_text="Default").get_by_text("Default", exact=True).click()
    page.get_by_role("row").nth(1).locator("[role=gridcell]").first.click(modifiers=["ControlOrMeta"])
    item_of(page).get_by_role("button", name=labels.REMOVE).click()
    page.get_by_role("button", name=labels.UNDO).click()
    page.get_by_role("row").first.locator("[role=gridcell]").first.click()
    page.keyboard.press("Delete")
    eventually(lambda: lines(page) == ["1 Courses", "2 Shop", "3 Open studio"])
    page.get_by_role("row").filter(has_text="Courses").locator("[role=gridcell]").first.click()
    item_of(page).get_by_role("button", name=labels.CHOOSE, exact=True).click()
    page.get_by_role("combobox", name=labels.LEADS_TO).fill("*course")
    offers(page, name=re.compile("^Every course")).click()
    expect(item_of(page)).to_contain_text("fills itself with")
    drag(page, "Shop", levels=1)
    # A list holds no lines by hand: the shop stays where it can.
    assert lines(page)[1] in {"2 Shop", "1.1 Shop"}
    page.get_by_role("row").filter(has_text="Open studio").locator("[role=gridcell]").first.click()
    item_of(page).get_by_label(labels.OWNER).fill("Tom Arkwright")
    item_of(page).get_by_role("button", name=re.compile("^Choose .*from a month|^Choose from a month")).first.click()
    page.get_by_role("button", name=labels.THE_MONTH_AFTER).click()
    page.get_by_role("gridcell").get_by_text("15", exact=True).click()
    findings = page.get_by_role("region", name=labels.INDING)
    expect(findings).to_contain_text(re.compile("Open studio leads nowhere yet, due 15 .*Tom Arkwright"))
    findings.get_by_role("button", name=labels.CHOOSE_A_PAGE).last.click()
    page.get_by_role("combobox", name=labels.LEADS_TO).fill("tools")
    offers(page, name=re.compile("Tools")).first.click()
    expect(page.get_by_text(labels.OPEN_STUDIO_LEADS_NOWHERE_YET)).to_have_count(0)
    asked_of(page, "Only …", "signed_in")
    expect(item_of(page)).to_contain_text("Shows to visitors who are signed in")


def test_d_a_footer_out_of_the_header_is_reordered_and_hung(page: Page) -> None:
    to_the_site(page, "Kestrel Vale Libraries", "Job D by mouse")
    begin(page, "Footer by hand")
    page.get_by_role("button", name=labels.BRING_IN).click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_text("another menu", exact=True).click()
    sheet.get_by_label(labels.ANOTHER_MENU_S_SITE).select_option("Kestrel Vale Libraries")
    sheet.get_by_label(labels.ANOTHER_MENU, exact=True).select_option("Header")
    sheet.get_by_role("button", name=labels.READ_IT).click()
    sheet.get_by_role("checkbox").first.uncheck()
    sheet.get_by_role("button", name=labels.BRING_IN).click()
    expect(sheet).to_have_count(0)
    before = lines(page)
    drag(page, before[1].partition(" ")[2], rows=-1.4)
    eventually(lambda: lines(page) != before)
    page.get_by_role("link", name="Kestrel Vale Libraries").click()
    loose = page.get_by_role("region", name=labels.LOOSE_MENUS).get_by_role("link").filter(has_text="Footer by hand")
    dropped(page, loose, cell(page, "Footer columns"))
    expect(cell(page, "Footer columns").get_by_role("link", name="Footer by hand")).to_be_visible()
    put_live(page)
    expect(page.get_by_role("button", name=labels.PUT_LIVE)).to_have_count(0, timeout=60_000)
