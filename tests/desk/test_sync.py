"""In sync: what somebody edits in a site's own back office is told within the rhythm, and taken over or put back; a site that is down is not
drift."""

from datetime import UTC, datetime, timedelta
from typing import Any

import httpx
import pytest

from sign_shelf.core.outline import format_outline
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.permission import Person
from sign_shelf.jobs import watching
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store.database import Database
from tests.api.test_changes import begin, relabelled
from tests.desk.test_release_ends import Jobs, ask, release_of

SITE = "/api/sites/brackwater"


class Later:
    """A clock that stands where it is put."""

    def __init__(self) -> None:
        self.at = datetime.now(UTC) + timedelta(minutes=5)

    def __call__(self) -> datetime:
        return self.at


@pytest.fixture
async def read_live(database: Database, fetcher: Fetcher) -> Any:
    clock = Later()

    async def once() -> None:
        clock.at += timedelta(hours=2)
        await watching.read_what_sites_show(database, fetcher, clock)

    await watching.read_what_sites_show(database, fetcher, lambda: datetime.now(UTC) - timedelta(hours=1))
    return once


async def told(api: httpx.AsyncClient) -> dict[str, Any]:
    answer = await api.get("/api/sync?site=brackwater")
    assert answer.status_code == 200, answer.text
    (one,) = answer.json()
    return dict(one)


async def by_hand(site: StandIn, was: str, now: str, who: str = "Client Colleague") -> None:
    """As somebody at the client does it, in a form of their own back office."""
    outline = format_outline(site.places.placed["header", "desktop"].menu)
    assert was in outline
    async with httpx.AsyncClient(base_url=site.base, trust_env=False) as client:
        answer = await client.post(
            "back-office/header/desktop", data={"outline": outline.replace(was, now, 1), "who": who}
        )
        assert answer.status_code == 303, answer.text


async def test_an_edit_in_the_back_office_is_told_with_who_made_it_and_both_ways_end_in_sync(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs, read_live: Any
) -> None:
    await read_live()
    assert ((await told(as_ines))["state"], (await told(as_ines))["drifts"]) == ("in sync", [])
    await by_hand(brackwater, "Timetables", "Sailing times")
    await read_live()
    found = await told(as_ines)
    assert found["state"] == "drifted"
    (place,) = found["drifts"]
    assert (place["location"], place["device"], place["edited_by"]) == ("header", "desktop", "Client Colleague")
    assert [edit["says"] for edit in place["edits"]] == ["Relabelled Timetables to Sailing times"]
    since = place["since"]
    await read_live()
    assert (await told(as_ines))["drifts"][0]["since"] == since, "as old as it is"

    # Put back.
    back = await as_ines.post(
        f"{SITE}/places/header/desktop/read-again", json={"what": "put back"}, headers={"idempotency-key": "back"}
    )
    await run_jobs()
    assert (await release_of(as_ines, back.json()["release"]))["state"] == "live"
    assert (await told(as_ines))["drifts"] == []
    await read_live()
    assert (await told(as_ines))["state"] == "in sync"

    # Taken over: live once it is released.
    await by_hand(brackwater, "Timetables", "Times")
    await read_live()
    adopt = f"{SITE}/places/header/desktop/adopt"
    one = await as_ines.post(adopt, json={}, headers={"idempotency-key": "adopt"})
    again = await as_ines.post(adopt, json={}, headers={"idempotency-key": "adopt"})
    assert one.status_code == 200, one.text
    assert one.json() == again.json()
    read_ = {"json": {"what": "take over"}, "headers": {"idempotency-key": "see"}}
    assert (await as_ines.post(f"{SITE}/places/header/desktop/read-again", **read_)).status_code == 200
    release = await ask(as_ines)
    await run_jobs()
    assert (await release_of(as_ines, release["id"]))["state"] == "live"
    await read_live()
    assert (await told(as_ines))["state"] == "in sync"
    assert "Times" in format_outline(brackwater.places.placed["header", "desktop"].menu)


