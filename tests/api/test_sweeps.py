"""Sweeps: found at all sites that one may look at, foreseen line by line, begun as one change; the index finds what the core finds."""

import json
import re
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import httpx
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from sign_shelf.core.sweeps import read_query
from sign_shelf.core.sweeps.entry import entries_of
from sign_shelf.desk import sweep
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import boards, visible_sites
from sign_shelf.desk.ready import ready
from sign_shelf.store.database import Database
from tests.desk.conftest import on_shelf

OLD, OTHER = "https://old.example/fares", "https://other.example/fares"


@pytest.fixture
async def two_sites(database: Database) -> None:
    await on_shelf(database, "alder", {"top": [OLD, "/here"], "foot": [OLD, f"{OTHER}?a=1"]})
    await on_shelf(database, "brant", {"top": [OLD]})


async def found(api: httpx.AsyncClient, query: str) -> list[str]:
    answer = await api.get("/api/sweeps", params={"query": query})
    assert answer.status_code == 200, answer.text
    told = answer.json()
    assert told["entries"] == len(told["found"])
    return [f"{one['site']} {one['menu']} {one['number']}" for one in told["found"]]


async def begun(api: httpx.AsyncClient, body: dict[str, Any], key: str | None = None) -> httpx.Response:
    return await api.post("/api/sweeps", json=body, headers={"idempotency-key": key or str(uuid4())})


@pytest.mark.usefixtures("two_sites")
async def test_what_is_found_at_many_sites_is_edited_in_one_change(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient
) -> None:
    assert await found(as_tom, "host:old.example") == ["alder foot 1", "alder top 1", "brant top 1"]
    assert await found(as_tom, "host:old.example site:=brant") == ["brant top 1"]
    assert await found(as_tom, "menu:foot") == ["alder foot 1", "alder foot 2"]
    refused = await as_tom.get("/api/sweeps", params={"query": "hots:old.example"})
    assert refused.status_code == 422
    assert refused.json()["where"] == "query, letter 1"
    assert "host:" in refused.json()["remedy"]

    making = {
        "do": "replace",
        "within": "address",
        "find": r"https://old\.(\w+)/",
        "by": r"https://new.\1/",
        "pattern": True,
    }
    answer = await as_tom.post("/api/sweeps/preview", json={"query": "host:old.example", "making": making})
    assert answer.headers["content-type"].startswith("application/jsonl")
    lines = [json.loads(line) for line in answer.text.splitlines()]
    assert [(one["site"], one["menu"], one["refused"]) for one in lines] == [
        ("alder", "foot", None), ("alder", "top", None), ("brant", "top", None),
    ]  # fmt: skip
    assert all("https://new.example/fares" in one["does"][0] for one in lines)
    bad = {"query": "host:old.example", "making": making | {"find": "(a"}}
    assert (await as_tom.post("/api/sweeps/preview", json=bad)).status_code == 422, (
        "told as a refusal, not within a stream"
    )

    body = {"query": "host:old.example", "making": making, "title": "The new host",
            "without": [{"site": "alder", "menu": "foot", "item": "foot-0"}]}  # fmt: skip
    lines_of_foot = (await as_tom.get("/api/sites/alder/menus/foot")).json()["document"]["items"]
    key = str(uuid4())
    one, again = await begun(as_tom, body, key), await begun(as_tom, body, key)
    assert one.status_code == 201, one.text
    assert one.json() == again.json(), "asked twice it is begun once"
    told = one.json()
    assert (told["title"], told["sites"], told["entries"]) == ("The new host", ["alder", "brant"], 2)
    kept = (await as_tom.get(f"/api/sites/alder/menus/foot?in={told['change']}")).json()["document"]
    assert kept["items"] == lines_of_foot, "left out"
    top = (await as_tom.get(f"/api/sites/brant/menus/top?in={told['change']}")).json()["document"]
    assert top["items"][0]["target"] == {"url": "https://new.example/fares"}
    assert await found(as_tom, "host:new.example") == [], "nothing is live of it yet"
    nothing = await begun(as_tom, body | {"making": {"do": "retarget", "to": OLD}, "without": []})
    assert nothing.status_code == 422
    assert "changes none" in nothing.json()["detail"]


@pytest.mark.usefixtures("two_sites", "brackwater")
async def test_the_index_finds_what_the_core_finds(database: Database, ines: Person) -> None:
    """Whatever is asked: what the database keeps away, the core would not have found."""
    now = datetime.now(UTC)
    async with database.transaction() as session:
        whole = [
            (await ready(session, board)).site
            for board in await boards(session, None, list(await visible_sites(session, ines)), "live")
        ]
    names = ["label", "target", "host", "rule", "site", "menu", "place"]
    texts = sorted({
        text for site in whole for one in entries_of(site, {}, "2027-01-01T00:00")
        for text in (one.label, *one.goals, one.host or "", one.rule or "", *one.places) if text
    })  # fmt: skip

    @st.composite
    def queries(draw: st.DrawFn) -> str:
        terms = []
        for _ in range(draw(st.integers(1, 2))):
            text = draw(st.sampled_from(texts))
            begin = draw(st.integers(0, max(0, len(text) - 2)))
            piece = (
                text[begin : begin + draw(st.integers(1, 12))].replace("\\", "").replace('"', "").replace("\n", "")
                or "a"
            )
            name = draw(st.sampled_from(["", *(f"{one}:" for one in names)]))
            mark = draw(st.sampled_from(["", "=", "~"])) if name else ""
            piece = re.escape(piece) if mark == "~" else piece
            upper = draw(st.booleans())
            terms.append(
                f'{draw(st.sampled_from(["", "-"]))}{name}{mark}"{piece.upper() if upper and mark != "~" else piece}"'
            )
        terms += draw(
            st.lists(
                st.sampled_from(["kind:link", "rule:any", "window:none", "target:pending", "window:any"]), max_size=1
            )
        )
        return " ".join(terms)

    asked: list[str] = []

    @settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
    @given(queries())
    def gather(query: str) -> None:
        asked.append(query)

    gather()
    for query in asked:
        sought = read_query(query)
        expected = [
            (one.site, one.menu, one.item)
            for site in whole
            for one in entries_of(site, {}, "2027-01-01T00:00")
            if sought.finds(one)
        ]
        async with database.transaction() as session:
            got = [(one.site, one.menu, one.item) for one in await sweep.find(session, ines, query, now)]
        assert sorted(got) == sorted(expected), query
