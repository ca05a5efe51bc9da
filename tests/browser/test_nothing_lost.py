"""Nothing typed is lost, and nobody's words are saved under another's name: ended sessions, outages, two people."""

import re
from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Route, expect

from tests.browser import labels
from tests.browser.conftest import World, client_of, signed_in
from tests.browser.outline_page import change_of, choose, drawn, lines, made, opened, outline_of, unheard
from tests.browser.waiting import eventually

AGAIN = "You are signed out"


@pytest.fixture
def menu(world: World) -> str:
    return made(world, "Kept", "Shop -> /shop\nTimes -> /times\nFares -> /fares\n")


@pytest.fixture
def second(browser: Browser, browser_context_args: dict[str, Any], menu: str) -> Iterator[Page]:
    """The same menu on a bench in another browser, where somebody works as well."""
    context: BrowserContext = browser.new_context(**browser_context_args)
    page = signed_in(context, "ines")
    opened(page, menu)
    yield page
    context.close()


@pytest.fixture
def toms(tom_page: Page, ines_page: Page, menu: str, world: World) -> Page:
    """The same menu on a colleague's bench, in the same change."""
    opened(tom_page, f"{menu}?in={change_of(world, 'thornby')}")
    return tom_page


def typed(page: Page, label: str, words: str) -> None:
    choose(page, label)
    page.keyboard.press("End")
    page.keyboard.type(words)


def signed_in_again(page: Page) -> None:
    again = page.get_by_role("dialog", name=AGAIN)
    again.get_by_label(labels.PASSWORD).fill("quillfen-demo")
    again.get_by_role("button", name=labels.SIGN_IN_AND_GO_ON).click()
    expect(again).to_have_count(0)


def test_an_ended_session_is_signed_into_over_the_page(ines_page: Page, menu: str) -> None:
    """As the same person, and what was typed is saved then, without another key."""
    page = ines_page
    opened(page, menu)
    drawn(page)
    typed(page, "Shop", " win")
    page.context.clear_cookies()
    page.keyboard.type("dow")
    expect(page.get_by_role("dialog", name=AGAIN)).to_contain_text("Ines Calder")
    assert page.locator("[role=row]").count() == 3, "the page is still there"
    again = page.get_by_role("dialog", name=AGAIN)
    again.get_by_label(labels.PASSWORD).fill("not it at all")
    again.get_by_role("button", name=labels.SIGN_IN_AND_GO_ON).click()
    expect(again.get_by_role("alert")).to_be_visible()
    signed_in_again(page)
    expect(page.get_by_text(labels.SAVED)).to_be_visible()
    page.reload()
    page.get_by_role("row").first.wait_for()
    assert "1 Shop window" in lines(page)


def test_nobody_saves_under_the_name_of_who_signed_in_since(ines_page: Page, menu: str, world: World) -> None:
    """In another tab of the browser somebody else signs in: this page stays hers, and asks for her."""
    page = ines_page
    opened(page, menu)
    drawn(page)
    with client_of(world.base, "tom") as tom:
        his = dict(tom.cookies)
    choose(page, "Shop")
    page.keyboard.press("End")
    page.context.clear_cookies()
    page.context.add_cookies([{"name": name, "value": value, "url": world.base} for name, value in his.items()])
    page.keyboard.type(" by Ines")
    expect(page.get_by_role("dialog", name=AGAIN)).to_contain_text("Ines Calder")
    toms = page.context.new_page()
    assert "by Ines" not in outline_of(world, menu)
    toms.goto(f"{menu}?in={change_of(world, 'thornby')}")
    toms.get_by_role("row").first.wait_for()
    assert lines(toms)[0] == "1 Shop", "what she typed is not offered to him"
    toms.close()
    signed_in_again(page)
    eventually(lambda: "Shop by Ines" in outline_of(world, menu))


def test_what_cannot_be_saved_is_announced_and_saved_once_the_line_is_back(
    ines_page: Page, menu: str, world: World
) -> None:
    page = ines_page
    opened(page, menu)
    saves = f"**/api{menu}*"

    def away(route: Route) -> None:
        if route.request.method == "PUT":
            route.abort()
        else:
            route.continue_()

    page.route(saves, away)
    typed(page, "Times", " of day")
    expect(page.get_by_text("not saved, trying again")).to_be_visible()
    page.get_by_role("link", name="Shelf").click()
    told = page.get_by_role("status").filter(has_text="1 edit of Kept of Thornby Heritage Railway is not saved yet")
    expect(told).to_be_visible()
    page.get_by_role("button", name=labels.SIGN_OUT).click()
    asked = page.get_by_role("alertdialog", name=labels.NOT_EVERYTHING_IS_SAVED_YET)
    expect(asked).to_contain_text("Kept")
    asked.get_by_role("button", name=labels.STAY).click()
    page.unroute(saves)
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(told).to_have_count(0)
    assert "Times of day" in outline_of(world, menu)


