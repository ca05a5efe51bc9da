"""The bench at the speed of thought: a whole menu at the keyboard, several lines at once, what comes in and goes out."""

import re
from pathlib import Path

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import BrowserContext, FrameLocator, Page, expect

from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.outline_page import asked_of, choose, drawn, item_of, lines, made, offers, opened, outline_of
from tests.browser.waiting import eventually

MEMORY = """\
Timetables -> @timetables
  Summer -> @timetables-summer
  Winter -> @timetables-winter
  ---
  Live departures -> https://live.brackwater.example/ {new tab; rel noopener, external}
Fares -> @fares
  Islander pass -> @fares-islander-pass
  Groups -> @fares-groups
Routes -> *route by title
On board:
  Café -> @on-board-cafe
  Cabins -> @on-board-cabins
  Dogs -> ? {note page to come}
  Bicycles -> ?
Company -> @about
  Careers -> @about-careers
  News -> @news
  Freight -> @freight
Help:
  Lost property -> @help-lost-property
  Accessibility -> @help-accessibility
  Ask us -> !question-form
  Call us -> <tel:+44 20 7946 0000>
  Write -> mailto:quay@brackwater.example
Legal:
  Privacy -> @privacy
  Terms -> @terms
  + legal
Crew rota -> /crew/{visitor.id}/rota
Book -> https://tickets.brackwater.example/ {new tab; rel noopener, external}
"""
#: What is typed into the chooser for each target that is not the label's own page.
GOALS = {
    "@timetables-summer": "summer timetable", "@timetables-winter": "winter timetable", "@fares": "fares and passes",
    "@fares-groups": "group travel", "*route by title": "*route", "@on-board-cafe": "café", "@help-accessibility": "/help/accessibility",
    "@on-board-cabins": "sleeping berths", "? {note page to come}": "?page to come", "?": "?", "@about": "about the company",
    "@privacy": "/privacy", "@terms": "terms", "@timetables": "/timetables", "@news": "service news",
    "<tel:+44 20 7946 0000>": "+44 20 7946 0000", "mailto:quay@brackwater.example": "quay@brackwater.example",
}  # fmt: skip


@pytest.fixture
def menu(world: World, ines_page: Page) -> str:
    outline = "Ride -> @ride\n  Sunday steam -> @ride-sunday-steam\n  Dining train -> @ride-dining-train\nTake part:\n  Join -> @take-part-join\nShop -> /shop"
    return made(world, "Lines", outline)


def strip(page: Page, device: str = "desktop") -> FrameLocator:
    return page.frame_locator(f'iframe[title="What a {device} shows"]')


def saved(page: Page) -> None:
    expect(page.get_by_text(labels.SAVED)).to_be_visible()


def paste(page: Page, text: str, html: str = "") -> None:
    """The browser's own paste event at the focus, as Ctrl+V makes it."""
    page.evaluate(
        """([text, html]) => {
          const data = new DataTransfer()
          data.setData('text/plain', text)
          if (html) data.setData('text/html', html)
          const event = new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true })
          document.activeElement.dispatchEvent(event)
        }""",
        [text, html],
    )


def test_thirty_items_are_built_from_memory_without_the_mouse(ines_page: Page, world: World) -> None:
    page = ines_page
    address = made(world, "From memory", "", site="brackwater")
    page.goto(address)
    page.get_by_role("button", name=re.compile("type a label")).focus()
    page.keyboard.press("Enter")
    rows = MEMORY.splitlines()
    depth = 0
    for number, row in enumerate(rows):
        level = (len(row) - len(row.lstrip())) // 2
        if number:
            page.keyboard.press("Enter")
        shown = page.locator('[role=row][aria-selected="true"]')
        expect(shown).to_have_count(1)
        now = int(shown.get_attribute("aria-level") or 1)
        for _ in range(abs(level + 1 - now)):
            page.keyboard.press("Tab" if level + 1 > now else "Shift+Tab")
        label, arrow, goal = row.strip().partition(" -> ")
        if label.startswith("+ "):
            label, arrow, goal = "x", " -> ", f"+{label[2:]}"
        page.keyboard.type(label)
        if arrow:
            goal = goal.removesuffix(" {new tab; rel noopener, external}")
            page.keyboard.type("->")
            page.keyboard.type(GOALS.get(goal, goal if not goal.startswith("@") else label))
            expect(offers(page, selected=True)).to_be_visible()
            page.keyboard.press("Enter")
            expect(offers(page)).to_have_count(0)
        depth = max(depth, level)
    page.keyboard.press("Escape")
    # A search that was slower than the typing ends by itself.
    eventually(lambda: outline_of(world, address) == '{menu "From memory"}\n' + MEMORY)
    saved(page)
    assert len(rows) == 30


