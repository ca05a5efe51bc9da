"""Putting live and signing in and out, as the interface shows them; the stand-ins on a small screen."""

import re

import httpx
import psycopg
from playwright.sync_api import BrowserContext, Page, expect

from sign_shelf.core.outline import format_outline
from sign_shelf.demo.seed import PASSWORD
from tests.browser import labels
from tests.browser.conftest import World, signed_in
from tests.browser.outline_page import choose, opened, put_live


def renamed(page: Page, menu: str, label: str, addition: str) -> None:
    opened(page, menu)
    choose(page, label)
    page.keyboard.press("End")
    page.keyboard.type(addition)
    expect(page.get_by_text(re.compile("^draft"))).to_be_visible()


def test_pressing_twice_releases_once(ines_page: Page, world: World) -> None:
    page = ines_page
    site = world.sites["thornby"]
    writes = site.places.writes
    renamed(page, "/sites/thornby/menus/legal", "Terms", " and conditions")
    page.get_by_role("button", name=labels.PUT_LIVE).click()
    page.get_by_role("button", name=labels.PUT_THIS_LIVE).dblclick()
    expect(page.get_by_text(labels.LIVE_AND_VERIFIED)).to_be_visible(timeout=60_000)
    assert site.places.writes == writes + 1
    with psycopg.connect(world.address) as connection:
        made = connection.execute(
            "SELECT count(*) FROM release JOIN site ON site.id = release.site_id WHERE site.key = 'thornby'"
        ).fetchone()
    assert made == (1,)
    page.goto("/ledger")
    expect(page.get_by_role("row").filter(has_text="is live and verified").filter(has_text="thornby")).to_have_count(1)


def test_a_release_that_fails_says_why_and_keeps_the_edits(ines_page: Page, world: World) -> None:
    page = ines_page
    site = world.sites["vesper"]
    renamed(page, "/sites/vesper/menus/footer", "Pers", " en beeld")
    right = site.places.secret
    site.places.secret = "whsec_AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"
    try:
        put_live(page)
        expect(page.get_by_role("alert")).to_contain_text("declined with 401", timeout=60_000)
    finally:
        site.places.secret = right
    page.reload()
    page.get_by_role("row").first.wait_for()
    expect(page.get_by_role("alert")).to_contain_text("not live")
    expect(page.get_by_text("draft, 1 edit")).to_be_visible()
    put_live(page)
    expect(page.get_by_text(labels.LIVE_AND_VERIFIED)).to_be_visible(timeout=60_000)
    page.goto("/shelf")
    expect(page.get_by_role("region", name="Vesper Quay Festival").get_by_text("draft", exact=True)).to_have_count(0)


def test_what_goes_live_on_a_site_that_is_only_looked_at_is_done_by_hand(ines_page: Page, world: World) -> None:
    """Ticked off under Sync, and live once the site's own page shows it."""
    page, site = ines_page, world.sites["kestrel"]
    before = dict(site.places.placed)
    with psycopg.connect(world.address, autocommit=True) as connection:
        connection.execute("UPDATE site SET connection = 'observe' WHERE key = 'kestrel'")
        try:
            begun = page.request.post(
                "/api/sites/kestrel/changes", data={"title": "Cookies"},
                headers={"origin": world.base, "idempotency-key": "cookies"},
            )  # fmt: skip
            assert begun.ok, begun.text()
            renamed(page, "/sites/kestrel/menus/footer", "Privacy", " and cookies")
            put_live(page)
            page.get_by_role("link", name="to be done on the site by hand").click(timeout=60_000)
            to_do = page.get_by_role("region", name=labels.TO_BE_DONE_ON_THE_SITE)
            expect(to_do.get_by_text("0 of 1 ticked")).to_be_visible()
            to_do.get_by_label(labels.RELABEL_PRIVACY_TO_PRIVACY_AND_COOKIES).check()
            expect(to_do.get_by_text("1 of 1 ticked")).to_be_visible()
            expect(to_do).to_contain_text('does not show "Privacy and cookies"', timeout=60_000)
            outline = format_outline(site.places.placed["footer", "desktop"].menu)
            assert "Privacy ->" in outline
            answer = httpx.post(
                f"{site.base}back-office/footer/desktop", trust_env=False,
                data={"outline": outline.replace("Privacy ->", "Privacy and cookies ->"), "who": "A client"},
            )  # fmt: skip
            assert answer.status_code == 303
            to_do.get_by_role("button", name=labels.LOOK_WHETHER_THE_SITE_SHOWS_IT).click()
            expect(to_do).to_have_count(0, timeout=60_000)
            page.goto("/ledger")
            live = page.get_by_role("row").filter(has_text="carried out by hand, read back on the page")
            expect(live).to_have_count(1)
        finally:
            site.places.placed = before
            connection.execute("UPDATE site SET connection = 'endpoint' WHERE key = 'kestrel'")