def test_a_failed_reading_stands_beside_the_work(ines_page: Page, menu: str, world: World) -> None:
    """The editor stays, with everything in it, and says how to try again."""
    page = ines_page
    opened(page, menu)
    typed(page, "Fares", " and passes")
    reads = f"**/api{menu}"

    def broken(route: Route) -> None:
        if route.request.method == "GET":
            route.fulfill(status=500, body="{}", content_type="application/json")
        else:
            route.continue_()

    page.route(reads, broken)
    page.context.set_offline(True)
    page.context.set_offline(False)
    expect(page.get_by_role("button", name=labels.TRY_AGAIN)).to_be_visible()
    assert "3 Fares and passes" in lines(page)
    page.unroute(reads)
    page.get_by_role("button", name=labels.TRY_AGAIN).click()
    expect(page.get_by_role("button", name=labels.TRY_AGAIN)).to_have_count(0)
    eventually(lambda: "Fares and passes" in outline_of(world, menu))


def test_a_merge_that_fails_is_tried_again_and_undo_takes_back_ones_own_step(
    ines_page: Page, second: Page, menu: str, world: World
) -> None:
    """A line typed elsewhere comes in under her hands; her undo leaves it."""
    page = ines_page
    opened(page, menu)
    typed(second, "Fares", " by tram")
    eventually(lambda: "Fares by tram" in outline_of(world, menu))
    merges = f"**/api{menu}/merge*"
    left = [2]

    def broken(route: Route) -> None:
        left[0] -= 1
        if left[0] >= 0:
            route.fulfill(status=503, body="{}", content_type="application/json")
        else:
            route.continue_()

    page.route(merges, broken)
    typed(page, "Shop", "!")
    expect(page.get_by_role("row").nth(2)).to_contain_text("Fares by tram")
    assert left[0] < 0
    eventually(lambda: "Shop!" in outline_of(world, menu))
    page.get_by_role("button", name=labels.UNDO).click()
    assert lines(page) == ["1 Shop", "2 Times", "3 Fares by tram"]
    expect(page.get_by_role("button", name=labels.UNDO)).to_be_disabled()
    eventually(lambda: "Shop!" not in outline_of(world, menu))
    assert "Fares by tram" in outline_of(world, menu)


def test_others_saves_arrive_without_ones_own(ines_page: Page, second: Page, menu: str) -> None:
    page = ines_page
    opened(page, menu)
    typed(second, "Fares", " by tram")
    expect(page.get_by_role("row").nth(2)).to_contain_text("Fares by tram")
    expect(page.get_by_role("button", name=labels.UNDO)).to_be_disabled()


def test_conflicts_are_settled_field_by_field_or_later(ines_page: Page, toms: Page, menu: str, world: World) -> None:
    page = ines_page
    unheard(page, menu)
    opened(page, menu)
    for words, where in ((" theirs", toms), (" mine", page)):
        typed(where, "Shop", words)
        if where is toms:
            eventually(lambda: "Shop theirs" in outline_of(world, menu))
    met = page.get_by_role("dialog", name=labels.TWO_EDITS_MEET)
    met.get_by_role("button", name=labels.DECIDE_LATER).click()
    typed(page, "Times", " still typed")
    page.get_by_role("button", name=labels.SETTLE_THEM).click()
    met.get_by_label(labels.MINE_SHOP_MINE).check()
    met.get_by_role("button", name=labels.SAVE_THIS).click()
    expect(met).to_have_count(0)
    eventually(lambda: "Shop mine" in outline_of(world, menu) and "Times still typed" in outline_of(world, menu))
    # Both can stand, each as an entry of its own.
    for words, where in ((" theirs", toms), (" of mine", page)):
        typed(where, "Fares", words)
        if where is toms:
            eventually(lambda: "Fares theirs" in outline_of(world, menu))
    met.get_by_label(labels.BOTH_EACH_AS_AN_ENTRY).check()
    expect(met.get_by_role("region", name=labels.MENU_WHAT_COMES_OF_IT)).to_contain_text("Fares theirs")
    met.get_by_role("button", name=labels.SAVE_THIS).click()
    expect(met).to_have_count(0)
    eventually(lambda: "Fares of mine" in outline_of(world, menu) and "Fares theirs" in outline_of(world, menu))


