"""Starts everything that the demo is made of, waits, and stops all of it again."""

import contextlib
import fcntl
import getpass
import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from types import FrameType

import httpx
import psycopg
from pydantic import SecretStr

from sign_shelf.demo import cluster, seed
from sign_shelf.demo.garden import GARDEN
from sign_shelf.demo.stand_ins.building import REPOSITORIES
from sign_shelf.demo.stand_ins.content import all_contents, cafe_details, whole_demo
from sign_shelf.demo.stand_ins.elsewhere import elsewhere_of
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins
from sign_shelf.outside import mail_sink
from sign_shelf.store.migrate import migrate
from sign_shelf.store.seals import Seals, new_seal_key

DATABASE = "sign_shelf"
_START_WITHIN_S = 60.0
_LOOKS_EVERY_S = 0.5


class DemoFailed(Exception):
    """A step failed; the message says which and what to do."""


class _Stop(BaseException):
    """A signal asked for the end."""


def run_demo(folder: Path, port: int) -> None:
    """Runs until SIGINT or SIGTERM; then nothing of it is left running. Raises DemoFailed."""
    _require_free(port)
    previous = {number: signal.signal(number, _stop) for number in (signal.SIGINT, signal.SIGTERM)}
    try:
        with ExitStack() as running:
            running.enter_context(_only_one(folder, port))
            children = _start(running, folder, port)
            while True:
                time.sleep(_LOOKS_EVERY_S)
                for child in children:
                    child.begin_again_if_ended()
    except _Stop:
        print("\nStopped.", flush=True)
    except cluster.ClusterFailed as failed:
        raise DemoFailed(str(failed)) from failed
    finally:
        for number, handler in previous.items():
            signal.signal(number, handler)


@contextmanager
def _only_one(folder: Path, port: int) -> Iterator[None]:
    """One demo in a folder at a time: a second one would take the first one's database away."""
    folder.mkdir(parents=True, exist_ok=True)
    with (folder / "demo.lock").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as exc:
            lock.seek(0)
            raise DemoFailed(
                f"The demo of this checkout is running already ({lock.read().strip() or 'begun just now'}). "
                "End it with Ctrl-C first, or start another one in a checkout of its own."
            ) from exc
        lock.truncate(0)
        lock.write(f"process {os.getpid()}, at http://127.0.0.1:{port}/")
        lock.flush()
        yield


def _stop(number: int, frame: FrameType | None) -> None:
    raise _Stop


def _say(words: str) -> None:
    print(words, flush=True)


def _start(running: ExitStack, folder: Path, port: int) -> list["_Child"]:
    place, why = cluster.cluster_folder(folder / "pg")
    if why:
        _say(why)
    _say("Starting PostgreSQL …")
    database = cluster.start(place)
    running.callback(database.stop)
    address = database.address(DATABASE)
    fresh = _create_database(database)
    _say("Bringing the database to the newest schema …")
    key = _key(folder / "key")
    seals = Seals(key)
    migrate(address, seals)
    contents = whole_demo()
    sites = make_stand_ins(folder / "stand-ins", _free_ports() if fresh else None, contents)
    elsewhere = elsewhere_of(all_contents(), folder / "stand-ins" / "elsewhere", cluster.free_port())
    mail_port = cluster.free_port()
    environment = os.environ | {
        "SIGN_SHELF_DATABASE": address,
        "SIGN_SHELF_KEY": key.get_secret_value(),
        "SIGN_SHELF_PRIVATE_HOSTS": ",".join(["127.0.0.1", *elsewhere.hosts]),
        "SIGN_SHELF_NAMES": elsewhere.names,
        "SIGN_SHELF_AUTHORITIES": str(elsewhere.authority),
        "SIGN_SHELF_ADDRESS": f"http://127.0.0.1:{port}/",
        "SIGN_SHELF_MAIL": f"smtp://127.0.0.1:{mail_port}",
        "SIGN_SHELF_MAIL_FROM": "shelf@quillfen.example",
        "SIGN_SHELF_MAIL_SINK": str(folder / "stand-ins" / mail_sink.FOLDER),
        "SIGN_SHELF_REPOSITORIES": str((folder / "stand-ins" / REPOSITORIES).absolute()),
        "SIGN_SHELF_STALLED_AFTER_S": "10",
        "SIGN_SHELF_HEARTBEAT_S": "3",
    }
    _say(f"Starting {len(sites)} stand-in sites …")
    words = ["stand-ins", "--folder", str(folder / "stand-ins"), "--mail-port", str(mail_port)]
    stand_ins = _Child("stand-ins", words, environment, folder)
    running.enter_context(stand_ins)
    for site in sites:
        _wait_for(f"{site.base}robots.txt", site.content.name, folder, "stand-ins")
    if fresh:
        _say("Putting the demo portfolio on the shelf …")
    seed.seed(address, seals, sites, shelf=f"http://127.0.0.1:{port}")
    if fresh:
        seed.some_time_after(address, seals, sites)
    _say("Starting the worker and the server …")
    worker = running.enter_context(_Child("worker", ["worker"], environment, folder))
    server = running.enter_context(_Child("server", ["serve", "--port", str(port)], environment, folder))
    _wait_for(f"http://127.0.0.1:{port}/api/health", "the server", folder, "server")
    _welcome(port, sites)
    return [stand_ins, worker, server]


