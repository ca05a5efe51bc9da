"""A site's pages kept known: read again, compared, doubted; new ones placed, dismissed, or put into a draft by themselves."""

from collections.abc import Awaitable, Callable
from datetime import UTC, datetime, timedelta
from typing import Any

import httpx
import pytest

from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk import inventory
from sign_shelf.desk.permission import Person
from sign_shelf.jobs import watching
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import inventory as records
from sign_shelf.store import sites
from sign_shelf.store.database import Database

NOON = datetime(2027, 2, 12, 12, tzinfo=UTC)
SITE = "/api/sites/brackwater"
Reads = Callable[[], Awaitable[list[dict[str, Any]]]]


@pytest.fixture
def reads(database: Database, fetcher: Fetcher, brackwater: StandIn, as_ines: httpx.AsyncClient) -> Reads:
    """Reads the site once more, a day later each time; what came to differ by it."""
    at = NOON

    async def read() -> list[dict[str, Any]]:
        nonlocal at
        at += timedelta(days=1)
        async with database.transaction() as session:
            row = await sites.site_by_key(session, "brackwater")
            assert row is not None
            await records.read_by(session, row.id, at)
        await inventory.read_one(database, fetcher, row.id, at)
        answer = await as_ines.get(f"{SITE}/inventory/news", params={"since": at.isoformat()})
        assert answer.status_code == 200, answer.text
        found: list[dict[str, Any]] = answer.json()
        return found

    return read


async def asked_for(api: httpx.AsyncClient) -> dict[str, Any]:
    answer = await api.get(f"{SITE}/inventory")
    assert answer.status_code == 200, answer.text
    told: dict[str, Any] = answer.json()
    return told


async def test_what_stays_as_it_is_is_asked_for_and_not_read_again(
    reads: Reads, brackwater: StandIn, as_ines: httpx.AsyncClient, database: Database
) -> None:
    assert await reads() == [], "what was read when it was taken in is what is there"
    before = await asked_for(as_ines)
    assert await reads() == []
    after = await asked_for(as_ines)
    assert (after["version"], after["says"], after["doubt"]) == (before["version"], "", None)
    async with database.transaction() as session:
        row = await sites.site_by_key(session, "brackwater")
        assert row is not None
        seen = await records.sightings(session, row.id)
        reading = await records.reading_of(session, row.id)
    pages = brackwater.content.pages
    assert {one.status for one in seen.values()} == {304}
    assert len(seen) == len(pages)
    assert all(one.seen_at == NOON + timedelta(days=2) and one.etag for one in seen.values())
    assert reading is not None
    assert (reading.listed, reading.due_at, reading.ending) == (
        len(pages), NOON + timedelta(days=3), " – Brackwater Ferries",
    )  # fmt: skip


async def test_pages_come_move_go_and_come_back(reads: Reads, brackwater: StandIn, as_ines: httpx.AsyncClient) -> None:
    await reads()
    brackwater.more_pages.wanted = {"/offers/winter": "Winter offers", "/group-trips": {"was": "/fares/groups"}}
    brackwater.faults.at = {"/timetables/winter": "gone", "/news": "error"}
    found = {one["ref"]: one for one in await reads()}
    assert {ref: one["kind"] for ref, one in found.items() if one["kind"] != "changed"} == {
        "offers-winter": "new", "fares-groups": "moved", "timetables-winter": "gone",
    }  # fmt: skip
    assert (found["fares-groups"]["was"], found["fares-groups"]["path"]) == ("/fares/groups", "/group-trips")
    assert found["fares-groups"]["because"] == "its old address leads there for good"
    gone = found["timetables-winter"]
    assert gone["menus"], "it is told which menus lead there"
    # Of a page that is gone: where and for whom it would stand if it were there, and when.
    assert "Header bar" in gone["bears_on"]["places"]
    assert {"visitor", "crew"} <= set(gone["bears_on"]["audiences"])
    assert found["offers-winter"]["bears_on"] == {"places": [], "audiences": [], "windows": []}
    # A menu that leads to the page that moved leads to its new address: nobody had to do anything.
    pages = {one["ref"]: one for one in (await as_ines.get(f"{SITE}/pages", params={"limit": 500})).json()}
    assert pages["fares-groups"]["path"] == "/group-trips"
    assert pages["timetables-winter"]["state"] == "gone"
    seen = (await as_ines.get(f"{SITE}/inventory/pages/fares-groups/without")).json()["page"]
    assert (seen["status"], seen["seen_at"]) == (200, seen["asked_at"]), "of where it is now"
    brackwater.faults.at = {}
    assert {one["ref"]: one["kind"] for one in await reads()} == {"timetables-winter": "back"}
    told = await asked_for(as_ines)
    assert told["versions"][0]["news"] == 1


