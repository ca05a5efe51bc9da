"""The command line with a running server, as a pipeline uses it: a token, a site's key, a change; what is checked is put live."""

import asyncio
import json
from collections.abc import Awaitable, Callable

import httpx

from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.settings import Settings
from tests import command_line
from tests.api.test_changes import begin, relabelled
from tests.in_process import shelf_in_process

Run = Callable[..., Awaitable[tuple[int, str, str]]]


def runner(url: str, token: str) -> Run:
    async def run(*words: str, token: str = token) -> tuple[int, str, str]:
        env = {"SIGN_SHELF_TOKEN": token}
        done = await asyncio.to_thread(command_line.run, "--server", url, *words, env=env)
        return done.returncode, done.out, done.err

    return run


async def test_a_change_is_checked_put_live_and_waited_for(
    configured: Settings, as_ines: httpx.AsyncClient, brackwater: StandIn
) -> None:
    change = await begin(as_ines, "By a pipeline")
    await relabelled(as_ines, change, "Sail early")

    async def token(scope: str) -> str:
        made = await as_ines.post("/api/session/tokens", json={"name": "pipeline", "scope": scope, "days": 1})
        return str(made.json()["token"])

    edits = await token("edit")
    looks, puts = await token("look"), await token("put live")
    with shelf_in_process(configured) as base:
        run = runner(base, looks)
        code, out, _ = await run("--in", "live", "check", "brackwater", "--only", "pending")
        assert (code, json.loads(out)[0]["code"]) == (1, "pending")
        code, out, _ = await run("--in", change, "resolve", "brackwater", "--location", "header", "--device", "desktop")
        assert (code, "Sail early" in out) == (0, True)
        code, out, _ = await run("--in", "live", "resolve", "brackwater", "--location", "header", "--device", "desktop")
        assert (code, "Sail early" in out) == (0, False)
        for words, told in (
            (("--in", change, "put-live", "brackwater"), "The token pipeline may not put live"),
            (("check", "nowhere"), 'There is no site "nowhere" on the shelf'),
            (("--in", "not-a-change", "check", "brackwater"), "in"),
        ):
            code, out, err = await run(*words)
            assert (code, out, told in err, len(err.splitlines())) == (2, "", True, 1), err
        query, to = "target:=/timetables", ("--to", "/fares")
        code, out, _ = await run("sweep", query)
        assert (code, json.loads(out)["entries"] > 0) == (0, True)
        code, out, _ = await run("sweep", query, *to)
        assert (code, {one["site"] for one in json.loads(out)}) == (0, {"brackwater"})
        code, out, err = await run("sweep", query, *to, "--title", "By a sweep", token=edits)
        assert (code, json.loads(out)["sites"]) == (0, ["brackwater"]), err
        assert "may not" in (await run("sweep", query, *to, "--title", "By a sweep"))[2]
        assert (await run("sweep", "label:nobody-has-this"))[0] == 1
        assert "Nobody is signed in" in (await run("check", "brackwater", token="wrong"))[2]
        assert "SIGN_SHELF_TOKEN is not set" in (await run("check", "brackwater", token=""))[2]
        code, out, err = await run("--in", change, "put-live", "brackwater", "--wait", "60", token=puts)
        assert (code, json.loads(out)["state"]) == (0, "live"), err
        async with httpx.AsyncClient(trust_env=False) as visitor:
            assert "Sail early" in (await visitor.get(brackwater.base)).text
        again = await run("--in", change, "put-live", "brackwater", token=puts)
        assert (again[0], "nothing to put live" in again[2]) == (2, True)
    gone = await runner("http://127.0.0.1:9", looks)("check", "brackwater")
    assert (gone[0], "does not answer" in gone[2]) == (2, True)
