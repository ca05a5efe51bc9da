"""A shelf run for real, with the largest menu that is allowed, and somebody of every role."""

import asyncio
import os
from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from time import monotonic

import httpx
import psutil
import pytest

from sign_shelf.core.documents import content_hash, read_menu
from sign_shelf.core.menu import DEVICES
from sign_shelf.demo import cluster as clusters
from sign_shelf.demo.seed import take_in_stand_in
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins, stand_in_app
from sign_shelf.desk import connect, edit
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import ROLES
from sign_shelf.desk.portfolio import board
from sign_shelf.store.database import Database
from tests.attack.largest import largest_menu
from tests.conftest import PASSWORD, SEALS, eventually, make_database, serving
from tests.running import Running, running

WHOLE = bool(os.environ.get("ATTACK"))
"""`make test-attack` asks for all of it; `make test` for a short form."""
MOST_HELD_MS = 50
MOST_GROWN_MB = 300


@dataclass
class Target:
    running: Running
    clients: dict[str, httpx.Client]
    site: StandIn
    delivery_key: str
    address: str
    rest_mb: float

    @property
    def owner(self) -> httpx.Client:
        return self.clients["owner"]

    def size_mb(self) -> float:
        """Of the server and all of its processes."""
        server = psutil.Process(self.running.server.pid)
        found = 0.0
        for one in [server, *server.children(recursive=True)]:
            try:
                found += one.memory_info().rss / 1024 / 1024
            except psutil.NoSuchProcess:
                continue
        return found

    def held_ms(self) -> float:
        """How long the loop was held at most; asked in the middle of whatever goes on."""
        answer = httpx.get(f"{self.running.base}/api/health/ready", timeout=10, trust_env=False)
        assert answer.status_code == 200, answer.text
        return float(answer.json()["loop_held_ms"])


def client_of(base: str) -> httpx.Client:
    return httpx.Client(base_url=base, headers={"origin": base}, timeout=60, trust_env=False)


async def prepared(address: str, site: StandIn, small: StandIn) -> str:
    """The site with the largest menu, and one as sites are. The delivery key of the first."""
    database = Database(address, SEALS)
    now = datetime.now(UTC)
    made = [
        await add_person(database, email=f"{role}@quillfen.example", name=role, password=PASSWORD, role=role, now=now)
        for role in ROLES
    ]
    await take_in_stand_in(database, site, made[0])
    await take_in_stand_in(database, small, made[0])
    async with database.transaction() as session:
        found = await board(session, "brackwater")
    whole = read_menu(largest_menu())
    before = found.menus["header"].document
    await edit.save_menu(
        database, made[0], "brackwater", "header", expected=content_hash(before), document=whole, now=now
    )
    key = await connect.new_key(
        database, made[0], "brackwater", "delivery", old_counts=connect.OLD_COUNTS, now=now
    )  # fmt: skip
    await database.close()
    return key.get_secret_value()


@pytest.fixture(scope="session")
def target(cluster: clusters.Cluster, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Target]:
    address = make_database(cluster, "attacked")
    folder: Path = tmp_path_factory.mktemp("attacked")
    sites = make_stand_ins(folder, iter(lambda: clusters.free_port(), None))
    site, small = (next(one for one in sites if one.content.key == key) for key in ("brackwater", "vesper"))
    with ExitStack() as open_now:
        for one in (site, small):
            open_now.enter_context(serving(stand_in_app(one), one.port))
        key = asyncio.run(prepared(address, site, small))
        shelf = open_now.enter_context(running(address))
        clients = {}
        for role in ROLES:
            clients[role] = open_now.enter_context(client_of(shelf.base))
            answer = clients[role].post(
                "/api/session", json={"email": f"{role}@quillfen.example", "password": PASSWORD}
            )
            assert answer.status_code == 200, answer.text
        # Rest is after everything was used once: what is read the first time stays.
        for device in DEVICES:
            clients["owner"].get("/api/shelf", params={"device": device})
        found = Target(shelf, clients, site, key, address, 0.0)
        found.rest_mb = found.size_mb()
        yield found


@pytest.fixture(autouse=True)
def unharmed(target: Target) -> Iterator[None]:
    """After each attack: the loop was not held, the memory is what it was, everything is there, and quick."""
    yield
    assert target.running.server.poll() is None
    assert target.held_ms() <= MOST_HELD_MS
    eventually(lambda: target.size_mb() < target.rest_mb + MOST_GROWN_MB, within_s=30)
    began = monotonic()
    assert target.owner.get("/api/sites/brackwater/pages").status_code == 200
    assert monotonic() - began < 20
