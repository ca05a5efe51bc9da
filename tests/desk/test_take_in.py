"""Taking a site in over HTTP: begun by a person, read by a job, kept when confirmed."""

import asyncio
from collections.abc import Awaitable, Callable

import httpx

from sign_shelf.demo.stand_ins.server import StandIn

Jobs = Callable[[], Awaitable[None]]


async def begin(api: httpx.AsyncClient, url: str, key: str = "one") -> str:
    answer = await api.post("/api/take-ins", json={"url": url}, headers={"idempotency-key": key})
    assert answer.status_code == 202, answer.text
    return str(answer.json()["id"])


async def test_a_site_is_read_confirmed_and_on_the_shelf(
    as_ines: httpx.AsyncClient, stand_in: StandIn, run_jobs: Jobs
) -> None:
    taken = await begin(as_ines, stand_in.base)
    assert await begin(as_ines, stand_in.base) == taken
    early = await as_ines.post(f"/api/take-ins/{taken}/confirm", json={})
    assert early.status_code == 409
    await run_jobs()
    found = (await as_ines.get(f"/api/take-ins/{taken}")).json()
    assert (found["state"], found["proposal"]["name"]) == ("ready", "Brackwater Ferries")
    wrong = await as_ines.post(f"/api/take-ins/{taken}/confirm", json={"zone": "Mars/Olympus"})
    assert "IANA" in wrong.json()["detail"]
    body = {
        "key": "brackwater",
        "zone": "Europe/London",
        "secret": stand_in.places.secret,
        "menus": ["header", "drawer-phone"],
    }

    async def confirm() -> httpx.Response:
        return await as_ines.post(f"/api/take-ins/{taken}/confirm", json=body)

    answers = await asyncio.gather(confirm(), confirm())
    assert [answer.json()["site"] for answer in answers] == ["brackwater", "brackwater"]
    shelf = (await as_ines.get("/api/shelf?device=desktop")).json()
    assert [site["key"] for site in shelf] == ["brackwater"]
    signs = {sign["location"]: (sign["placement"], sign["leaning"], sign["menu"]) for sign in shelf[0]["signs"]}
    assert signs["header"] == ("own", False, "header")
    assert signs["drawer"] == ("own", True, "drawer-phone")
    assert signs["legal"] == ("none", False, None)
    again = await begin(as_ines, stand_in.base, key="two")
    await run_jobs()
    clash = await as_ines.post(f"/api/take-ins/{again}/confirm", json={"key": "other"})
    assert clash.status_code == 409
    assert "Brackwater Ferries has the address" in clash.json()["detail"]


async def test_what_cannot_be_read_says_why(as_ines: httpx.AsyncClient, run_jobs: Jobs) -> None:
    taken = await begin(as_ines, "http://localhost:9/")
    await run_jobs()
    found = (await as_ines.get(f"/api/take-ins/{taken}")).json()
    assert found["state"] == "failed"
    assert "private address" in found["says"]
    assert "SIGN_SHELF_PRIVATE_HOSTS" in found["says"]


async def test_pages_are_searched_by_title_address_and_type(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    async def refs(words: str) -> list[str]:
        return [
            page["ref"] for page in (await as_ines.get("/api/sites/brackwater/pages", params={"words": words})).json()
        ]

    assert await refs("cabins") == ["on-board-cabins"]
    assert (await refs("timet"))[0] == "timetables"
    assert set(await refs("route skerry")) == {"routes-skerry"}
    assert await refs("100%_") == []
    search = {"words": "cabins", "places": "true"}
    page = (await as_ines.get("/api/sites/brackwater/pages", params=search)).json()[0]
    assert page["places"] == ["Drawer", "Header"]
    page = (await as_ines.get("/api/sites/brackwater/pages", params={"words": "cabins"})).json()[0]
    assert page["places"] == [], "menus are read only where it is asked for"
