"""Who gets what, on which device, in which language, and whether it fits: jobs E to H, by keyboard alone."""

import re

from playwright.sync_api import BrowserContext, expect

from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.hands import Hands, hands, on_the_site
from tests.browser.outline_page import item_of, lines, made, outline_of
from tests.browser.waiting import eventually


def at_menu(at: Hands, words: str, name: str) -> None:
    at.where_to(words, name)
    expect(at.page.get_by_role("row").first).to_be_focused()


def test_e_what_a_phone_gets_and_lacks(context: BrowserContext, world: World) -> None:
    with hands(context) as at:
        page = at.page
        at_menu(at, "saltmarsh school and shop", "School and shop")
        at.begin_change("Job E")
        at.reach(page.get_by_role("row").first)
        first = lines(page)[0].partition(" ")[2]
        at.push(item_of(page).get_by_role("checkbox", name=labels.PHONE), "Space")
        expect(page.get_by_role("row").first).to_contain_text(re.compile("only on|not on|desktop, tablet|on desktop"))
        at.saved()
        at.where_to("saltmarsh", "Saltmarsh Clay School")
        at.menu(
            page.get_by_role("button", name=re.compile("^Hang a menu in Footer columns for phone")),
            re.compile("its own, as a copy"),
        )
        expect(page.get_by_role("link", name=re.compile(r"\(phone\)")).first).to_be_visible()
        at.push(page.get_by_role("link", name=re.compile(r"\d+ pages")))
        expect(page.get_by_role("heading", name=re.compile("Pages"))).to_be_visible()
        at.push(page.get_by_role("button", name=labels.THAT_A_PHONE_LACKS))
        expect(page.get_by_role("button", name=labels.THAT_A_PHONE_LACKS)).to_have_attribute("aria-pressed", "true")
        assert first


def test_f_each_audience_sees_its_own_on_the_live_page(context: BrowserContext, world: World) -> None:
    with hands(context) as at:
        page = at.page
        at_menu(at, "brackwater header", "Header")
        at.begin_change("Job F")
        at.reach(page.get_by_role("row").first)
        at.press("End", "Enter")
        at.type("Crew notes ->")
        at.type("/crew/{")
        at.press("Enter", "Escape")
        at.menu(item_of(page).get_by_role("button", name=labels.ONLY), "roles")
        expect(item_of(page).get_by_text("Shows to visitors who have crew among their roles.")).to_be_visible()
        at.press("Escape")
        at.reach(page.get_by_role("treegrid"))
        at.press("End", "Enter")
        at.type("Sign in ->")
        at.type("https://crew.brackwater.example/")
        at.press("Enter", "Escape")
        at.menu(item_of(page).get_by_role("button", name=labels.ONLY), "signed_in")
        asked = page.get_by_role("dialog", name=labels.WHAT_IS_ASKED_OF_SIGNED_IN)
        at.pick(asked.get_by_role("combobox"), "does not hold")
        at.press("Escape")
        at.saved()
        # Through the lens: what nobody in particular gets is told on each line.
        expect(page.get_by_role("row").filter(has_text="Crew notes")).to_contain_text("needs roles has")
        at.put_live()
        seen = context.new_page()
        seen.goto(world.sites["brackwater"].base)
        on_the_site(seen, seen.get_by_text("Sign in"))
        expect(seen.get_by_text("Crew notes")).to_have_count(0)
        seen.goto(world.sites["brackwater"].base + "?as=crew")
        on_the_site(seen, seen.get_by_text("Crew notes"))
        expect(seen.get_by_text("Sign in")).to_have_count(0)


def test_g_two_languages_side_by_side(context: BrowserContext, world: World) -> None:
    menu = made(
        world, "Two tongues", "-> @timetables\nFares -> @fares\nOn board:\n  Café -> @on-board-cafe", site="brackwater"
    )
    with hands(context) as at:
        page = at.page
        at_menu(at, "brackwater two tongues", "Two tongues")
        at.pick(page.get_by_label(labels.SECOND_LANGUAGE), "Dutch")
        at.reach(page.get_by_role("treegrid"))
        at.press("Home", "ArrowDown", "F2", "Alt+l")
        # From label to label of the one language.
        at.type("Tarieven")
        at.press("Tab")
        at.type("Aan boord")
        at.press("Enter")
        at.type("Restauratie")
        at.saved()
        assert 'Fares -> @fares {nl "Tarieven"}' in outline_of(world, menu)
        assert 'nl "Restauratie"' in outline_of(world, menu)
        # A label of its own for a long title, and back to the page's own.
        at.press("Escape", "Home", "F2")
        at.type("Times")
        at.saved()
        assert "Times -> @timetables" in outline_of(world, menu)
        at.press("Alt+t")
        at.saved()
        eventually(lambda: outline_of(world, menu).splitlines()[1].startswith("-> @timetables"))


def test_h_a_bar_that_no_longer_fits_and_its_remedies(context: BrowserContext, world: World) -> None:
    with hands(context) as at:
        page = at.page
        at_menu(at, "kestrel header", "Header")
        at.begin_change("Job H")
        at.reach(page.get_by_role("row").first)
        at.press("F2", "End")
        at.type(" and much that is too long for any bar of any screen that was ever made for a library")
        at.press("Escape")
        ruler = page.get_by_role("region", name=labels.RULER)
        expect(ruler).to_contain_text(re.compile("wraps|too wide|drawer"))
        at.press("Control+z")
        at.where_to("kestrel", "Kestrel Vale Libraries")
        at.button("Try another template")
        sheet = page.get_by_role("dialog")
        expect(sheet).to_be_visible()
        at.press("Escape")
        expect(sheet).to_have_count(0)
        row = page.get_by_role("row").filter(has=page.get_by_role("rowheader", name=re.compile("^Header bar")))
        at.push(row.get_by_role("button", name=labels.LOOK, exact=True))
        at.pick(sheet.get_by_label(labels.SITE_TO_COPY_A_LOOK_FROM), "Vesper Quay Festival")
        at.menu(sheet.get_by_role("button", name=labels.A_PLACE), "Header bar")
        expect(sheet.get_by_role("button", name=labels.UNDO)).to_be_enabled()
        expect(sheet.get_by_text("Contrast (WCAG 2.2 AA)")).to_be_visible()
        at.press("Control+z")
        expect(sheet.get_by_role("button", name=labels.UNDO)).to_be_disabled()
        at.press("Control+Shift+z")
        # Leaving asks, and nothing is thrown away by a key pressed too much.
        at.press("Escape")
        question = page.get_by_role("alertdialog")
        expect(question).to_contain_text("Not kept yet")
        expect(question.locator(":focus")).to_be_attached()
        at.press("Escape")
        at.button("Keep this look", sheet)
        expect(sheet).to_have_count(0)
