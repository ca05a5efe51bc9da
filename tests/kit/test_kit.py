"""The site builder's kit, for real: each reference implementation is run, sent a menu as the shelf sends it, and tried; what is wrong with a
site is told."""

import asyncio
import json
import os
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx
import pytest
from pydantic import SecretStr

from sign_shelf.core.model.site import Page
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.protocol.placed import placed_menu
from sign_shelf.core.protocol.signed_facts import signed
from sign_shelf.demo.cluster import free_port
from sign_shelf.demo.stand_ins.server import StandIn, new_secret
from sign_shelf.outside import webhooks
from sign_shelf.outside.endpoint import write_slot
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import Settings
from tests import command_line
from tests.api.test_changes import begin, relabelled
from tests.constants import LOOPBACK
from tests.desk.test_put_live import ask
from tests.in_process import shelf_in_process

KIT = Path(__file__).parents[2] / "kit"
IN = {
    "python": [sys.executable, str(KIT / "site.py")],
    "node": ["node", str(KIT / "site.mjs")],
    "php": ["php", "-S", "127.0.0.1:{port}", str(KIT / "site.php")],
}
ASKS = {
    "python": [sys.executable, str(KIT / "asks.py")],
    "node": ["node", str(KIT / "asks.mjs")],
    "php": ["php", "-S", "127.0.0.1:{port}", str(KIT / "asks.php")],
}
OUTLINE = (
    '{menu "Header"}\nFares -> @fares\n  Passes -> https://b.example/passes?a=1&b=2\nCrew -> /crew {when signed_in}'
)
PAGES = (Page(ref="fares", path="/fares", title={"en": "Fares"}),)


