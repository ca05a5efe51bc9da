"""Stand-ins that misbehave on purpose, and what menus lead to elsewhere: each fault is found as what it is."""

import asyncio
import json
from pathlib import Path

import httpx
import pytest
from pydantic import SecretStr, ValidationError

from sign_shelf.demo.cluster import free_port
from sign_shelf.demo.stand_ins.content import all_contents
from sign_shelf.demo.stand_ins.elsewhere import elsewhere_app, elsewhere_of
from sign_shelf.demo.stand_ins.faults import AT, FAULTS
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.links import LinkAsker
from sign_shelf.settings import Settings
from tests.constants import KEY, LOOPBACK
from tests.serving import serving

FOUND = {
    "404": "gone", "gone": "gone", "unpublished": "gone", "error": "error", "error in turns": "ok", "slow": "slow",
    "never": "slow", "moved": "gone", "chain": "chain", "loop": "loop", "no parts": "missing-part", "no overlay": "ok", "by script": "ok",
    "empty": "ok", "hang up": "error",
}  # fmt: skip


async def test_every_fault_is_found_as_what_it_is(stand_in: StandIn) -> None:
    assert FOUND.keys() == set(FAULTS)
    faulty = {f"/{'/' if at else ''}".rstrip("/") + page.path: fault
              for at, (page, fault) in enumerate(zip(stand_in.content.pages[1:], FAULTS, strict=False))}  # fmt: skip
    async with httpx.AsyncClient(base_url=stand_in.base, trust_env=False) as client:
        assert (await client.put(AT, content=json.dumps({"/fares": "on fire"}))).status_code == 422
        assert (await client.put(AT, content=json.dumps(faulty))).status_code == 200
        assert (await client.get(AT)).json() == faulty
        sitemap = (await client.get("/sitemap.xml")).text
    part = {path: "#content" if fault in {"no parts"} else "" for path, fault in faulty.items()}
    async with Fetcher(LOOPBACK, timeout_s=2) as fetcher:
        asker = LinkAsker(fetcher)
        told = await asyncio.gather(
            *(asker.check(f"{stand_in.base.rstrip('/')}{path}{part[path]}", pause_s=0) for path in faulty)
        )
    assert {fault: one.verdict for fault, one in zip(faulty.values(), told, strict=True)} == FOUND
    gone = next(path for path, fault in faulty.items() if fault == "unpublished")
    assert gone not in sitemap
    async with httpx.AsyncClient(base_url=stand_in.base, trust_env=False) as client:
        assert (await client.put(AT, content="{}")).json() == {}
        assert (await client.get(gone)).status_code == 200


async def test_what_menus_lead_to_elsewhere_answers_by_its_name(tmp_path: Path) -> None:
    elsewhere = elsewhere_of(all_contents(), tmp_path, free_port())
    assert elsewhere_of(all_contents(), tmp_path, 1).port == elsewhere.port, "as it was the first time"
    settings = Settings(
        database=SecretStr("postgresql://unused"), key=KEY, private_hosts=",".join(elsewhere.hosts), names=elsewhere.names,
        authorities=elsewhere.authority,
    )  # fmt: skip
    with serving(elsewhere_app(elsewhere), elsewhere.port, (elsewhere.authority, tmp_path / "key.pem")):
        async with Fetcher.configured(settings) as fetcher:
            told = {host: await LinkAsker(fetcher).check(f"https://{host}/", pause_s=0) for host in elsewhere.hosts}
    assert {host: found.verdict for host, found in told.items()} == {
        "book.hollin-moor.example": "ok", "give.thornby-railway.example": "tls", "kaarten.vesper-quay.example": "chain",
        "live.brackwater.example": "gone", "shop.thornby-railway.example": "error", "tickets.brackwater.example": "ok",
        "weather.hollin-moor.example": "ok",
    }  # fmt: skip


async def test_a_name_that_stands_at_a_private_address_is_refused_unless_it_is_allowed() -> None:
    async with Fetcher(standing={"office.example": ("127.0.0.1", 9)}) as fetcher:
        found = await LinkAsker(fetcher).check("http://office.example/", pause_s=0)
    assert found.verdict == "not-asked"
    assert "private address" in found.says


@pytest.mark.parametrize("names", ["", "a.example=127.0.0.1:80", " A.example = 127.0.0.1:80 ,"])
def test_where_names_stand_is_read_from_the_setting(names: str) -> None:
    settings = Settings(database=SecretStr("postgresql://unused"), key=KEY, names=names)
    assert settings.standing == ({"a.example": ("127.0.0.1", 80)} if names else {})


def test_a_setting_that_says_nowhere_is_refused() -> None:
    with pytest.raises(ValidationError, match=r"tickets\.example=127"):
        Settings(database=SecretStr("postgresql://unused"), key=KEY, names="a.example")