def test_two_windows_of_one_person_meet_without_being_asked(
    ines_page: Page, second: Page, menu: str, world: World
) -> None:
    """What was typed last holds, whatever the other window says; nothing else of either is lost."""
    unheard(ines_page, menu)
    opened(ines_page, menu)
    typed(second, "Shop", " there")
    typed(second, "Fares", " by tram")
    eventually(lambda: "Shop there" in outline_of(world, menu) and "Fares by tram" in outline_of(world, menu))
    typed(ines_page, "Shop", " here")
    eventually(lambda: "Shop here" in outline_of(world, menu))
    assert "Fares by tram" in outline_of(world, menu)
    expect(ines_page.get_by_role("dialog", name=labels.TWO_EDITS_MEET)).to_have_count(0)


def test_a_window_elsewhere_leaves_a_menu_to_the_bench_that_is_at_work_on_it(
    ines_page: Page, menu: str, world: World
) -> None:
    """What is kept in the browser stands in every window of it, and only one of them sends it."""
    opened(ines_page, menu)
    elsewhere = ines_page.context.new_page()
    elsewhere.goto(world.base)
    sent: list[str] = []
    for window, name in ((ines_page, "bench"), (elsewhere, "shelf")):
        window.on("request", lambda request, name=name: request.method == "PUT" and sent.append(name))
    typed(ines_page, "Shop", " here")
    for label in ("Shop here", "Shop here and there"):
        ines_page.keyboard.type(label.removeprefix("Shop here"))
        expect(elsewhere.get_by_text("of Kept of").first).to_be_visible()
        eventually(lambda label=label: f"{label} " in outline_of(world, menu))
        expect(elsewhere.get_by_text("of Kept of")).to_have_count(0)
    assert set(sent) == {"bench"}
    # The window at work is closed in the middle of it: now it is the other's.
    ines_page.route("**/menus/*", lambda route: route.abort() if route.request.method == "PUT" else route.continue_())
    typed(ines_page, "Fares", " by tram")
    expect(elsewhere.get_by_text("of Kept of")).to_be_visible()
    ines_page.close()
    eventually(lambda: "Fares by tram" in outline_of(world, menu), within_s=90)


def test_typing_is_taken_back_by_what_was_typed_at_once(ines_page: Page, menu: str) -> None:
    """Leaving the label ends a step, though the next one is typed in the same place."""
    page = ines_page
    opened(page, menu)
    typed(page, "Shop", " one")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowUp")
    page.keyboard.press("End")
    page.keyboard.type(" two")
    page.get_by_role("button", name=labels.UNDO).click()
    assert lines(page)[0] == "1 Shop one"
    page.get_by_role("button", name=labels.UNDO).click()
    assert lines(page)[0] == "1 Shop"


def test_keys_are_never_lost_to_a_slow_search(ines_page: Page, world: World) -> None:
    """What is typed while pages are searched stays where it was typed, and the search ends where it was asked for."""
    page = ines_page
    menu = made(world, "Slowly found", "First -> /first\n", site="brackwater")
    opened(page, menu)

    def slow(route: Route) -> None:
        page.wait_for_timeout(2_000)  # The line itself is what is slow here.
        route.continue_()

    page.route("**/api/sites/brackwater/pages*", slow)
    choose(page, "First")
    page.keyboard.press("Enter")
    page.keyboard.type("Prices ->islander pass", delay=20)
    page.keyboard.press("Enter")
    page.keyboard.press("Enter")
    page.keyboard.type("Typed meanwhile", delay=20)
    assert lines(page)[-2:] == ["2 Prices", "3 Typed meanwhile"]
    expect(page.get_by_role("row").nth(1)).to_contain_text("@fares-islander-pass", timeout=60_000)
    eventually(lambda: "Prices -> @fares-islander-pass" in outline_of(world, menu))
    assert "Typed meanwhile" in outline_of(world, menu)
    page.unroute("**/api/sites/brackwater/pages*")


def test_a_page_with_the_labels_title_is_one_enter_away_and_the_chooser_works_after_an_outage(
    ines_page: Page, world: World
) -> None:
    page = ines_page
    menu = made(world, "Titles", "First -> /first\n", site="brackwater")
    opened(page, menu)
    choose(page, "First")
    page.keyboard.press("Enter")
    page.keyboard.type("Timetables ->")
    expect(page.get_by_role("listbox", name=labels.TARGETS).get_by_role("option").first).to_contain_text("/timetables")
    page.keyboard.press("Enter")
    eventually(lambda: "Timetables -> @timetables" in outline_of(world, menu))
    pages = "**/api/sites/brackwater/pages*"
    page.route(pages, lambda route: route.abort())
    page.keyboard.press("Enter")
    page.keyboard.type("Book ->book a crossing")
    page.keyboard.press("Enter")
    expect(page.get_by_text("stands there as it is")).to_be_visible()
    page.unroute(pages)
    eventually(
        lambda: 'Book -> ? "book a crossing"' in outline_of(world, menu) or "book a crossing" in outline_of(world, menu)
    )
    # No page is found for the note: it stays, because somebody wrote it.
    with page.expect_response(pages):
        page.get_by_role("button", name=labels.CHOOSE).first.click()
    expect(page.get_by_role("combobox", name=labels.LEADS_TO)).to_have_value("book a crossing")
    page.get_by_role("combobox", name=labels.LEADS_TO).fill("fares")
    expect(page.get_by_role("listbox", name=labels.TARGETS).get_by_role("option").first).to_contain_text("/fares")