@contextmanager
def site(words: list[str], folder: Path, secret: str, **more: str) -> Iterator[str]:
    port = free_port()
    line = [one.format(port=port) for one in words] + ([] if "-S" in words else [str(port)])
    given = os.environ | {"SIGN_SHELF_SECRET": secret, "MENUS": str(folder / "menus.json")} | more
    process = subprocess.Popen(line, env=given, cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        ends = time.monotonic() + 90
        while True:
            try:
                socket.create_connection(("127.0.0.1", port), timeout=1).close()
                break
            except OSError:
                assert process.poll() is None, f"{line} ended"
                assert time.monotonic() < ends
        yield f"http://127.0.0.1:{port}/"
    finally:
        process.terminate()
        process.wait(10)


async def tried(url: str, *words: str) -> tuple[int, dict[str, tuple[str, str]]]:
    done = await asyncio.to_thread(command_line.run, "site", "try", url, "--json", *words)
    assert done.stdout, done.stderr
    return done.returncode, {one["check"]: (one["outcome"], one["says"]) for one in json.loads(done.stdout)}


async def sent(url: str, secret: str, location: str = "header") -> None:
    """As the shelf sends it."""
    placed = placed_menu(location, "desktop", parse_outline(OUTLINE), PAGES)
    async with Fetcher(LOOPBACK) as fetcher:
        await write_slot(
            fetcher, f"{url}sign-shelf/menus", placed, secrets=[SecretStr(secret)], etag=None, idempotency_key="first",
            at=datetime.now(UTC),
        )  # fmt: skip


@pytest.mark.parametrize("language", IN)
async def test_each_reference_implementation_keeps_the_protocol(language: str, tmp_path: Path) -> None:
    secret = new_secret()
    with site(IN[language], tmp_path, secret) as url:
        code, before = await tried(url, "--secret", secret)
        assert code == 0, before
        assert {outcome for outcome, _ in before.values()} == {"ok", "not tried"}, "nothing hangs there yet"
        await sent(url, secret)
        code, told = await tried(url, "--secret", secret)
        assert (code, {check: how for check, how in told.items() if how[0] != "ok"}) == (0, {})
        assert len(told) == 16
        async with httpx.AsyncClient(base_url=url, trust_env=False) as visitor:
            page = (await visitor.get("")).text
            again = (await visitor.get("sign-shelf/menus/header/desktop")).json()
        assert '<a href="/fares">Fares</a>' in page
        assert "Crew" not in page, "nobody gets what a rule guards"
        assert page.count("<nav") == 1
        # What hangs there is what hung there.
        assert again["menu"]["name"] == "Header"
        code, unknown = await tried(url, "--secret", new_secret())
        assert code == 1
        assert unknown["take a signed menu (200, with a strong ETag)"][0] == "fails"


async def test_a_site_that_does_not_keep_the_protocol_is_told_what_and_why(tmp_path: Path) -> None:
    """One that believes whoever sends, and forgets what it was sent."""
    source = (KIT / "site.py").read_text("utf-8")
    assert "if not signed(headers, body):" in source
    trusting = tmp_path / "trusting.py"
    trusting.write_text(
        source.replace("if not signed(headers, body):", "if False:").replace('there["answers"][key] =', "_ ="), "utf-8"
    )
    secret = new_secret()
    (tmp_path / "menus.json").write_text(
        json.dumps({"answers": {}, "slots": {"header/desktop": placed_text()}}), "utf-8"
    )
    with site([sys.executable, str(trusting)], tmp_path, secret) as url:
        code, told = await tried(url, "--secret", secret)
    assert code == 1
    failed = {check for check, how in told.items() if how[0] == "fails"}
    assert failed == {
        "refuse what is not signed (401)", "refuse what another key signed (401)", "refuse what was signed too long ago (401)",
        "answer the same request again as the first time (Idempotency-Key)", "refuse a key that comes again with another body (422)",
    }  # fmt: skip
    assert "anybody could hang menus there" in told["refuse what is not signed (401)"][1]


async def test_each_reference_implementation_that_asks_keeps_what_it_was_given_until_it_is_told(
    configured: Settings, as_ines: httpx.AsyncClient, brackwater: StandIn, tmp_path: Path
) -> None:
    key = (await as_ines.post("/api/sites/brackwater/keys/delivery", json={"old_counts_hours": 0})).json()["key"]
    facts = SecretStr((await as_ines.post("/api/sites/brackwater/keys/facts", json={})).json()["key"])
    secret, now = new_secret(), datetime.now(UTC)
    crew = {
        "sign-shelf-facts": signed(
            {"signed_in": True, "roles": ["crew"], "visitor.id": "c-77"}, facts, until=now + timedelta(minutes=2)
        )
    }
    with ExitStack() as running_:
        with shelf_in_process(configured) as base:
            given = {"SIGN_SHELF": f"{base}/live/brackwater", "SIGN_SHELF_KEY": key}
            sites = {}
            for language, words in ASKS.items():
                (folder := tmp_path / language).mkdir()
                sites[language] = running_.enter_context(
                    site(words, folder, secret, **given, MENUS=str(folder / "kept"))
                )
            async with httpx.AsyncClient(trust_env=False) as visitor, Fetcher(LOOPBACK) as fetcher:

                async def page(url: str, **headers: str) -> str:
                    answer = await visitor.get(url, headers=headers)
                    assert answer.status_code == 200, answer.text
                    return answer.text

                for language, url in sites.items():
                    code, told = await tried(url, "--secret", secret)
                    assert (code, {check: how for check, how in told.items() if how[0] != "ok"}) == (0, {}), language
                    assert "take a signed ping (200 to 204)" in told
                    assert ">Timetables<" in await page(url)
                    assert "Crew" not in await page(url), "nobody gets what a rule guards"
                    assert "Crew" in await page(url, **crew), "facts are handed on"
                    assert "Crew" not in await page(url), "and what holds for one visitor is not kept for others"
                    assert ">Timetables<" in await page(url, **{"sec-ch-ua-mobile": "?1"})
                await relabelled(as_ines, await begin(as_ines, "Times"), "Sailing times")
                release = (await ask(as_ines))["id"]
                # The shelf's own worker carries it out.
                async with asyncio.timeout(60):
                    while (await as_ines.get(f"/api/releases/{release}")).json()["state"] != "live":  # noqa: ASYNC110
                        await asyncio.sleep(0.1)
                for url in sites.values():
                    assert ">Timetables<" in await page(url), "it was given that for a while"
                    body = b'{"type": "menus.changed"}'
                    answer = await webhooks.send(
                        fetcher,
                        f"{url}menus/changed",
                        [SecretStr(new_secret()), SecretStr(secret)],
                        id="msg_1",
                        body=body,
                        at=datetime.now(UTC),
                    )
                    assert answer.kind == "taken", answer.says
                    assert ">Sailing times<" in await page(url)
        # The shelf is gone by now.
        async with httpx.AsyncClient(trust_env=False) as visitor:
            for url in sites.values():
                assert ">Sailing times<" in (await visitor.get(url)).text


def placed_text() -> str:
    return json.dumps(placed_menu("header", "desktop", parse_outline(OUTLINE), PAGES).to_json())


async def test_stand_ins_keep_the_protocol_and_pages_without_it_are_told(brackwater: StandIn) -> None:
    code, told = await tried(brackwater.base, "--secret", brackwater.places.secret)
    assert (code, {check: how for check, how in told.items() if how[0] != "ok"}) == (0, {})
    code, told = await tried(f"http://127.0.0.1:{free_port()}/")
    assert code == 1
    assert list(told) == ["answer at the well-known address"]


async def test_a_static_site_is_filled_when_it_is_built(
    configured: Settings, as_ines: httpx.AsyncClient, brackwater: StandIn, tmp_path: Path
) -> None:
    key = (await as_ines.post("/api/sites/brackwater/keys/delivery", json={"old_counts_hours": 0})).json()["key"]
    public = tmp_path / "public"
    (public / "a").mkdir(parents=True)
    page = '<html lang="en"><header><nav class="x" data-sign-shelf="header">old</nav></header><p>Text</p></html>'
    (public / "index.html").write_text(page, "utf-8")
    (public / "a" / "index.html").write_text(page.replace('lang="en"', 'lang="nl"'), "utf-8")
    (public / "plain.html").write_text("<p>No menu</p>", "utf-8")
    with shelf_in_process(configured) as base:
        line = [sys.executable, str(KIT / "fill.py"), f"{base}/live/brackwater", str(public)]
        for _ in range(2):
            done = subprocess.run(
                line, env=os.environ | {"SIGN_SHELF_KEY": key}, capture_output=True, text=True, check=False
            )
            assert done.returncode == 0, done.stderr
        assert done.stdout.startswith("0 pages filled"), "filled twice it is the same"
        filled = (public / "index.html").read_text("utf-8")
        assert "Timetables" in filled
        assert "old" not in filled
        assert filled.count("<nav") == 1
        assert "Dienstregeling" in (public / "a" / "index.html").read_text("utf-8")
        wrong = subprocess.run(
            line, env=os.environ | {"SIGN_SHELF_KEY": "wrong"}, capture_output=True, text=True, check=False
        )
    assert wrong.returncode == 1
    assert (public / "index.html").read_text("utf-8") == filled, "left as it was"
