"""Accounts and keys through the interface: passwords, sign-ins, tokens, who is kept out, keys that are told once."""

import re

import psycopg
import pyotp
from oidc_provider_mock import User, run_server_in_thread
from playwright.sync_api import Browser, Page, Response, expect
from pydantic import SecretStr

from sign_shelf.demo.cluster import free_port
from sign_shelf.settings import Settings
from tests.browser import labels
from tests.browser.conftest import World, signed_in
from tests.constants import KEY
from tests.in_process import server_in_thread


def test_ones_password_is_changed_and_other_browsers_are_signed_out(
    browser: Browser, browser_context_args: dict
) -> None:  # type: ignore[type-arg]
    here, there = (browser.new_context(**browser_context_args) for _ in range(2))
    page, other = signed_in(here, "mara"), signed_in(there, "mara")
    page.goto("/")
    other.goto("/")
    page.get_by_role("link", name="Mara Voss").click()
    expect(page.get_by_role("button", name=labels.END_ALL_BUT_THIS_ONE)).to_be_visible()
    page.get_by_label(labels.THE_ONE_THAT_YOU_SIGN_IN).fill("not this one")
    page.get_by_label(labels.NEW_PASSWORD).fill("password1234")
    page.get_by_role("button", name=labels.CHANGE_THE_PASSWORD).click()
    expect(page.get_by_role("alert")).to_contain_text("common password")
    page.get_by_label(labels.NEW_PASSWORD).fill("grass on the dunes")
    page.get_by_role("button", name=labels.CHANGE_THE_PASSWORD).click()
    expect(page.get_by_role("alert")).to_contain_text("not your password")
    page.get_by_label(labels.THE_ONE_THAT_YOU_SIGN_IN).fill("quillfen-demo")
    page.get_by_role("button", name=labels.CHANGE_THE_PASSWORD).click()
    expect(page.get_by_role("status")).to_contain_text("You stay signed in here")
    expect(page.get_by_role("region", name=labels.WHERE_YOU_ARE_SIGNED_IN).get_by_role("listitem")).to_have_count(1)
    other.reload()
    expect(other.get_by_role("button", name=labels.SIGN_IN)).to_be_visible()
    page.get_by_label(labels.THE_ONE_THAT_YOU_SIGN_IN).fill("grass on the dunes")
    page.get_by_label(labels.NEW_PASSWORD).fill("quillfen-demo")
    page.get_by_role("button", name=labels.CHANGE_THE_PASSWORD).click()
    expect(page.get_by_role("status")).to_be_visible()
    for context in (here, there):
        context.close()


def test_a_program_s_token_is_shown_once_and_ended(ines_page: Page) -> None:
    ines_page.goto("/you")
    ines_page.get_by_label(labels.WHAT_THE_PROGRAM_IS_FOR).fill("nightly check")
    ines_page.get_by_role("button", name=labels.MAKE_A_TOKEN).click()
    secret = ines_page.get_by_label(labels.THE_SECRET_TO_BE_COPIED).input_value()
    assert re.fullmatch(r"[\w-]{43}", secret)
    ines_page.reload()
    expect(ines_page.get_by_text("Program: nightly check")).to_be_visible()
    assert secret not in ines_page.content()
    ines_page.get_by_role("button", name=labels.END_NIGHTLY_CHECK).click()
    expect(ines_page.get_by_text("Program: nightly check")).to_have_count(0)


