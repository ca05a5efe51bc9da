"""Work that is kept: two people, outages, what comes in and goes out, the past, and any way to a view: jobs I to L."""

import re
from collections.abc import Callable

from playwright.sync_api import Browser, BrowserContext, Page, Route, expect

from sign_shelf.demo.seed import PASSWORD
from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.hands import hands
from tests.browser.outline_page import change_of, lines, made, offers, outline_of, reads_of, unheard
from tests.browser.waiting import eventually

LINES = "Times -> /times\nFares -> /fares\nRide:\n  Sunday -> /sunday"


def test_i_two_people_an_outage_a_reload_and_a_sign_out_elsewhere(
    context: BrowserContext, browser: Browser, browser_context_args: dict[str, object], world: World
) -> None:
    menu = made(world, "Both of us", LINES)
    other = browser.new_context(**browser_context_args)  # type: ignore[arg-type]
    with hands(context) as ines, hands(other, "tom") as tom:
        unheard(ines.page, menu)
        ines.page.goto(menu)
        expect(ines.page.get_by_role("row").first).to_be_focused()
        tom.page.goto(f"{menu}?in={change_of(world, 'thornby')}")
        expect(tom.page.get_by_role("row").first).to_be_focused()
        tom.press("F2", "End")
        tom.type(" of day")
        tom.saved()
        ines.press("ArrowDown", "F2", "End")
        ines.type(" by tram")
        expect(ines.page.get_by_text(re.compile("merged with Tom Arkwright"))).to_be_visible()
        ines.press("Escape", "Control+z")
        # Undo takes back one's own: Tom's words stay. That is saved, and on his page too, before they go on.
        assert lines(ines.page)[:2] == ["1 Times of day", "2 Fares"]
        eventually(lambda: "Fares -> /fares" in outline_of(world, menu))
        eventually(lambda: lines(tom.page)[:2] == ["1 Times of day", "2 Fares"])
        # Both in one line, and neither has seen the other's: asked field by field.
        tom.press("Escape", "ArrowDown", "F2", "End")
        tom.type(" theirs")
        tom.saved()
        ines.press("F2", "End")
        ines.type(" mine")
        met = ines.page.get_by_role("dialog", name=labels.TWO_EDITS_MEET)
        expect(met).to_contain_text("Fares mine")
        ines.page.unroute(reads_of(menu))
        ines.push(met.get_by_role("radio", name=re.compile("^mine")), "Space")
        ines.button("Save this", met)
        expect(met).to_have_count(0)
        ines.saved()
        assert "Fares mine -> /fares" in outline_of(world, menu)
        # The line is gone for a while; what is typed stays, also over a reload, and is saved once it is back.

        def gone(route: Route) -> None:
            route.abort() if route.request.method == "PUT" else route.continue_()

        ines.page.route(reads_of(menu), gone)
        ines.reach(ines.page.get_by_role("treegrid"))
        ines.press("End", "Enter")
        ines.type("Typed in a tunnel")
        expect(ines.page.get_by_text("not saved, trying again")).to_be_visible()
        ines.page.unroute(reads_of(menu))
        expect(ines.page.get_by_text(labels.SAVED)).to_be_visible(timeout=60_000)
        assert "Typed in a tunnel" in outline_of(world, menu)
        # Signed out elsewhere: signing in is over the page, and goes on where one was.
        ines.page.context.clear_cookies()
        ines.press("Enter")
        ines.type("Said while away")
        again = ines.page.get_by_role("dialog", name=labels.YOU_ARE_SIGNED_OUT)
        expect(again).to_be_visible()
        ines.sign_in_again(again)
        ines.saved()
        assert "Said while away" in outline_of(world, menu)
        ines.errors.clear()  # What the line and the ended session made the browser say.
        # Who saves second is told that another was first, and merges.
        tom.errors[:] = [said for said in tom.errors if "412" not in said]
    other.close()


