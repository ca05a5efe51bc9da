"""Addresses asked on a rhythm and findings kept by cause: once each, by however many workers; mended once for all."""

import asyncio
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
import pytest

from sign_shelf.demo.cluster import free_port
from sign_shelf.demo.seed import take_in_stand_in
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins, stand_in_app
from sign_shelf.desk import links
from sign_shelf.desk.permission import Person
from sign_shelf.jobs import watching
from sign_shelf.outside.fetch import PER_HOST, Fetcher
from sign_shelf.store import inventory, looks, sites
from sign_shelf.store import links as store
from sign_shelf.store.database import Database
from tests.accounts import site_key
from tests.constants import LOOPBACK
from tests.desk.conftest import Clock, on_shelf
from tests.odd_server import Odd
from tests.serving import serving
from tests.waiting import eventually


async def told(api: httpx.AsyncClient, shown: str = "open") -> list[dict[str, Any]]:
    """What is found of addresses."""
    answer = await api.get(f"/api/findings?shown={shown}")
    assert answer.status_code == 200, answer.text
    return [one for one in answer.json()["lines"] if one["code"].startswith("link-")]


async def test_one_dead_address_is_one_line_given_waived_and_mended_once(
    as_ines: httpx.AsyncClient, database: Database, odd: Odd, quick: Fetcher, clock: Clock
) -> None:
    dead, here = f"http://127.0.0.1:{odd.port}/404", f"http://127.0.0.1:{odd.port}/there"
    for key in ("alder", "brant"):
        await on_shelf(database, key, {"top": [dead, here], "foot": [dead, f"{dead}#part"], "legal": [dead] * 5})
    assert await watching.look(database, quick, clock) == 3
    assert odd.asked == {"GET robots.txt": 1, "HEAD 404": 1, "GET 404": 2, "HEAD there": 1}, (
        "asked once for all menus of all sites"
    )
    lines = {(one["code"], one["entries"], len(one["sites"])) for one in await told(as_ines)}
    assert lines == {("link-gone", 14, 2), ("link-gone", 2, 2)}
    (line,) = [one for one in await told(as_ines) if one["entries"] == 14]
    assert (line["says"], line["severity"], line["owner"], line["back"]) == (
        f"http://127.0.0.1:{odd.port}/404: There is no such page (404)", "stop", None, 0
    )  # fmt: skip
    named = {"code": line["code"], "cause": line["cause"]}

    people = (await as_ines.get("/api/session")).json()
    assert (
        await as_ines.put("/api/findings/care", json=named | {"owner": people["id"], "due": "2027-02-20"})
    ).status_code == 204
    assert (
        await as_ines.put("/api/findings/care", json=named | {"waive": " ", "until": "2027-03-01"})
    ).status_code == 422
    waive = {"waive": "the client knows", "until": "2027-03-01", "sites": ["alder"]}
    assert (await as_ines.put("/api/findings/care", json=named | waive)).status_code == 204
    (line,) = [one for one in await told(as_ines) if one["entries"] == 14]
    assert (line["owner"], line["due"], line["waived"]) == ("Ines Calder", "2027-02-20", None), (
        "waived at one of two sites"
    )
    assert (await as_ines.put("/api/findings/care", json=named | {"waive": "the client knows"})).status_code == 204
    assert [one["entries"] for one in await told(as_ines)] == [2]
    (waived,) = await told(as_ines, "waived")
    assert waived["waived"] == {"reason": "the client knows", "by": "Ines Calder", "until": None}
    assert (await as_ines.put("/api/findings/care", json=named | {"waive": ""})).status_code == 204

    more = (await as_ines.get("/api/findings/cause", params=named)).json()
    assert len(more["uses"]) == 14
    assert [one["status"] for one in more["hops"]] == [404]
    assert (more["suggestion"]["to"], more["hows"]) == ("/fares", ["lead", "remove"])
    assert [one["verdict"] for one in more["history"]] == ["gone"]
    refused = await as_ines.post(
        "/api/findings/mend", json=named | {"how": "lead", "to": "javascript:x"}, headers={"idempotency-key": "x"}
    )
    assert refused.status_code == 422, refused.text
    lead = named | {"how": "lead", "to": "/fares"}
    mended = await as_ines.post("/api/findings/mend", json=lead, headers={"idempotency-key": "once"})
    assert mended.status_code == 201, mended.text
    assert (mended.json()["sites"], mended.json()["entries"]) == (["alder", "brant"], 14)
    again = await as_ines.post("/api/findings/mend", json=lead, headers={"idempotency-key": "once"})
    assert again.json() == mended.json(), "pressing twice makes one change"
    for key in ("alder", "brant"):
        there = await as_ines.get(f"/api/sites/{key}/menus/legal?in={mended.json()['change']}")
        assert [item["target"] for item in there.json()["document"]["items"]] == [{"page": "fares"}] * 5
        live = await as_ines.get(f"/api/sites/{key}/menus/legal?in=live")
        assert live.json()["document"]["items"][0]["target"] == {"url": dead}
    assert any("Began Lead" in one["says"] for one in (await as_ines.get("/api/ledger?site=alder")).json())