def test_an_owner_adds_a_person_and_keeps_them_out(browser: Browser, browser_context_args: dict) -> None:  # type: ignore[type-arg]
    """And whoever is no owner sees no accounts."""
    context, theirs = (browser.new_context(**browser_context_args) for _ in range(2))
    page = signed_in(context, "owen")
    page.goto("/setup")
    page.get_by_role("button", name=labels.ADD_A_PERSON).click()
    page.get_by_label(labels.NAME).fill("Nell Sorrel")
    page.get_by_label(labels.E_MAIL_ADDRESS).fill("nell@quillfen.example")
    page.get_by_label(labels.NEW_PASSWORD).fill("quillfen-demo")
    page.get_by_role("button", name=labels.ADD, exact=True).click()
    expect(page.get_by_text("nell@quillfen.example")).to_be_visible()
    nell = signed_in(theirs, "nell")
    nell.goto("/setup")
    expect(nell.get_by_role("heading", name=labels.FONTS)).to_be_visible()
    expect(nell.get_by_role("heading", name=labels.PEOPLE)).to_have_count(0)
    page.get_by_role("button", name=labels.ACCESS_OF_NELL_SORREL).click()

    def given(answer: Response) -> bool:
        return answer.request.method == "PUT" and answer.ok

    with page.expect_response(given):
        page.get_by_label("At Vesper Quay Festival").select_option("viewer")
    nell.goto("/sites/vesper/menus/header")
    nell.get_by_role("row").first.wait_for()
    expect(nell.get_by_role("button", name=labels.PUT_LIVE)).to_have_count(0)
    with page.expect_response(given):
        page.get_by_label("At Vesper Quay Festival").select_option("none")
    nell.reload()
    expect(nell.get_by_role("alert").filter(has_text="You may not look here")).to_be_visible()
    nell.goto("/shelf")
    expect(nell.get_by_role("heading", name="Brackwater Ferries")).to_be_visible()
    expect(nell.get_by_role("heading", name="Vesper Quay Festival")).to_have_count(0)
    expect(page.get_by_text("Chrome on Linux")).to_be_visible()
    page.get_by_role("button", name=labels.KEEP_NELL_SORREL_OUT).click()
    expect(page.locator("[data-mark=stop]", has_text="kept out")).to_be_visible()
    expect(page.get_by_text("Signed in nowhere.")).to_be_visible()
    nell.reload()
    nell.get_by_label(labels.E_MAIL_ADDRESS).fill("nell@quillfen.example")
    nell.get_by_label(labels.PASSWORD).fill("quillfen-demo")
    nell.get_by_role("button", name=labels.SIGN_IN).click()
    expect(nell.get_by_role("alert")).to_contain_text("do not match")
    for one in (context, theirs):
        one.close()


def test_who_is_invited_comes_in_works_in_a_team_and_takes_a_second_factor(
    browser: Browser, browser_context_args: dict
) -> None:  # type: ignore[type-arg]
    context, theirs = (browser.new_context(**browser_context_args) for _ in range(2))
    page = signed_in(context, "owen")
    page.goto("/setup")
    page.get_by_role("button", name=labels.INVITE_SOMEBODY_2).click()
    form = page.get_by_role("form", name=labels.INVITE_SOMEBODY)
    form.get_by_label(labels.NAME).fill("Wren Astley")
    form.get_by_label(labels.E_MAIL_ADDRESS).fill("wren@quillfen.example")
    form.get_by_label(labels.ROLE).select_option("none")
    form.get_by_role("button", name=labels.MAKE_THE_LINK).click()
    link = page.get_by_label(labels.THE_SECRET_TO_BE_COPIED).input_value()
    expect(page.get_by_role("list", name=labels.INVITATIONS)).to_contain_text("Wren Astley")
    wren = theirs.new_page()
    wren.goto(link)
    expect(wren.get_by_text("Owen Marsh invites you, wren@quillfen.example")).to_be_visible()
    wren.get_by_label(labels.NEW_PASSWORD).fill("grass on the dunes")
    wren.get_by_role("button", name=labels.COME_IN).click()
    expect(wren.get_by_role("heading", name=labels.SHELF, exact=True)).to_be_visible()
    expect(wren.get_by_role("heading", name="Brackwater Ferries")).to_have_count(0)
    other = theirs.new_page()
    other.goto(link)
    expect(other.get_by_role("alert")).to_contain_text("leads nowhere any more")

    page.reload()
    page.get_by_label(labels.BEGIN_A_TEAM_CALLED).fill("Quay")
    page.get_by_role("button", name=labels.BEGIN, exact=True).click()
    teams = page.get_by_role("region", name=labels.TEAMS)
    teams.get_by_label(labels.WREN_ASTLEY).select_option("editor")
    expect(teams).to_contain_text("1 person")
    teams.get_by_label("Brackwater Ferries").check()
    expect(teams).to_contain_text("1 site")
    wren.reload()
    expect(wren.get_by_role("heading", name="Brackwater Ferries")).to_be_visible()

    wren.goto("/you")
    own = wren.get_by_role("region", name=labels.SECOND_FACTOR)
    own.get_by_label(labels.YOUR_PASSWORD).fill("grass on the dunes")
    own.get_by_role("button", name=labels.SET_IT_UP).click()
    expect(own.get_by_role("img", name="What your authenticator reads")).to_be_visible()
    counts = pyotp.TOTP((own.locator("p.mono").text_content() or "").replace(" ", ""))
    own.get_by_label(labels.CODE).fill(counts.now())
    own.get_by_role("button", name=labels.TURN_IT_ON).click()
    expect(own.get_by_role("status").get_by_role("listitem")).to_have_count(8)
    spare = own.get_by_role("status").get_by_role("listitem").first.text_content() or ""
    wren.get_by_role("button", name=labels.SIGN_OUT).click()
    wren.get_by_label(labels.E_MAIL_ADDRESS).fill("wren@quillfen.example")
    wren.get_by_label(labels.PASSWORD).fill("grass on the dunes")
    wren.get_by_role("button", name=labels.SIGN_IN, exact=True).click()
    wren.get_by_label(labels.CODE_OF_YOUR_AUTHENTICATOR).fill("000000")
    wren.get_by_role("button", name=labels.SIGN_IN, exact=True).click()
    expect(wren.get_by_role("alert")).to_contain_text("That code does not count")
    wren.get_by_label(labels.CODE_OF_YOUR_AUTHENTICATOR).fill(spare)
    wren.get_by_role("button", name=labels.SIGN_IN, exact=True).click()
    expect(wren.get_by_role("link", name="Wren Astley")).to_be_visible()
    for one in (context, theirs):
        one.close()