async def test_every_version_of_the_inventory_can_be_had_again(
    reads: Reads, brackwater: StandIn, as_ines: httpx.AsyncClient
) -> None:
    await reads()

    async def had(version: int | None = None) -> dict[str, Any]:
        where = f"versions/{version}" if version is not None else f"versions/{(await asked_for(as_ines))['version']}"
        answer = await as_ines.get(f"{SITE}/inventory/{where}")
        assert answer.status_code == 200, answer.text
        return {one["ref"]: one for one in answer.json()}

    kept = [((await asked_for(as_ines))["version"], await had())]
    for more in (
        {"/offers/winter": "Winter offers"},
        {"/offers/winter": "Winter sun", "/about-us": {"was": "/about"}},
        {},
    ):
        brackwater.more_pages.wanted = more
        await reads()
        kept.append(((await asked_for(as_ines))["version"], await had()))
    assert len({version for version, _ in kept}) == 4
    for version, pages in kept:
        assert await had(version) == pages, version


@pytest.mark.parametrize(("at", "says"), [
    ({"/sitemap.xml": "empty"}, "and names none any more"),
    ("everything gone", "answered that they are not there"),
])  # fmt: skip
async def test_too_much_at_once_is_asked_about_and_only_gone_once_somebody_says_so(
    reads: Reads, brackwater: StandIn, as_ines: httpx.AsyncClient, at: Any, says: str
) -> None:
    await reads()
    before = (await as_ines.get(f"{SITE}/pages", params={"limit": 500})).json()
    brackwater.faults.at = at if isinstance(at, dict) else {page.path: "404" for page in brackwater.content.pages[1:]}
    assert await reads() == []
    told = await asked_for(as_ines)
    assert says in told["doubt"]["says"]
    assert (await as_ines.get(f"{SITE}/pages", params={"limit": 500})).json() == before
    # They stay. Pages that do not answer are asked about again; a small sitemap is what the site has from then on.
    assert (await as_ines.put(f"{SITE}/inventory/doubt", json={"believe": False})).status_code == 204
    assert (await asked_for(as_ines))["doubt"] is None
    assert (await as_ines.put(f"{SITE}/inventory/doubt", json={"believe": True})).status_code == 404
    await reads()
    lost = told["doubt"]["pages"]
    told = await asked_for(as_ines)
    if lost == 0:
        assert told["doubt"] is None
        return
    assert (await as_ines.put(f"{SITE}/inventory/doubt", json={"believe": True})).status_code == 204
    after = (await as_ines.get(f"{SITE}/pages", params={"limit": 500})).json()
    assert len([one for one in after if one["state"] == "gone"]) == told["doubt"]["pages"] == lost == len(before) - 1
    brackwater.faults.at = {}
    assert {one["kind"] for one in await reads()} == {"back"}


async def test_a_site_that_is_down_has_lost_nothing_and_is_read_sooner(
    reads: Reads, brackwater: StandIn, as_ines: httpx.AsyncClient
) -> None:
    await reads()
    brackwater.faults.at = {"/": "error"}
    assert await reads() == []
    told = await asked_for(as_ines)
    assert "The home page is answered with 500" in told["says"]
    assert datetime.fromisoformat(told["due_at"]) == NOON + timedelta(days=2, minutes=30)
    assert told["doubt"] is None


async def test_a_new_page_is_placed_where_it_is_suggested_or_dismissed(
    reads: Reads, brackwater: StandIn, as_ines: httpx.AsyncClient
) -> None:
    await reads()
    brackwater.more_pages.wanted = {"/fares/season": "Season tickets", "/fares/lost": "Lost tickets", "/tides": "Tides"}
    await reads()
    fresh = {one["path"]: one for one in (await asked_for(as_ines))["new"]}
    assert set(fresh) == {"/fares/season", "/fares/lost", "/tides"}
    season = fresh["/fares/season"]
    assert season["suggested"]["because"].startswith("its address is under /fares")
    assert season["suggested"]["below"] == "Fares & passes"
    where = {name: season["suggested"][name] for name in ("menu", "parent", "at")}
    body = {"ref": season["ref"], **where}
    assert (await as_ines.post(f"{SITE}/inventory/place", json=body | {"ref": "nobody"})).status_code == 404
    assert (await as_ines.post(f"{SITE}/inventory/place", json=body | {"menu": "nobody"})).status_code == 404
    placed = (await as_ines.post(f"{SITE}/inventory/place", json=body)).json()
    menu = (await as_ines.get(f"{SITE}/menus/{placed['menu']}")).json()["document"]
    above = next(item for item in menu["items"] if item["id"] == where["parent"])
    assert above["items"][where["at"]]["target"] == {"page": season["ref"]}
    done = await as_ines.post(f"{SITE}/inventory/dismiss", json={"refs": [fresh["/tides"]["ref"]]})
    assert done.json() == {"pages": 1}
    left = await asked_for(as_ines)
    assert [one["path"] for one in left["new"]] == ["/fares/lost"]
    assert [(one["path"], one["by"]) for one in left["left_out"]] == [("/tides", "Ines Calder")]
    back = await as_ines.post(f"{SITE}/inventory/bring-back", json={"refs": ["tides", season["ref"]]})
    assert back.json() == {"pages": 1}, "what was placed stays so"
    after = await asked_for(as_ines)
    assert ({one["path"] for one in after["new"]}, after["left_out"]) == ({"/fares/lost", "/tides"}, [])