def test_several_lines_are_chosen_and_changed_at_once(ines_page: Page, menu: str, world: World) -> None:
    page = ines_page
    opened(page, menu)
    choose(page, "Sunday steam")
    page.keyboard.press("Escape")
    page.keyboard.press("Shift+ArrowDown")
    expect(page.get_by_role("row", selected=True)).to_have_count(2)
    page.keyboard.press("Alt+ArrowLeft")
    assert lines(page)[:3] == ["1 Ride", "2 Sunday steam", "3 Dining train"]
    page.keyboard.press("Alt+ArrowDown")
    assert lines(page)[1:5] == ["2 Take part", "2.1 Join", "3 Sunday steam", "4 Dining train"]
    item_of(page).get_by_label(labels.PHONE).uncheck()
    asked_of(page, "Only …", "signed_in")
    expect(item_of(page).get_by_text("Shows to visitors who are signed in.")).to_be_visible()
    page.get_by_role("row").filter(has_text="Shop").click(modifiers=["Control"])
    expect(page.get_by_role("row", selected=True)).to_have_count(3)
    page.keyboard.press("Alt+Enter")
    saved(page)
    assert outline_of(world, menu).count("{when signed_in; on tablet, desktop") + outline_of(world, menu).count(
        "{when signed_in; on desktop, tablet") == 4  # fmt: skip
    assert "origin shop" in outline_of(world, menu), "a duplicate remembers what it is a copy of"
    page.keyboard.press("Control+z")
    page.get_by_role("row").first.click()
    page.get_by_role("row").last.click(modifiers=["Shift"])
    expect(page.get_by_role("row", selected=True)).to_have_count(6)
    page.keyboard.press("Delete")
    expect(page.get_by_role("row")).to_have_count(0)


def test_lines_travel_between_menus_and_sites_as_outline_text(
    context: BrowserContext, ines_page: Page, menu: str, world: World
) -> None:
    page = ines_page
    context.grant_permissions(["clipboard-read", "clipboard-write"])
    opened(page, menu)
    choose(page, "Ride")
    page.keyboard.press("Escape")
    page.keyboard.press("Control+c")
    expect(page.get_by_text("Copied 3 lines, as outline text.")).to_be_visible()
    text = page.evaluate("navigator.clipboard.readText()")
    assert text == "Ride -> @ride\n  Sunday steam -> @ride-sunday-steam\n  Dining train -> @ride-dining-train\n"
    other = made(world, "Elsewhere", "Contact -> @contact", site="brackwater")
    opened(page, other)
    page.get_by_role("row").first.click()
    page.keyboard.press("Control+v")
    expect(page.get_by_text(re.compile("Pasted 3 lines"))).to_be_visible()
    expect(page.get_by_text(re.compile("no page like Ride"))).to_be_visible()
    saved(page)
    pasted = outline_of(world, other)
    assert "Contact -> @contact\nRide" in pasted
    assert re.search(r"Ride.* -> \? \{note was .*; origin thornby/lines[\w-]*/ride\}", pasted), pasted
    page.keyboard.press("Control+x")
    expect(page.get_by_role("row")).to_have_count(1)


