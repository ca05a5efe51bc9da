"""Delivery beside a bare Starlette route that answers the same bytes: one process each, the same load, the same run."""

import re
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

import httpx

from bench.trees import Row
from bench.world import running_demo
from sign_shelf.demo.cluster import free_port
from sign_shelf.demo.seed import PASSWORD

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
def _bare(body: bytes) -> Iterator[str]:
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
            yield url
        finally:
            process.terminate()
            process.wait()


def _rate(url: str, *headers: str) -> float:
    """Requests a second, by wrk: one thread, 32 connections, three seconds."""
    asked = [word for header in headers for word in ("-H", header)]
    told = subprocess.run(
        ["wrk", "-t1", "-c32", "-d3s", *asked, url], capture_output=True, text=True, check=True
    ).stdout
    found = re.search(r"Requests/sec: +([0-9.]+)", told)
    assert found, told
    return float(found[1])


def delivery_lines() -> list[Row]:
    if shutil.which("wrk") is None:
        return [("delivery", "", "not measured: wrk is not installed", "", "≥ 0.8×")]
    with running_demo() as (base, _), httpx.Client(base_url=base, headers={"origin": base}, trust_env=False) as client:
        client.post("/api/session", json={"email": "ines@quillfen.example", "password": PASSWORD})
        key = client.post("/api/sites/saltmarsh/keys/delivery", json={}).json()["key"]
        url = f"{base}/live/saltmarsh/header"
        shown = f"Authorization: Bearer {key}"
        answer = client.get("/live/saltmarsh/header", headers={"authorization": f"Bearer {key}"})
        with _bare(answer.content) as bare:
            ours, theirs = [], []
            for _ in range(3):  # in turns, so that a slower moment of the machine meets both
                ours.append(_rate(url, shown))
                theirs.append(_rate(bare, shown))
            same = _rate(url, shown, f"If-None-Match: {answer.headers['etag']}")
    mine, bare_rate = sorted(ours)[1], sorted(theirs)[1]
    return [
        (
            "delivery of a menu",
            f"{len(answer.content)} bytes, one process",
            f"{mine:.0f} requests/s ({mine / bare_rate:.2f}×); {same:.0f} answered with 304",
            f"bare Starlette route with the same bytes: {bare_rate:.0f} requests/s",
            "≥ 0.8×",
        )
    ]
