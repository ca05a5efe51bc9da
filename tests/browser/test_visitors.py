"""Who sees what, in the browser: the lens, rules by choosing and typed, the audiences' matrix, facts, moments."""

import re

from playwright.sync_api import APIResponse, Page, Route, expect

from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.outline_page import asked_of, choose, item_of, made, opened, outline_of
from tests.browser.test_site import _found
from tests.browser.waiting import eventually

LINES = """Sail -> /sail
  Night boat -> /night {from 2027-04-01T22:00; until 2027-09-01T06:00}
Crew -> /crew {when signed_in and roles has "crew"}
  Rota -> /rota
Sign in -> /sign-in {when not signed_in}
Harbour -> /harbour
"""


def saved(page: Page) -> None:
    expect(page.get_by_text(labels.SAVED_LIKE)).to_be_visible()


def test_everything_is_seen_through_the_lens_and_the_address_holds_it(ines_page: Page) -> None:
    """Chosen in the sentence, moved along the year by key, sent on as an address."""
    page = ines_page
    page.goto("/sites/brackwater/menus/header")
    rota = page.get_by_role("row").filter(has_text="Crew rota")
    expect(rota).to_contain_text("does not supply signed_in")
    page.get_by_role("button", name=labels.AUDIENCE_ANYBODY).click()
    page.get_by_role("menuitemradio", name=labels.CREW).click()
    expect(page).to_have_url(re.compile("audience=crew"))
    expect(rota).not_to_contain_text("needs")
    expect(page.frame_locator('iframe[title="What a desktop shows"]').get_by_text("Crew rota")).to_be_visible()
    summer = page.get_by_role("row").filter(has_text="Summer")
    expect(summer).to_contain_text("starts 1 Apr")
    page.get_by_role("button", name=labels.TO_THE_NEXT_CHANGE).click()
    page.get_by_role("button", name=re.compile("^Moment: 1 Feb 2027")).wait_for()
    slider = page.get_by_role("slider", name=labels.MOMENT_WITHIN_THE_COMING_YEAR)
    slider.focus()
    for _ in range(8):
        slider.press("PageUp")
    expect(summer).not_to_contain_text("starts")
    expect(page).to_have_url(re.compile(r"at=2027-0[4-9]"))
    assert _found(page) == []
    track = page.get_by_role("group", name=re.compile("Header bar on a desktop, through the year"))
    track.get_by_role("button", name=re.compile("Summer ends")).click()
    expect(summer).to_contain_text("ended 1 Oct")
    page.goto(page.url)
    expect(summer).to_contain_text("ended 1 Oct")
    page.get_by_role("button", name=labels.NOW, exact=True).click()
    expect(page).not_to_have_url(re.compile("at="))
    page.get_by_role("button", name=labels.AUDIENCE_CREW).click()
    page.get_by_role("menuitem", name=labels.FACTS_BY_HAND).click()
    sheet = page.get_by_role("dialog", name=labels.WHAT_IS_KNOWN_OF_THE_VISITOR)
    sheet.get_by_role("combobox", name=labels.SIGNED_IN).select_option("false")
    sheet.get_by_role("button", name=labels.LOOK_SO).click()
    expect(rota).to_contain_text("the visitor is not signed in")
    expect(page.get_by_role("button", name=labels.WITH_1_FACT_BY_HAND)).to_be_visible()
    page.goto("/shelf?audience=crew")
    expect(page.get_by_role("link", name=re.compile("^Header bar: Header, 14 entries of which"))).to_be_visible()


