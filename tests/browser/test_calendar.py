"""The calendar: a change gets a moment, is moved, frozen, goes live by itself and is undone in one step."""

import re
from collections.abc import Callable
from typing import Any
from uuid import uuid4

import httpx
import psycopg
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from tests.browser import labels
from tests.browser.conftest import World, client_of
from tests.browser.test_review import HEADER, change  # noqa: F401 - a fixture
from tests.browser.waiting import eventually


def asked(world: World, change_id: str) -> None:
    with client_of(world.base, "tom") as tom:
        assert tom.post(f"/api/changes/{change_id}/review").status_code == 204


def its_moment_comes(world: World, change_id: str) -> None:
    with psycopg.connect(world.address, autocommit=True) as connection:
        # Set as an instant, no clock moves it back.
        connection.execute("UPDATE schedule SET kind = 'instant' WHERE change_id = %s", [change_id])
        connection.execute("UPDATE change_part SET goes_at = now() WHERE change_id = %s", [change_id])


def is_foretold(world: World) -> bool:
    with psycopg.connect(world.address, autocommit=True) as connection:
        return connection.execute("SELECT 1 FROM foretold_state").fetchone() is not None


def test_a_change_gets_a_moment_is_moved_goes_by_itself_and_is_undone(
    ines_page: Page,
    world: World,
    change: tuple[str, str],  # noqa: F811
) -> None:
    change_id, title = change
    page = ines_page
    asked(world, change_id)
    page.goto(f"/changes?change={change_id}")
    here = page.get_by_role("region", name=labels.THE_CHANGE)
    goes = here.get_by_role("region", name=labels.WHEN_IT_GOES_LIVE)
    goes.get_by_role("button", name=labels.GIVE_IT_A_MOMENT).click()
    field = goes.get_by_role("textbox", name=labels.GOES_LIVE)
    field.fill("28 Mar 2027 02:30")
    goes.get_by_role("button", name=labels.SET_IT).click()
    refused = goes.get_by_role("alert")
    expect(refused).to_contain_text("Vesper Quay Festival: the clock never shows this time")
    refused.get_by_role("button", name=labels.N_28_MAR_2027_03_00).click()
    expect(field).to_have_value("28 Mar 2027 03:00")
    goes.get_by_role("textbox", name=labels.COMES_BACK).fill("5 Apr 2027 03:00")
    goes.get_by_role("button", name=labels.SET_IT).click()
    expect(goes).to_contain_text("goes live 28 Mar 2027 03:00, Amsterdam")
    expect(goes).to_contain_text("if it is approved by then")
    here.get_by_role("button", name=labels.APPROVE_THIS).click()
    expect(goes).not_to_contain_text("if it is approved by then")
    goes.get_by_role("button", name=labels.LET_IT_COME_BACK_EVERY_YEAR).click()
    yearly = goes.get_by_role("form", name=labels.EVERY_YEAR)
    yearly.get_by_label(labels.GOES_LIVE_EACH_YEAR).select_option(label="on the last Sunday of March")
    yearly.get_by_role("button", name=labels.SET_IT).click()
    expect(goes).to_contain_text(
        "Comes back every year on the last Sunday of March until 5 April, approved as long as it does the same."
    )

    # Whoever looks at that moment sees it by then, and not before.
    eventually(lambda: is_foretold(world))
    for at, there in (("2027-03-28T03:01", 1), ("2027-03-27T03:01", 0)):
        page.goto(f"/sites/vesper?in=live&at={at}")
        drawn = page.frame_locator('iframe[title^="The page"]')
        expect(drawn.get_by_text(title)).to_have_count(there)
        says = f"{title} goes live" if there else "nothing that is scheduled changes what hangs here"
        expect(page.get_by_role("status").filter(has_text=says)).to_be_visible()
    page.goto("/findings?at=2027-03-28T03:01")
    expect(page.get_by_role("region", name=labels.COMES_UNTIL_THEN)).to_contain_text(title)
    page.get_by_role("link", name="Calendar").click()
    lane = page.get_by_role("region", name=labels.LANES).get_by_role("region", name="Vesper Quay Festival")
    block = lane.get_by_role("button", name=re.compile(f"^{title}"))
    expect(block).to_have_accessible_name(f"{title}: goes live 28 Mar 2027 03:00; comes back 5 Apr 2027 03:00")
    expect(page.get_by_role("region", name=labels.EVERY_YEAR)).to_contain_text(
        "26 Mar 2028 03:00 until 5 Apr 2028 03:00"
    )
    block.focus()
    block.press("Shift+ArrowRight")
    expect(block).to_have_accessible_name(f"{title}: goes live 29 Mar 2027 03:00; comes back 6 Apr 2027 03:00")
    box = block.bounding_box()
    assert box is not None
    day = lane.evaluate("(lane) => lane.lastElementChild.clientWidth / 365")
    page.mouse.move(box["x"] + 8, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 8 + 7 * day, box["y"] + 8, steps=4)
    page.mouse.up()
    expect(block).to_have_accessible_name(f"{title}: goes live 5 Apr 2027 03:00; comes back 13 Apr 2027 03:00")

    freezes = page.get_by_role("region", name=labels.FREEZES)
    freezes.get_by_role("textbox", name=labels.FROM, exact=True).fill("4 Apr 2027 00:00")
    freezes.get_by_role("textbox", name=labels.TO, exact=True).fill("6 Apr 2027 00:00")
    freezes.get_by_role("textbox", name=labels.WHY).fill(f"Fair of {title}")
    freezes.get_by_role("button", name=labels.FREEZE, exact=True).click()
    expect(block).to_have_accessible_name(re.compile(f"nothing goes live then: Fair of {title}"))
    expect(page.get_by_role("region", name=labels.WHAT_WILL_BE_DIFFERENT)).to_contain_text(f"Fair of {title}")
    feeds = page.get_by_role("region", name=labels.FEEDS)
    feeds.get_by_role("button", name=re.compile("^Make")).click()
    address = feeds.get_by_label(labels.THE_SECRET_TO_BE_COPIED).first.input_value()
    calendar = httpx.get(address, trust_env=False, timeout=60)
    assert f"SUMMARY:{title}: Vesper Quay Festival" in calendar.text
    found = Axe().run(page, options={"rules": {"region": {"enabled": False}}})
    assert found.response["violations"] == [], found.generate_report()
    freezes.get_by_role("button", name=f"End the freeze Fair of {title}").click()
    expect(block).to_have_accessible_name(re.compile("comes back 13 Apr 2027 03:00$"))
    feeds.get_by_role("button", name=labels.WITHDRAW_THEM).click()
    expect(feeds.get_by_role("button", name=labels.MAKE_THE_ADDRESSES)).to_be_visible()
    assert httpx.get(address, trust_env=False, timeout=60).status_code == 401

    block.click()
    its_moment_comes(world, change_id)
    page.reload()
    expect(goes).to_contain_text("live since", timeout=60_000)
    goes.get_by_role("button", name=labels.UNDO_IT_AT_ITS_SITE).click()
    expect(goes).to_contain_text("what was before is live again since", timeout=60_000)
    expect(here.get_by_role("heading", name=re.compile(f"^{title}"))).to_contain_text("undone")