def test_j_a_site_after_a_wrong_address_and_a_wrong_key_and_lists_in_and_out(
    context: BrowserContext, world: World
) -> None:
    menu = made(world, "In and out", "Home -> /\n", site="brackwater")
    with hands(context) as at:
        page = at.page
        at.where_to("take in", "Take in a site")
        address = page.get_by_label(labels.ADDRESS_OF_ITS_HOME_PAGE)
        at.fill(address, "http://127.0.0.1:9/")
        at.press("Enter")
        expect(page.get_by_role("alert")).to_be_visible(timeout=60_000)
        expect(address).to_have_value("http://127.0.0.1:9/")
        at.fill(address, world.sites["hollin"].base)
        at.press("Enter")
        expect(page.get_by_text("2 menus, 14 pages")).to_be_visible(timeout=60_000)
        at.fill(page.get_by_label(labels.KEY_FOR_ADDRESSES), "hollin-two")
        at.fill(page.get_by_label(labels.SIGNING_KEY), "whsec_" + "A" * 44)
        at.button("Put it on the shelf")
        expect(page.get_by_role("alert")).to_contain_text(re.compile("does not know this signing key|already"))
        expect(page.get_by_label(labels.KEY_FOR_ADDRESSES)).to_have_value("hollin-two")
        at.errors.clear()  # The refusals.
        # A list as people have it: asked which column is what, told which titles are pages, before anything is kept.
        at.where_to("in and out", "In and out")
        expect(page.get_by_role("row").first).to_be_focused()
        at.button("Bring in")
        sheet = page.get_by_role("dialog")
        at.fill(sheet.get_by_label(labels.WHAT_TO_BRING_IN), "Titel;Ziel\nBoten;/boats\nTimetables;\n")
        at.button("Read it", sheet)
        columns = sheet.get_by_role("region", name=labels.WHICH_COLUMN_IS_WHAT)
        expect(columns).to_contain_text("Which column is what?")
        expect(columns.get_by_label(labels.COLUMN_2_ZIEL)).to_have_value("target")
        expect(sheet.get_by_text("1 title without an address: 1 found among the pages")).to_be_visible()
        at.button("Bring in", sheet)
        expect(page.get_by_role("row").nth(1)).to_be_focused()
        at.saved()
        assert outline_of(world, menu).splitlines()[1:] == ["Home -> /", "Boten -> /boats", "Timetables -> @timetables"]
        # Find and replace shows each place first.
        at.button("replace")
        at.fill(sheet.get_by_label(labels.FIND, exact=True), "bo")
        at.fill(sheet.get_by_label(labels.REPLACE_BY), "Stoombo")
        expect(sheet.get_by_role("status")).to_have_text("2 places")
        at.push(sheet.get_by_role("checkbox", name=re.compile("^Replace in 2, .boats")), "Space")
        at.button("Replace 1", sheet)
        at.saved()
        assert "Stoomboten -> /boats" in outline_of(world, menu)
        # Every format out, from its menu.
        for says in (
            "Outline text",
            "Menu document (JSON)",
            "HTML",
            "OPML 2.0",
            "CSV, for a spreadsheet",
            "Linkset (RFC 9264)",
            "JSON-LD",
        ):
            with page.expect_download() as taken:
                at.menu(page.get_by_role("button", name=labels.TAKE_OUT), says)
            assert taken.value.path().stat().st_size > 20, says


def test_k_what_changed_the_past_and_one_back(context: BrowserContext, world: World) -> None:
    menu = made(world, "Looked back on", LINES)
    with hands(context) as at:
        page = at.page
        page.goto(menu)
        expect(page.get_by_role("row").first).to_be_focused()
        at.press("Delete")
        at.saved()
        at.push(page.get_by_role("button", name=re.compile("^What did I change")))
        expect(page.get_by_role("dialog")).to_be_visible()
        at.press("Escape")
        at.button("Past")
        past = page.get_by_role("dialog")
        expect(past).to_contain_text("Ines Calder")
        at.press("Escape")
        expect(past).to_have_count(0)
        at.reach(page.get_by_role("treegrid"))
        at.press("Control+z")
        expect(page.get_by_role("row").first).to_contain_text("Times")
        at.saved()
        eventually(lambda: "Times -> /times" in outline_of(world, menu))
        at.where_to("ledger", "Ledger")
        expect(page.get_by_role("heading", name=labels.LEDGER)).to_be_focused()
        at.pick(page.get_by_label(labels.AT, exact=True), "Thornby Heritage Railway")
        expect(page.get_by_role("row").nth(1)).to_contain_text("Thornby Heritage Railway")
        at.fill(page.get_by_label(labels.DAY, exact=True), "1 Jan 2020")
        at.press("Enter")
        expect(page.get_by_text("Nothing was done that answers to this.")).to_be_visible()


