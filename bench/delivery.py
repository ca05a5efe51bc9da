"""Delivery beside a bare Starlette route that answers the same bytes: one process each, the same load, the same run."""

import re
import shutil
import statistics
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

import httpx

from bench.trees import Row
from bench.world import brackwater, new_database, own_cluster, processor_s
from sign_shelf.demo.cluster import free_port
from sign_shelf.store.migrate import migrate
from tests.constants import SEALS
from tests.running import answers, command, environment
from tests.waiting import eventually

_BARE = """
import sys
from pathlib import Path
import uvicorn
from starlette.applications import Starlette
from starlette.responses import Response
from starlette.routing import Route
body = Path(sys.argv[1]).read_bytes()
async def answer(request):
    return Response(body, media_type="application/json")
uvicorn.run(Starlette(routes=[Route("/live/{site}/{location}", answer)]), port=int(sys.argv[2]), log_level="warning")
"""


@contextmanager
def _bare(body: bytes) -> Iterator[tuple[str, "subprocess.Popen[bytes]"]]:
    with TemporaryDirectory() as folder:
        file = Path(folder) / "body"
        file.write_bytes(body)
        port = free_port()
        process = subprocess.Popen([sys.executable, "-c", _BARE, str(file), str(port)])
        try:
            url = f"http://127.0.0.1:{port}/live/brackwater/header"
            for _ in range(100):
                try:
                    httpx.get(url, trust_env=False)
                    break
                except httpx.HTTPError:
                    time.sleep(0.1)
            yield url, process
        finally:
            process.terminate()
            process.wait()


def _rate(url: str, server: "subprocess.Popen[bytes]", *headers: str) -> tuple[float, float]:
    """Answers a second, and answers per second of the server's processor time, by wrk: one thread, 32 connections, three seconds."""
    asked = [word for header in headers for word in ("-H", header)]
    before = processor_s([server])
    told = subprocess.run(
        ["wrk", "-t1", "-c32", "-d3s", *asked, url], capture_output=True, text=True, check=True
    ).stdout
    rate, count = re.search(r"Requests/sec: +([0-9.]+)", told), re.search(r"([0-9]+) requests in", told)
    assert rate is not None, told
    assert count is not None, told
    return float(rate[1]), int(count[1]) / (processor_s([server]) - before)


def delivery_lines() -> list[Row]:
    if shutil.which("wrk") is None:
        return [("delivery", "", "not measured: wrk is not installed", "", "≥ 0.8×")]
    with own_cluster() as (cluster, folder), ExitStack() as running:
        address, port = new_database(cluster, "delivery"), free_port()
        migrate(address, SEALS)
        _, key = running.enter_context(brackwater(address, folder))
        server = running.enter_context(
            command("serve", "--port", str(port), environment=environment(address, PROCESSES="2"))
        )
        eventually(lambda: answers(f"http://127.0.0.1:{port}"), within_s=60)
        url = f"http://127.0.0.1:{port}/live/brackwater/header"
        shown = f"Authorization: Bearer {key}"
        answer = httpx.get(url, headers={"authorization": f"Bearer {key}"}, trust_env=False)
        with _bare(answer.content) as (bare, bare_server):
            ours, theirs = [], []
            for _ in range(5):  # in turns, so that a slower moment of the machine meets both
                ours.append(_rate(url, server, shown))
                theirs.append(_rate(bare, bare_server, shown))
            same, _ = _rate(url, server, shown, f"If-None-Match: {answer.headers['etag']}")
    mine, bare_rate = (statistics.median(rate for rate, _ in those) for those in (ours, theirs))
    per_second = [statistics.median(each for _, each in those) for those in (ours, theirs)]
    return [
        (
            "delivery of a menu",
            f"{len(answer.content)} bytes, one process",
            f"{mine:.0f} requests/s ({mine / bare_rate:.2f}×; {per_second[0] / per_second[1]:.2f}× by processor time); "
            f"{same:.0f} answered with 304",
            f"bare Starlette route with the same bytes: {bare_rate:.0f} requests/s",
            "≥ 0.8×",
        )
    ]