def test_a_rule_is_built_by_choosing_and_typed_and_is_the_same_rule(ines_page: Page, world: World) -> None:
    page = ines_page
    menu = made(world, "Rules", LINES, site="brackwater")
    opened(page, menu)
    choose(page, "Harbour")
    item = item_of(page)
    asked_of(page, "Only …", "roles")
    expect(item.get_by_text("Shows to visitors who have crew among their roles.")).to_be_visible()
    asked_of(page, "and …", "device")
    page.get_by_role("dialog", name=labels.WHAT_IS_ASKED_OF_DEVICE).get_by_role("combobox").first.select_option(
        "is not"
    )
    expect(item.get_by_text(re.compile("and not on a phone"))).to_be_visible()
    expect(item.get_by_text("visitor: no")).to_be_visible()
    item.get_by_label(labels.HOW_THE_TESTS_GO_TOGETHER).select_option("or")
    saved(page)
    assert 'Harbour -> /harbour {when roles has "crew" or device is not "phone"}' in outline_of(world, menu)
    assert _found(page) == []
    item.get_by_text("type", exact=True).click()
    field = item.get_by_role("textbox", name=labels.RULE)
    expect(field).to_have_value('roles has "crew" or device is not "phone"')
    field.fill("si")
    expect(item.get_by_role("option").first).to_have_text("signed_in")
    field.press("Tab")
    page.keyboard.type("and roles has any (")
    expect(item.get_by_role("option")).to_have_text(["crew", "skipper"])
    page.keyboard.press("Enter")
    page.keyboard.type(", skiper)")
    expect(item.get_by_text(re.compile('column 37: roles has any "skiper"'))).to_be_visible()
    expect(item.get_by_text("choose", exact=True).locator("input")).to_be_disabled()
    assert _found(page) == []
    item.get_by_role("button", name=labels.DID_YOU_MEAN_SKIPPER).click()
    expect(item.get_by_text(re.compile("crew or skipper among their roles"))).to_be_visible()
    page.keyboard.press("Escape")
    field.press("Enter")
    saved(page)
    item.get_by_text("choose", exact=True).click()
    expect(item.get_by_role("button", name=re.compile("^roles has any of"))).to_be_visible()
    choose(page, "Rota")
    asked_of(page, "Only …", "signed_in")
    expect(item.get_by_text("Says nothing new: whoever sees what it stands below meets it.")).to_be_visible()
    page.get_by_role("dialog", name=labels.WHAT_IS_ASKED_OF_SIGNED_IN).get_by_role("combobox").select_option(
        "does not hold"
    )
    expect(item.get_by_text(re.compile("nobody can ever meet it"))).to_be_visible()
    findings = page.get_by_role("region", name=labels.INDING)
    expect(findings.get_by_text(re.compile("nobody who sees what Rota stands below"))).to_be_visible()


def test_choices_made_before_the_server_answers_are_all_kept(ines_page: Page, world: World) -> None:
    """Three choices and on to another line, while no answer comes: each builds on the last, and none is another line's."""
    page = ines_page
    menu = made(world, "Quick", "Harbour -> /harbour\nSail -> /sail", site="brackwater")
    opened(page, menu)
    choose(page, "Sail")
    choose(page, "Harbour")
    item = item_of(page)
    expect(item.get_by_role("button", name=labels.ONLY)).to_be_enabled()
    held: list[Route] = []
    page.route("**/rules/read*", lambda route: held.append(route))
    with page.expect_request("**/rules/read*"):
        asked_of(page, "Only …", "roles")
    asked_of(page, "and …", "month")
    item.get_by_label(labels.HOW_THE_TESTS_GO_TOGETHER).select_option("or")
    item.get_by_label(labels.WHETHER_IT_HOLDS).select_option("not")
    # The words of what was added are open; a choice beside them closes them.
    page.keyboard.press("Escape")
    item.get_by_role("button", name=re.compile("^month")).click()
    asked = page.get_by_role("dialog", name=labels.WHAT_IS_ASKED_OF_MONTH)
    asked.get_by_role("combobox").first.select_option(">=")
    asked.get_by_label(labels.VALUE_OF_MONTH).fill("9")
    page.keyboard.press("Escape")
    choose(page, "Sail")
    saved(page)
    kept = outline_of(world, menu)
    assert 'Harbour -> /harbour {when not (roles has "crew" or month >= 9)}' in kept
    assert "Sail -> /sail\n" in kept
    page.unroute_all(behavior="ignoreErrors")
    choose(page, "Harbour")
    expect(item.get_by_label(labels.WHETHER_IT_HOLDS)).to_have_value("not")
    expect(item.get_by_role("button", name=labels.MONTH_9)).to_be_visible()
    page.keyboard.press("Control+z")
    expect(item.get_by_role("button", name=labels.MONTH_4)).to_be_visible()
    page.keyboard.press("Control+z")
    expect(item.get_by_role("button", name=labels.MONTH_IS_4)).to_be_visible()


def test_times_that_the_clock_skips_or_repeats_are_asked_about(ines_page: Page, world: World) -> None:
    page = ines_page
    menu = made(world, "Times", "Boat -> /boat", site="brackwater")
    opened(page, menu)
    choose(page, "Boat")
    item = item_of(page)
    item.get_by_label(labels.FROM_2, exact=True).fill("2027-03-28T01:30")
    expect(item.get_by_role("alert")).to_contain_text("The clock never shows this time")
    item.get_by_role("button", name=labels.N_28_MAR_2027_02_00).click()
    expect(item.get_by_label(labels.FROM_2, exact=True)).to_have_value("28 Mar 2027 02:00")
    expect(item.get_by_role("alert")).to_have_count(0)
    item.get_by_label(labels.UNTIL, exact=True).fill("2027-10-31T01:30")
    item.get_by_role("button", name=labels.THE_SECOND_TIME).click()
    expect(item.get_by_text("the second time (+00:00)")).to_be_visible()
    saved(page)
    assert "from 2027-03-28T02:00; until 2027-10-31T01:30+00:00" in outline_of(world, menu)


