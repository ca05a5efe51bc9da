"""A site that can only be looked at: a release is a list for a person, ticked off entry by entry, and live once visitors get it."""

from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

import httpx
import psycopg
import pytest
from sqlalchemy.exc import IntegrityError

from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk import sending
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import Person
from sign_shelf.jobs import watching
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store.database import Database
from tests.accounts import sign_in
from tests.api.test_changes import begin, relabelled
from tests.constants import PASSWORD
from tests.desk.test_release_ends import Jobs, ask, release_of
from tests.desk.test_sync import by_hand

SITE = "/api/sites/brackwater"


async def only_looked_at(database: Database) -> None:
    async with database.transaction() as session:
        connection = await session.connection()
        await connection.exec_driver_sql(
            "UPDATE site SET connection = 'observe', endpoint = NULL WHERE key = 'brackwater'"
        )


async def begun(api: httpx.AsyncClient, run_jobs: Jobs) -> dict[str, Any]:
    """Two edits: one that every visitor sees, one that strangers do not."""
    change = await begin(api, "Sailing times")
    await relabelled(api, change, "Sailing times")
    bench = (await api.get(f"{SITE}/menus/header?in={change}")).json()
    crew = {
        "id": "crew-notes",
        "kind": "link",
        "label": {"en": "Crew notes"},
        "target": {"url": "/crew"},
        "when": "signed_in",
    }
    document = bench["document"] | {"items": [*bench["document"]["items"], crew]}
    saved = await api.put(f"{SITE}/menus/header?in={change}", json=document, headers={"if-match": bench["hash"]})
    assert saved.status_code == 200, saved.text
    release = await ask(api)
    await run_jobs()
    return await release_of(api, release["id"]) | {"change": change}


async def to_do(api: httpx.AsyncClient, release: str) -> dict[str, Any]:
    answer = await api.get(f"/api/releases/{release}/by-hand")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


async def test_a_release_is_a_list_for_a_person_and_live_once_the_page_shows_it(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, run_jobs: Jobs, fetcher: Fetcher
) -> None:
    await only_looked_at(database)
    waits = await begun(as_ines, run_jobs)
    assert (waits["state"], waits["done"]) == ("by hand", 0)
    assert 'Header bar does not show "Sailing times"' in waits["says"]
    told = await to_do(as_ines, waits["id"])
    places = {(one["location"], one["device"]): one for one in told["places"]}
    assert set(places) == {("header", "desktop")}
    header = places["header", "desktop"]
    relabel, crew = header["edits"]
    assert (relabel["says"], crew["done"]) == ("Relabel Timetables to Sailing times", False)
    assert crew["says"] == "Add Crew notes, to /crew"
    assert header["hangs"][0] == {"level": 1, "label": "Sailing times", "address": "/timetables"}
    assert brackwater.asked[-1:] == [] or not any(one.startswith("PUT") for one in brackwater.asked), (
        "nothing is sent to it"
    )

    # Until it is done nothing else is begun there, and what a person is at is no drift.
    other = await begin(as_ines, "Another")
    await relabelled(as_ines, other, "Other")
    second = await as_ines.post(f"{SITE}/releases?in={other}", headers={"idempotency-key": "second"})
    assert (second.status_code, "by hand: one after the other" in second.json()["detail"]) == (409, True)
    await by_hand(brackwater, "Timetables", "Sailing times")
    assert (await as_ines.post(f"{SITE}/sync/read")).status_code == 202
    await watching.read_what_sites_show(database, fetcher, lambda: datetime.now(UTC) + timedelta(hours=3))
    (sync,) = (await as_ines.get("/api/sync?site=brackwater")).json()
    assert (sync["drifts"], sync["release_state"]) == ([], "by hand")

    # In its rhythm it was looked at again: what strangers do not see holds by a person's word.
    await run_jobs()
    again = await release_of(as_ines, waits["id"])
    assert (again["state"], again["done"]) == ("by hand", 0)
    assert again["says"] == "Header bar on the desktop has 1 edit that no stranger sees: tick what is done."
    url = f"/api/releases/{waits['id']}/by-hand"
    body = {"step": header["step"], "key": crew["key"], "done": True}
    assert (await as_ines.put(url, json=body)).status_code == 204
    (ticked,) = (await to_do(as_ines, waits["id"]))["places"]
    assert [one["done"] for one in ticked["edits"]] == [False, True]
    assert (await as_ines.put(url, json=body | {"key": "relabel:nobody:en"})).status_code == 404
    assert (await as_ines.post(f"{url}/look")).status_code == 202
    await run_jobs()
    live = await release_of(as_ines, waits["id"])
    assert live["state"] == "live"
    assert (
        live["says"]
        == "1 place carried out by hand, read back on the page, in 1 place in part by the word of Ines Calder"
    )
    assert (await as_ines.post(f"{url}/look")).status_code == 409
    refused = await as_ines.put(url, json=body)
    assert (refused.status_code, "by hand any more" in refused.json()["detail"]) == (409, True)


async def test_it_is_given_up_and_its_edits_stay_in_their_change(
    api: httpx.AsyncClient, as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, run_jobs: Jobs, tom: Person
) -> None:  # fmt: skip
    await only_looked_at(database)
    waits = await begun(as_ines, run_jobs)
    guest = await add_person(
        database, email="guest@quillfen.example", name="Guest", password=PASSWORD, role="viewer", now=datetime.now(UTC)
    )
    await sign_in(api, guest.email)
    assert (await to_do(api, waits["id"]))["places"], "who may look at the site may look at what is to be done"
    refused = await api.post(f"/api/releases/{waits['id']}/by-hand/give-up")
    assert refused.status_code == 403
    await sign_in(api, tom.email)
    assert (await api.post(f"/api/releases/{waits['id']}/by-hand/give-up")).status_code == 204
    over = await release_of(api, waits["id"])
    assert (over["state"], over["says"]) == ("failed", "Given up by Tom Arkwright.")
    bench = (await api.get(f"{SITE}/menus/header?in={waits['change']}")).json()
    assert bench["document"]["items"][0]["label"]["en"] == "Sailing times"
    ledger = (await api.get("/api/ledger?site=brackwater")).text
    assert "Gave up putting it live at Brackwater Ferries by hand" in ledger


async def test_what_is_given_up_while_the_site_is_read_stays_given_up(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, address: str, run_jobs: Jobs, fetcher: Fetcher
) -> None:
    await only_looked_at(database)
    waits = await begun(as_ines, run_jobs)

    def clock() -> datetime:
        """Is asked once the release is taken up, before the site is read."""
        with psycopg.connect(address) as other:
            other.execute("UPDATE release SET state = 'failed', says = 'Given up.'")
        return datetime.now(UTC)

    await sending.carry_out(database, fetcher, UUID(waits["id"]), clock)
    over = await release_of(as_ines, waits["id"])
    assert (over["state"], over["says"]) == ("failed", "Given up.")


async def test_the_database_keeps_what_is_over(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, run_jobs: Jobs
) -> None:
    await only_looked_at(database)
    waits = await begun(as_ines, run_jobs)
    assert (await as_ines.post(f"/api/releases/{waits['id']}/by-hand/give-up")).status_code == 204
    with pytest.raises(IntegrityError, match="is failed, and cannot become live"):
        async with database.transaction() as session:
            await (await session.connection()).exec_driver_sql("UPDATE release SET state = 'live'")
