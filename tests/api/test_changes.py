"""Changes over HTTP: branches of a site's states that do not know of each other until one is live."""

import asyncio
from collections.abc import Awaitable, Callable
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import httpx
import psycopg

from sign_shelf.demo.portfolio import portfolio
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.whole_sites import put_on_shelf
from sign_shelf.store.database import Database
from tests.api.test_menus import HEADER, labels, read, with_line

Jobs = Callable[[], Awaitable[None]]
SITE = "/api/sites/brackwater"


async def begin(api: httpx.AsyncClient, title: str) -> str:
    answer = await api.post(f"{SITE}/changes", json={"title": title}, headers={"idempotency-key": str(uuid4())})
    assert answer.status_code == 201, answer.text
    return str(answer.json()["change"])


async def save_in(api: httpx.AsyncClient, change: str, document: dict[str, Any], on: str) -> httpx.Response:
    return await api.put(f"{HEADER}?in={change}", json=document, headers={"if-match": on})


async def relabelled(api: httpx.AsyncClient, change: str, words: str) -> None:
    bench = await read(api, f"{HEADER}?in={change}")
    first, *rest = bench["document"]["items"]
    document = bench["document"] | {"items": [first | {"label": first["label"] | {"en": words}}, *rest]}
    saved = await save_in(api, change, document, bench["hash"])
    assert saved.status_code == 200, saved.text


async def put_live(api: httpx.AsyncClient, change: str, run_jobs: Jobs) -> dict[str, Any]:
    asked = await api.post(f"{SITE}/releases?in={change}", headers={"idempotency-key": str(uuid4())})
    assert asked.status_code == 202, asked.text
    await run_jobs()
    return dict((await api.get(f"/api/releases/{asked.json()['id']}")).json())