def test_a_connection_is_set_up_by_trying_it_out_first(ines_page: Page) -> None:
    """What is wrong is told, what was typed stays, and nothing is another afterwards."""
    page = ines_page
    page.goto("/sites/thornby")
    page.get_by_role("link", name="how it gets its menus").click()
    expect(page.get_by_role("button", name=labels.WE_SEND_IN_USE)).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name=labels.TRY_IT_OUT).click()
    out = page.get_by_role("region", name=labels.HOW_IT_CAME_OUT)
    expect(out.get_by_role("heading", name=labels.IT_DOES_ALL_OF_IT)).to_be_visible(timeout=60_000)
    page.get_by_role("button", name=re.compile("^We commit")).click()
    address = page.get_by_label(labels.ADDRESS_OF_THE_GIT_REPOSITORY)
    address.fill("http://git.example/thornby.git")
    page.get_by_role("button", name=labels.TRY_IT_OUT).click()
    expect(out.get_by_role("heading", name=labels.ONE_THING_IS_WRONG)).to_be_visible()
    expect(out).to_contain_text("Write it like https://git.example/client/site.git")
    expect(address).to_have_value("http://git.example/thornby.git")
    page.get_by_role("button", name=re.compile("^We only look")).click()
    page.get_by_role("button", name=labels.TRY_IT_OUT).click()
    expect(out).to_contain_text("show Fixed header on the desktop", timeout=60_000)
    expect(page.get_by_role("button", name=labels.FROM_NOW_ON_WE_ONLY_LOOK)).to_be_visible()
    page.reload()
    expect(page.get_by_role("button", name=labels.WE_SEND_IN_USE)).to_be_visible()


def test_signing_out_ends_the_session_and_an_ended_session_asks_again(context: BrowserContext, world: World) -> None:
    page = signed_in(context, "mara")
    page.goto("/")
    cookie = next(one for one in context.cookies() if one["name"] == "sign_shelf_session")
    assert (cookie["httpOnly"], cookie["sameSite"]) == (True, "Lax")
    page.get_by_role("button", name=labels.SIGN_OUT).click()
    expect(page.get_by_label(labels.PASSWORD)).to_be_visible()
    with httpx.Client(base_url=world.base, trust_env=False, cookies={cookie["name"]: cookie["value"]}) as thief:
        assert thief.get("/api/shelf").status_code == 401
    page.goto("/sites/thornby/menus/header")
    expect(page.get_by_label(labels.PASSWORD)).to_be_visible()
    page.get_by_label(labels.E_MAIL_ADDRESS).fill("mara@quillfen.example")
    page.get_by_label(labels.PASSWORD).fill(PASSWORD)
    page.get_by_role("button", name=labels.SIGN_IN).click()
    expect(page.get_by_role("treegrid")).to_be_visible()


def test_the_pages_of_a_site_are_searched_and_say_where_they_are(ines_page: Page) -> None:
    page = ines_page
    page.goto("/sites/brackwater")
    page.get_by_role("link", name="28 pages").click()
    rows = page.get_by_role("row")
    expect(rows).to_have_count(29)
    page.get_by_role("searchbox").fill("regatta")
    expect(rows).to_have_count(2)
    expect(rows.nth(1)).to_contain_text("/offers/regatta")
    page.get_by_role("searchbox").fill("skerry")
    expect(rows.nth(1)).to_contain_text("in no menu")


