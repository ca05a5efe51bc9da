"""A shelf run for real, with the largest menu that is allowed, and somebody of every role."""

import asyncio
import os
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from time import monotonic
from typing import Any

import httpx
import psutil
import pytest

from sign_shelf.core.model.documents import content_hash, read_menu
from sign_shelf.core.model.menu import DEVICES, MAX_ITEMS
from sign_shelf.demo import cluster as clusters
from sign_shelf.demo.seed import take_in_stand_in
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins, stand_in_app
from sign_shelf.desk import connect, edit
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import ROLES
from sign_shelf.desk.portfolio import board
from sign_shelf.store import changes
from sign_shelf.store.database import Database
from tests.attack.largest import largest_menu
from tests.constants import PASSWORD, SEALS
from tests.databases import make_database
from tests.running import Running, running
from tests.serving import serving
from tests.waiting import eventually

WHOLE = bool(os.environ.get("ATTACK"))
"""`make test-attack` asks for all of it; `make test` for a short form."""
LARGE = MAX_ITEMS if WHOLE else 4_000
"""Entries of the menu that everything is asked of: the most that are allowed, or enough to hold up what is not handed on."""
MOST_HELD_MS = 50
EVERYBODY = [role for role in ROLES if role != "none"]
MOST_GROWN_MB = 300


FIGURES: dict[str, float] = {}
"""What was done, for docs/benchmarks.md: told at the end."""


def counted(what: str, many: int = 1) -> None:
    FIGURES[what] = FIGURES.get(what, 0) + many


@dataclass
class Target:
    running: Running
    clients: dict[str, httpx.Client]
    site: StandIn
    delivery_key: str
    address: str
    rest_mb: float
    change: str
    """In which the largest menu is."""

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

    def held_ms(self, since: float) -> float:
        """How long the loop was held at most since the moment (monotonic); asked in the middle of whatever goes on."""
        within = min(monotonic() - since, 290)
        answer = httpx.get(
            f"{self.running.base}/api/health/ready", params={"within_s": within}, timeout=10, trust_env=False
        )
        assert answer.status_code == 200, answer.text
        return float(answer.json()["loop_held_ms"])

    def unheld(self, ask: Callable[[], Any], asked: object) -> Any:
        """What is answered. Work that holds the loop holds it every time; a machine that stumbles does so now and then:
        it is held only where eight askings in a row found it so."""
        found: list[float] = []
        for _ in range(8):
            began = monotonic()
            answer = ask()
            found.append(self.held_ms(began))
            if found[-1] <= MOST_HELD_MS:
                FIGURES["longest hold (ms)"] = max(FIGURES.get("longest hold (ms)", 0.0), found[-1])
                return answer
        raise AssertionError(f"held {found} ms by {asked}")


def client_of(base: str) -> httpx.Client:
    return httpx.Client(base_url=base, headers={"origin": base}, timeout=60, trust_env=False)


async def prepared(address: str, site: StandIn, small: StandIn) -> tuple[str, str]:
    """The site with the largest menu, and one as sites are. The delivery key of the first, and the change that it is in."""
    database = Database(address, SEALS)
    now = datetime.now(UTC)
    made = [
        await add_person(database, email=f"{role}@quillfen.example", name=role, password=PASSWORD, role=role, now=now)
        for role in EVERYBODY
    ]
    await take_in_stand_in(database, site, made[0])
    await take_in_stand_in(database, small, made[0])
    async with database.transaction() as session:
        found = await board(session, made[0], "brackwater")
    whole = read_menu(largest_menu(items=LARGE))
    before = found.menus["header"].document
    saved = await edit.save_menu(
        database, made[0], "brackwater", "header", expected=content_hash(before), document=whole, now=now
    )
    assert saved.change is not None
    async with database.transaction() as session:
        # All of them look at it and work in it.
        for person in made:
            await changes.work_in(session, person.id, found.site.id, saved.change.id)
    key = await connect.new_key(
        database, made[0], "brackwater", "delivery", old_counts=connect.OLD_COUNTS, now=now
    )  # fmt: skip
    await database.close()
    return key.get_secret_value(), str(saved.change.id)


@pytest.fixture(scope="session")
def target(cluster: clusters.Cluster, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Target]:
    address = make_database(cluster, "attacked")
    folder: Path = tmp_path_factory.mktemp("attacked")
    sites = make_stand_ins(folder, iter(lambda: clusters.free_port(), None))
    site, small = (next(one for one in sites if one.content.key == key) for key in ("brackwater", "vesper"))
    with ExitStack() as open_now:
        for one in (site, small):
            open_now.enter_context(serving(stand_in_app(one), one.port))
        key, change = asyncio.run(prepared(address, site, small))
        # A machine that has much else to do needs its time; that it is limited has a test of its own.
        shelf = open_now.enter_context(running(address, ANSWER_WITHIN_S="120"))
        clients = {}
        for role in EVERYBODY:
            clients[role] = open_now.enter_context(client_of(shelf.base))
            answer = clients[role].post(
                "/api/session", json={"email": f"{role}@quillfen.example", "password": PASSWORD}
            )
            assert answer.status_code == 200, answer.text
        # Rest is after everything was used once: what is read the first time stays.
        for device in DEVICES:
            clients["owner"].get("/api/shelf/signs", params={"device": device, "site": ["brackwater", "vesper"]})
        found = Target(shelf, clients, site, key, address, 0.0, change)
        found.rest_mb = found.size_mb()
        yield found
    print("\n" + "\n".join(f"{what}: {figure:,.0f}" for what, figure in FIGURES.items()))


@pytest.fixture(autouse=True)
def unharmed(target: Target) -> Iterator[None]:
    """After each attack: the memory is what it was, everything is there, and answered."""
    yield
    assert target.running.server.poll() is None
    grown = target.size_mb() - target.rest_mb
    FIGURES["most memory after an attack, beyond rest (MB)"] = max(
        FIGURES.get("most memory after an attack, beyond rest (MB)", 0.0), grown
    )
    eventually(lambda: target.size_mb() < target.rest_mb + MOST_GROWN_MB, within_s=90)
    began = monotonic()
    assert target.owner.get("/api/sites/brackwater/pages").status_code == 200
    assert monotonic() - began < 20