def test_lists_of_other_programs_are_pasted_whole(ines_page: Page, menu: str, world: World) -> None:
    page = ines_page
    opened(page, menu)
    choose(page, "Shop")
    paste(page, "Sold out")
    expect(page.get_by_role("row")).to_have_count(6)
    page.keyboard.press("Escape")
    paste(page, "• Toys\n\t• Engines\n\t• Track\n• Books")
    expect(page.get_by_role("row")).to_have_count(10)
    html = '<ul><li><a href="https://toys.example/">Toys</a><ul><li><a href="/shop/track">Track</a></li></ul></li></ul>'
    paste(page, "Toys\nTrack", html)
    expect(page.get_by_role("row")).to_have_count(12)
    saved(page)
    assert outline_of(world, menu).endswith(
        "Shop -> /shop\nToys:\n  Engines -> ?\n  Track -> ?\nToys -> https://toys.example/\n  Track -> /shop/track\nBooks -> ?\n"
    ) or "Toys -> https://toys.example/\n  Track -> /shop/track\n" in outline_of(world, menu)
    paste(page, "Bad -> javascript:alert(1)\nGood -> /x")
    # What is wrong is told by its line before anything comes in.
    sheet = page.get_by_role("dialog")
    expect(sheet.get_by_role("region", name=labels.NOT_UNDERSTOOD)).to_contain_text("line 1")
    expect(sheet.get_by_role("region", name=labels.NOT_UNDERSTOOD)).to_contain_text("javascript")
    sheet.get_by_role("button", name=labels.CANCEL).click()
    expect(page.get_by_role("row")).to_have_count(12)


def test_a_paste_that_is_too_deep_for_the_place_is_refused(ines_page: Page) -> None:
    page = ines_page
    opened(page, "/sites/brackwater/menus/legal")
    page.get_by_role("row").first.click()
    before = lines(page)
    paste(page, "One:\n  Two -> /two")
    expect(page.get_by_text("Nothing was pasted: Legal line takes 1 levels, this would make 2.")).to_be_visible()
    assert lines(page) == before


def test_a_block_is_dragged_with_its_parent_named_and_the_limit_shown(ines_page: Page, world: World) -> None:
    page = ines_page
    opened(page, "/sites/vesper/menus/header")
    box = page.get_by_role("row").nth(4).locator("[role=gridcell]").first
    goal = page.get_by_role("row").nth(2).bounding_box()
    assert goal is not None
    box.hover()
    page.mouse.down()
    page.mouse.move(goal["x"] + 30, goal["y"] + 34, steps=6)
    page.mouse.move(goal["x"] + 60, goal["y"] + 34, steps=3)
    guide = page.locator("[data-guide]")
    expect(guide).to_have_attribute("data-guide", "refused")
    expect(guide).to_contain_text("takes 2 levels, this would make 3")
    page.mouse.move(goal["x"] + 30 - 26, goal["y"] - 62, steps=6)
    expect(guide).to_have_attribute("data-guide", "allowed")
    expect(guide).to_contain_text("level 1 of 2, at the top")
    page.mouse.up()
    expect(page.get_by_text("Praktisch dropped at the top.")).to_be_visible()
    assert lines(page)[0] == "1 Praktisch"
    page.keyboard.press("Control+z")
    assert lines(page)[0] == "1 Programma"
    saved(page)


def test_a_drag_to_the_edge_scrolls_on_and_lands_far_away(ines_page: Page, world: World) -> None:
    page = ines_page
    opened(page, made(world, "Far", "".join(f"Entry {number} -> /{number}\n" for number in range(1, 121))))
    box = page.get_by_role("treegrid").locator("..").bounding_box()
    assert box is not None
    page.get_by_role("row").nth(0).locator("[role=gridcell]").first.hover()
    page.mouse.down()
    page.mouse.move(box["x"] + 30, box["y"] + box["height"] - 12, steps=8)

    def further() -> bool:
        # The pointer trembles a little, as a hand does; scrolling goes on while it is held at the edge.
        page.mouse.move(box["x"] + 31, box["y"] + box["height"] - 11)
        page.mouse.move(box["x"] + 30, box["y"] + box["height"] - 12)
        return bool(page.evaluate("document.querySelector('[role=treegrid]').parentElement.scrollTop > 1200"))

    eventually(further)
    expect(page.locator("[data-guide]")).to_contain_text("at the top")
    page.mouse.up()
    expect(page.get_by_text("Entry 1 dropped at the top.")).to_be_visible()
    expect(page.get_by_role("row", selected=True)).to_contain_text("Entry 1")
    saved(page)
    assert int(page.get_by_role("row", selected=True).get_attribute("aria-posinset") or 0) > 30


