"""What tests stand on: a PostgreSQL cluster of their own for each worker, stand-in sites, the HTTP interface."""

import os
import shutil
import threading
import time
from collections.abc import AsyncIterator, Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx
import psycopg
import pytest
import uvicorn
from hypothesis import HealthCheck, settings
from pydantic import SecretStr
from sqlalchemy import text
from starlette.applications import Starlette

from sign_shelf.api.app import create_app
from sign_shelf.demo import cluster as clusters
from sign_shelf.demo.seed import take_in_stand_in
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins, stand_in_app
from sign_shelf.desk.connect import Made, new_key
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import Person
from sign_shelf.jobs.worker import queue_app
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database
from sign_shelf.store.migrate import migrate
from sign_shelf.store.seals import Seals, new_seal_key

# The suite tries the same examples every time, so that it says the same of the same code; EXPLORE=1 looks for new ones,
# and for longer.
EXPLORE = bool(os.environ.get("EXPLORE"))
settings.register_profile(
    "suite",
    deadline=None,
    derandomize=not EXPLORE,
    max_examples=400 if EXPLORE else 50,
    report_multiple_bugs=False,
    suppress_health_check=[HealthCheck.too_slow],
)
settings.load_profile("suite")
ON_STATES = settings(max_examples=10_000 if os.environ.get("DEEP") else 120)
"""For the laws of changes: on so many generated states of sites."""

SHELF = "http://shelf.example"
OWN_PAGE = {"origin": SHELF}
"""What a browser sends with every write of our own pages."""
LOOPBACK = frozenset({"127.0.0.1"})
PASSWORD = "long enough to be kept"
KEY = SecretStr(new_seal_key())
SEALS = Seals(KEY)


def eventually(holds: Callable[[], object], within_s: float = 20.0) -> None:
    """Waits until `holds` is true; fails where it is not within the time."""
    tick = threading.Event()
    ends = time.monotonic() + within_s
    while time.monotonic() < ends:
        if holds():
            return
        tick.wait(0.05)
    raise AssertionError(f"not within {within_s} s")


@pytest.fixture(scope="session")
def cluster() -> Iterator[clusters.Cluster]:
    worker = os.environ.get("PYTEST_XDIST_WORKER", "alone")
    folder, _ = clusters.cluster_folder(Path.cwd() / ".local" / f"test-pg-{worker}")
    shutil.rmtree(folder, ignore_errors=True)
    running = clusters.start(folder, for_tests=True)
    yield running
    running.stop()
    shutil.rmtree(folder, ignore_errors=True)


def make_database(running: clusters.Cluster, name: str) -> str:
    with psycopg.connect(running.address("postgres"), autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name}")
    migrate(running.address(name), SEALS)
    return running.address(name)


@pytest.fixture(scope="session")
def whole_address(cluster: clusters.Cluster) -> str:
    return make_database(cluster, "tests")


@pytest.fixture
def address(whole_address: str) -> str:
    """An empty database with the newest schema."""
    with psycopg.connect(whole_address, autocommit=True) as connection:
        connection.execute(_EMPTIED)
    return whole_address


_EMPTIED = """
DO $$ DECLARE one record; BEGIN
  PERFORM set_config('session_replication_role', 'replica', true);
  FOR one IN SELECT tablename FROM pg_tables WHERE schemaname = 'public' AND tablename <> 'alembic_version' LOOP
    EXECUTE format('DELETE FROM %I', one.tablename);
  END LOOP;
  FOR one IN SELECT sequencename, start_value FROM pg_sequences WHERE schemaname = 'public' LOOP
    PERFORM setval(quote_ident(one.sequencename), one.start_value, false);
  END LOOP;
END $$
"""
"""Without references and triggers. Truncating makes files anew for every table and index: a quarter of a second each time."""


@pytest.fixture
def configured(address: str) -> Settings:
    return Settings(database=SecretStr(address), key=KEY, private_hosts="127.0.0.1")


@pytest.fixture
async def database(configured: Settings) -> AsyncIterator[Database]:
    opened = Database(configured.database.get_secret_value(), SEALS)
    yield opened
    await opened.close()


@pytest.fixture
async def fetcher() -> AsyncIterator[Fetcher]:
    async with Fetcher(LOOPBACK, timeout_s=5) as opened:
        yield opened


@pytest.fixture
async def ines(database: Database) -> Person:
    return await add_person(
        database,
        email="ines@quillfen.example",
        name="Ines Calder",
        password=PASSWORD,
        role="lead",
        now=datetime.now(UTC),
    )


@pytest.fixture
async def tom(database: Database) -> Person:
    return await add_person(
        database,
        email="tom@quillfen.example",
        name="Tom Arkwright",
        password=PASSWORD,
        role="editor",
        now=datetime.now(UTC),
    )


@contextmanager
def serving(app: Starlette, port: int, certificate: tuple[Path, Path] | None = None) -> Iterator[str]:
    """The application on a loopback port, in a thread; its address. `certificate` with its key: by TLS."""
    shown, key = certificate or (None, None)
    server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="error", lifespan="off",
                                           timeout_graceful_shutdown=1, ssl_certfile=shown, ssl_keyfile=key))  # fmt: skip
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    eventually(lambda: server.started)
    yield f"http{'s' if certificate else ''}://127.0.0.1:{port}/"
    server.should_exit = True
    thread.join(10)


@pytest.fixture
def stand_in(tmp_path: Path) -> Iterator[StandIn]:
    """Brackwater Ferries as it is before anybody changed anything."""
    sites = make_stand_ins(tmp_path / "stand-ins", iter(lambda: clusters.free_port(), None))
    site = next(one for one in sites if one.content.key == "brackwater")
    with serving(stand_in_app(site), site.port):
        yield site


@pytest.fixture
async def brackwater(database: Database, stand_in: StandIn, ines: Person) -> StandIn:
    """Brackwater Ferries on the shelf, with its signing key."""
    await take_in_stand_in(database, stand_in, ines)
    return stand_in


@pytest.fixture
async def run_jobs(configured: Settings, database: Database) -> Callable[[], object]:
    """Runs every job that waits, in this process, until none is left."""

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
async def api(configured: Settings, database: Database, fetcher: Fetcher) -> AsyncIterator[httpx.AsyncClient]:
    app = create_app(configured)
    app.state.database, app.state.fetcher = database, fetcher
    transport = httpx.ASGITransport(app=app, raise_app_exceptions=False)
    async with httpx.AsyncClient(transport=transport, base_url=SHELF, headers=OWN_PAGE) as client:
        yield client


async def site_key(database: Database, person: Person, site: str, kind: Made) -> str:
    """A new key of the site's."""
    made = await new_key(database, person, site, kind, old_counts=timedelta(), now=datetime.now(UTC))
    return made.get_secret_value()


async def sign_in(api: httpx.AsyncClient, email: str) -> None:
    answer = await api.post("/api/session", json={"email": email, "password": PASSWORD})
    assert answer.status_code == 200, answer.text


@pytest.fixture
async def as_ines(api: httpx.AsyncClient, ines: Person) -> httpx.AsyncClient:
    await sign_in(api, ines.email)
    return api


@pytest.fixture
async def as_tom(
    configured: Settings, database: Database, fetcher: Fetcher, tom: Person
) -> AsyncIterator[httpx.AsyncClient]:
    """At a server of his own, over the same database."""
    app = create_app(configured)
    app.state.database, app.state.fetcher = database, fetcher
    async with httpx.AsyncClient(transport=httpx.ASGITransport(app=app), base_url=SHELF, headers=OWN_PAGE) as client:
        await sign_in(client, tom.email)
        yield client