async def test_a_host_that_flaps_is_no_finding_and_one_that_stays_away_is_since_then(
    as_ines: httpx.AsyncClient, database: Database, odd: Odd, quick: Fetcher, clock: Clock
) -> None:
    await on_shelf(database, "alder", {"top": [f"http://127.0.0.1:{odd.port}/page"]})
    for turn in range(6):
        odd.answers = {"page": 500} if turn % 2 == 0 else {}
        await watching.look(database, quick, clock)
        assert await told(as_ines) == []
        clock.on(minutes=4)
    clock.on(hours=25)
    odd.answers = {"page": 500}
    assert await watching.look(database, quick, clock) == 1
    assert await told(as_ines) == [], "once is not dead"
    assert await watching.look(database, quick, clock) == 0, "and it is not asked before it is due"
    clock.on(minutes=4)
    await watching.look(database, quick, clock)
    (line,) = await told(as_ines)
    assert (line["code"], datetime.fromisoformat(line["since"])) == ("link-error", clock.at)
    odd.answers = {}
    clock.on(hours=2)
    await watching.look(database, quick, clock)
    assert await told(as_ines) == []
    (gone,) = await told(as_ines, "gone")
    assert (gone["code"], datetime.fromisoformat(gone["gone_at"])) == ("link-error", clock.at)
    odd.answers = {"page": 404}
    clock.on(hours=25)
    await watching.look(database, quick, clock)
    odd.answers = {}
    clock.on(hours=25)
    await watching.look(database, quick, clock)
    odd.answers = {"page": 404}
    clock.on(hours=25)
    await watching.look(database, quick, clock)
    (line,) = await told(as_ines)
    assert (line["code"], line["back"]) == ("link-gone", 1)


async def test_workers_share_the_work_and_each_host_is_asked_by_one(database: Database, odd: Odd, clock: Clock) -> None:
    await on_shelf(database, "alder", {"top": [f"http://127.0.0.1:{odd.port}/many?{at}" for at in range(120)]})
    async with Fetcher(LOOPBACK) as one, Fetcher(LOOPBACK) as other:
        async with database.transaction() as session:
            (site,) = await watching.looks.to_look(session)
        await links.gather(database, site.site_id, site.leads, clock())
        asked = await asyncio.gather(links.ask_due(database, one, clock), links.ask_due(database, other, clock))
    assert sorted(asked) == [0, 120]
    assert odd.asked["HEAD many"] == 120
    assert odd.most <= PER_HOST
    async with database.transaction() as session:
        await store.put_links(session, site.site_id, [], ours=frozenset(), now=clock())
    clock.on(days=8)
    async with Fetcher(LOOPBACK) as fetcher:
        assert await links.ask_due(database, fetcher, clock) == 0, "what no menu leads to any more is not asked"


async def test_what_was_answered_is_not_asked_again_after_a_stop(database: Database, odd: Odd, clock: Clock) -> None:
    await on_shelf(database, "alder", {"top": [f"http://127.0.0.1:{odd.port}/many?{at}" for at in range(200)]})
    async with Fetcher(LOOPBACK) as fetcher:
        stopped = asyncio.create_task(watching.look(database, fetcher, clock))
        await asyncio.to_thread(eventually, lambda: odd.asked["HEAD many"] >= 90)
        stopped.cancel()
        with pytest.raises(asyncio.CancelledError):
            await stopped
        before = odd.asked["HEAD many"]
        left = await watching.look(database, fetcher, clock)
    assert left >= 200 - before, "what was not asked is"
    assert odd.asked["HEAD many"] <= 200 + PER_HOST, "only what was under way when it stopped is asked twice"


