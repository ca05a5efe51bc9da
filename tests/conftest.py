"""What tests stand on: an own PostgreSQL for each test process, Brackwater Ferries on the shelf, the HTTP interface, two people.

Fixtures import what they need when they are asked for: a test of the core alone starts without database, server and browser.
"""

import gc
import os
import sys
from collections.abc import AsyncIterator, Callable, Iterator
from pathlib import Path
from random import Random
from typing import TYPE_CHECKING

import pytest
import structlog

import tests.examples  # noqa: F401 - the profile of hypothesis

if TYPE_CHECKING:
    import httpx

    from sign_shelf.demo.cluster import Cluster
    from sign_shelf.demo.stand_ins.server import StandIn
    from sign_shelf.desk.permission import Person
    from sign_shelf.outside.fetch import Fetcher
    from sign_shelf.settings import Settings
    from sign_shelf.store.database import Database
    from tests.brackwater import Brackwater

# A sign-in takes a third of a second at its real price, which tests of the hash itself pay (tests/desk/test_passwords.py).
os.environ |= {f"SIGN_SHELF_PASSWORD_{name}": "1" for name in ("PASSES", "LANES")} | {
    "SIGN_SHELF_PASSWORD_MEMORY_KIB": "32"
}
# Garbage is looked for less often: with all that is imported, that is a fifth of the time of a run.
gc.set_threshold(50_000, 20, 50)
EMPTIED = "tests"
COPIED = "tests_of_brackwater"


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption(
        "--order", type=int, help="Files of tests, and tests within each, in an order that this seed gives."
    )


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    seed = config.getoption("--order")
    if seed is not None:
        random = Random(seed)
        files = sorted({str(item.path) for item in items})
        random.shuffle(files)
        at = {file: number for number, file in enumerate(files)}
        random.shuffle(items)
        items.sort(key=lambda item: at[str(item.path)])


def pytest_collection_finish() -> None:
    gc.freeze()
    # What servers and workers in threads say is none of what a command prints, whose output is caught meanwhile.
    structlog.configure(logger_factory=structlog.PrintLoggerFactory(file=sys.__stderr__))


@pytest.fixture(scope="session")
def cluster() -> "Iterator[Cluster]":
    from tests.databases import test_cluster

    with test_cluster() as running:
        yield running


@pytest.fixture(scope="session")
def whole_address(cluster: "Cluster") -> str:
    """A database that nobody empties."""
    from tests.databases import make_database

    return make_database(cluster, EMPTIED)


@pytest.fixture(scope="session")
def seeded_brackwater(cluster: "Cluster", tmp_path_factory: pytest.TempPathFactory) -> "Iterator[Brackwater]":
    """Brackwater Ferries and its database as they are before a test, made once."""
    from tests.brackwater import made

    with made(cluster, tmp_path_factory.mktemp("brackwater")) as seeded:
        yield seeded


@pytest.fixture
def address(request: pytest.FixtureRequest, cluster: "Cluster") -> Iterator[str]:
    """A database with the newest schema: with Ines and Brackwater in it for who asks for `brackwater`, else empty."""
    from tests.databases import copy_database, drop_database, empty_database

    if "brackwater" in request.fixturenames:
        from sign_shelf.desk import ready

        ready.forget()
        yield copy_database(cluster, request.getfixturevalue("seeded_brackwater").database, COPIED)
        drop_database(cluster, COPIED)
    else:
        found = request.getfixturevalue("whole_address")
        empty_database(found)
        yield found


@pytest.fixture
def configured(address: str) -> "Settings":
    from pydantic import SecretStr

    from sign_shelf.settings import Settings
    from tests.constants import KEY

    return Settings(database=SecretStr(address), key=KEY, private_hosts="127.0.0.1")


@pytest.fixture
async def database(configured: "Settings") -> "AsyncIterator[Database]":
    from sign_shelf.store.database import Database
    from tests.constants import SEALS

    opened = Database(configured.database.get_secret_value(), SEALS)
    yield opened
    await opened.close()


@pytest.fixture
async def fetcher() -> "AsyncIterator[Fetcher]":
    from sign_shelf.outside.fetch import Fetcher
    from tests.constants import LOOPBACK

    async with Fetcher(LOOPBACK, timeout_s=5) as opened:
        yield opened


@pytest.fixture
async def ines(database: "Database") -> "Person":
    from tests.accounts import account

    return await account(database, "Ines Calder", "lead")


@pytest.fixture
async def tom(database: "Database") -> "Person":
    from tests.accounts import account

    return await account(database, "Tom Arkwright", "editor")


@pytest.fixture
def stand_in(seeded_brackwater: "Brackwater", tmp_path: Path) -> "StandIn":
    """Brackwater Ferries as it is before anybody changed anything."""
    return seeded_brackwater.anew(tmp_path / "stand-ins")


@pytest.fixture
def brackwater(database: "Database", stand_in: "StandIn", ines: "Person") -> "StandIn":
    """Brackwater Ferries on the shelf, with its signing key."""
    return stand_in


@pytest.fixture
async def run_jobs(configured: "Settings", database: "Database") -> Callable[[], object]:
    """Runs every job that waits, in this process, until none is left."""
    from sqlalchemy import text

    from sign_shelf.jobs.worker import queue_app

    async def run() -> None:
        app = queue_app(configured, database)
        async with app.open_async():
            while True:
                await app.run_worker_async(wait=False, install_signal_handlers=False, listen_notify=False)
                async with database.transaction() as session:
                    # What is to be tried again later is tried now.
                    waiting = await (await session.connection()).execute(
                        text("UPDATE procrastinate_jobs SET scheduled_at = NULL WHERE status = 'todo' RETURNING id")
                    )
                    if not waiting.all():
                        return

    return run


@pytest.fixture
async def api(configured: "Settings", database: "Database", fetcher: "Fetcher") -> "AsyncIterator[httpx.AsyncClient]":
    from tests.accounts import browser_at

    async with browser_at(configured, database, fetcher) as client:
        yield client


@pytest.fixture
async def as_ines(api: "httpx.AsyncClient", ines: "Person") -> "httpx.AsyncClient":
    from tests.accounts import sign_in

    await sign_in(api, ines.email)
    return api


@pytest.fixture
async def as_tom(
    configured: "Settings", database: "Database", fetcher: "Fetcher", tom: "Person"
) -> "AsyncIterator[httpx.AsyncClient]":
    """At a server of his own, over the same database."""
    from tests.accounts import browser_at, sign_in

    async with browser_at(configured, database, fetcher) as client:
        await sign_in(client, tom.email)
        yield client