def test_a_sheet_with_edits_asks_before_it_closes(ines_page: Page) -> None:
    """A click beside it, Escape and its button: all ask, and going on finds everything as it was."""
    page = ines_page
    page.goto("/sites/thornby")
    page.get_by_role("button", name=labels.LOOK).first.click()
    sheet = page.get_by_role("dialog", name=re.compile("^The look of"))
    size = sheet.get_by_label(labels.SIZE_PX)
    size.fill("21")
    asked = page.get_by_role("alertdialog", name=labels.NOT_KEPT_YET)
    for leave in (
        lambda: page.mouse.click(10, 400),
        lambda: page.keyboard.press("Escape"),
        lambda: sheet.get_by_role("button", name=labels.CLOSE).click(),
    ):
        leave()
        asked.get_by_role("button", name=labels.GO_ON).click()
        expect(asked).to_have_count(0)
    expect(size).to_have_value("21")
    page.keyboard.press("Escape")
    asked.get_by_role("button", name=labels.THROW_IT_AWAY).click()
    expect(sheet).to_have_count(0)


def test_an_unknown_address_and_a_site_that_is_gone_say_where_to_go(ines_page: Page) -> None:
    page = ines_page
    page.goto("/no/such/view")
    expect(page.get_by_role("heading", name=labels.NOTHING_HANGS_AT_THIS_ADDRESS)).to_be_visible()
    expect(page).to_have_title("Nothing here · Sign Shelf")
    page.get_by_role("main").get_by_role("link", name="shelf").click()
    expect(page).to_have_title("Shelf · Sign Shelf")
    page.goto("/sites/nowhere/menus/header")
    expect(page.get_by_role("alert")).to_contain_text("nowhere")
    page.get_by_role("link", name="To the shelf").click()
    expect(page.get_by_role("heading", name=labels.SHELF, exact=True)).to_be_visible()


def test_the_menus_name_is_taken_back_like_all_else(ines_page: Page, menu: str, world: World) -> None:
    page = ines_page
    opened(page, menu)
    name = page.get_by_label(labels.NAME_OF_THE_MENU)
    name.fill("Called otherwise")
    typed(page, "Shop", "!")
    page.get_by_role("button", name=labels.UNDO).click()
    page.get_by_role("button", name=labels.UNDO).click()
    expect(name).to_have_value("Kept")
    page.get_by_role("button", name=labels.REDO).click()
    expect(name).to_have_value("Called otherwise")
    eventually(lambda: "Called otherwise" in outline_of(world, menu))


def test_half_a_rule_counts_as_unsaved_and_is_put_where_it_belongs(ines_page: Page, menu: str, world: World) -> None:
    page = ines_page
    opened(page, menu)
    choose(page, "Fares")
    item = page.get_by_role("region", name=labels.ITEM)
    item.get_by_text("type", exact=True).click()
    item.get_by_role("textbox", name=labels.RULE).fill("signed_in")
    expect(page.get_by_text("still being typed, not saved yet")).to_be_visible()
    # Away by key, without ever having left the field.
    page.keyboard.press("Control+.")
    page.keyboard.type("ledger")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name=labels.LEDGER)).to_be_visible()
    eventually(lambda: "when signed_in" in outline_of(world, menu))


def test_lines_that_differ_say_how_and_take_one_device_more_or_less(ines_page: Page, menu: str, world: World) -> None:
    page = ines_page
    opened(page, menu)
    choose(page, "Times")
    item = page.get_by_role("region", name=labels.ITEM)
    item.get_by_role("checkbox", name=labels.PHONE).uncheck()
    page.get_by_role("row").first.click()
    page.keyboard.press("Shift+ArrowDown")
    expect(item.get_by_text("differs")).to_be_visible()
    expect(item.get_by_role("checkbox", name=labels.PHONE)).to_have_js_property("indeterminate", True)
    item.get_by_role("checkbox", name=labels.TABLET).uncheck()
    expect(item.get_by_role("checkbox", name=labels.TABLET)).not_to_be_checked()

    def kept() -> bool:
        shop, times, *_ = outline_of(world, menu).splitlines()[1:]
        return times.endswith("{on desktop}") and "tablet" not in shop and "phone" in shop and "desktop" in shop

    eventually(kept)