def test_whoever_types_faster_than_lines_are_found_loses_no_key(ines_page: Page, world: World) -> None:
    page = ines_page
    outline = "".join(
        f"Group {group}:\n" + "".join(f"  Entry {group}.{one} -> /g{group}/{one}\n" for one in range(1, 10))
        for group in range(1, 201)
    )
    opened(page, made(world, "Fast", outline))
    first_line = page.get_by_role("row").first
    expect(first_line).to_be_focused()
    slowly = page.context.new_cdp_session(page)
    slowly.send("Emulation.setCPUThrottlingRate", {"rate": 12})
    page.keyboard.press("Control+f")
    page.keyboard.type("g77/3")
    page.keyboard.press("Enter")
    page.keyboard.press("ArrowDown")
    slowly.send("Emulation.setCPUThrottlingRate", {"rate": 1})
    chosen = page.get_by_role("row", selected=True)
    expect(chosen).to_contain_text("Entry 77.3")
    expect(chosen).to_be_focused()
    # The group stays in sight with what is found in it; the field keeps the cursor all the same.
    page.keyboard.press("Control+f")
    page.keyboard.type("g77/5")
    expect(page.get_by_label(labels.FIND_LINES)).to_have_value("g77/5")
    expect(page.get_by_label(labels.FIND_LINES)).to_be_focused()


def test_long_menus_are_found_in_folded_and_read_by_a_screen_reader(ines_page: Page, world: World) -> None:
    page = ines_page
    outline = "".join(
        f"Group {group}:\n"
        + "".join(f"  Entry {group}.{one} -> mailto:g{group}.{one}@thornby.example\n" for one in range(1, 10))
        for group in range(1, 201)
    )
    opened(page, made(world, "Long", outline))
    grid = page.get_by_role("treegrid")
    expect(grid).to_have_attribute("aria-rowcount", "2000")
    assert page.get_by_role("row").count() < 80, "only what is seen is drawn"
    page.get_by_role("row").first.click()
    page.keyboard.press("End")
    last = page.get_by_role("row", selected=True)
    expect(last).to_contain_text("Entry 200.9")
    for name, value in {"level": "2", "posinset": "9", "setsize": "9", "rowindex": "2000"}.items():
        expect(last).to_have_attribute(f"aria-{name}", value)
    for key in ("Home", "ArrowDown", "End", "ArrowUp", "ArrowUp"):  # faster than the list is scrolled
        page.keyboard.press(key)
    expect(last).to_contain_text("Entry 200.7")
    grid.hover(position={"x": 200, "y": 59_900})
    page.mouse.wheel(0, -80_000)
    expect(page.get_by_role("row").first).to_contain_text("Group 1")
    page.keyboard.press("ArrowDown")  # the focus is kept while its line is out of sight
    expect(last).to_contain_text("Entry 200.8")
    page.set_viewport_size({"width": 1280, "height": 620})
    expect(last).to_be_in_viewport(ratio=1)
    page.keyboard.press("Alt+1")
    expect(grid).to_have_attribute("aria-rowcount", "200")
    page.keyboard.press("Home")
    expect(page.get_by_role("row", selected=True)).to_have_attribute("aria-expanded", "false")
    page.keyboard.press("Control+f")
    page.keyboard.type("g77.3@")
    expect(page.get_by_role("row")).to_have_count(2)
    page.keyboard.press("Enter")
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("row", selected=True)).to_contain_text("Entry 77.3")
    page.get_by_label(labels.FIND_LINES).fill("")
    page.keyboard.press("Escape")
    page.get_by_role("button", name=labels.SHOW_ALL_LEVELS).click()
    expect(grid).to_have_attribute("aria-rowcount", "2000")