def test_what_is_kept_of_a_site_is_chosen(ines_page: Page, world: World) -> None:
    """A menu that is unticked is not kept; a site that is on the shelf already is told apart by its address."""
    page = ines_page
    page.goto("/take-in")
    page.get_by_label(labels.ADDRESS_OF_ITS_HOME_PAGE).fill(world.sites["thornby"].base)
    page.get_by_role("button", name=labels.READ_IT).click()
    expect(page.get_by_role("heading", name=labels.N_4_MENUS_22_PAGES)).to_be_visible(timeout=60_000)
    page.get_by_label(labels.TODAY).uncheck()
    expect(page.get_by_label(labels.TODAY)).not_to_be_checked()
    expect(page.get_by_label(labels.ITS_CLOCK)).to_have_value("America/Halifax")
    page.get_by_label(labels.KEY_FOR_ADDRESSES).fill("thornby-two")
    page.get_by_role("button", name=labels.PUT_IT_ON_THE_SHELF).click()
    expect(page.get_by_role("alert")).to_contain_text("Thornby Heritage Railway has the address")
    expect(page.get_by_label(labels.KEY_FOR_ADDRESSES)).to_have_value("thornby-two")


def test_the_stand_ins_fold_into_a_drawer_on_a_phone(page: Page, world: World) -> None:
    page.goto(world.sites["brackwater"].base)
    expect(page.get_by_role("navigation", name="Header bar")).to_be_visible()
    expect(page.get_by_text("Menu", exact=True)).to_be_hidden()
    page.set_viewport_size({"width": 390, "height": 800})
    expect(page.get_by_role("navigation", name="Header bar")).to_be_hidden()
    page.get_by_text("Menu", exact=True).click()
    drawer = page.get_by_role("navigation", name="Phone drawer")
    expect(drawer.get_by_role("link", name="Contact")).to_be_visible()
    drawer.get_by_role("link", name="Contact").click()
    expect(page.get_by_role("heading", name=labels.CONTACT)).to_be_visible()
    page.get_by_role("button", name=labels.ASK_US).click()
    expect(page.get_by_role("dialog")).to_be_visible()


def test_before_anything_goes_live_it_is_told_and_what_stops_it_does(ines_page: Page, world: World) -> None:
    page = ines_page
    renamed(page, "/sites/thornby/menus/header", "Shop", " online")
    page.get_by_role("button", name=labels.PUT_LIVE).click()
    sheet = page.get_by_role("dialog", name="Going live at Thornby Heritage Railway")
    header = sheet.get_by_role("region", name=labels.HEADER)
    expect(header).to_contain_text("for everybody")
    expect(header.get_by_role("listitem").filter(has_text="Shop online")).to_be_visible()
    expect(sheet.get_by_role("button", name=labels.PUT_THIS_LIVE)).to_be_focused()
    page.keyboard.press("Escape")
    expect(sheet).to_have_count(0)
    choose(page, "Give")
    page.keyboard.press("Enter")
    page.keyboard.type("Press room")
    page.keyboard.press("Tab")
    page.keyboard.press("Shift+Tab")
    page.goto("/sites/thornby")
    page.get_by_role("button", name=labels.PUT_LIVE).click()
    expect(sheet.get_by_text("Press room leads nowhere yet")).to_have_count(0)
    expect(sheet.get_by_role("listitem").filter(has_text="Press room")).to_be_visible()
    # With another menu beside it, one can be left for later.
    sheet.get_by_role("button", name=labels.NOT_YET).click()
    expect(sheet).to_have_count(0)
    renamed(page, "/sites/thornby/menus/side", "Parking", " and bus")
    page.get_by_role("button", name=labels.PUT_LIVE).click()
    sheet.get_by_role("button", name=labels.LEAVE_VISITING_OUT).click()
    expect(sheet.get_by_role("status")).to_contain_text("Left for later, as the change “Visiting, left out of ")
    expect(sheet.get_by_role("region", name=labels.VISITING)).to_have_count(0)
    expect(header).to_be_visible()
    sheet.get_by_role("button", name=labels.NOT_YET).click()
    # The bench that is open shows it as it was, and the other change has it.
    expect(page.get_by_role("row").filter(has_text="Parking and bus")).to_have_count(0)
    page.get_by_role("button", name=labels.CHANGE).click()
    page.get_by_role("menuitemradio", name=re.compile("^Visiting, left out of ")).click()
    expect(page.get_by_role("row").filter(has_text="Parking and bus")).to_be_visible()