def _key(file: Path) -> SecretStr:
    """What the demo's secrets are sealed with; made the first time."""
    if not file.exists():
        file.touch(mode=0o600)
        file.write_text(new_seal_key())
    return SecretStr(file.read_text().strip())


def _welcome(port: int, sites: list[StandIn]) -> None:
    _say(f"\nSign Shelf is at http://127.0.0.1:{port}/\n")
    _say("Accounts (password for all: " + seed.PASSWORD + ")")
    for email, name, role in seed.ACCOUNTS:
        _say(f"  {email:28} {name}, {role}")
    _say("\nStand-in client sites")
    small = cafe_details()
    for site in sites:
        note = (
            ""
            if site.content.key in {*seed.ON_SHELF, GARDEN, *small}
            else f"  not on the shelf yet; its signing key is at {site.base}back-office"
        )
        _say(f"  {site.base:26} {site.content.name}{note}")
    _say("\nCtrl-C ends all of it.")


def _free_ports() -> Iterator[int]:
    """The usual ports of the stand-ins where they are free, others otherwise."""
    wanted = 8411
    while True:
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", wanted)) != 0:
                yield wanted
        wanted += 1


def _require_free(port: int) -> None:
    if not 1 <= port <= 65_535:
        raise DemoFailed(f"There is no port {port}: take one from 1024 to 65535, such as make demo PORT=8400")
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except PermissionError as exc:
            raise DemoFailed(f"Port {port} may not be used by {getpass.getuser()}. Take one from 1024 on.") from exc
        except OSError as exc:
            raise DemoFailed(
                f"Port {port} is taken by another program ({exc.strerror}). Take another one: "
                f"make demo PORT={port + 1 if port < 65_535 else 8400}"
            ) from exc


def _create_database(database: cluster.Cluster) -> bool:
    """Whether it had to be made."""
    with psycopg.connect(database.address("postgres"), autocommit=True) as connection:
        there = connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", [DATABASE]).fetchone()
        if not there:
            connection.execute(f"CREATE DATABASE {DATABASE}")
        return not there


class _Child:
    """A process of our own command line: begun again where it ends by itself, ended at the end (asked first, made to
    after ten seconds), and told to stop when we are killed."""

    def __init__(self, name: str, words: list[str], environment: dict[str, str], folder: Path) -> None:
        self.name = name
        self._line = cluster.ends_with_us([sys.executable, "-m", "sign_shelf", *words], signal.SIGTERM)
        self._environment = environment
        self._log = folder / f"{name}.log"
        self._log.write_bytes(b"")
        self._not_before = 0.0
        self._pause_s = 1.0

    def __enter__(self) -> "_Child":
        self._begin()
        return self

    def _begin(self) -> None:
        with self._log.open("ab") as out:
            # Its own session: Ctrl-C reaches only us, and we end the children one after the other.
            self.process = subprocess.Popen(
                self._line,
                env=self._environment,
                stdin=subprocess.DEVNULL,
                stdout=out,
                stderr=out,
                start_new_session=True,
            )
        self._begun = time.monotonic()

    def begin_again_if_ended(self) -> None:
        if self.process.poll() is None or time.monotonic() < self._not_before:
            return
        lasted = time.monotonic() - self._begun
        self._pause_s = min(self._pause_s * 2, 30.0) if lasted < 60 else 1.0
        self._not_before = time.monotonic() + self._pause_s
        _say(f"The {self.name} ended by itself ({self.process.returncode}) and is begun again; see {self._log}")
        self._begin()

    def __exit__(self, *_: object) -> None:
        self.process.terminate()
        try:
            self.process.wait(10)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()


def _wait_for(url: str, what: str, folder: Path, log: str) -> None:
    until = time.monotonic() + _START_WITHIN_S
    while time.monotonic() < until:
        with contextlib.suppress(httpx.HTTPError):
            if httpx.get(url, timeout=2, trust_env=False).status_code == 200:
                return
        # Another process, which tells nobody when it is there: it is asked again, whatever it answered.
        time.sleep(0.1)
    tail = "\n".join((folder / f"{log}.log").read_text(errors="replace").splitlines()[-8:])
    raise DemoFailed(f"{what} did not answer at {url}. The end of its log ({folder / f'{log}.log'}):\n{tail}")