def test_two_languages_stand_side_by_side(ines_page: Page, world: World) -> None:
    page = ines_page
    address = made(world, "Two", 'Fares -> @fares {nl "Tarieven"}\nNews -> @news\n-> @contact', site="brackwater")
    opened(page, address)
    page.get_by_label(labels.SECOND_LANGUAGE).select_option("nl")
    expect(page.get_by_text("1 missing")).to_be_visible()
    expect(page.get_by_text("not in Dutch")).to_be_visible()
    page.get_by_role("row").nth(1).click()
    page.keyboard.press("Alt+l")
    page.keyboard.type("Nieuws")
    expect(page.get_by_text("1 missing")).to_have_count(0)
    here = page.locator("input:focus")
    page.keyboard.press("Shift+Tab")
    expect(here).to_have_value("Tarieven")
    page.keyboard.press("Enter")
    expect(here).to_have_value("Nieuws")
    page.keyboard.press("Alt+l")
    # A sign that the keyboard writes with Alt held, and the Enter of an input method, are nobody's commands.
    for key in ("key: 'ł', code: 'KeyL', altKey: true", "key: 'Enter', code: 'Enter', isComposing: true"):
        typed = f"node => node.dispatchEvent(new KeyboardEvent('keydown', {{{key}, bubbles: true, cancelable: true}}))"
        assert here.evaluate(typed), "left to the browser"
    assert len(lines(page)) == 3
    page.keyboard.press("Alt+t")
    expect(page.get_by_text("The line says what its page is called.")).to_be_visible()
    saved(page)
    assert outline_of(world, address).splitlines()[1:] == ['Fares -> @fares {nl "Tarieven"}', "-> @news", "-> @contact"]
    expect(strip(page).get_by_text("Service news")).to_be_visible()
    page.get_by_role("button", name=labels.LANGUAGE_ENGLISH).click()
    page.get_by_role("menuitemradio", name=labels.DUTCH).click()
    expect(strip(page).get_by_text("Tarieven")).to_be_visible()


_REMEMBERED = """async () => {
  const open = indexedDB.open('keyval-store')
  const database = await new Promise((done) => { open.onsuccess = () => done(open.result) })
  const all = database.transaction('keyval').objectStore('keyval').getAll()
  const found = await new Promise((done) => { all.onsuccess = () => done(all.result) })
  database.close()
  return found.some((one) => one.hash && one.history.past.length === 2)
}"""


def test_what_was_done_can_be_undone_after_a_reload(ines_page: Page, menu: str, world: World) -> None:
    page = ines_page
    opened(page, menu)
    choose(page, "Shop")
    page.keyboard.press("Alt+ArrowUp")
    page.keyboard.press("End")
    page.keyboard.type(" window")
    saved(page)
    eventually(lambda: page.evaluate(_REMEMBERED))
    page.reload()
    page.get_by_role("row").first.wait_for()
    assert "2 Shop window" in lines(page)
    page.get_by_role("button", name=labels.UNDO).click()
    page.get_by_role("button", name=labels.UNDO).click()
    assert lines(page)[-1] == "3 Shop"
    expect(page.get_by_role("button", name=labels.UNDO)).to_be_disabled()
    page.get_by_role("button", name=labels.REDO).click()
    assert "2 Shop" in lines(page)


def test_an_edit_is_taken_back_and_an_earlier_menu_brought_back(ines_page: Page, world: World) -> None:
    page = ines_page
    opened(page, "/sites/thornby/menus/second")
    before = lines(page)
    page.get_by_role("row").first.click()
    page.keyboard.press("Alt+ArrowDown")
    page.keyboard.press("F2")
    page.keyboard.press("End")
    page.keyboard.type(" today")
    changed = lines(page)
    saved(page)
    page.get_by_role("button", name=labels.WHAT_DID_I_CHANGE_2).click()
    page.get_by_role("button", name=re.compile("^Take back: Relabelled")).click()
    expect(page.get_by_role("button", name=labels.WHAT_DID_I_CHANGE_1)).to_be_visible()
    page.keyboard.press("Escape")
    assert [line.removesuffix(" today") for line in changed] == lines(page)
    page.get_by_role("button", name=labels.PAST, exact=True).click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("as taken in")).to_be_visible()
    dialog.get_by_role("button", name=labels.COMPARE, exact=True).last.click()
    expect(dialog.get_by_role("heading", name=re.compile("^From"))).to_be_visible()
    dialog.get_by_label(labels.ANOTHER_MENU_S_SITE).select_option("thornby")
    dialog.get_by_label(labels.ANOTHER_MENU, exact=True).select_option("thornby/header")
    expect(dialog.get_by_text("From thornby/header to this menu")).to_be_visible()
    dialog.get_by_role("button", name=re.compile("as taken in")).click()
    dialog.get_by_role("button", name=labels.BRING_THIS_BACK).click()
    saved(page)
    assert lines(page) == before
    expect(page.get_by_role("button", name=labels.WHAT_DID_I_CHANGE_0)).to_be_visible()


