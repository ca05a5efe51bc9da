"""Refreshes docs/screenshots: one picture of each main view, from the demo data."""

import html
import re
from contextlib import suppress
from pathlib import Path

import httpx
from playwright.sync_api import Page, TimeoutError, expect

from bench.world import running_demo, signed_in_page

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"


def picture(page: Page, name: str) -> None:
    # The pages' search gives up requests that typing overtakes, and a page with one of those is never told to be idle.
    with suppress(TimeoutError):
        page.wait_for_load_state("networkidle", timeout=4_000)
    page.screenshot(path=FOLDER / f"{name}.png", animations="disabled")
    print(f"docs/screenshots/{name}.png")


def _drawn(page: Page, label: str, words: str) -> None:
    """Waits until a frame has its drawing."""
    expect(page.frame_locator(f'iframe[title="{label}"]').get_by_text(words).first).to_be_visible()


def _site(page: Page) -> None:
    """The site's page, and the views beside it."""
    page.goto("/sites/brackwater")
    _drawn(page, "The page of Brackwater Ferries on a desktop", "Timetables")
    picture(page, "site")
    page.goto("/setup")
    expect(page.get_by_role("row").filter(has_text="Dome")).to_be_visible()
    picture(page, "setup")
    page.goto("/ledger")
    expect(page.get_by_role("row").nth(2)).to_be_visible()
    picture(page, "ledger")
    page.goto("/findings")
    page.get_by_role("button", name=re.compile(r"live\.brackwater\.example")).click(timeout=90_000)
    expect(page.get_by_role("region", name="What was asked")).to_be_visible()
    picture(page, "findings")
    page.goto("/sites/thornby/pages")
    expect(page.get_by_role("region", name="New pages")).to_be_visible()
    expect(page.get_by_text("no way").first).to_be_visible()
    picture(page, "pages")
    page.goto("/placeholders")
    expect(page.get_by_role("region", name="Owed by Tom Arkwright")).to_be_visible()
    picture(page, "placeholders")


def _visitors(page: Page) -> None:
    """Who sees what: the matrix with a trace."""
    page.goto("/sites/brackwater/audiences/header?at=2027-02-01T09:00")
    page.get_by_role("gridcell", name=re.compile("^Crew rota, visitor on a desktop")).click()
    expect(page.get_by_role("region", name="Why").get_by_text("hidden")).to_be_visible()
    picture(page, "audiences")


def _before_it_goes(page: Page) -> None:
    """A change before it goes live."""
    page.goto("/sites/kestrel/menus/footer")
    page.get_by_role("row").first.locator("[role=gridcell]").first.click()
    page.keyboard.press("Alt+ArrowDown")
    expect(page.get_by_text(re.compile(r"^saved \d"))).to_be_visible()
    expect(page.get_by_text("draft, 1 edit")).to_be_visible()
    page.goto("/changes")
    page.get_by_role("region", name="Drafts").get_by_role("button").filter(has_text="Kestrel Vale").first.click()
    page.get_by_role("button", name="Ask for a review").click()
    expect(page.get_by_role("region", name="In review")).to_be_visible()
    picture(page, "changes")


def _in_sync(page: Page, base: str) -> None:
    """What somebody did in a site's own back office; a sweep over all sites; a place of three of them side by side."""
    with httpx.Client(base_url=base, trust_env=False, timeout=30) as office:
        form = re.search(
            r'aria-label="header on a desktop">(.*?)</textarea>', office.get("back-office").text, re.DOTALL
        )
        assert form is not None
        outline = html.unescape(form[1]).replace("Timetables", "Sailing times", 1) + "\nGift vouchers -> /gifts"
        office.post("back-office/header/desktop", data={"outline": outline, "who": "Petra at Brackwater"})
    page.goto("/sync?site=brackwater")
    page.get_by_role("button", name="Read now").click()
    expect(page.get_by_role("region", name="header on the desktop")).to_contain_text("Petra", timeout=60_000)
    picture(page, "sync")
    page.goto("/sweep?query=label:privacy")
    page.get_by_role("textbox", name="to", exact=True).fill("/privacy-policy")
    page.get_by_role("button", name="See what comes of it").click()
    expect(page.get_by_role("status").filter(has_text="would be edited")).to_be_visible()
    page.get_by_role("region").get_by_role("button", pressed=False).first.click()
    picture(page, "sweep")
    page.goto("/compare?sites=brackwater,vesper,kestrel&location=footer")
    expect(page.get_by_role("columnheader")).to_have_count(3)
    picture(page, "compare")


def _connection(page: Page) -> None:
    """Another way for a site to get its menus, tried out before it is used."""
    page.goto("/sites/brackwater/connection")
    page.get_by_role("button", name=re.compile("^It asks us")).click()
    page.get_by_role("button", name="Try it out").click()
    expect(page.get_by_role("heading", name=re.compile("things are wrong"))).to_be_visible(timeout=30_000)
    picture(page, "connection")


def _close(page: Page) -> None:
    page.goto("/shelf?order=by+client&dense=true")
    expect(page.get_by_role("heading", name="Cinderfield Repair Cafés")).to_be_visible()
    page.get_by_role("button", name="keep this view").click()
    page.get_by_label("What this view is called").fill("Clients")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("button", name="Clients", pressed=True)).to_be_visible()
    picture(page, "shelf-close")


def _shared(page: Page) -> None:
    """The shared legal line with the small sites that follow it, and what rolling it forward would do."""
    page.goto("/shared?menu=legal")
    expect(page.get_by_role("region", name="Followers")).to_contain_text("12 behind", timeout=90_000)
    page.get_by_role("button", name="Three sites first").click()
    page.get_by_role("button", name=re.compile("adjustment")).first.click()
    expect(page.get_by_role("list", name="What it does")).to_contain_text("Accessibility")
    picture(page, "shared")


def _calendar(page: Page) -> None:
    page.goto("/calendar")
    expect(page.get_by_role("region", name="What will be different")).to_contain_text("look at it")
    picture(page, "calendar")


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with running_demo() as (base, sites), signed_in_page(base) as page:
        expect(page.get_by_role("link", name=re.compile("^Top strip")).first).to_be_visible(timeout=30_000)
        picture(page, "shelf")
        _site(page)
        _visitors(page)
        page.goto("/sites/brackwater/menus/header")
        page.get_by_text("Café", exact=True).last.click()
        page.keyboard.press("Enter")
        page.keyboard.type("Quiet lounge ->")
        page.keyboard.type("on board")
        expect(
            page.get_by_role("listbox", name="Targets").get_by_role("option", name="Café and galley")
        ).to_be_visible()
        picture(page, "bench")
        page.keyboard.press("Escape")
        _before_it_goes(page)
        _in_sync(page, sites["Brackwater Ferries"])
        _connection(page)
        _shared(page)
        _close(page)
        _calendar(page)
        page.goto("/take-in")
        page.get_by_label("Address of its home page").fill(sites["Hollin Moor Observatory"])
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="Put it on the shelf")).to_be_visible(timeout=20_000)
        picture(page, "take-in")
        page.goto("/you")
        page.get_by_label("What the program is for").fill("nightly link check")
        page.get_by_role("button", name="Make a token").click()
        page.get_by_label("The secret, to be copied").wait_for()
        picture(page, "you")


main()
