"""The demo in a folder of its own, for measuring and for pictures."""

import asyncio
import re
import signal
import subprocess
import sys
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path

import psutil
import psycopg
from playwright.sync_api import Page, sync_playwright

from sign_shelf.demo.cluster import Cluster, cluster_folder, free_port, start
from sign_shelf.demo.seed import PASSWORD, take_in_stand_in
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins, stand_in_app
from sign_shelf.desk.connect import new_key
from sign_shelf.desk.people import add_person
from sign_shelf.store.database import Database
from tests.constants import SEALS
from tests.serving import serving
from tools.chromium import LAUNCH


@contextmanager
def own_cluster() -> Iterator[tuple[Cluster, Path]]:
    """A database server in a folder of its own, with the folder."""
    with tempfile.TemporaryDirectory(dir="/var/tmp") as folder:
        Path(folder).chmod(0o755)
        cluster = start(cluster_folder(Path(folder) / "pg")[0])
        try:
            yield cluster, Path(folder)
        finally:
            cluster.stop()


def new_database(cluster: Cluster, name: str) -> str:
    """Its address."""
    with psycopg.connect(cluster.address("postgres"), autocommit=True) as making:
        making.execute(f"CREATE DATABASE {name}")
    return cluster.address(name)


@contextmanager
def running_demo() -> Iterator[tuple[str, dict[str, str]]]:
    """The demo's address, and the addresses of its stand-in sites by name."""
    with tempfile.TemporaryDirectory(dir="/var/tmp") as folder:
        Path(folder).chmod(0o755)
        port = free_port()
        demo = subprocess.Popen(
            [sys.executable, "-m", "sign_shelf", "demo", "--port", str(port), "--folder", f"{folder}/demo"],
            stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        assert demo.stdout is not None
        told = ""
        while "Ctrl-C ends" not in told:
            line = demo.stdout.readline()
            if not line:
                raise RuntimeError(f"the demo did not start:\n{told}")
            told += line
        sites = {name.strip(): url for url, name in re.findall(r"(http://\S+) +(\D+?)(?:  |\n)", told)}
        try:
            yield f"http://127.0.0.1:{port}", sites
        finally:
            demo.send_signal(signal.SIGTERM)
            demo.wait(30)
            demo.stdout.close()


@contextmanager
def signed_in_page(base: str, *, width: int = 1280, height: int = 800) -> Iterator[Page]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(**LAUNCH)
        page = browser.new_page(base_url=base, viewport={"width": width, "height": height}, color_scheme="light")
        page.goto("/")
        page.get_by_label("E-mail address").fill("ines@quillfen.example")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("heading", name="Shelf", exact=True).wait_for()
        yield page
        browser.close()


def own_page(page: Page) -> dict[str, str]:
    """What a browser sends with every write of the page's own script."""
    return {"origin": page.evaluate("location.origin")}


@contextmanager
def brackwater(address: str, folder: Path) -> Iterator[tuple[StandIn, str]]:
    """Its stand-in, served and taken in, and its delivery key. x@x.example may do everything there."""
    (site,) = [
        one for one in make_stand_ins(folder / "sites", iter(free_port, None)) if one.content.key == "brackwater"
    ]
    with serving(stand_in_app(site), site.port):
        yield site, asyncio.run(_taken_in(address, site))


async def _taken_in(address: str, site: StandIn) -> str:
    database = Database(address, SEALS)
    person = await add_person(
        database, email="x@x.example", name="x", password=PASSWORD, role="owner", now=datetime.now(UTC)
    )
    await take_in_stand_in(database, site, person)
    made = await new_key(database, person, "brackwater", "delivery", old_counts=timedelta(), now=datetime.now(UTC))
    await database.close()
    return made.get_secret_value()


def processor_s(processes: Iterable["subprocess.Popen[bytes]"]) -> float:
    """Seconds of processor time that these and their children have used."""
    found = 0.0
    for one in processes:
        process = psutil.Process(one.pid)
        for each in [process, *process.children(recursive=True)]:
            times = each.cpu_times()
            found += times.user + times.system
    return found