async def test_new_pages_of_the_top_level_are_put_into_a_draft_that_nobody_began_and_never_live(
    reads: Reads, brackwater: StandIn, as_ines: httpx.AsyncClient
) -> None:
    await reads()
    settings = (await as_ines.get(f"{SITE}/settings")).json()
    headers = {"if-match": f'"{settings["hash"]}"'}
    wrong = await as_ines.put(f"{SITE}/settings", json={"new_into": "nobody"}, headers=headers)
    assert wrong.status_code == 404
    kept = await as_ines.put(f"{SITE}/settings", json={"new_into": "header", "read_every": "hour"}, headers=headers)
    assert (kept.json()["new_into"], kept.json()["read_every"]) == ("header", "hour")
    live = (await as_ines.get(f"{SITE}/menus/header?in=live")).json()["hash"]
    for more in ({"/tides": "Tides"}, {"/tides": "Tides", "/weather": "Weather", "/fares/lost": "Lost tickets"}):
        brackwater.more_pages.wanted = more
        await reads()
    changes = (await as_ines.get(f"{SITE}/changes")).json()
    [mine] = [one for one in changes if one["title"] == "New pages"]
    inside = (await as_ines.get(f"{SITE}/menus/header?in={mine['id']}")).json()["document"]["items"]
    assert [item["target"] for item in inside[-2:]] == [{"page": "tides"}, {"page": "weather"}]
    assert (await as_ines.get(f"{SITE}/menus/header?in=live")).json()["hash"] == live
    assert [one["path"] for one in (await asked_for(as_ines))["new"]] == ["/fares/lost"]
    # Too many at once are people's to place.
    brackwater.more_pages.wanted = {f"/extra-{at}": f"Extra {at}" for at in range(51)}
    await reads()
    assert len((await asked_for(as_ines))["new"]) == 51
    settings = (await as_ines.get(f"{SITE}/settings")).json()
    headers = {"if-match": f'"{settings["hash"]}"'}
    kept = await as_ines.put(f"{SITE}/settings", json={"read_every": "never"}, headers=headers)
    assert (kept.status_code, (await asked_for(as_ines))["due_at"]) == (200, None)


async def test_what_goes_with_a_page_and_a_planned_end_belongs_to_the_timeline(
    brackwater: StandIn, as_ines: httpx.AsyncClient
) -> None:
    there = f"{SITE}/inventory/pages/fares-groups"
    told = (await as_ines.get(f"{there}/without")).json()
    assert told["entries"]
    assert told["had_by"]
    assert {one["device"] for one in told["cut_off"]} <= {"desktop", "tablet", "phone"}
    assert (await as_ines.get(f"{SITE}/inventory/pages/nobody/without")).status_code == 404
    assert (await as_ines.put(f"{there}/ends", json={"ends": "soon"})).status_code == 422
    assert (await as_ines.put(f"{there}/ends", json={"ends": "2027-03-01"})).status_code == 204
    place = told["had_by"][0]
    menu = told["entries"][0]["menu"]

    async def shown(day: str) -> bool:
        answer = await as_ines.get(
            f"{SITE}/menus/{menu}/resolved", params={"device": place["device"], "at": f"{day}T12:00"}
        )
        assert answer.status_code == 200, answer.text
        return ">Groups<" in answer.text

    assert (await shown("2027-02-28"), await shown("2027-03-01")) == (True, False)
    told = (await as_ines.get(f"{there}/without")).json()
    assert told["page"]["ends"] == "2027-03-01"


async def test_the_watch_reads_what_is_due_once(
    database: Database, fetcher: Fetcher, brackwater: StandIn, ines: Person, as_ines: httpx.AsyncClient
) -> None:
    at = datetime.now(UTC)
    await watching.look(database, fetcher, lambda: at)
    assert brackwater.faults.asked["/sitemap.xml"] == 0, "what was read when it was taken in still counts"
    assert (await as_ines.post(f"{SITE}/inventory/read")).status_code == 202
    assert (await asked_for(as_ines))["reading"]["doing"] == "waiting for a worker"
    later = at + timedelta(minutes=1)
    for _ in range(2):
        await watching.look(database, fetcher, lambda: later)
    assert brackwater.faults.asked["/sitemap.xml"] == 1
    told = await asked_for(as_ines)
    assert (told["reading"], told["read_at"] is not None) == (None, True)
