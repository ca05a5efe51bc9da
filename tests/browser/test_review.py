"""Review through the interface: a change is asked for, remarked on, sent back, approved, and shows on the post whom it waits for."""

import re
from collections.abc import Iterator
from uuid import uuid4

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from tests.browser import labels
from tests.browser.conftest import World, client_of

HEADER = "/api/sites/vesper/menus/header"


@pytest.fixture
def change(world: World) -> Iterator[tuple[str, str]]:
    """A change of Tom's with one edit, and its title."""
    title = f"Programme {uuid4().hex[:6]}"
    with client_of(world.base, "tom") as tom:
        begun = tom.post("/api/sites/vesper/changes", json={"title": title}, headers={"idempotency-key": title}).json()
        bench = tom.get(HEADER, params={"in": begun["change"]})
        document = bench.json()["document"]
        document["items"][0]["label"] = {"en": title}
        saved = tom.put(
            HEADER, params={"in": begun["change"]}, json=document, headers={"if-match": bench.headers["etag"]}
        )
        assert saved.status_code == 200, saved.text
        yield begun["change"], title
        # Nobody works in it any more, and nobody waits for it.
        tom.put("/api/sites/vesper/work", json={"change": None})
        tom.post(f"/api/changes/{begun['change']}/withdraw")


def test_a_change_is_asked_for_remarked_on_sent_back_and_approved(
    tom_page: Page, ines_page: Page, change: tuple[str, str]
) -> None:
    _, title = change
    tom, ines = tom_page, ines_page
    tom.goto("/changes")
    tom.get_by_role("region", name=labels.DRAFTS).get_by_role("button", name=re.compile(title)).click()
    his = tom.get_by_role("region", name=labels.THE_CHANGE)
    expect(his.get_by_role("region", name="Vesper Quay Festival")).to_contain_text(f"to {title}")
    his.get_by_role("button", name=labels.ASK_FOR_A_REVIEW).click()
    expect(his.get_by_text("1 more to approve; nobody approves what they wrote any of.")).to_be_visible()
    expect(his.get_by_role("button", name=labels.APPROVE_THIS)).to_have_count(0)

    ines.goto("/changes")
    expect(ines.get_by_role("link", name=re.compile(r"^Changes\s?, \d+ wait for you"))).to_be_visible()
    ines.get_by_role("region", name=labels.WAIT_FOR_YOU).get_by_role("button", name=re.compile(title)).click()
    hers = ines.get_by_role("region", name=labels.THE_CHANGE)
    # The words in Dutch went: two edits of one entry, with one place for remarks.
    edit = hers.get_by_role("listitem").filter(has=ines.get_by_role("button", name=labels.REMARK))
    edit.get_by_role("button", name=labels.REMARK).click()
    edit.get_by_label(labels.A_REMARK_ON_THIS).fill("Is it on the posters?")
    edit.get_by_role("button", name=labels.SAY_IT).click()
    expect(edit.get_by_role("article", name="Remark of Ines Calder")).to_contain_text("Is it on the posters?")
    hers.get_by_role("button", name=re.compile("^Before and after of")).click()
    both = hers.get_by_role("region", name=re.compile("before and after$"))
    expect(both.get_by_role("list", name=labels.AFTER).get_by_role("listitem").first).to_have_text(
        re.compile(f"^1{title}, edited")
    )
    expect(both.get_by_role("list", name=labels.BEFORE).get_by_role("listitem").first).to_contain_text(", edited")
    brings = hers.get_by_role("region", name=labels.WHAT_IT_BRINGS_VISITORS)
    expect(brings).to_contain_text("Nobody sees an entry more or less")
    brings.get_by_role("button", name=labels.AS_IT_IS_DRAWN_BEFORE_AND).click()
    drawn = brings.get_by_role("region", name=labels.PLACES_AS_THEY_ARE_DRAWN)
    expect(drawn.frame_locator('iframe[title$=", after"]').first.get_by_text(title)).to_be_visible()
    expect(drawn.frame_locator('iframe[title$=", before"]').first.get_by_text(title)).to_have_count(0)
    drawn.get_by_label(labels.IN_A_WINDOW_OF).select_option(index=1)
    expect(drawn).to_contain_text(re.compile(r"fits from \d+ px"))
    hers.get_by_role("button", name=labels.ASK_FOR_CHANGES).click()
    hers.get_by_label(labels.WHAT_IS_TO_BE_CHANGED).fill("Ask the client first")
    hers.get_by_role("button", name=labels.ASK_FOR_THESE_CHANGES).click()
    expect(hers.get_by_role("list", name=labels.WHAT_WAS_SAID)).to_contain_text("Ines Calder asks for changes")
    expect(ines.get_by_role("region", name=labels.DRAFTS).get_by_role("button", name=re.compile(title))).to_be_visible()

    tom.reload()
    expect(his.get_by_role("list", name=labels.WHAT_WAS_SAID)).to_contain_text("Ask the client first")
    thread = his.get_by_role("article", name="Remark of Ines Calder")
    thread.get_by_role("button", name=labels.ANSWER).click()
    thread.get_by_label("An answer to Ines Calder").fill("They say yes.")
    thread.get_by_role("button", name=labels.SAY_IT).click()
    expect(thread).to_contain_text("They say yes.")
    thread.get_by_role("button", name=labels.SETTLED).click()
    expect(thread).to_contain_text("settled by Tom Arkwright")
    his.get_by_role("button", name=labels.ASK_FOR_A_REVIEW).click()
    expect(his.get_by_role("button", name=labels.ASK_FOR_A_REVIEW)).to_have_count(0)

    ines.reload()
    expect(hers.get_by_role("article", name="Remark of Ines Calder")).to_contain_text("They say yes.")
    hers.get_by_label(labels.WHAT_YOU_HAVE_TO_SAY_OF).fill("Well done")
    hers.get_by_role("button", name=labels.APPROVE_THIS).click()
    expect(hers.get_by_role("list", name=labels.WHAT_WAS_SAID)).to_contain_text("Ines Calder approves")
    expect(
        ines.get_by_role("region", name=labels.APPROVED).get_by_role("button", name=re.compile(title))
    ).to_be_visible()
    found = [one["id"] for one in Axe().run(ines).response["violations"]]
    assert found == []