def test_one_signs_in_by_the_agency_s_own_accounts_and_comes_back_to_where_one_was(
    browser: Browser, world: World
) -> None:
    known = [
        User(sub="tom", claims={"email": "tom@quillfen.example", "email_verified": True}),
        User(sub="stranger", claims={"email": "stranger@elsewhere.example", "email_verified": True}),
    ]
    with run_server_in_thread(user_claims=known) as provider:
        issuer = f"http://localhost:{provider.server_port}"
        asking = Settings(
            database=SecretStr(world.address), key=KEY, private_hosts="127.0.0.1", identity_issuer=issuer,
            identity_client="shelf", identity_secret=SecretStr("between us"), identity_name="Quillfen",
        )  # fmt: skip
        port = free_port()
        with server_in_thread(asking, port):
            context = browser.new_context(base_url=f"http://127.0.0.1:{port}")
            page = context.new_page()

            def by_provider(sub: str) -> None:
                page.get_by_role("link", name="Sign in with Quillfen").click()
                page.locator("input[name=sub]").fill(sub)
                page.locator("form button[type=submit], form input[type=submit]").first.click()

            page.goto("/calendar")
            by_provider("stranger")
            expect(page.get_by_role("alert")).to_contain_text("Nobody who may sign in here has your address")
            page.goto("/calendar")
            expect(page.get_by_role("button", name=labels.SIGN_IN, exact=True)).to_be_visible()
            expect(page.get_by_role("alert")).to_have_count(0)
            by_provider("tom")
            expect(page.get_by_role("heading", name=labels.CALENDAR, exact=True)).to_be_visible()
            expect(page.get_by_role("link", name="Tom Arkwright")).to_be_visible()
            context.close()


def test_a_site_s_keys_are_replaced_and_told_once(ines_page: Page) -> None:
    ines_page.goto("/sites/saltmarsh")
    ines_page.get_by_role("button", name=labels.MAKE_A_NEW_FACTS_KEY).click()
    secret = ines_page.get_by_label(labels.THE_SECRET_TO_BE_COPIED).input_value()
    assert len(secret) == 43
    expect(ines_page.get_by_text("the one before counts until")).to_be_visible()
    ines_page.reload()
    ines_page.get_by_role("button", name=labels.MAKE_A_NEW_FACTS_KEY).wait_for()
    assert secret not in ines_page.content()
    ines_page.goto("/sites/vesper")
    ines_page.get_by_role("button", name=labels.REPLACE_THE_SIGNING_KEY).click()
    ines_page.get_by_label(labels.NEW_SIGNING_KEY).fill("nonsense")
    ines_page.get_by_role("button", name=labels.KEEP_THE_KEY).click()
    expect(ines_page.get_by_role("alert")).to_contain_text("no signing key")
    ines_page.get_by_role("button", name=labels.LEAVE_IT_AS_IT_IS).click()
    expect(ines_page.get_by_text("Menus are signed with the key of")).to_be_visible()


def test_the_shelf_says_when_work_waits_for_a_worker_that_is_not_there(ines_page: Page, world: World) -> None:
    """A job that nobody may take yet looks, to whoever runs it, like one that nobody takes."""
    with psycopg.connect(world.address, autocommit=True) as connection:
        connection.execute("ALTER TABLE procrastinate_workers RENAME TO away")
        connection.execute("CREATE TABLE procrastinate_workers (LIKE away)")
        job = connection.execute(
            "INSERT INTO procrastinate_jobs (queue_name, task_name, args) VALUES ('nobody', 'x', '{}') RETURNING id"
        ).fetchone()
        try:
            ines_page.goto("/shelf")
            notice = ines_page.get_by_role("status").filter(has_text="no worker has been heard of")
            expect(notice).to_contain_text("One piece of work waits")
        finally:
            connection.execute("DROP TABLE procrastinate_workers")
            connection.execute("ALTER TABLE away RENAME TO procrastinate_workers")
            connection.execute("DELETE FROM procrastinate_jobs WHERE id = %s", job)
