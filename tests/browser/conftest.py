"""A whole running Sign Shelf for the browser: its own database, stand-in sites, server and worker processes."""

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from sign_shelf.demo import cluster as clusters
from sign_shelf.demo.seed import PASSWORD, seed
from sign_shelf.demo.stand_ins.mail import mail_sink
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins, stand_in_app
from tests.conftest import SEALS, make_database, serving
from tests.running import running as running_shelf
from tools.chromium import LAUNCH

# Two cores do all of it: browser, server with its processes, worker, stand-ins, database.
expect.set_options(timeout=15_000)


@dataclass(frozen=True)
class World:
    base: str
    sites: dict[str, StandIn]
    address: str


@pytest.fixture(scope="session")
def world(cluster: clusters.Cluster, tmp_path_factory: pytest.TempPathFactory) -> Iterator[World]:
    address = make_database(cluster, "browser")
    folder: Path = tmp_path_factory.mktemp("world")
    port = clusters.free_port()
    with ExitStack() as running:
        sites = make_stand_ins(folder, iter(lambda: clusters.free_port(), None))
        for site in sites:
            running.enter_context(serving(stand_in_app(site), site.port))
        with ThreadPoolExecutor(1) as aside:  # Playwright's own event loop holds this thread.
            aside.submit(seed, address, SEALS, sites, shelf=f"http://127.0.0.1:{port}").result()
        mail = mail_sink(folder / "mail", clusters.free_port())
        mail.start()
        running.callback(mail.stop)
        shelf = running.enter_context(running_shelf(
            address, port=port, MAIL=f"smtp://127.0.0.1:{mail.port}", MAIL_FROM="shelf@quillfen.example",
            MAIL_SINK=str(folder / "mail"), ADDRESS=f"http://127.0.0.1:{port}/",
        ))  # fmt: skip
        yield World(shelf.base, {site.content.key: site for site in sites}, address)


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    return LAUNCH


@pytest.fixture(scope="session")
def browser_context_args(world: World) -> dict[str, Any]:
    return {"base_url": world.base, "viewport": {"width": 1280, "height": 800}}


def signed_in(context: BrowserContext, person: str, *, sparing: bool = True) -> Page:
    """A page of a person, which shows nothing yet. Signing in through the interface has tests of its own (test_people.py). `sparing`: nothing is
    read ahead, which would be half of all that two cores do here."""
    if sparing:
        context.add_init_script(
            "Object.defineProperty(navigator, 'connection', { value: { saveData: true }, configurable: true })"
        )
    page = context.new_page()
    given = {"email": f"{person}@quillfen.example", "password": PASSWORD}
    origin = context.request.get("/").url.rstrip("/")
    answer = context.request.post("/api/session", data=given, headers={"origin": origin})
    assert answer.ok, answer.text()
    return page


@pytest.fixture
def ines_page(context: BrowserContext) -> Page:
    return signed_in(context, "ines")


@pytest.fixture
def tom_page(browser: Browser, browser_context_args: dict[str, Any]) -> Iterator[Page]:
    context = browser.new_context(**browser_context_args)
    yield signed_in(context, "tom")
    context.close()
