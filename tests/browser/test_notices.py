"""Notices through the interface: a trial arrives, wishes are kept, an address that takes webhooks is told its key once."""

import re
from collections.abc import Iterator

import psycopg
import pytest
from playwright.sync_api import Browser, Page, Response, expect

from tests.browser import labels
from tests.browser.conftest import World, signed_in

MAIL = "By mail to mara@quillfen.example"


@pytest.fixture
def mara(browser: Browser, world: World) -> Iterator[Page]:
    """She looks after many sites, and her notices are as nobody left them."""
    with psycopg.connect(world.address, autocommit=True) as connection:
        hers = "(SELECT channel.id FROM channel JOIN person ON person.id = person_id WHERE email LIKE 'mara@%')"
        connection.execute(f"DELETE FROM notice WHERE channel_id IN {hers}")
        connection.execute(f"DELETE FROM channel WHERE id IN {hers}")
    context = browser.new_context(base_url=world.base, viewport={"width": 1280, "height": 800})
    yield signed_in(context, "mara")
    context.close()


def test_a_trial_arrives_and_is_read_in_setup(mara: Page, browser: Browser, world: World) -> None:
    mara.goto("/you")
    mail = mara.get_by_role("region", name=MAIL)
    mail.get_by_role("button", name=labels.SEND_A_TRIAL).click()
    told = mail.get_by_role("list", name=labels.WHAT_WAS_TOLD).get_by_role("listitem").filter(has_text="A trial")
    expect(told).to_contain_text("sent")
    told.get_by_text("A trial").click()
    expect(told).to_contain_text("Mara Voss asked for this")
    context = browser.new_context(base_url=world.base)
    page = signed_in(context, "ines")
    page.goto("/setup")
    kept = (
        page.get_by_role("region", name=labels.MAIL_THAT_WAS_SENT)
        .get_by_role("listitem")
        .filter(has_text="mara@quillfen.example")
    )
    expect(kept.filter(has_text="A trial: this address gets notices").first).to_be_visible()
    kept.filter(has_text="A trial").first.locator("summary").click()
    expect(kept.filter(has_text="A trial").first).to_contain_text(f"{world.base}/you")
    context.close()


def _wishes(answer: Response) -> object:
    """What was wished of a site, where it is kept."""
    if answer.request.method != "PUT" or not answer.ok:
        return None
    return answer.request.post_data_json["sites"].get("brackwater")


def test_what_one_wishes_is_kept_by_site_and_time(mara: Page) -> None:
    mara.goto("/you")
    mail = mara.get_by_role("region", name=MAIL)
    mail.get_by_label(labels.AT_ONCE_WHATEVER_STOPS_A_RELEASE).uncheck()
    at = mail.get_by_label(labels.TIME_OF_THE_DAILY_NOTICE)
    at.fill("25:00")
    at.press("Enter")
    expect(mail.get_by_role("alert")).to_be_visible()
    expect(at).to_have_value("25:00")
    at.fill("6:15")
    at.press("Enter")
    expect(mail.get_by_role("alert")).to_have_count(0)
    mail.get_by_label(labels.CLOCK_OF_THE_DAILY_NOTICE).select_option("UTC")
    mail.get_by_label(labels.A_SITE_OF_WHICH_SOMETHING_ELSE).select_option(label="Brackwater Ferries")
    with mara.expect_response(lambda one: _wishes(one) == {"at_once": True, "daily": False}):
        mail.get_by_label("Brackwater Ferries, at once").select_option(label="told")
        mail.get_by_label("Brackwater Ferries, once a day").select_option(label="not told")
    expect(mail.get_by_label("Brackwater Ferries, once a day")).to_have_value("no")
    mara.reload()
    expect(mail.get_by_label(labels.AT_ONCE_WHATEVER_STOPS_A_RELEASE)).not_to_be_checked()
    expect(at).to_have_value("06:15")
    expect(mail.get_by_label(labels.CLOCK_OF_THE_DAILY_NOTICE)).to_have_value("UTC")
    expect(mail.get_by_label("Brackwater Ferries, at once")).to_have_value("yes")
    expect(mail.get_by_label("Brackwater Ferries, once a day")).to_have_value("no")
    mail.get_by_role("button", name="As everywhere at Brackwater Ferries").click()
    expect(mail.get_by_label("Brackwater Ferries, at once")).to_have_count(0)


def test_an_address_is_told_its_key_once_and_taken_away(mara: Page) -> None:
    mara.goto("/you")
    url = mara.get_by_label(labels.AN_ADDRESS_THAT_TAKES_SIGNED_WEBHOOKS)
    url.fill("desk.example")
    url.press("Enter")
    expect(mara.get_by_role("alert")).to_contain_text("Write one like https://desk.example/notices")
    expect(url).to_have_value("desk.example")
    url.fill("https://desk.example/notices")
    url.press("Enter")
    secret = mara.get_by_label(labels.THE_SECRET_TO_BE_COPIED).input_value()
    assert re.fullmatch(r"whsec_[A-Za-z0-9+/=]{44}", secret)
    mara.reload()
    hook = mara.get_by_role("region", name=labels.HTTPS_DESK_EXAMPLE_NOTICES)
    expect(hook.get_by_label(labels.AT_ONCE_WHATEVER_STOPS_A_RELEASE)).to_be_checked()
    assert secret not in mara.content()
    hook.get_by_role("button", name=labels.TAKE_AWAY_HTTPS_DESK_EXAMPLE_NOTICES).click()
    expect(hook).to_have_count(0)
