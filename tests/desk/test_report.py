"""A client's month: what went live with its reasons, who agreed, what was mended, what waits and what is to come."""

from datetime import UTC, datetime, timedelta

import httpx
import pytest

from sign_shelf.core.formats.html_tree import parse
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.store.database import Database
from tests.api.test_changes import begin, relabelled
from tests.desk.conftest import on_shelf
from tests.desk.test_release_ends import Jobs
from tests.desk.test_schedule import approved, in_days, scheduled, with_entry

SITE = "/api/sites/brackwater"


async def test_the_month_tells_what_changed_why_who_agreed_and_what_is_to_come(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn, database: Database, run_jobs: Jobs
) -> None:
    change = await begin(as_tom, "Early <boats>")
    await relabelled(as_tom, change, "Sail early")
    await approved(as_tom, as_ines, change)
    asked = await as_tom.post(f"{SITE}/releases?in={change}", headers={"idempotency-key": "month"})
    assert asked.status_code in {200, 202}, asked.text
    await run_jobs()
    coming = await with_entry(as_tom, "Regatta")
    assert (await scheduled(as_tom, coming, in_days(20))).status_code == 204
    now = datetime.now(UTC)
    answer = await as_ines.get(f"{SITE}/report?month={now:%Y-%m}")
    assert answer.status_code == 200, answer.text
    assert answer.headers["content-type"].startswith("text/html")
    assert "sandbox" in answer.headers["content-security-policy"]
    page = parse(answer.content, "the report")
    words = " ".join(page.body.text().split()) if page.body else ""
    assert "Early <boats>" in words, "as text, and not as markup"
    assert "asked for by Tom Arkwright. Agreed by Ines Calder." in words
    assert "Header: Relabelled Timetables to Sail early" in words
    assert "Press, in Footer" in words
    assert "Regatta: goes live" in words
    drawn = [node.attributes["aria-label"] or "" for node in page.css("svg")]
    assert [one.partition(":")[0] for one in drawn] == ["Header, before", "Header, after"]
    earlier = now.replace(day=1) - timedelta(days=1)
    before = await as_ines.get(f"{SITE}/report?month={earlier:%Y-%m}")
    assert "Sail early" not in before.text


@pytest.mark.parametrize("month", ["2026-13", "november", "2126-01", "2026-1"])
async def test_a_month_that_is_none_is_refused(as_ines: httpx.AsyncClient, brackwater: StandIn, month: str) -> None:
    answer = await as_ines.get(f"{SITE}/report?month={month}")
    assert answer.status_code == 422
    assert "2026-11" in answer.json()["remedy"]


async def test_a_client_with_several_sites_has_one_report_of_them(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, run_jobs: Jobs
) -> None:
    await on_shelf(database, "alder", {"top": ["/a"]}, client="Vessel <Coast>")
    await on_shelf(database, "birch", {"top": ["/b"]}, client="Somebody else")
    settings = (await as_ines.get(f"{SITE}/settings")).json()
    mark = {"if-match": f'"{settings["hash"]}"'}
    assert (await as_ines.put(f"{SITE}/settings", json={"client": "Vessel <Coast>"}, headers=mark)).status_code == 200
    change = await begin(as_ines, "Early boats")
    await relabelled(as_ines, change, "Sail early")
    await as_ines.post(f"{SITE}/releases?in={change}", headers={"idempotency-key": "month"})
    await run_jobs()
    asked = {"client": "Vessel <Coast>", "month": f"{datetime.now(UTC):%Y-%m}"}
    answer = await as_ines.get("/api/shelf/report", params=asked)
    assert answer.status_code == 200, answer.text
    assert "sandbox" in answer.headers["content-security-policy"]
    page = parse(answer.content, "the report")
    assert [one.text() for one in page.css("h1")] == ["Vessel <Coast>", "Alder", "Brackwater Ferries"]
    words = " ".join(page.body.text().split()) if page.body else ""
    assert "1 went live" in words.split("Alder")[0]
    assert "Header: Relabelled Timetables to Sail early" in words
    nobody = await as_ines.get("/api/shelf/report", params=asked | {"client": "Nobody"})
    assert (nobody.status_code, "No site is one of" in nobody.json()["detail"]) == (404, True)
