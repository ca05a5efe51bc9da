"""A whole Sign Shelf for the browser: stand-in sites, server and worker in threads of the test's process, and a database.

The world is made once a test process. Each file of tests begins with the world as it was made, so that no test builds on what
another file left.
"""

import asyncio
import shutil
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import httpx
import pytest
import uvicorn
from playwright.sync_api import Browser, BrowserContext, Page, expect
from pydantic import SecretStr
from starlette.applications import Starlette
from starlette.types import Receive, Scope, Send

from sign_shelf.demo import cluster as clusters
from sign_shelf.demo.seed import PASSWORD, seed
from sign_shelf.demo.stand_ins.mail import mail_sink
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins, stand_in_app
from sign_shelf.desk.posting import Post
from sign_shelf.jobs import releasing, watching
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.mail import MailServer
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database
from tests.browser.waiting import resting_at
from tests.constants import KEY, LOOPBACK, SEALS
from tests.databases import copy_database, drop_database, make_database
from tests.in_process import in_thread, server_in_thread, worker_in_thread
from tests.waiting import eventually
from tools.chromium import LAUNCH

# Two cores do all of it: browser, server, worker, stand-ins, database.
expect.set_options(timeout=30_000)
SEEDED, COPIED = "browser_before", "browser"


@dataclass(frozen=True)
class World:
    base: str
    sites: dict[str, StandIn]
    address: str
    ines: httpx.Client
    """Ines over HTTP, for what a test needs to be there and for what it looks at afterwards."""


@dataclass
class Made:
    """What is the same for all files of tests: ports, and what the world begins with."""

    cluster: clusters.Cluster
    folder: Path
    port: int
    mail_port: int
    apps: dict[int, Starlette]

    @property
    def base(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def stand_ins(self, folder: Path) -> list[StandIn]:
        """The sites as they were before, in the folder from now on."""
        shutil.rmtree(folder, ignore_errors=True)
        shutil.copytree(self.folder / "before", folder)
        sites = make_stand_ins(folder, iter(lambda: clusters.free_port(), None))
        self.apps.update({site.port: stand_in_app(site) for site in sites})
        return sites

    def settings(self, address: str) -> Settings:
        return Settings(
            database=SecretStr(address), key=KEY, private_hosts="127.0.0.1", address=f"{self.base}/",
            mail=SecretStr(f"smtp://127.0.0.1:{self.mail_port}"), mail_from="shelf@quillfen.example",
            mail_sink=self.folder / "mail",
        )  # fmt: skip


@contextmanager
def _served(apps: dict[int, Starlette]) -> Iterator[None]:
    """All sites in one thread, each behind its port as it is at the moment."""

    def behind(port: int) -> uvicorn.Server:
        async def current(scope: Scope, receive: Receive, send: Send) -> None:
            await apps[port](scope, receive, send)

        return uvicorn.Server(uvicorn.Config(
            current, host="127.0.0.1", port=port, log_level="error", lifespan="off", timeout_graceful_shutdown=1,
        ))  # fmt: skip

    servers = [behind(port) for port in apps]

    async def serve() -> None:
        await asyncio.gather(*(server.serve() for server in servers))

    with in_thread("stand-ins", serve) as thread:
        eventually(lambda: all(server.started for server in servers))
        yield
        for server in servers:
            server.should_exit = True
        eventually(lambda: not thread.is_alive())


@pytest.fixture(scope="session")
def made_world(cluster: clusters.Cluster, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Made]:
    folder: Path = tmp_path_factory.mktemp("world")
    (folder / "before").mkdir()
    made = Made(cluster, folder, clusters.free_port(), clusters.free_port(), {})
    with ExitStack() as running:
        mail = mail_sink(folder / "mail", made.mail_port)
        mail.start()
        running.callback(mail.stop)
        sites = made.stand_ins(folder / "seeding")
        running.enter_context(_served(made.apps))
        address = make_database(cluster, SEEDED)
        with ThreadPoolExecutor(1) as aside:  # Playwright's own event loop holds this thread.
            aside.submit(seed, address, SEALS, sites, shelf=made.base).result()
            aside.submit(lambda: asyncio.run(_settled(made.settings(address)))).result()
        shutil.rmtree(folder / "before")
        shutil.copytree(folder / "seeding", folder / "before")
        yield made


async def _settled(settings: Settings) -> None:
    """Everything was read, asked, checked and told that a worker would do first: otherwise it would be done in each file anew."""
    database = Database.configured(settings)
    later = datetime.now(UTC) + timedelta(minutes=2)
    async with Fetcher(LOOPBACK) as fetcher:
        for _ in range(2):
            await watching.look(database, fetcher)
            await watching.read_what_sites_show(database, fetcher, lambda: later)
        await watching.tell_people(
            database, Post(fetcher=fetcher, mail=MailServer.configured(settings), shelf=settings.address)
        )
    await releasing.foretell(database)
    await watching.seal_ledger(database)
    await database.close()


@pytest.fixture(scope="module", autouse=True)
def world(made_world: Made) -> Iterator[World]:
    """As it was made, for each file."""
    sites = made_world.stand_ins(made_world.folder / "sites")
    address = copy_database(made_world.cluster, SEEDED, COPIED)
    settings = made_world.settings(address)
    with (
        server_in_thread(settings, made_world.port), worker_in_thread(settings), client_of(made_world.base, "ines") as ines,
    ):  # fmt: skip
        yield World(made_world.base, {site.content.key: site for site in sites}, address, ines)
    drop_database(made_world.cluster, COPIED)


@contextmanager
def client_of(base: str, person: str) -> Iterator[httpx.Client]:
    """Somebody's program at the shelf."""
    # Reading the authorities for certificates takes a tenth of a second each time; here is no certificate.
    with httpx.Client(base_url=base, headers={"origin": base}, trust_env=False, timeout=60, verify=False) as client:
        answer = client.post("/api/session", json={"email": f"{person}@quillfen.example", "password": PASSWORD})
        assert answer.status_code == 200, answer.text
        yield client


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    return LAUNCH


@pytest.fixture(scope="session")
def browser_context_args(made_world: Made) -> dict[str, Any]:
    return {"base_url": made_world.base, "viewport": {"width": 1280, "height": 800}, "reduced_motion": "reduce"}


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


@pytest.fixture(scope="session", autouse=True)
def page_to_rest_at(browser: Browser) -> Iterator[None]:
    """An empty page, at which tests wait for what happens outside of pages."""
    page = browser.new_page()
    with resting_at(page):
        yield
    page.context.close()


@pytest.fixture
def ines_page(world: World, context: BrowserContext) -> Page:
    return signed_in(context, "ines")


@pytest.fixture
def tom_page(world: World, browser: Browser, browser_context_args: dict[str, Any]) -> Iterator[Page]:
    context = browser.new_context(**browser_context_args)
    yield signed_in(context, "tom")
    context.close()