def went_live(tom: httpx.Client, title: str, edit: Callable[[list[dict[str, Any]]], object]) -> str:
    """A change of that title with the edit, live by now."""
    begun = tom.post("/api/sites/vesper/changes", json={"title": title}, headers={"idempotency-key": title}).json()[
        "change"
    ]
    bench = tom.get(HEADER, params={"in": begun})
    document = bench.json()["document"]
    edit(document["items"])
    saved = tom.put(HEADER, params={"in": begun}, json=document, headers={"if-match": bench.headers["etag"]})
    assert saved.status_code == 200, saved.text
    key = {"idempotency-key": f"live {title}"}
    asked = tom.post("/api/sites/vesper/releases", params={"in": begun}, headers=key)
    assert asked.status_code == 202, asked.text
    eventually(lambda: tom.get(f"/api/releases/{asked.json()['id']}").json()["state"] == "live", within_s=60)
    return str(begun)


def how_it_ended(world: World, change_id: str, kind: str) -> str:
    """Of the change's release of that kind: live, or why not; empty while it is under way."""
    with psycopg.connect(world.address, autocommit=True) as connection:
        found = connection.execute(
            "SELECT state, says FROM release WHERE change_id = %s AND kind = %s AND state IN ('live', 'failed')",
            [change_id, kind],
        ).fetchone()
    return "" if found is None else "live" if found[0] == "live" else str(found[1])


def test_an_undo_that_something_builds_on_asks_what_holds(ines_page: Page, world: World) -> None:
    name = f"Regatta {uuid4().hex[:6]}"
    entry = {"id": name.lower().replace(" ", "-"), "kind": "link", "label": {"en": name}, "target": {"url": "/regatta"}}
    with client_of(world.base, "tom") as tom:
        first = went_live(tom, name, lambda items: items.append(entry))
        went_live(tom, f"{name} called anew", lambda items: items[-1].update(label={"en": f"{name} for all"}))
        page = ines_page
        page.goto(f"/changes?change={first}")
        goes = page.get_by_role("region", name=labels.THE_CHANGE).get_by_role("region", name=labels.WHEN_IT_GOES_LIVE)
        goes.get_by_role("button", name=labels.UNDO_IT_AT_ITS_SITE).click()
        asks = page.get_by_role("dialog", name=f"Undo {name}")
        expect(asks.get_by_role("region", name="Vesper Quay Festival")).to_contain_text(f"{name} for all")
        expect(asks.get_by_role("button", name=labels.UNDO_IT_SO)).to_be_disabled()
        asks.get_by_role("radio", name=re.compile("^before")).check()
        asks.get_by_role("button", name=labels.UNDO_IT_SO).click()
        expect(asks).to_have_count(0)
        eventually(lambda: how_it_ended(world, first, "undo") != "")
        assert how_it_ended(world, first, "undo") == "live"
        expect(goes).to_contain_text("what was before is live again since", timeout=15_000)
        assert name not in str(tom.get(HEADER, params={"in": "live"}).json()["document"])
        tom.put("/api/sites/vesper/work", json={"change": None})
