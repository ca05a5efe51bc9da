"""Putting live: sent, read back, verified; once, whatever dies on the way; refused where the site moved."""

import signal
import subprocess
from collections.abc import Awaitable, Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from typing import Any

import httpx
import psycopg
import pytest
from pydantic import SecretStr

from sign_shelf.core.model.menu import menu_document
from sign_shelf.core.protocol.placed import placed_menu
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import boards, site_row
from sign_shelf.desk.workplace import to_edit
from sign_shelf.outside.endpoint import write_slot
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import changes
from sign_shelf.store.database import Database
from tests.api.test_menus import read, save, together, with_line
from tests.running import command, environment
from tests.waiting import eventually

FOOTER = "/api/sites/brackwater/menus/footer"
Jobs = Callable[[], Awaitable[None]]


async def ask(api: httpx.AsyncClient, key: str = "go") -> dict[str, Any]:
    answer = await api.post("/api/sites/brackwater/releases", headers={"idempotency-key": key})
    assert answer.status_code == 202, answer.text
    return dict(answer.json())


async def edited(api: httpx.AsyncClient) -> None:
    bench = await read(api)
    assert (await save(api, with_line(bench["document"], "Quiet lounge"), bench["hash"])).status_code == 200


async def test_what_is_put_live_is_what_the_page_shows(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    await edited(as_ines)
    release = await ask(as_ines)
    assert (release["state"], release["of"]) == ("waiting", 1)
    assert (await ask(as_ines))["id"] == release["id"], "pressing twice asks for the same release"
    await run_jobs()
    done = (await as_ines.get(f"/api/releases/{release['id']}")).json()
    assert (done["state"], done["done"]) == ("live", 1)
    async with httpx.AsyncClient(trust_env=False) as visitor:
        assert "Quiet lounge" in (await visitor.get(brackwater.base)).text
    bench = await read(as_ines)
    assert (bench["changes"]["count"], bench["live_hash"], bench["site"]["change"]) == (0, bench["hash"], None)
    says = [line["says"] for line in (await as_ines.get("/api/ledger?site=brackwater")).json()]
    assert sum("is live and verified" in line for line in says) == 1


async def test_a_change_that_goes_live_while_its_site_is_read_is_in_what_is_read(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, ines: Person, run_jobs: Jobs
) -> None:
    """The site is read before, the change is looked for after: its edits are in one of them."""
    await edited(as_ines)
    async with database.transaction() as session:
        row = await site_row(session, ines, "brackwater")
        await ask(as_ines)
        await run_jobs()
        (found,) = await boards(session, ines, [row])
    assert "Quiet lounge" in found.menus["header"].document.model_dump_json()


@pytest.mark.parametrize("begun", ["by an edit", "by name"])
async def test_a_draft_that_is_begun_while_another_goes_live_sets_out_from_what_is_live_then(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, ines: Person, run_jobs: Jobs, begun: str
) -> None:
    """It would meet its own person's last edit otherwise, and stay one release behind."""
    await edited(as_ines)
    async with database.transaction() as session:
        row = await site_row(session, ines, "brackwater")
        was = row.live_state
        await ask(as_ines)
        await run_jobs()
        if begun == "by an edit":
            part = (await to_edit(session, ines, row, None, datetime.now(UTC))).part
        else:
            change = await changes.begin(
                session, title="Next", why="", author_id=ines.id, at=datetime.now(UTC), parts=[row.id]
            )
            found = await changes.part_of(session, change.id, row.id)
            assert found is not None
            part = found
        assert part.base == part.head == row.live_state != was


async def test_a_site_that_keeps_its_menus_is_told_until_when_pages_are_there(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    today = f"{datetime.now(UTC):%Y-%m-%d}"
    ends = await as_ines.put("/api/sites/brackwater/inventory/pages/timetables-winter/ends", json={"ends": today})
    assert ends.status_code == 204, ends.text
    async with httpx.AsyncClient(trust_env=False) as visitor:

        async def header() -> str:
            page = (await visitor.get(f"{brackwater.base}about")).text
            return page.partition('data-place="header"')[2].partition("</nav>")[0]

        assert 'href="/timetables/winter"' in await header(), "it was not told yet"
        await edited(as_ines)
        await ask(as_ines)
        await run_jobs()
        assert "Quiet lounge" in await header()
        assert 'href="/timetables/winter"' not in await header()


async def test_before_it_goes_it_is_told_whose_edits_go_where_and_only_that_goes(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    change = await together(as_ines, as_tom)
    await edited(as_ines)
    bench = await read(as_tom)
    second = await save(as_tom, with_line(bench["document"], "Dogs on board"), bench["hash"])
    by = {edit["says"]: edit["by"] for edit in second.json()["changes"]["first"]}
    assert by == {"Added Quiet lounge, to /x": "Ines Calder", "Added Dogs on board, to /x": "Tom Arkwright"}
    told = (await as_ines.get("/api/sites/brackwater/going-out", params={"in": change})).json()
    [menu] = told["menus"]
    assert (told["change"]["title"], menu["menu"], menu["everybody"]) == ("Together", "header", True)
    assert {one["code"] for one in menu["findings"]} == {"label-missing"}, "the site speaks Dutch as well"
    assert [(one["title"], one["devices"]) for one in menu["places"]] == [("Header bar", ["desktop", "tablet"])]
    assert {edit["says"]: edit["by"] for edit in menu["edits"]["first"]} == by
    bench = await read(as_tom)
    await save(as_tom, with_line(bench["document"], "Half a thought"), bench["hash"])
    late = await as_ines.post("/api/sites/brackwater/releases", params={"told": told["target"]},
                              headers={"idempotency-key": "late"})  # fmt: skip
    assert (late.status_code, "is not what you were told" in late.json()["detail"]) == (409, True)
    told = (await as_ines.get("/api/sites/brackwater/going-out", params={"in": change})).json()
    goes = await as_ines.post("/api/sites/brackwater/releases", params={"told": told["target"]},
                              headers={"idempotency-key": "now"})  # fmt: skip
    assert goes.status_code == 202, goes.text


async def test_a_menu_is_left_out_and_goes_by_itself_later(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    """Its edits are in a change of their own then, under the names of those whose they are; the rest goes without it."""
    change = await together(as_ines, as_tom)
    await edited(as_ines)
    bench = await read(as_tom, f"{FOOTER}?in={change}")
    await save(as_tom, with_line(bench["document"], "Half a thought"), bench["hash"], f"{FOOTER}?in={change}")
    out, once = {"menu": "footer"}, {"idempotency-key": "out"}
    route = f"/api/sites/brackwater/changes/{change}/left-out"
    made = await as_ines.post(route, json=out, headers=once)
    assert made.status_code == 201, made.text
    assert (await as_ines.post(route, json=out, headers=once)).json() == made.json(), "once"
    assert made.json()["title"] == f"{bench['document']['name']}, left out of Together"
    again = await as_ines.post(route, json=out, headers={"idempotency-key": "again"})
    assert (again.status_code, again.json()["detail"]) == (422, "The change does nothing to this menu.")
    told = (await as_ines.get("/api/sites/brackwater/going-out", params={"in": change})).json()
    assert [one["menu"] for one in told["menus"]] == ["header"]
    await ask(as_ines)
    await run_jobs()
    other = made.json()["change"]
    later = (await as_ines.get("/api/sites/brackwater/going-out", params={"in": other})).json()
    [menu] = later["menus"]
    assert [(edit["says"], edit["by"]) for edit in menu["edits"]["first"]] == [
        ("Added Half a thought, to /x", "Tom Arkwright")
    ]
    async with httpx.AsyncClient(trust_env=False) as visitor:
        page = (await visitor.get(brackwater.base)).text
        assert "Quiet lounge" in page
        assert "Half a thought" not in page


async def test_a_rule_with_a_name_goes_with_what_asks_for_it_and_when_it_is_another(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    """The site knows nothing of it but what it is sent."""
    facts = "/api/sites/brackwater/facts"
    for at, (rule, seen) in enumerate(
        (('roles has "skipper"', {"skipper"}), ('roles has "crew"', {"crew", "skipper"}))
    ):
        kept = (await as_ines.get(facts)).json()
        known = kept["own"] | {"rules": kept["own"]["rules"] | {"bridge": rule}}
        saved = await as_ines.put(facts, json={"known": known, "sets": []}, headers={"if-match": kept["hash"]})
        assert saved.status_code == 200, saved.text
        bench = await read(as_ines)
        line = {
            "id": "chart",
            "kind": "link",
            "label": {"en": "Charts"},
            "target": {"url": "/charts"},
            "when": "bridge",
        }
        items = [one for one in bench["document"]["items"] if one["id"] != "chart"]
        await save(as_ines, bench["document"] | {"items": [*items, line]}, bench["hash"])
        await ask(as_ines, f"go {at}")
        await run_jobs()
        async with httpx.AsyncClient(trust_env=False) as visitor:
            pages = {who: (await visitor.get(brackwater.base, params={"as": who})).text for who in
                     ("visitor", "islander", "crew", "skipper")}  # fmt: skip
        assert {who for who, page in pages.items() if "Charts" in page} == seen


async def test_nothing_goes_to_a_site_that_is_put_away(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    await edited(as_ines)
    away = await as_ines.put("/api/sites/brackwater/archived", json={"archived": True})
    assert away.status_code == 204, away.text
    refused = await as_ines.post("/api/sites/brackwater/releases", headers={"idempotency-key": "away"})
    assert (refused.status_code, refused.json()["remedy"]) == (409, "Take it out again in its settings.")


async def test_a_finding_that_stops_it_stops_it(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    bench = await read(as_ines)
    late = {"id": "late", "kind": "link", "label": {"en": "Press"}, "target": {"pending": {"due": "2026-01-01"}}}
    await save(as_ines, bench["document"] | {"items": [*bench["document"]["items"], late]}, bench["hash"])
    told = (await as_ines.get("/api/sites/brackwater/going-out")).json()
    [first, *_] = told["menus"][0]["findings"]
    assert (first["code"], first["severity"]) == ("pending-overdue", "stop")
    stopped = await as_ines.post("/api/sites/brackwater/releases", headers={"idempotency-key": "stopped"})
    assert (stopped.status_code, stopped.json()["remedy"]) == (422, "Choose a page.")
    assert "Press leads nowhere yet" in stopped.json()["detail"]


async def test_a_menu_within_a_menu_goes_with_it_and_when_it_is_edited(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    made = await as_ines.post(
        "/api/sites/brackwater/menus", json={"name": "Offers", "outline": "Winter offer -> /winter"},
        headers={"idempotency-key": "offers"},
    )  # fmt: skip
    bench = await read(as_ines)
    line = {"id": "in", "kind": "include", "menu": made.json()["key"]}
    await save(as_ines, bench["document"] | {"items": [*bench["document"]["items"], line]}, bench["hash"])
    await ask(as_ines)
    await run_jobs()
    async with httpx.AsyncClient(trust_env=False) as visitor:
        assert "Winter offer" in (await visitor.get(brackwater.base)).text
        offers_path = f"/api/sites/brackwater/menus/{made.json()['key']}"
        offers = await read(as_ines, offers_path)
        await save(as_ines, with_line(offers["document"], "Spring offer"), offers["hash"], offers_path)
        await ask(as_ines, "again")
        await run_jobs()
        assert "Spring offer" in (await visitor.get(brackwater.base)).text


async def test_an_edit_after_the_asking_waits_for_the_next_release(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    """What goes live is what was there when it was asked for."""
    await edited(as_ines)
    await ask(as_ines)
    bench = await read(as_ines)
    await save(as_ines, with_line(bench["document"], "Too late"), bench["hash"])
    await run_jobs()
    after = await read(as_ines)
    assert [edit["says"] for edit in after["changes"]["first"]] == ["Added Too late, to /x"]
    assert after["site"]["change"] is not None


async def test_a_place_that_was_changed_on_the_site_is_not_overwritten(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs, fetcher: Fetcher
) -> None:
    """Visibly failed, with the reason; the edits are back in the draft."""
    there = brackwater.places.get("header", "desktop")
    theirs = placed_menu("header", "desktop", menu_document("Changed by hand"), ())
    await write_slot(fetcher, f"{brackwater.base}sign-shelf/menus", theirs, secrets=[SecretStr(brackwater.places.secret)],
                     etag=there.etag, idempotency_key="by hand", at=datetime.now(UTC))  # fmt: skip
    await edited(as_ines)
    release = await ask(as_ines)
    await run_jobs()
    failed = (await as_ines.get(f"/api/releases/{release['id']}")).json()
    assert failed["state"] == "failed"
    assert "changed on the site itself" in failed["says"]
    bench = await read(as_ines)
    assert bench["site"]["change"] is not None
    assert [edit["says"] for edit in bench["changes"]["first"]] == ["Added Quiet lounge, to /x"]
    assert brackwater.places.placed["header", "desktop"] == theirs


async def test_a_site_that_declines_or_is_away_fails_the_release_visibly(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    await edited(as_ines)
    brackwater.places.secret = "whsec_AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"
    release = await ask(as_ines)
    await run_jobs()
    failed = (await as_ines.get(f"/api/releases/{release['id']}")).json()
    assert "declined with 401" in failed["says"]
    assert brackwater.places.writes == 0


async def test_nothing_to_put_live_is_refused(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    answer = await as_ines.post("/api/sites/brackwater/releases", headers={"idempotency-key": "x"})
    assert (answer.status_code, "nothing to put live" in answer.json()["detail"]) == (409, True)
    await as_ines.post("/api/sites/brackwater/menus", json={"name": "Loose"}, headers={"idempotency-key": "y"})
    answer = await as_ines.post("/api/sites/brackwater/releases", headers={"idempotency-key": "z"})
    assert "Hang one of them" in answer.json()["remedy"]


@contextmanager
def worker_process(address: str) -> Iterator["subprocess.Popen[bytes]"]:
    with command("worker", environment=environment(address, STALLED_AFTER_S="1.5", HEARTBEAT_S="0.3")) as process:
        try:
            yield process
        finally:
            process.kill()


@pytest.mark.parametrize("moment", ["before the site is asked to write", "after the site has written"])
async def test_killing_the_worker_leaves_nothing_undone_and_nothing_done_twice(
    as_ines: httpx.AsyncClient, brackwater: StandIn, address: str, moment: str
) -> None:
    """kill -9 in the middle of a release: a new worker takes it up; live and verified once, written once."""
    await edited(as_ines)
    release = await ask(as_ines)
    brackwater.answer_after_s = 30.0
    before = len(brackwater.asked)
    if moment.startswith("before"):
        # The first thing that a release does is to read the place: that answer is held back as well.
        brackwater.hold_reads = True
    with worker_process(address) as first:
        if moment.startswith("before"):
            eventually(lambda: len(brackwater.asked) > before)
        else:
            eventually(lambda: brackwater.places.writes == 1)
        first.send_signal(signal.SIGKILL)
        first.wait()
    brackwater.answer_after_s, brackwater.hold_reads = 0.0, False
    with worker_process(address), psycopg.connect(address, autocommit=True) as connection:

        def state() -> str:
            row = connection.execute("SELECT state FROM release WHERE id = %s", [release["id"]]).fetchone()
            return str(row[0]) if row else ""

        assert state() == "sending"
        eventually(lambda: state() != "sending", within_s=90)
        assert state() == "live"
        told = connection.execute("SELECT count(*) FROM ledger WHERE action = 'live'").fetchone()
    assert told == (1,)
    assert brackwater.places.writes == 1
    assert "Quiet lounge" in str(brackwater.places.placed["header", "desktop"].menu.to_json())