def test_the_matrix_is_walked_by_key_and_every_cell_tells_why(ines_page: Page) -> None:
    page = ines_page
    page.goto("/sites/brackwater")
    page.get_by_role("row").filter(has=page.get_by_role("rowheader", name=re.compile("^Header bar"))).get_by_role(
        "link", name="audiences"
    ).click()
    expect(page.get_by_text("Travelling with a dog is never seen by anybody")).to_be_visible()
    grid = page.get_by_role("grid", name=labels.WHO_SEES_WHAT)
    expect(
        grid.get_by_role("gridcell", name=re.compile("^Summer, crew on a desktop: not seen: starts"))
    ).to_be_visible()
    assert _found(page) == []
    first = grid.get_by_role("gridcell").first
    stood = first.bounding_box()
    first.focus()
    for key in ["ArrowDown", "ArrowDown", "ArrowRight", "ArrowLeft", "ArrowUp"]:
        page.keyboard.press(key)
    page.keyboard.press("Enter")
    why = page.get_by_role("region", name=labels.WHY)
    expect(why).to_contain_text("Summer")
    expect(why).to_contain_text("from 1 Apr 2027 04:00 until 1 Oct 2027 04:00")
    expect(why).to_contain_text("hidden")
    assert first.bounding_box() == stood, "marks stay where they are when one is asked for"
    grid.get_by_role("gridcell", name=re.compile("^Crew rota, visitor on a desktop")).click()
    expect(why).to_contain_text("needs signed_in, and the visitor is not signed in")
    assert _found(page) == []
    page.get_by_role("group", name=labels.WHICH_ENTRIES).get_by_text("differences").click()
    expect(grid.get_by_role("rowheader", name="Crew rota")).to_be_visible()
    expect(grid.get_by_role("rowheader", name="Travelling with a dog")).to_have_count(0)
    page.get_by_role("group", name=labels.WHICH_ENTRIES).get_by_text("never seen").click()
    expect(grid.get_by_role("rowheader")).to_have_count(1)
    with page.expect_download() as told:
        page.get_by_role("link", name="as a table (CSV)").click()
    assert told.value.suggested_filename == "brackwater-header-audiences.csv"


def test_a_matrix_that_is_wider_than_the_screen_keeps_its_names_and_its_cell_in_sight(ines_page: Page) -> None:
    page = ines_page
    page.set_viewport_size({"width": 620, "height": 520})
    page.emulate_media(color_scheme="dark")
    page.goto("/sites/brackwater/audiences/header")
    grid = page.get_by_role("grid", name=labels.WHO_SEES_WHAT)
    grid.get_by_role("gridcell").first.focus()
    for _ in range(11):
        page.keyboard.press("ArrowRight")
    for _ in range(13):
        page.keyboard.press("ArrowDown")
    cell = grid.get_by_role("gridcell", name=re.compile("^Book, skipper on a phone"))
    name = grid.get_by_role("rowheader", name="Book")
    for one in (cell, name):
        expect(one).to_be_in_viewport(ratio=0.9)
    expect(cell).to_be_focused()
    assert name.bounding_box()["x"] + 230 <= cell.bounding_box()["x"]  # type: ignore[index]
    head = grid.get_by_role("columnheader", name="skipper").bounding_box()
    assert head is not None
    for _ in range(13):
        page.keyboard.press("ArrowUp")
    top = grid.get_by_role("gridcell", name=re.compile("^Timetables, skipper on a phone"))
    expect(top).to_be_focused()
    assert top.bounding_box()["y"] >= head["y"] + head["height"], "it is not under the head"  # type: ignore[index]
    top.hover()
    expect(top).to_have_attribute("title", re.compile("seen"))
    assert _found(page) == []


