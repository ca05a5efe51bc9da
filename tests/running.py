"""The shelf as it is run for real: server and worker as processes of their own, over one database."""

import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass

import httpx

from sign_shelf.demo.cluster import free_port
from tests.constants import KEY
from tests.waiting import eventually


def environment(address: str, **more: str) -> dict[str, str]:
    settings = {"DATABASE": address, "KEY": KEY.get_secret_value(), "PRIVATE_HOSTS": "127.0.0.1"} | more
    return os.environ | {f"SIGN_SHELF_{name}": value for name, value in settings.items()}


@contextmanager
def command(*words: str, environment: dict[str, str]) -> Iterator["subprocess.Popen[bytes]"]:
    """A command of ours as a process, until the end; by then it may have been killed."""
    process = subprocess.Popen([sys.executable, "-m", "sign_shelf", *words], env=environment)
    try:
        yield process
    finally:
        process.terminate()
        try:
            process.wait(15)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


@dataclass
class Running:
    base: str
    server: "subprocess.Popen[bytes]"
    worker: "subprocess.Popen[bytes]"


@contextmanager
def running(address: str, *, port: int | None = None, **settings: str) -> Iterator[Running]:
    """Server and worker, once the server answers."""
    chosen = port or free_port()
    variables = environment(address, **settings)
    with ExitStack() as both:
        worker = both.enter_context(command("worker", environment=variables))
        server = both.enter_context(command("serve", "--port", str(chosen), environment=variables))
        base = f"http://127.0.0.1:{chosen}"
        # As long as it is given to begin, and no longer than it is there.
        eventually(lambda: server.poll() is not None or answers(base), within_s=170)
        assert server.poll() is None, "the server ended before it answered"
        yield Running(base, server, worker)


def answers(base: str) -> bool:
    try:
        return httpx.get(f"{base}/api/health", trust_env=False, verify=False).status_code == 200
    except httpx.HTTPError:
        return False