async def test_changes_do_not_know_of_each_other_and_move_on_with_what_is_live(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    one, two = await begin(as_ines, "One"), await begin(as_ines, "Two")
    for change, words in ((one, "From one"), (two, "From two")):
        bench = await read(as_ines, f"{HEADER}?in={change}")
        assert (await save_in(as_ines, change, with_line(bench["document"], words), bench["hash"])).status_code == 200
    made = await as_ines.post(f"{SITE}/menus?in={one}", json={"name": "New"}, headers={"idempotency-key": "new"})
    assert (await as_ines.get(f"{SITE}/menus/new?in={one}")).status_code == 200, made.text
    assert (await as_ines.get(f"{SITE}/menus/new?in={two}")).status_code == 404
    assert labels((await read(as_ines, f"{HEADER}?in={two}"))["document"])[-1] == "From two"
    assert labels((await read(as_ines, f"{HEADER}?in=live"))["document"])[-1] not in {"From one", "From two"}
    assert (await read(as_ines))["site"]["change"]["title"] == "Two", "the one that was begun last is worked in"
    assert (await put_live(as_ines, one, run_jobs))["state"] == "live"
    both = await read(as_ines, f"{HEADER}?in={two}")
    assert labels(both["document"])[-2:] == ["From two", "From one"]
    assert [edit["says"] for edit in both["changes"]["first"]] == ["Added From two, to /x"]
    assert (await as_ines.get(f"{SITE}/menus/new?in={two}")).status_code == 200
    assert (await put_live(as_ines, two, run_jobs))["state"] == "live"
    assert (await as_ines.get(f"{SITE}/changes")).json() == []
    assert (await read(as_ines))["site"]["change"] is None


async def test_what_does_not_go_with_what_is_live_is_settled_first(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    slow, quick = await begin(as_ines, "Slow"), await begin(as_ines, "Quick")
    await relabelled(as_ines, slow, "Slowly")
    await relabelled(as_ines, quick, "Quickly")
    assert (await put_live(as_ines, quick, run_jobs))["state"] == "live"
    refused = await as_ines.post(f"{SITE}/releases?in={slow}", headers={"idempotency-key": "slow"})
    assert (refused.status_code, "do not agree on: header/timetables" in refused.json()["detail"]) == (409, True)
    told = (await as_ines.get(f"{SITE}/changes")).json()
    assert [(one["title"], one["behind"]) for one in told] == [("Slow", True)]
    found = (await as_ines.get(f"{SITE}/changes/{slow}/conflicts")).json()
    assert [(one["key"], one["field"], one["ours"], one["theirs"]) for one in found] == [
        ("header/timetables", "its label in English", "Slowly", "Quickly")
    ]
    left = await as_ines.post(f"{SITE}/changes/{slow}/catch-up", json={})
    assert left.json() == found, "nothing is settled by itself"
    settled = await as_ines.post(f"{SITE}/changes/{slow}/catch-up", json={"choices": {"header/timetables": "ours"}})
    assert settled.json() == []
    assert (await put_live(as_ines, slow, run_jobs))["state"] == "live"
    assert labels((await read(as_ines, f"{HEADER}?in=live"))["document"])[0] == "Slowly"


async def test_a_key_stands_for_the_whole_request(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    """Used for another change, it was answered with the release of the first, and the second was never published."""
    first, second = await begin(as_ines, "First"), await begin(as_ines, "Second")
    await relabelled(as_ines, first, "Sail early")
    await edited_footer(as_ines, second)
    key = {"idempotency-key": "publish"}
    asked = f"{SITE}/releases?in={first}"
    release = await as_ines.post(asked, headers=key)
    assert release.status_code == 202, release.text
    assert (await as_ines.post(asked, headers=key)).json() == release.json(), "asked again, it is the same one"
    for other in (f"{SITE}/releases?in={second}", f"{asked}&told=x"):
        refused = await as_ines.post(other, headers=key)
        assert (refused.status_code, "with another request before" in refused.text) == (422, True)
    body = {"name": "Summer"}
    made = {"idempotency-key": "menu"}
    assert (await as_ines.post(f"{SITE}/menus?in={second}", json=body, headers=made)).status_code == 201
    more = await as_ines.post(f"{SITE}/menus?in={second}", json=body | {"outline": "A -> /a"}, headers=made)
    assert more.status_code == 422
    await run_jobs()
    states = {one["title"]: one["state"] for one in (await as_ines.get("/api/changes")).json()}
    assert states.get("Second") == "draft"


async def edited_footer(client: httpx.AsyncClient, change: str) -> None:
    made = await client.post(
        f"{SITE}/menus", params={"in": change}, json={"name": "Quay"}, headers={"idempotency-key": f"quay {change}"}
    )
    assert made.status_code == 201, made.text


async def test_a_change_is_named_withdrawn_and_refused_where_it_is_not(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn
) -> None:
    change = await begin(as_ines, "  Summer \n timetable ")
    assert [one["title"] for one in (await as_tom.get(f"{SITE}/changes")).json()] == ["Summer timetable"]
    assert (await as_tom.put(f"/api/changes/{change}", json={"title": "Winter", "why": "Snow"})).status_code == 204
    assert (await as_tom.put(f"/api/changes/{change}", json={"title": " "})).status_code == 422
    bench = await read(as_ines, f"{HEADER}?in=live")
    live = await save_in(as_ines, "live", with_line(bench["document"], "X"), bench["hash"])
    assert (live.status_code, "as it is live" in live.json()["detail"]) == (409, True)
    assert (await as_ines.get(f"{HEADER}?in=somewhere")).status_code == 422
    assert (await as_ines.get(f"{HEADER}?in={uuid4()}")).status_code == 404
    assert (await as_ines.put(f"{SITE}/work", json={"change": str(uuid4())})).status_code == 404
    assert (await as_tom.post(f"/api/changes/{change}/withdraw")).status_code == 204
    again = await as_tom.post(f"/api/changes/{change}/withdraw")
    assert (again.status_code, "is withdrawn" in again.json()["detail"]) == (409, True)
    gone = await save_in(as_ines, change, with_line(bench["document"], "X"), bench["hash"])
    assert (gone.status_code, gone.json()["detail"]) == (409, "Winter is withdrawn: it cannot edit.")
    assert (await read(as_ines))["site"]["change"] is None


async def test_whoever_begins_to_edit_works_in_a_draft_of_their_own(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn
) -> None:
    bench = await read(as_ines)
    assert bench["site"]["change"] is None
    same = await as_ines.put(HEADER, json=bench["document"], headers={"if-match": bench["hash"]})
    assert (same.json()["new"], (await as_ines.get(f"{SITE}/changes")).json()) == (False, [])
    saved = await as_ines.put(HEADER, json=with_line(bench["document"], "Mine"), headers={"if-match": bench["hash"]})
    assert saved.json()["change"]["title"].startswith("Draft of ")
    assert labels((await read(as_tom))["document"]) == labels(bench["document"])
    shelf = {board["key"]: board for board in (await as_tom.get("/api/shelf")).json()}
    assert (shelf["brackwater"]["change"], shelf["brackwater"]["others"]) == (None, 1)
    joined = await as_tom.put(f"{SITE}/work", json={"change": saved.json()["change"]["id"]})
    assert joined.status_code == 204
    assert labels((await read(as_tom))["document"])[-1] == "Mine"
    left = await as_tom.put(f"{SITE}/work", json={"change": None})
    assert left.status_code == 204
    assert (await read(as_tom))["site"]["change"] is None


async def test_who_edits_while_a_change_of_two_sites_goes_live_at_one_begins_a_draft(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database
) -> None:
    document = next(portfolio(1, 1))
    await put_on_shelf(database, document, datetime.now(UTC))
    both = await begin(as_ines, "Both")
    other = f"/api/sites/{document.site.key}/menus/header"
    for menu in (HEADER, other):
        bench = await read(as_ines, f"{menu}?in={both}")
        saved = await as_ines.put(
            f"{menu}?in={both}", json=with_line(bench["document"], "Both"), headers={"if-match": bench["hash"]}
        )
        assert saved.status_code == 200, saved.text
    asked = await as_ines.post(f"{SITE}/releases?in={both}", headers={"idempotency-key": "one of two"})
    assert asked.status_code == 202, asked.text
    withdrawn = await as_ines.post(f"/api/changes/{both}/withdraw")
    assert (withdrawn.status_code, "goes live at Brackwater" in withdrawn.json()["detail"]) == (409, True)
    bench = await read(as_ines)
    assert labels(bench["document"])[-1] == "Both"
    after = await as_ines.put(HEADER, json=with_line(bench["document"], "After"), headers={"if-match": bench["hash"]})
    assert (after.status_code, after.json()["change"]["id"] != both) == (200, True), after.text


async def test_two_people_add_the_same_site_to_a_change_at_the_same_moment(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, address: str
) -> None:
    document = next(portfolio(1, 1))
    await put_on_shelf(database, document, datetime.now(UTC))
    both = await begin(as_ines, "Both")
    menu = f"/api/sites/{document.site.key}/menus/header?in={both}"
    bench = await read(as_ines, menu)
    with psycopg.connect(address) as other, psycopg.connect(address, autocommit=True) as looking:
        other.execute(
            "INSERT INTO change_part (change_id, site_id, base, head, says, foretold)"
            " SELECT %s, id, live_state, live_state, '', '' FROM site WHERE key = %s",
            [both, document.site.key],
        )
        saving = asyncio.create_task(
            as_ines.put(menu, json=with_line(bench["document"], "Mine"), headers={"if-match": bench["hash"]})
        )
        waits = "SELECT count(*) FROM pg_locks WHERE NOT granted"
        while looking.execute(waits).fetchone() == (0,) and not saving.done():
            await asyncio.wait({saving}, timeout=0.05)
        other.commit()
    saved = await saving
    assert saved.status_code == 200, saved.text
    assert labels((await read(as_ines, menu))["document"])[-1] == "Mine"