def test_a_value_gets_another_name_in_setup_and_its_rules_go_along(ines_page: Page, world: World) -> None:
    page = ines_page
    menu = made(
        world, "Members", "Depot -> /depot {when plan is day}\nYard -> /yard {when plan is day}", site="kestrel"
    )
    page.goto("/setup")
    region = page.get_by_role("region", name=labels.FACTS_AND_AUDIENCES)
    region.get_by_role("button", name="Facts of Kestrel Vale Libraries").click()
    sheet = page.get_by_role("dialog")
    along = sheet.get_by_role("region", name=labels.WHAT_BECOMES_OF_THE_RULES)
    sheet.get_by_role("button", name=labels.ADD_A_FACT).click()
    sheet.get_by_label(labels.NAME_OF_THE_FACT).fill("plan")
    sheet.get_by_label(labels.TYPE_OF_PLAN).select_option("one of")
    sheet.get_by_label(labels.VALUE_1_OF_PLAN).fill("day")
    sheet.get_by_role("button", name=labels.ADD_A_VALUE_TO_PLAN).click()
    sheet.get_by_label(labels.VALUE_2_OF_PLAN).fill("season")
    sheet.get_by_role("button", name=labels.ADD_AN_AUDIENCE).click()
    sheet.get_by_label(labels.NAME_OF_THE_AUDIENCE).fill("day member")
    sheet.get_by_role("combobox", name=labels.PLAN, exact=True).select_option("day")
    expect(along).to_contain_text("Depot (kestrel, members), Yard (kestrel, members)")
    sheet.get_by_role("button", name=labels.ADD_A_FACT).click()
    sheet.get_by_label(labels.NAME_OF_THE_FACT).last.fill("plan")
    expect(along.get_by_role("alert")).to_contain_text("Two are called plan")
    expect(sheet.get_by_role("button", name=labels.KEEP, exact=True)).to_be_disabled()
    sheet.get_by_role("button", name=labels.TAKE_AWAY_PLAN, exact=True).last.click()
    expect(sheet.get_by_role("combobox", name=labels.PLAN, exact=True)).to_have_value("day")
    assert _found(page) == []
    sheet.get_by_role("button", name=labels.KEEP, exact=True).click()
    expect(sheet).to_have_count(0)
    region.get_by_role("button", name="Facts of Kestrel Vale Libraries").click()
    sheet.get_by_label(labels.VALUE_1_OF_PLAN).fill("guest")
    expect(along).to_contain_text('plan is "guest"')
    sheet.get_by_role("button", name=labels.TAKE_AWAY_PLAN, exact=True).click()
    expect(along).to_contain_text("one has to be mended")
    sheet.get_by_role("button", name=labels.KEEP, exact=True).click()
    expect(along.get_by_role("alert")).to_contain_text("would no longer be valid")
    along.get_by_role("button", name=labels.NOBODY_NEVER).click()
    expect(along.get_by_text("to be mended")).to_have_count(0)
    sheet.get_by_role("button", name=labels.KEEP, exact=True).click()
    expect(sheet).to_have_count(0)
    assert outline_of(world, menu).count("{when never}") == 2


def test_a_shared_set_is_begun_and_followed(ines_page: Page) -> None:
    page = ines_page
    # On a slow line: what was asked before the set was begun is answered after it.
    asked_before: list[tuple[Route, APIResponse]] = []
    page.route("**/api/sites/*/facts", lambda route: asked_before.append((route, route.fetch())), times=1)
    page.goto("/setup")
    region = page.get_by_role("region", name=labels.FACTS_AND_AUDIENCES)
    region.get_by_role("button", name=labels.BEGIN_A_SHARED_SET).click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label(labels.CALLED).fill("Season tickets")
    sheet.get_by_role("button", name=labels.ADD_A_FACT).click()
    sheet.get_by_label(labels.NAME_OF_THE_FACT).fill("season_ticket")
    sheet.get_by_role("button", name=labels.ADD_AN_AUDIENCE).click()
    sheet.get_by_label(labels.NAME_OF_THE_AUDIENCE).fill("season holder")
    sheet.get_by_role("combobox", name=labels.SEASON_TICKET, exact=True).select_option("true")
    with page.expect_response("**/api/fact-sets"):
        sheet.get_by_role("button", name=labels.KEEP, exact=True).click()
    # The browser is asked something each time, or what it was sent would never be heard of here.
    eventually(lambda: page.title() and asked_before)
    [(route, answer)] = asked_before
    route.fulfill(response=answer)
    expect(region.get_by_text("no site follows it")).to_be_visible()
    region.get_by_role("button", name="Facts of Thornby Heritage Railway").click()
    sheet.get_by_label(labels.SEASON_TICKETS).check()
    sheet.get_by_role("button", name=labels.KEEP, exact=True).click()
    expect(region.get_by_text("shared · Thornby Heritage Railway")).to_be_visible()
    page.goto("/sites/thornby")
    page.get_by_role("button", name=labels.AUDIENCE_ANYBODY).click()
    expect(page.get_by_role("menuitemradio", name=labels.SEASON_HOLDER)).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("region", name=labels.THROUGH_THE_YEAR)).to_contain_text(
        "the clock goes from 02:00 to 03:00"
    )
    assert _found(page) == []