def test_files_come_in_with_a_preview_and_menus_go_out(ines_page: Page, menu: str, tmp_path: Path) -> None:
    page = ines_page
    opened(page, menu)
    page.get_by_role("row").last.press("End")
    page.get_by_role("button", name=labels.BRING_IN, exact=True).click()
    table = tmp_path / "plan.csv"
    table.write_text("path,label,target\n1,Plan,/plan\n1.1,Odd,javascript:x\n2,Shop,/shop\n")
    page.get_by_label(labels.A_FILE).set_input_files(table)
    page.get_by_role("button", name=labels.READ_IT).click()
    expect(page.get_by_role("region", name=labels.NOT_UNDERSTOOD)).to_contain_text("line 3")
    expect(page.get_by_text("1 leads where a line of this menu leads already")).to_be_visible()
    page.get_by_role("dialog").get_by_role("button", name=labels.BRING_IN).click()
    assert lines(page)[-2:] == ["4 Plan", "4.1 Odd"]
    page.get_by_role("button", name=labels.TAKE_OUT).click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name=labels.OPML_2_0).click()
    assert download.value.suggested_filename.endswith(".opml")


def test_a_menu_begins_from_another_and_from_the_live_page(ines_page: Page) -> None:
    page = ines_page
    page.goto("/sites/brackwater")
    page.get_by_role("button", name=labels.BEGIN_FROM).click()
    page.get_by_text("the live page", exact=True).click()
    page.get_by_role("button", name=labels.READ_IT).click()
    expect(page.get_by_role("region", name=labels.WHAT_WOULD_COME_IN)).to_contain_text("Service news")
    page.get_by_text("another menu", exact=True).click()
    page.get_by_label(labels.ANOTHER_MENU_S_SITE).select_option("kestrel")
    page.get_by_label(labels.ANOTHER_MENU, exact=True).select_option("kestrel/footer")
    page.get_by_role("button", name=labels.READ_IT).click()
    expect(page.get_by_role("region", name=labels.WHAT_WOULD_COME_IN)).to_be_visible()
    page.get_by_label(labels.NAME_OF_THE_NEW_MENU).fill("Footer twin")
    page.get_by_role("button", name=re.compile("^Begin with")).click()
    page.get_by_role("row").first.wait_for()
    page.get_by_role("row").first.click()
    expect(item_of(page).get_by_role("link", name=re.compile("^kestrel.footer."))).to_be_visible()


def test_a_line_is_dressed_and_the_strip_shows_it(ines_page: Page, menu: str, world: World) -> None:
    page = ines_page
    opened(page, menu)
    choose(page, "Shop")
    page.keyboard.press("Escape")
    item = item_of(page)
    item.get_by_text("button", exact=True).click()
    item.get_by_text("xl", exact=True).click()
    item.get_by_role("button", name=labels.ICON_NONE).click()
    page.get_by_label(labels.FIND_AN_ICON_BY_WORD).fill("ticket")
    page.get_by_role("option", name="ticket", exact=True).click()
    item.get_by_label(labels.ALONE_ON_WIDE_SCREENS).check()
    expect(item.get_by_text("Readers of the screen hear “Shop”.")).to_be_visible()
    item.get_by_label(labels.BADGE_IN_ENGLISH).fill("New")
    item.get_by_text("warn", exact=True).click()
    item.get_by_label(labels.STYLE_HOOKS).fill("wide dark")
    item.get_by_role("button", name=labels.RELATIONS_NONE).click()
    expect(page.get_by_text("Leads away from this site.")).to_be_visible()
    page.get_by_role("checkbox", name=re.compile("^nofollow")).check()
    page.keyboard.press("Escape")
    saved(page)
    assert outline_of(world, menu).endswith(
        'Shop -> /shop {button xl; icon ticket; icon alone; badge "New" warn; hooks wide, dark; rel nofollow}\n'
    )
    shown = strip(page).locator(".speaks-button.size-xl.icon-alone")
    expect(shown).to_contain_text("New")
    expect(shown.locator("svg.icon")).to_be_visible()
    for held, wanted in {"current": "underline", "normal": "none"}.items():
        page.get_by_role("group", name=labels.THE_STATE_THAT_IS_HELD).get_by_text(held, exact=True).click()
        expect(shown).to_have_css("text-decoration-line", wanted)


