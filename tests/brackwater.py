"""Brackwater Ferries, read once a test process: the site on a port of its own, and a database with Ines and the site to copy."""

import asyncio
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from starlette.applications import Starlette
from starlette.types import Receive, Scope, Send

from sign_shelf.demo import cluster as clusters
from sign_shelf.demo.seed import take_in_stand_in
from sign_shelf.demo.stand_ins.content import all_contents
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins, stand_in_app
from sign_shelf.store.database import Database
from tests.accounts import account
from tests.constants import SEALS
from tests.databases import copy_database
from tests.serving import serving

SEEDED = "brackwater"


@dataclass
class Brackwater:
    """The site as it is at the moment, behind one address for all tests of the process."""

    folder: Path
    port: int
    database: str = SEEDED
    """The name of the database to copy."""
    _app: Starlette = field(default_factory=Starlette)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        await self._app(scope, receive, send)

    def anew(self, folder: Path) -> StandIn:
        """The site as it was before anybody changed anything; it keeps what happens to it in the folder."""
        shutil.copytree(self.folder, folder, dirs_exist_ok=True)
        (site,) = make_stand_ins(folder, iter([self.port]), [one for one in all_contents() if one.key == "brackwater"])
        self._app = stand_in_app(site)
        return site


@contextmanager
def made(cluster: clusters.Cluster, folder: Path) -> Iterator[Brackwater]:
    world = Brackwater(folder / "before", clusters.free_port())
    world.folder.mkdir()
    with serving(world, world.port):
        address = copy_database(cluster, "migrated", SEEDED)
        # In a thread: the test's own loop may be running in this one.
        site = world.anew(folder / "seeding")
        _apart(address, site)
        shutil.copytree(folder / "seeding", world.folder, dirs_exist_ok=True)
        yield world


def _apart(address: str, site: StandIn) -> None:
    from concurrent.futures import ThreadPoolExecutor

    with ThreadPoolExecutor(1) as aside:
        aside.submit(lambda: asyncio.run(_taken_in(address, site))).result()


async def _taken_in(address: str, site: StandIn) -> None:
    database = Database(address, SEALS)
    await take_in_stand_in(database, site, await account(database, "Ines Calder", "lead"))
    await database.close()