async def test_an_edit_elsewhere_leaves_answers_alone_and_checking_now_asks_them_all(
    as_ines: httpx.AsyncClient, database: Database, odd: Odd, quick: Fetcher, clock: Clock
) -> None:
    await on_shelf(database, "alder", {"top": [f"http://127.0.0.1:{odd.port}/a", f"http://127.0.0.1:{odd.port}/b"]})
    assert await watching.look(database, quick, clock) == 2
    await on_shelf(database, "brant", {"top": [f"http://127.0.0.1:{odd.port}/a", f"http://127.0.0.1:{odd.port}/c"]})
    assert await watching.look(database, quick, clock) == 1, "only what is new"
    shown = (await as_ines.get("/api/findings?site=brant")).json()
    assert (shown["links"]["addresses"], shown["unchecked"]) == (2, 1), "its day is not this one"
    assert (await as_ines.post("/api/findings/check", json={"site": "nowhere"})).status_code == 404
    asked = await as_ines.post("/api/findings/check", json={"site": "alder"})
    assert asked.status_code == 202
    assert asked.json()["due"] == 2
    clock.at = datetime.now(UTC)
    assert await watching.look(database, quick, clock) == 3
    assert (await as_ines.get("/api/findings")).json()["unchecked"] == 0


async def test_what_crawlers_get_is_read_once_something_else_is_live_and_entries_that_a_script_makes_are_found(
    database: Database, quick: Fetcher, brackwater: StandIn, as_ines: httpx.AsyncClient, ines: Person, clock: Clock
) -> None:
    async def crawled() -> list[str]:
        lines = (await as_ines.get("/api/findings")).json()["lines"]
        return sorted(one["says"] for one in lines if one["family"] == "crawlers")

    await watching.look(database, quick, clock)
    assert await crawled() == [], "the stand-in has plain navigations with names"
    asked = brackwater.faults.asked["/"]
    await watching.look(database, quick, clock)
    assert brackwater.faults.asked["/"] == asked, "nothing else is live"
    brackwater.faults.at = {"/": "by script"}
    async with database.transaction() as session:
        site = await sites.site_by_key(session, "brackwater")
        assert site is not None
        await inventory.read_by(session, site.id, clock())
    await watching.look(database, quick, clock)
    told = await crawled()
    assert any(says.startswith("Header bar: none of its ") for says in told), told
    plain = await as_ines.get("/api/sites/brackwater/places/header/plain?language=nl&in=live")
    assert plain.status_code == 200, plain.text
    html, given_at = plain.json()["html"], plain.json()["given_at"]
    assert html.startswith('<nav aria-label="Header bar" lang="nl"><ul><li><a href="')
    assert given_at == "http://shelf.example/live/brackwater/header?device=desktop&language=nl"
    key = await site_key(database, ines, "brackwater", "delivery")
    headers = {"authorization": f"Bearer {key}", "accept": "text/html"}
    assert (await as_ines.get(given_at, headers=headers)).text == html, "as delivery gives it"
    assert (await as_ines.get("/api/sites/brackwater/places/nowhere/plain")).status_code == 422
    brackwater.faults.at = {"/": "error"}
    async with database.transaction() as session:
        await looks.read_home_again(session, site.id)
    await watching.look(database, quick, clock)
    assert await crawled() == told, "of a page that does not answer is known what was"
    brackwater.faults.at = {}
    async with database.transaction() as session:
        await looks.read_home_again(session, site.id)
    await watching.look(database, quick, clock)
    assert await crawled() == []


async def test_what_a_section_place_shows_is_read_on_pages_of_its_sections(
    database: Database, quick: Fetcher, ines: Person, as_ines: httpx.AsyncClient, clock: Clock, tmp_path: Path
) -> None:
    """A library's pages have a place for the part that one is in. Its home page has nothing of it."""
    kestrel = next(one for one in make_stand_ins(tmp_path, iter(free_port, None)) if one.content.key == "kestrel")
    with serving(stand_in_app(kestrel), kestrel.port):
        await take_in_stand_in(database, kestrel, ines)
        await watching.look(database, quick, clock)
        lines = (await as_ines.get("/api/findings?site=kestrel")).json()["lines"]
        assert [one["says"] for one in lines if one["family"] == "crawlers"] == []
        sections = [path for path in kestrel.faults.asked if path != "/" and not path.startswith("/.well-known")]
        assert sections, "pages of its sections were read"
        kestrel.faults.at = dict.fromkeys(sections, "by script")
        async with database.transaction() as session:
            (one,) = await looks.to_look(session)
            await looks.read_home_again(session, one.site_id)
        await watching.look(database, quick, clock)
    lines = (await as_ines.get("/api/findings?site=kestrel")).json()["lines"]
    told = [one["says"] for one in lines if one["family"] == "crawlers"]
    # Their own words still lead to some of the entries.
    assert f"Tools is not in the HTML of {kestrel.base}borrow/books" in told, told
    assert not any(says.startswith("Header") for says in told), "that stands in the home page's HTML"