def test_what_was_saved_since_is_not_approved_and_nothing_typed_is_lost(
    ines_page: Page, change: tuple[str, str], world: World
) -> None:
    of, title = change
    with client_of(world.base, "tom") as tom:
        assert tom.post(f"/api/changes/{of}/review").status_code == 204
        ines_page.goto(f"/changes?change={of}")
        hers = ines_page.get_by_role("region", name=labels.THE_CHANGE)
        hers.get_by_label(labels.WHAT_YOU_HAVE_TO_SAY_OF).fill("Good as it is")
        bench = tom.get(HEADER, params={"in": of})
        document = bench.json()["document"]
        document["items"][0]["label"] = {"en": f"{title} again"}
        assert (
            tom.put(HEADER, params={"in": of}, json=document, headers={"if-match": bench.headers["etag"]}).status_code
            == 200
        )
        assert tom.post(f"/api/changes/{of}/review").status_code == 204
    hers.get_by_role("button", name=labels.APPROVE_THIS).click()
    expect(hers.get_by_role("alert")).to_contain_text("is not what you looked at")
    expect(hers.get_by_label(labels.WHAT_YOU_HAVE_TO_SAY_OF)).to_have_value("Good as it is")
    expect(hers).to_contain_text(f"{title} again")
    hers.get_by_role("button", name=labels.APPROVE_THIS).click()
    expect(hers.get_by_role("list", name=labels.WHAT_WAS_SAID)).to_contain_text("Good as it is")
