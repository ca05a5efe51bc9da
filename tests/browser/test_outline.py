"""The outline: every key, drag with its guide, undo, two people at once, and work that survives bad moments."""

import json
import re

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.outline_page import change_of, choose, lines, made, opened, unheard


@pytest.fixture
def menu(world: World, ines_page: Page) -> str:
    """A fresh menu of six lines at Thornby Heritage Railway; its address."""
    outline = "Ride -> @ride\n  Sunday steam -> @ride-sunday-steam\n  Dining train -> @ride-dining-train\nTake part:\n  Join -> @take-part-join\nShop -> /shop"
    return made(world, "Rows", outline)


def test_every_key_does_what_the_help_says(ines_page: Page, menu: str) -> None:
    page = ines_page
    opened(page, menu)
    page.get_by_role("row").first.click()
    page.keyboard.press("Escape")
    page.keyboard.press("?")
    expect(page.get_by_role("definition").filter(has_text="Move the chosen lines up")).to_be_visible()
    page.keyboard.press("Escape")

    choose(page, "Dining train")
    page.keyboard.press("Alt+ArrowUp")
    assert lines(page)[1:3] == ["1.1 Dining train", "1.2 Sunday steam"]
    page.keyboard.press("Shift+Tab")
    assert lines(page)[:3] == ["1 Ride", "1.1 Sunday steam", "2 Dining train"]
    page.keyboard.press("Tab")
    assert lines(page)[2] == "1.2 Dining train"
    page.keyboard.press("Alt+ArrowLeft")
    page.keyboard.press("Alt+ArrowRight")
    page.keyboard.press("Alt+Enter")
    assert lines(page)[2:4] == ["1.2 Dining train", "1.3 Dining train"]
    page.keyboard.press("Control+Backspace")
    page.keyboard.press("ArrowUp")
    page.keyboard.press("End")
    page.keyboard.type("!")
    assert "1.2 Dining train!" in lines(page)
    page.keyboard.press("Enter")
    page.keyboard.type("---")
    page.keyboard.press("Enter")
    page.keyboard.type("Evenings:")
    page.keyboard.press("Enter")
    page.keyboard.press("Backspace")
    expect(page.get_by_role("row").filter(has_text="divider")).to_have_count(1)
    expect(page.get_by_label(labels.LABEL_OF)).to_have_value("Evenings")
    page.keyboard.press("Escape")
    expect(page.get_by_role("row", selected=True)).to_be_focused()
    page.keyboard.press("ArrowUp")
    page.keyboard.press("Delete")
    expect(page.get_by_role("row").filter(has_text="divider")).to_have_count(0)
    choose(page, "Ride")
    page.keyboard.press("Escape")
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_role("row", selected=True)).to_have_attribute("aria-expanded", "false")
    assert not any("Sunday" in line for line in lines(page))
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("row", selected=True)).to_contain_text("Sunday steam")
    page.keyboard.press("F2")
    expect(page.get_by_label(labels.LABEL_OF_1_1)).to_be_focused()


def test_undo_and_redo_go_back_and_forth_and_saves_follow(ines_page: Page, menu: str) -> None:
    page = ines_page
    opened(page, menu)
    before = lines(page)
    choose(page, "Shop")
    page.keyboard.press("Alt+ArrowUp")
    page.keyboard.press("End")
    page.keyboard.type(" now")
    changed = lines(page)
    assert "2 Shop now" in changed
    page.keyboard.press("Control+z")
    assert "2 Shop" in lines(page), "a run of typing is one step"
    page.keyboard.press("Control+z")
    assert lines(page) == before
    page.keyboard.press("Control+Shift+z")
    page.keyboard.press("Control+y")
    assert lines(page) == changed
    page.keyboard.press("Enter")
    expect(page.get_by_label(labels.LABEL_OF_3)).to_be_focused()
    page.keyboard.press("Control+z")
    expect(page.get_by_label(labels.LABEL_OF_2)).to_be_focused()
    assert lines(page) == changed
    expect(page.get_by_text(labels.SAVED_LIKE)).to_be_visible()
    page.reload()
    page.get_by_role("row").first.wait_for()
    assert lines(page) == changed


def test_dragging_names_the_parent_to_be_and_stops_at_the_limit(ines_page: Page, world: World) -> None:
    """The second bar takes one level: a drop below another line is refused with the reason."""
    page = ines_page
    opened(page, made(world, "Drag", "One -> /1\nTwo -> /2\nThree -> /3"))

    def drag(label: str, *, right: int, down: int, check: str) -> None:
        handle = page.get_by_role("row").filter(has_text=label).get_by_role("gridcell").first
        box = handle.bounding_box()
        assert box is not None
        x, y = box["x"] + 20, box["y"] + 15
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + right / 2, y + down / 2, steps=4)
        page.mouse.move(x + right, y + down, steps=4)
        expect(page.locator("[data-guide]")).to_contain_text(check)
        page.mouse.up()

    drag("Three", right=30, down=-32, check="level 2, under One")
    assert lines(page) == ["1 One", "1.1 Three", "2 Two"]
    expect(page.get_by_role("status").filter(has_text="Three dropped under One")).to_be_visible()
    drag("Three", right=-30, down=-60, check="level 1, at the top")
    assert lines(page)[0] == "1 Three"

    opened(page, "/sites/thornby/menus/second")
    before = lines(page)
    # Whatever others made of this menu: the second line has one above it.
    second = before[1].partition(" ")[2]
    drag(second, right=40, down=0, check="Second bar takes 1 levels, this would make 2")
    assert lines(page) == before
    choose(page, second)
    page.keyboard.press("Tab")
    expect(page.get_by_role("status").filter(has_text="takes 1 levels")).to_be_visible()
    assert lines(page) == before


