"""Starts everything that the demo is made of, waits, and stops all of it again."""

import contextlib
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

from sign_shelf.demo import cluster, seed
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins
from sign_shelf.store.migrate import migrate

DATABASE = "sign_shelf"
_START_WITHIN_S = 40.0


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
            _start(running, folder, port)
            while True:
                signal.pause()
    except _Stop:
        print("\nStopped.", flush=True)
    except cluster.ClusterFailed as failed:
        raise DemoFailed(str(failed)) from failed
    finally:
        for number, handler in previous.items():
            signal.signal(number, handler)


def _stop(number: int, frame: FrameType | None) -> None:
    raise _Stop


def _say(words: str) -> None:
    print(words, flush=True)


def _start(running: ExitStack, folder: Path, port: int) -> None:
    place, why = cluster.cluster_folder(folder / "pg")
    if why:
        _say(why)
    _say("Starting PostgreSQL …")
    database = cluster.start(place)
    running.callback(database.stop)
    address = database.address(DATABASE)
    fresh = _create_database(database)
    _say("Bringing the database to the newest schema …")
    migrate(address)
    sites = make_stand_ins(folder / "stand-ins", _free_ports() if fresh else None)
    environment = os.environ | {
        "SIGN_SHELF_DATABASE": address,
        "SIGN_SHELF_PRIVATE_HOSTS": "127.0.0.1",
        "SIGN_SHELF_STALLED_AFTER_S": "10",
        "SIGN_SHELF_HEARTBEAT_S": "3",
    }
    _say(f"Starting {len(sites)} stand-in sites …")
    running.enter_context(
        _child("stand-ins", ["stand-ins", "--folder", str(folder / "stand-ins")], environment, folder)
    )
    for site in sites:
        _wait_for(f"{site.base}robots.txt", site.content.name, folder, "stand-ins")
    if fresh:
        _say("Putting the demo portfolio on the shelf …")
    seed.seed(address, sites, shelf=f"http://127.0.0.1:{port}")
    _say("Starting the worker and the server …")
    running.enter_context(_child("worker", ["worker"], environment, folder))
    running.enter_context(_child("server", ["serve", "--port", str(port)], environment, folder))
    _wait_for(f"http://127.0.0.1:{port}/api/health", "the server", folder, "server")
    _welcome(port, sites)


def _welcome(port: int, sites: list[StandIn]) -> None:
    _say(f"\nSign Shelf is at http://127.0.0.1:{port}/\n")
    _say("Accounts (password for all: " + seed.PASSWORD + ")")
    for email, name, role in seed.ACCOUNTS:
        _say(f"  {email:28} {name}, {role}")
    _say("\nStand-in client sites")
    for site in sites:
        note = (
            ""
            if site.content.key in seed.ON_SHELF
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
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as exc:
            raise DemoFailed(
                f"Port {port} is taken by another program ({exc.strerror}). Take another one: make demo PORT={port + 1}"
            ) from exc


def _create_database(database: cluster.Cluster) -> bool:
    """Whether it had to be made."""
    with psycopg.connect(database.address("postgres"), autocommit=True) as connection:
        there = connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", [DATABASE]).fetchone()
        if not there:
            connection.execute(f"CREATE DATABASE {DATABASE}")
        return not there


@contextmanager
def _child(name: str, words: list[str], environment: dict[str, str], folder: Path) -> Iterator[None]:
    """A process of our own command line, ended at the end: asked first, made to after ten seconds."""
    log = folder / f"{name}.log"
    with log.open("wb") as out:
        # Its own session: Ctrl-C reaches only us, and we end the children one after the other.
        process = subprocess.Popen(
            [sys.executable, "-m", "sign_shelf", *words],
            env=environment,
            stdout=out,
            stderr=out,
            start_new_session=True,
        )
    try:
        yield
    finally:
        process.terminate()
        try:
            process.wait(10)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


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
