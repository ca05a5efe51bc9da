"""The command line with a running server, as a pipeline uses it: a token, a site's key, a change; what is checked is put live."""

import json
import os
import subprocess
import sys
from collections.abc import Callable

import httpx

from sign_shelf.demo.stand_ins.server import StandIn
from tests.api.test_changes import begin, relabelled
from tests.running import running

Run = Callable[..., tuple[int, str, str]]


def runner(url: str, token: str) -> Run:
    def run(*words: str, token: str = token) -> tuple[int, str, str]:
        line = [sys.executable, "-m", "sign_shelf", "--server", url, *words]
        done = subprocess.run(
            line, env=os.environ | {"SIGN_SHELF_TOKEN": token}, capture_output=True, text=True, check=False
        )
        return done.returncode, done.stdout, done.stderr

    return run


async def test_a_change_is_checked_put_live_and_waited_for(
    address: str, as_ines: httpx.AsyncClient, brackwater: StandIn
) -> None:
    change = await begin(as_ines, "By a pipeline")
    await relabelled(as_ines, change, "Sail early")

    async def token(scope: str) -> str:
        made = await as_ines.post("/api/session/tokens", json={"name": "pipeline", "scope": scope, "days": 1})
        return str(made.json()["token"])

    edits = await token("edit")
    looks, puts = await token("look"), await token("put live")
    with running(address, PROCESSES="1") as shelf:
        run = runner(shelf.base, looks)
        code, out, _ = run("--in", "live", "check", "brackwater", "--only", "pending")
        assert (code, json.loads(out)[0]["code"]) == (1, "pending")
        code, out, _ = run("--in", change, "resolve", "brackwater", "--location", "header", "--device", "desktop")
        assert (code, "Sail early" in out) == (0, True)
        code, out, _ = run("--in", "live", "resolve", "brackwater", "--location", "header", "--device", "desktop")
        assert (code, "Sail early" in out) == (0, False)
        for words, told in (
            (("--in", change, "put-live", "brackwater"), "The token pipeline may not put live"),
            (("check", "nowhere"), 'There is no site "nowhere" on the shelf'),
            (("--in", "not-a-change", "check", "brackwater"), "in"),
        ):
            code, out, err = run(*words)
            assert (code, out, told in err, len(err.splitlines())) == (2, "", True, 1), err
        query, to = "target:=/timetables", ("--to", "/fares")
        code, out, _ = run("sweep", query)
        assert (code, json.loads(out)["entries"] > 0) == (0, True)
        code, out, _ = run("sweep", query, *to)
        assert (code, {one["site"] for one in json.loads(out)}) == (0, {"brackwater"})
        code, out, err = run("sweep", query, *to, "--title", "By a sweep", token=edits)
        assert (code, json.loads(out)["sites"]) == (0, ["brackwater"]), err
        assert "may not" in run("sweep", query, *to, "--title", "By a sweep")[2]
        assert run("sweep", "label:nobody-has-this")[0] == 1
        assert "Nobody is signed in" in run("check", "brackwater", token="wrong")[2]
        assert "SIGN_SHELF_TOKEN is not set" in run("check", "brackwater", token="")[2]
        code, out, err = run("--in", change, "put-live", "brackwater", "--wait", "60", token=puts)
        assert (code, json.loads(out)["state"]) == (0, "live"), err
        async with httpx.AsyncClient(trust_env=False) as visitor:
            assert "Sail early" in (await visitor.get(brackwater.base)).text
        again = run("--in", change, "put-live", "brackwater", token=puts)
        assert (again[0], "nothing to put live" in again[2]) == (2, True)
    gone = runner("http://127.0.0.1:9", looks)("check", "brackwater")
    assert (gone[0], "does not answer" in gone[2]) == (2, True)