def test_two_people_edit_one_menu(ines_page: Page, tom_page: Page, menu: str, world: World) -> None:
    """Edits that do not touch each other are merged; those that do are settled by a person, and nothing is lost."""
    there = f"{menu}?in={change_of(world, 'thornby')}"
    unheard(ines_page, menu)
    opened(ines_page, menu)
    opened(tom_page, there)
    choose(tom_page, "Shop")
    tom_page.keyboard.press("Enter")
    tom_page.keyboard.type("By Tom")
    expect(tom_page.get_by_text(labels.SAVED_LIKE)).to_be_visible()
    choose(ines_page, "Join")
    ines_page.keyboard.press("Enter")
    ines_page.keyboard.type("By Ines")
    expect(ines_page.get_by_text(re.compile("merged with Tom Arkwright: Added By Tom"))).to_be_visible()
    assert {"2.2 By Ines", "4 By Tom"} <= set(lines(ines_page))

    opened(tom_page, there)
    choose(tom_page, "Sunday steam")
    tom_page.keyboard.press("End")
    tom_page.keyboard.type(" trains")
    expect(tom_page.get_by_text(labels.SAVED_LIKE)).to_be_visible()
    choose(ines_page, "Sunday steam")
    ines_page.keyboard.press("End")
    ines_page.keyboard.type(" rides")
    dialog = ines_page.get_by_role("dialog", name=labels.TWO_EDITS_MEET)
    expect(dialog.get_by_text("Sunday steam trains").first).to_be_visible()
    # Whose edit it met hears of it while it is not settled.
    meets = tom_page.get_by_role("status", name=labels.EDITS_OF_YOURS_THAT_OTHERS_MET)
    expect(meets).to_contain_text("Ines Calder is choosing")
    expect(meets).to_contain_text("Sunday steam rides")
    dialog.get_by_role("radio", name=re.compile("by Tom Arkwright")).check()
    dialog.get_by_role("button", name=labels.SAVE_THIS).click()
    expect(dialog).to_have_count(0)
    expect(ines_page.get_by_text(labels.SAVED_LIKE)).to_be_visible()
    expect(meets).to_have_count(0)
    assert "1.1 Sunday steam trains" in lines(ines_page)


def test_what_was_typed_while_the_server_was_away_is_kept(ines_page: Page, menu: str) -> None:
    page = ines_page
    opened(page, menu)

    def away(route: Route) -> None:
        route.abort()

    page.route("**/api/sites/**", away)
    choose(page, "Shop")
    page.keyboard.press("End")
    page.keyboard.type(" at the station")
    expect(page.get_by_role("alert")).to_contain_text("not saved, trying again")
    kept = page.evaluate("Object.values(localStorage)")
    assert any("Shop at the station" in json.dumps(json.loads(value)) for value in kept)
    page.unroute("**/api/sites/**", away)
    expect(page.get_by_text(labels.SAVED_LIKE)).to_be_visible(timeout=15_000)
    page.reload()
    page.get_by_role("row").first.wait_for()
    assert "3 Shop at the station" in lines(page)


def test_a_long_menu_is_a_correct_treegrid(ines_page: Page, world: World) -> None:
    """Five hundred lines: few rows in the page, and each tells its level, position and size."""
    page = ines_page
    outline = "".join(f"Group {g}:\n" + "".join(f"  Entry {g}-{n} -> /{g}/{n}\n" for n in range(19)) for g in range(25))
    opened(page, made(world, "Long", outline))
    grid = page.get_by_role("treegrid")
    expect(grid).to_have_attribute("aria-rowcount", "500")
    assert page.get_by_role("row").count() < 60
    choose(page, "Group 0")
    for _ in range(45):
        page.keyboard.press("ArrowDown")
    row = page.get_by_role("row", selected=True)
    expect(row.get_by_role("textbox")).to_have_value("Entry 2-4")
    told = [row.get_attribute(f"aria-{name}") for name in ("level", "posinset", "setsize", "rowindex")]
    assert told == ["2", "5", "19", "46"]
    expect(row).to_be_in_viewport()


def test_labels_are_text_everywhere(ines_page: Page, world: World) -> None:
    page = ines_page
    opened(page, made(world, "Marks", '"<img src=x onerror=alert(1)>" -> /x\n"<b>bold</b>:" -> /y'))
    page.on("dialog", lambda dialog: pytest.fail("a label was run"))
    expect(page.get_by_text("<b>bold</b>:").first).to_be_visible()
    assert page.locator("main img, main b").count() == 0
