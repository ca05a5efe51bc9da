"""Every keystroke is there at the end, under the right name: lines typed over a slow and faulty line, with a second person in the
menu, sessions that end and reloads. A model of what was typed is the judge. `make test-deep` types three hundred."""

import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from random import Random
from uuid import uuid4

import httpx
import psycopg
import pytest
from playwright.sync_api import Browser, Page, Route, expect

from sign_shelf.core.model.documents import read_menu
from sign_shelf.core.model.menu import Link, UrlTarget, walk
from sign_shelf.demo.seed import PASSWORD
from tests.browser import labels
from tests.browser.conftest import World, client_of, signed_in
from tests.browser.outline_page import change_of, made, opened
from tests.browser.waiting import eventually

DEEP = bool(os.environ.get("DEEP"))
TYPED = [(1, 300), (2, 100), (3, 100)] if DEEP else [(1, 10)]
LATENCY_MS = 2_000 if DEEP else 500
DEEPEST = 4
SCROLLED = """(grid, by) => {
  let one = grid
  while (one && one.scrollHeight <= one.clientHeight + 1) one = one.parentElement
  one?.scrollBy(0, by)
  return new Promise(drawn => requestAnimationFrame(() => requestAnimationFrame(drawn)))
}"""
Line = tuple[int, str, str]
"""Its level, label and goal."""


@dataclass
class Typist:
    page: Page
    random: Random
    wrote: list[Line] = field(default_factory=list)
    """What the outline has to hold in the end, in this order."""

    def begin(self, label: str) -> None:
        self.page.get_by_role("row").first.locator("span").last.click()
        self.page.keyboard.press("End")
        self.wrote.append((1, label, "/begin"))

    def next_line(self, number: int) -> None:
        keys, level = self.page.keyboard, self.wrote[-1][0]
        keys.press("Enter")
        step = self.random.random()
        if step < 0.12 and level < DEEPEST:
            keys.press("Tab")
            level += 1
        elif step < 0.3 and level > 1:
            keys.press("Shift+Tab")
            level -= 1
        label = f"{number} {''.join(self.random.choices('abcdeilnorst', k=4))}"
        keys.type(label)
        goal = ""
        if self.random.random() < 0.15:
            goal = f"/{number}"
            # Enter takes what is typed as it stands, whatever a search may still find.
            keys.type(f" ->{goal}")
            keys.press("Enter")
        self.wrote.append((level, label, goal))

    def goes_on(self) -> None:
        """After a reload: at the end of the last line, of which only what is near is drawn."""
        label = self.wrote[-1][1]
        self.page.get_by_role("row").first.wait_for()
        last = self.page.get_by_role("row").filter(has_text=label).get_by_text(label, exact=True)
        scrolled = 1_000_000
        while last.count() == 0:
            self.page.get_by_role("treegrid").evaluate(SCROLLED, scrolled)
            scrolled = -150
        last.click()
        self.page.keyboard.press("End")


class Colleague:
    """Somebody else, who adds lines of their own at the end and calls them otherwise later."""

    def __init__(self, client: httpx.Client, menu: str, change: str) -> None:
        self.client, self.path, self.change = client, f"/api{menu}", change
        self.labels: list[str] = []

    def works(self, random: Random) -> None:
        read = self.client.get(self.path, params={"in": self.change})
        document = read.json()["document"]
        mine = [item for item in document["items"] if item["id"].startswith("tom-")]
        if mine and random.random() < 0.5:
            line = random.choice(mine)
            self.labels.remove(line["label"]["en"])
            line["label"]["en"] += " again"
            self.labels.append(line["label"]["en"])
        else:
            label = f"Tom {len(self.labels)}"
            line = {"id": f"tom-{uuid4().hex[:8]}", "kind": "link", "label": {"en": label}, "target": {"url": "/tom"}}
            document["items"].append(line)
            self.labels.append(label)
        saved = self.client.put(
            self.path, params={"in": self.change}, json=document, headers={"if-match": read.headers["etag"]}
        )
        # What she saved between his reading and his saving: he takes the merge that he is offered.
        while saved.status_code == 412:
            merge = saved.json()["merge"]
            assert merge["conflicts"] == [], merge["conflicts"]
            saved = self.client.put(
                self.path, params={"in": self.change}, json=merge["document"], headers={"if-match": f'"{merge["on"]}"'}
            )
        assert saved.status_code == 200, saved.text