async def test_drift_is_taken_apart_and_what_the_change_edits_otherwise_is_not_overwritten(
    as_ines: httpx.AsyncClient, brackwater: StandIn, read_live: Any
) -> None:
    await read_live()
    await by_hand(brackwater, "Timetables", "Times")
    await by_hand(brackwater, "On board", "Aboard")
    await read_live()
    edits = (await told(as_ines))["drifts"][0]["edits"]
    assert {edit["says"] for edit in edits} >= {"Relabelled Timetables to Times", "Relabelled On board to Aboard"}
    adopt = f"{SITE}/places/header/desktop/adopt"
    (aboard,) = [edit["key"] for edit in edits if "Aboard" in edit["says"]]
    one = await as_ines.post(adopt, json={"keys": [aboard]}, headers={"idempotency-key": "some"})
    assert one.status_code == 200, one.text
    shown = (await as_ines.get(f"{SITE}/menus/header?in={one.json()['change']}")).text
    assert "Aboard" in shown
    assert '"Times"' not in shown
    gone = await as_ines.post(adopt, json={"keys": ["relabel:nobody:en"]}, headers={"idempotency-key": "gone"})
    assert gone.status_code == 404

    # Somebody renames the same entry otherwise in a change.
    other = await begin(as_ines, "Other words")
    await relabelled(as_ines, other, "Sail early")
    clash = await as_ines.post(f"{adopt}?in={other}", json={}, headers={"idempotency-key": "clash"})
    first = (await as_ines.get(f"{SITE}/menus/header?in={other}")).json()["document"]["items"][0]["label"]["en"]
    assert clash.status_code == 409, clash.text
    assert "edits the same otherwise" in clash.json()["detail"]
    assert first == "Sail early"


async def test_a_site_that_is_down_is_not_drift(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, read_live: Any, fetcher: Fetcher
) -> None:
    await read_live()
    await by_hand(brackwater, "Timetables", "Times")
    await read_live()
    before = await told(as_ines)
    async with database.transaction() as session:
        connection = await session.connection()
        await connection.exec_driver_sql(
            "UPDATE site SET endpoint = 'http://127.0.0.1:9/menus' WHERE key = 'brackwater'"
        )
    await read_live()
    away = await told(as_ines)
    assert away["drifts"] == before["drifts"] != [], "what was known stays"
    assert away["says"] != ""
    assert away["read_at"] == before["read_at"]


async def test_a_site_that_is_only_looked_at_is_read_by_its_page(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, read_live: Any
) -> None:
    async with database.transaction() as session:
        connection = await session.connection()
        await connection.exec_driver_sql("UPDATE site SET connection = 'observe' WHERE key = 'brackwater'")
    await read_live()
    found = await told(as_ines)
    assert (found["state"], found["says"]) == ("in sync", ""), found["drifts"]
    assert found["places"] >= 2
    await by_hand(brackwater, "Timetables", "Sailing times")
    await read_live()
    (place,) = (await told(as_ines))["drifts"]
    assert [edit["says"] for edit in place["edits"]] == ["Relabelled Timetables to Sailing times"]
    assert place["sure"] > 0.5


async def test_the_rhythm_is_each_sites_own(
    as_ines: httpx.AsyncClient, brackwater: StandIn, read_live: Any, ines: Person
) -> None:
    await read_live()
    assert (await as_ines.put(f"{SITE}/sync", json={"every_minutes": 4})).status_code == 422
    assert (await as_ines.put(f"{SITE}/sync", json={"every_minutes": 1440})).status_code == 204
    assert (await told(as_ines))["every_minutes"] == 1440
    assert (await as_ines.post(f"{SITE}/sync/read")).status_code == 202
    await read_live()
    found = await told(as_ines)
    due, read = (datetime.fromisoformat(found[one]) for one in ("due_at", "read_at"))
    assert due - read == timedelta(days=1)