def test_overlays_lists_menus_and_parts_are_offered(ines_page: Page, world: World) -> None:
    page = ines_page
    opened(page, made(world, "Goals", "First -> ?", site="brackwater"))
    choose(page, "First")
    for typed, offered, leads in [
        ("!", "on", "opens question-form"),
        ("*route rest", "The rest of route", "the rest of route, by title"),
        ("+leg", "included here", "+ legal"),
    ]:
        page.get_by_role("row").first.get_by_role("gridcell").first.click()
        page.keyboard.press("Control+Enter")
        page.keyboard.type(typed)
        expect(offers(page, selected=True)).to_contain_text(offered)
        page.keyboard.press("Enter")
        expect(page.get_by_role("row").first).to_contain_text(leads)
        if typed.startswith("*"):
            expect(item_of(page).get_by_text("fills itself with 7")).to_be_visible()
            item_of(page).get_by_label(labels.AT_MOST).fill("2")
            expect(item_of(page).get_by_text("fills itself with 2")).to_be_visible()
    page.get_by_role("row").first.get_by_role("gridcell").first.click()
    page.keyboard.press("Control+Enter")
    page.keyboard.type("/crew/{vis")
    expect(offers(page, selected=True)).to_contain_text("/crew/{visitor.id}")
    page.keyboard.press("Escape")
    opened(page, made(world, "Parts", "Dag -> ?", site="vesper"))
    page.get_by_role("row").first.get_by_role("gridcell").first.click()
    page.keyboard.press("Control+Enter")
    page.keyboard.type("programma op dag#")
    expect(offers(page, selected=True)).to_contain_text("part of the page")
    page.keyboard.press("Enter")
    expect(page.get_by_role("row").first).to_contain_text("@programma-dagen#")
    item_of(page).get_by_label(labels.AT_ITS_PART).select_option("the whole page")
    expect(page.get_by_role("row").first).not_to_contain_text("#")


def test_findings_lead_to_their_lines_and_what_mends_them(ines_page: Page, world: World) -> None:
    page = ines_page
    outline = "".join(f"Entry {number} -> @news\n" for number in range(1, 60)) + "Soon -> ?\n"
    opened(page, made(world, "Found", outline, site="brackwater"))
    findings = page.get_by_role("region", name=labels.FINDINGS)
    expect(findings).to_contain_text("60 Soon leads nowhere yet")
    findings.get_by_role("button", name=re.compile("^60 Soon leads")).click()
    expect(page.get_by_role("row", selected=True)).to_contain_text("Soon")
    findings.get_by_role("button", name=labels.CHOOSE_A_PAGE).click()
    page.keyboard.type("/contact")
    expect(offers(page, selected=True)).to_contain_text("Contact")
    page.keyboard.press("Enter")
    expect(findings).not_to_contain_text("Soon leads nowhere yet")


def test_axe_finds_nothing_on_the_bench_and_its_dialogs(ines_page: Page) -> None:
    page = ines_page
    opened(page, "/sites/brackwater/menus/header")
    page.get_by_label(labels.SECOND_LANGUAGE).select_option("nl")
    choose(page, "Book")
    page.keyboard.press("Escape")
    assert _found(page) == []
    page.get_by_role("row").first.click()
    page.keyboard.press("Shift+ArrowDown")
    assert _found(page) == []
    for button in ("All keys", "Past", "Bring in", "replace"):
        page.get_by_role("button", name=button, exact=True).click()
        page.get_by_role("dialog").wait_for()
        assert _found(page) == [], button
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)


def _found(page: Page) -> list[str]:
    drawn(page)
    expect(page.locator("[aria-label=Findings]")).to_be_visible()
    violations = Axe().run(page).response["violations"]
    return [f"{one['id']}: {one['nodes'][0]['html'][:160]}" for one in violations]