@contextmanager
def as_tom(world: World) -> Iterator[httpx.Client]:
    with client_of(world.base, "tom") as client:
        yield client


def ended_session(world: World) -> None:
    with psycopg.connect(world.address, autocommit=True) as connection:
        connection.execute(
            "DELETE FROM signed_in USING person WHERE person.id = person_id AND person.email LIKE 'ines@%' AND browser <> ''"
        )


def slow_and_faulty(page: Page, random: Random) -> None:
    page.context.new_cdp_session(page).send(
        "Network.emulateNetworkConditions",
        {"offline": False, "latency": LATENCY_MS, "downloadThroughput": -1, "uploadThroughput": -1},
    )

    def answer(route: Route) -> None:
        if "/api/session" not in route.request.url and random.random() < 0.08:
            route.fulfill(status=503, headers={"retry-after": "1"}, body="{}", content_type="application/problem+json")
        else:
            route.continue_()

    page.route("**/api/**", answer)


def saved_lines(world: World, menu: str, change: str) -> tuple[list[Line], set[str]]:
    """Hers in their order, and the labels of his."""
    with as_tom(world) as client:
        raw = client.get(f"/api{menu}", params={"in": change}).json()["document"]
    hers: list[Line] = []
    his: set[str] = set()
    for level, item in walk(read_menu(raw).items):
        assert isinstance(item, Link)
        label = item.label["en"]
        if item.id.startswith("tom-"):
            his.add(label)
        else:
            hers.append((level, label, item.target.url if isinstance(item.target, UrlTarget) else ""))
    return hers, his


@pytest.mark.timeout(600)
@pytest.mark.parametrize(("seed", "lines"), TYPED)
def test_every_keystroke_is_there_at_the_end(browser: Browser, world: World, seed: int, lines: int) -> None:
    random = Random(seed)
    menu = made(world, f"Typed {seed}", "Begin -> /begin")
    context = browser.new_context(base_url=world.base, viewport={"width": 1280, "height": 800})
    page = signed_in(context, "ines")
    page.on("dialog", lambda dialog: dialog.accept())
    opened(page, menu)
    change = change_of(world, "thornby")
    typist = Typist(page, random)
    with as_tom(world) as client:
        colleague = Colleague(client, menu, change)
        slow_and_faulty(page, Random(seed + 100))
        typist.begin("Begin")
        later = range(min(20, lines // 3), lines)
        reloads = set(random.sample(later, 2))
        ends = set(random.sample([line for line in later if line not in reloads], 2))
        for number in range(1, lines):
            typist.next_line(number)
            if random.random() < 0.06:
                colleague.works(random)
            if number in reloads:
                page.reload()
                typist.goes_on()
            elif number in ends:
                ended_session(world)
                again = page.get_by_role("dialog", name=labels.YOU_ARE_SIGNED_OUT)
                again.get_by_label(labels.PASSWORD).fill(PASSWORD)
                again.get_by_role("button", name=labels.SIGN_IN_AND_GO_ON).click()
                expect(again).to_have_count(0)
                expect(page.get_by_label(labels.LABEL_OF)).to_be_focused()
        wanted = typist.wrote, set(colleague.labels)
        page.unroute("**/api/**")
        expect(page.get_by_text(labels.SAVED)).to_be_visible(timeout=60_000)
        with suppress(AssertionError):
            eventually(lambda: saved_lines(world, menu, change) == wanted, within_s=30)
        hers, his = saved_lines(world, menu, change)
        assert his == wanted[1]
        assert hers == wanted[0]
    context.close()
