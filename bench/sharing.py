"""A shared menu that three hundred sites follow, sixty of them with adjustments: what rolling it forward would do at each, and doing it."""

import asyncio
from collections.abc import Iterator
from time import perf_counter
from typing import Any
from uuid import uuid4

import httpx

from bench.trees import Row
from sign_shelf.core.sharing import shared_key
from sign_shelf.store.database import Database
from tests.constants import SEALS
from tests.live_sites import make_change_live

ADJUSTED = 60
AT_ONCE = 100
ENTRIES = 40
TIMES = 5
FIRST = "".join(f"Note {at} -> /note-{at}\n" for at in range(ENTRIES - 4)) + (
    "Contact -> @contact\nQuestions -> @questions\nPress -> @press\nAccessibility -> @accessibility\n"
)
SECOND = (
    FIRST.replace("Note 3 -> /note-3\n", "Note three -> /note-3\n").replace("Note 9 -> /note-9\n", "")
    + "New -> @news\n"
)


def sharing_lines(client: httpx.Client, address: str) -> Iterator[Row]:
    def sent(method: str, path: str, **body: Any) -> Any:
        answer = client.request(method, f"/api{path}", json=body, headers={"idempotency-key": str(uuid4())})
        assert answer.is_success, answer.text
        return answer.json()

    sites = [one["key"] for one in client.get("/api/shelf").json()]
    key = sent("POST", "/shared-menus", name="Small print", outline=FIRST)["key"]
    for at in range(0, len(sites), AT_ONCE):
        change = sent("POST", f"/shared-menus/{key}/followers", sites=sites[at : at + AT_ONCE])["change"]
        for site in sites[at : at + ADJUSTED * AT_ONCE // len(sites)]:
            _adjust(client, f"/api/sites/{site}/menus/{shared_key(key)}?in={change}")
        asyncio.run(_live(address, change))
    sent("PUT", f"/shared-menus/{key}", name="Small print", outline=SECOND, version=1)
    spent = []
    for _ in range(TIMES):
        began = perf_counter()
        answer = client.get(f"/api/shared-menus/{key}/forward")
        spent.append(perf_counter() - began)
        assert len(answer.json()) == len(sites), answer.text
    size = f"{len(sites)} sites, {ADJUSTED} of them adjusted, {ENTRIES} entries"
    yield (
        "shared menu: what rolling it forward does at each", size,
        f"first {spent[0]:.2f} s, then {sorted(spent[1:])[len(spent[1:]) // 2]:.2f} s", "", "< 2 s",
    )  # fmt: skip
    began = perf_counter()
    sent("POST", f"/shared-menus/{key}/forward", title="Forward")
    yield "shared menu: rolled forward in one change", size, f"{perf_counter() - began:.1f} s", "", ""


def _adjust(client: httpx.Client, menu: str) -> None:
    """Its own words for two entries, one hidden, one put in."""
    page = client.get(menu)
    document = page.json()["document"]
    items = document["items"]
    items[3]["label"]["en"], items[5]["label"]["en"] = "Our own", "Ours too"
    del items[7]
    items.append({"id": "own", "kind": "link", "label": {"en": "Own"}, "target": {"url": "/own"}})
    answer = client.put(menu, json=document, headers={"if-match": page.headers["etag"]})
    assert answer.status_code == 200, answer.text


async def _live(address: str, change: str) -> None:
    database = Database(address, SEALS)
    await make_change_live(database, change)
    await database.close()