def test_l_any_way_to_a_view_at_any_width_and_light(context: BrowserContext, world: World) -> None:
    menu = made(world, "From anywhere", LINES)
    with hands(context) as at:
        page = at.page
        page.goto(menu)
        expect(page.get_by_role("row").first).to_be_focused()
        at.press("ArrowDown")
        expect(page).to_have_url(re.compile("#fares$"))
        expect(page).to_have_title(re.compile("From anywhere · Thornby"))
        at.where_to("shelf", "Shelf")
        page.go_back()
        expect(page.get_by_role("row").nth(1)).to_be_focused()
        page.go_forward()
        expect(page.get_by_role("heading", name=labels.SHELF, exact=True)).to_be_visible()
        for wrong, says in (
            ("/nowhere/at/all", "Nothing hangs at this address"),
            ("/sites/atlantis", "no site"),
            ("/sites/thornby/menus/gone", "no menu"),
        ):
            page.goto(wrong)
            expect(page.get_by_text(re.compile(says, re.IGNORECASE)).first).to_be_visible()
        at.errors.clear()  # What the unknown addresses were answered with.
        at.where_to("you", re.compile("You"))
        at.radio(page.get_by_role("group", name=labels.LIGHT), "dark")
        dark = page.evaluate("getComputedStyle(document.body).backgroundColor")
        at.radio(page.get_by_role("group", name=labels.LIGHT), "light")
        assert page.evaluate("getComputedStyle(document.body).backgroundColor") != dark
        for width, height in ((390, 800), (640, 400)):
            page.set_viewport_size({"width": width, "height": height})
            page.goto(menu)
            expect(page.get_by_role("treegrid")).to_be_visible()
            assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), width
        page.emulate_media(media="print")
        expect(page.get_by_role("heading", name=re.compile("From anywhere"))).to_be_visible()
        expect(page.get_by_role("navigation", name="Sign Shelf")).to_be_hidden()


def test_the_first_useful_minute_takes_twelve_actions(page: Page, world: World) -> None:
    """From the first key of the sign-in to an entry that the client's own page shows. A key, a click, and words typed in one
    go are an action each."""
    done: list[str] = []

    def act(says: str, how: Callable[[], object]) -> None:
        done.append(says)
        how()

    page.goto("/")
    expect(page.get_by_label(labels.E_MAIL_ADDRESS)).to_be_focused()
    act("address", lambda: page.keyboard.type("ines@quillfen.example"))
    act("to the password", lambda: page.keyboard.press("Tab"))
    act("password", lambda: page.keyboard.type(PASSWORD))
    act("sign in", lambda: page.keyboard.press("Enter"))
    board = page.get_by_role("region", name="Vesper Quay Festival")
    act("the footer's sign", lambda: board.get_by_role("link", name=re.compile("^Footer columns: ")).click())
    expect(page.get_by_role("row").first).to_be_focused()
    act("a new line", lambda: page.keyboard.press("Enter"))
    act("its words", lambda: page.keyboard.type("Minuut ->/minuut"))
    expect(offers(page, selected=True)).to_contain_text("/minuut")
    act("its address", lambda: page.keyboard.press("Enter"))
    act("what goes", lambda: page.get_by_role("button", name=labels.PUT_LIVE).click())
    expect(page.get_by_role("button", name=labels.PUT_THIS_LIVE)).to_be_focused()
    act("live", lambda: page.keyboard.press("Enter"))
    expect(page.get_by_text(labels.LIVE_AND_VERIFIED)).to_be_visible(timeout=60_000)
    with page.context.expect_page() as opened:
        act("look", lambda: page.get_by_role("link", name="open the live page").click())
    expect(opened.value.get_by_role("link", name="Minuut")).to_be_visible()
    assert len(done) <= 12, done
