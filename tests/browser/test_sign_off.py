"""A client's word, on a phone: looked at and answered by a link, without an account."""

import re

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, Page, expect

from tests.browser import labels
from tests.browser.conftest import World
from tests.browser.test_review import change  # noqa: F401 - a fixture


def test_a_client_looks_at_it_on_a_phone_and_says_yes(
    ines_page: Page,
    browser: Browser,
    world: World,
    change: tuple[str, str],  # noqa: F811
) -> None:
    change_id, title = change
    page = ines_page
    page.goto(f"/changes?change={change_id}")
    word = page.get_by_role("region", name=labels.THE_CLIENT_S_WORD)
    word.get_by_role("button", name=labels.HAVE_THE_CLIENT_LOOK_AT_IT).click()
    word.get_by_label(labels.WHOM_IT_IS_FOR).fill("Mevrouw de Wit")
    word.get_by_role("button", name=labels.MAKE_A_LINK_FOR_TWO_WEEKS).click()
    link = word.get_by_label(labels.THE_SECRET_TO_BE_COPIED).input_value()
    expect(word).to_contain_text("Mevrouw de Wit")

    phone = browser.new_context(viewport={"width": 390, "height": 800}, base_url=world.base)
    client = phone.new_page()
    errors: list[str] = []
    client.on("console", lambda said: errors.append(said.text) if said.type == "error" else None)
    client.goto(link)
    expect(client.get_by_role("heading", level=1)).to_have_text(title)
    expect(client.get_by_role("listitem").filter(has_text=f"to {title}").first).to_be_visible()
    then = client.frame_locator('iframe[title="Vesper Quay Festival on a desktop, then"]')
    expect(then.get_by_text(title).first).to_be_attached()
    now = client.frame_locator('iframe[title="Vesper Quay Festival on a desktop, now"]')
    expect(now.get_by_text(title)).to_have_count(0)
    assert client.evaluate("document.documentElement.scrollWidth") <= 390
    found = Axe().run(client, options={"iframes": False})
    assert found.response["violations"] == [], found.generate_report()
    client.get_by_role("button", name=labels.NO, exact=True).click()
    client.get_by_label(labels.YOUR_NAME).fill("J. de Wit")
    client.get_by_role("button", name=labels.NO, exact=True).click()
    expect(client.get_by_role("alert")).to_contain_text("what is to be different")
    expect(client.get_by_label(labels.YOUR_NAME)).to_have_value("J. de Wit")
    client.get_by_label(labels.WHAT_YOU_HAVE_TO_SAY_OF).fill("Mooi zo")
    client.get_by_role("button", name=labels.YES_PUT_IT_LIVE).click()
    expect(client.get_by_role("heading", name=labels.WHAT_WAS_SAID)).to_be_visible()
    expect(client.get_by_text("J. de Wit says yes")).to_be_visible()
    # The answer with what was wrong is a page of its own, which the browser notes.
    assert [said for said in errors if "422" not in said] == []

    page.reload()
    expect(word.get_by_text("J. de Wit says yes")).to_be_visible()
    expect(word).to_contain_text("Mooi zo")
    word.get_by_role("button", name=labels.WITHDRAW_THE_LINK_FOR_MEVROUW_DE).click()
    expect(word.get_by_text(re.compile("link withdrawn"))).to_be_visible()
    client.goto(link)
    expect(client.get_by_role("heading", level=1)).to_have_text("Nothing is here")
    phone.close()
