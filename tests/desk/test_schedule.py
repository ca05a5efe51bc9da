"""Changes that go live at their moment, come back at their end, are missed, held and undone; what is foretold of it."""

import asyncio
from collections.abc import Awaitable, Callable
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID
from zoneinfo import ZoneInfo

import httpx
import pytest
from sqlalchemy import text

from sign_shelf.core.basics.clock import clock_of, moment_of
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk import schedule, sending
from sign_shelf.jobs import releasing
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import sites, states
from sign_shelf.store.database import Database
from tests.api.test_changes import SITE, begin, put_live, relabelled, save_in
from tests.api.test_menus import HEADER, labels, read, with_line
from tests.desk.conftest import on_shelf
from tests.desk.test_review import as_rosa, do, look, policy, state  # noqa: F401 - a fixture

Jobs = Callable[[], Awaitable[None]]
ZONE = "Europe/London"


def in_days(days: int, hour: int = 4) -> str:
    """A reading of the site's clock."""
    day = datetime.now(ZoneInfo(ZONE)).date() + timedelta(days=days)
    return f"{day}T{hour:02}:00"


def at(days: int, hour: int = 4) -> datetime:
    return moment_of(clock_of(ZONE).instant(in_days(days, hour)))


async def scheduled(api: httpx.AsyncClient, change: str, goes: str, ends: str | None = None, kind: str = "clock") -> httpx.Response:  # fmt: skip
    return await api.put(f"/api/changes/{change}/schedule", json={"kind": kind, "goes": goes, "ends": ends})


async def with_entry(api: httpx.AsyncClient, title: str, entry: str | None = None) -> str:
    """A change of Tom's that adds one entry of that name."""
    change = await begin(api, title)
    bench = await read(api, f"{HEADER}?in={change}")
    assert (
        await save_in(api, change, with_line(bench["document"], entry or f"{title} line"), bench["hash"])
    ).status_code == 200
    return change


async def approved(author: httpx.AsyncClient, lead: httpx.AsyncClient, change: str) -> None:
    assert (await do(author, change, "review")).status_code == 204
    answer = await do(lead, change, "approve")
    assert answer.status_code == 204, answer.text


async def shown(api: httpx.AsyncClient) -> list[str]:
    return labels((await read(api, f"{HEADER}?in=live"))["document"])


async def added(api: httpx.AsyncClient, before: list[str]) -> list[str]:
    """Whose entries stand there that did not before."""
    return [one.removesuffix(" line") for one in await shown(api) if one not in before]


async def when(database: Database, run_jobs: Jobs, moment: datetime) -> None:
    """What the worker does at that moment."""
    await releasing.begin_due(database, lambda: moment)
    await run_jobs()


async def told(api: httpx.AsyncClient, action: str) -> list[str]:
    return [one["says"] for one in (await api.get(f"/api/ledger?action={action}")).json()]


async def test_each_goes_at_its_moment_and_comes_back_as_was_foretold(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, run_jobs: Jobs
) -> None:
    summer, autumn = await with_entry(as_tom, "Summer"), await with_entry(as_tom, "Autumn")
    before = await shown(as_tom)
    assert (await scheduled(as_tom, summer, in_days(2), in_days(9))).status_code == 204
    assert (await state(as_tom, summer))[0] == "draft", "it goes only if it is approved by then"
    assert (await scheduled(as_tom, autumn, in_days(5))).status_code == 204
    for change in (summer, autumn):
        await approved(as_tom, as_ines, change)
        assert (await state(as_tom, change))[0] == "scheduled"
    foretold = (await as_tom.get("/api/ahead")).json()
    assert [(one["title"], one["comes"], one["reading"], one["outcome"], one["says"]) for one in foretold] == [
        ("Summer", "goes", in_days(2), "goes", ""),
        ("Autumn", "goes", in_days(5), "goes", ""),
        ("Summer", "ends", in_days(9), "returns", ""),
    ]  # fmt: skip
    async with database.transaction() as session:
        site = await sites.site_by_key(session, "brackwater")
        assert site is not None
        names = [await states.keep_contents(session, one.event.live) for one in await schedule.ahead_at(session, site)]
    await when(database, run_jobs, at(2) - timedelta(minutes=1))
    assert await shown(as_tom) == before, "not before its moment"
    for name, moment, has in (
        (names[0], at(2), ["Summer"]), (names[1], at(5), ["Autumn", "Summer"]), (names[2], at(9), ["Autumn"]),
    ):  # fmt: skip
        await when(database, run_jobs, moment + timedelta(seconds=1))
        assert sorted(await added(as_tom, before)) == has
        async with database.transaction() as session:
            site = await sites.site_by_key(session, "brackwater")
            assert site is not None
            assert site.live_state == name, "what was foretold"
    assert (await state(as_tom, summer))[0] == "ended"
    assert (await state(as_tom, autumn))[0] == "live"
    assert (await as_tom.get("/api/ahead")).json() == []
    assert any(says.startswith("Summer has come to its end: what Brackwater Ferries showed") for says in await told(as_tom, "live"))  # fmt: skip


async def test_it_is_begun_once_and_never_late_and_what_was_missed_is_told(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, run_jobs: Jobs
) -> None:
    before = await shown(as_tom)
    unapproved, late, edited, once = [
        await with_entry(as_tom, title) for title in ("Unapproved", "Late", "Edited", "Once")
    ]
    for change in (unapproved, late, edited, once):
        assert (await scheduled(as_tom, change, in_days(2))).status_code == 204
    for change in (late, edited, once):
        await approved(as_tom, as_ines, change)
    await relabelled(as_tom, edited, "Something else")
    assert (await state(as_tom, edited))[0] == "draft"
    assert (await do(as_tom, late, "hold", says="Wait for the harbour")).status_code == 204
    # Four look at the clock at once.
    await asyncio.gather(*(releasing.begin_due(database, lambda: at(2) + timedelta(seconds=2)) for _ in range(4)))
    await run_jobs()
    assert await added(as_tom, before) == ["Once"]
    async with database.transaction() as session:
        begun = (await (await session.connection()).execute(text("SELECT count(*) FROM release"))).scalar_one()
    assert begun == 1
    assert [(await state(as_tom, change))[0] for change in (unapproved, late, edited, once)] == [
        "missed", "missed", "missed", "live",
    ]  # fmt: skip
    missed = await told(as_tom, "missed")
    assert len(missed) == 3
    assert any("Late did not go live at Brackwater Ferries at" in says and "it was held" in says for says in missed)
    assert any("it was not approved" in says for says in missed)
    said = [one["subject"] for one in (await as_ines.get("/api/notices")).json()["channels"][0]["told"]]
    assert len([one for one in said if "did not go live at Brackwater Ferries" in one]) == 3, said
    assert "unapproved" not in str((await as_tom.get("/api/ahead")).json())
    await when(database, run_jobs, at(3))
    assert await added(as_tom, before) == ["Once"], "never late by itself"
    # Where nobody was there at its moment, it does not go hours later.
    slept = await with_entry(as_tom, "Slept")
    assert (await scheduled(as_tom, slept, in_days(2))).status_code == 204
    await approved(as_tom, as_ines, slept)
    await when(database, run_jobs, at(2) + timedelta(hours=3))
    assert (await state(as_tom, slept))[0] == "missed"
    # It can be given another moment: approved as it is, it is scheduled again.
    assert (await scheduled(as_tom, slept, in_days(4))).status_code == 204
    assert (await state(as_tom, slept))[0] == "scheduled"
    await when(database, run_jobs, at(4))
    assert (await state(as_tom, slept))[0] == "live"


async def test_what_will_no_longer_go_is_told_ahead_and_again_when_something_comes_before_it(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, run_jobs: Jobs
) -> None:
    first, second = await begin(as_tom, "First"), await begin(as_tom, "Second")
    await relabelled(as_tom, first, "Sail early")
    await relabelled(as_tom, second, "Sail late")
    for change, days in ((first, 6), (second, 4)):
        assert (await scheduled(as_tom, change, in_days(days))).status_code == 204
        await approved(as_tom, as_ines, change)
    await releasing.foretell(database)
    (line,) = (await look(as_tom, first))["change"]["sites"]
    assert (
        line["foretold"] == "it will not go: Second goes live before it, and they do not agree on Timetables, in Header"
    )
    assert (await look(as_tom, second))["change"]["sites"][0]["foretold"] == ""
    # Moved behind it, it is the other that will not go.
    assert (await scheduled(as_tom, second, in_days(8))).status_code == 204
    assert (await look(as_tom, first))["change"]["sites"][0]["foretold"] == ""
    assert "First goes live before it" in (await look(as_tom, second))["change"]["sites"][0]["foretold"]
    ledger = await told(as_tom, "schedule")
    assert len([says for says in ledger if "it will not go" in says]) == 2, "told once each"
    known: dict[UUID, str] = {}
    await releasing.foretell(database, known=known)
    (before,) = known.values()
    await releasing.foretell(database, known=known)
    assert [before] == list(known.values()), "nothing that it comes of is another"
    assert (
        await as_ines.post("/api/freezes", json={"begins": in_days(50), "ends": in_days(51), "why": "Fair"})
    ).status_code == 201
    await releasing.foretell(database, known=known)
    assert [before] != list(known.values())
    await when(database, run_jobs, at(6))
    await when(database, run_jobs, at(8))
    assert (await state(as_tom, second))[0] == "held"
    assert "do not agree on" in (await look(as_tom, second))["change"]["sites"][0]["says"]


async def test_a_freeze_refuses_holds_and_ends(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, run_jobs: Jobs
) -> None:
    change = await with_entry(as_tom, "Summer")
    body = {"begins": in_days(1, 0), "ends": in_days(3, 0), "why": "Harbour days"}
    assert (await as_tom.post("/api/freezes", json=body)).status_code == 403
    assert (await as_ines.post("/api/freezes", json=body | {"ends": in_days(0)})).status_code == 422
    made = (await as_ines.post("/api/freezes", json=body)).json()["id"]
    refused = await scheduled(as_tom, change, in_days(2))
    assert refused.status_code == 422
    assert "Nothing goes live at Brackwater Ferries until" in refused.json()["detail"]
    assert "Harbour days" in refused.json()["detail"]
    inside = await scheduled(as_tom, change, in_days(4), in_days(2))
    assert inside.status_code == 422, "nor may its end be before it"
    assert (await as_ines.delete(f"/api/freezes/{made}")).status_code == 204
    assert (await scheduled(as_tom, change, in_days(2))).status_code == 204
    await approved(as_tom, as_ines, change)
    made = (await as_ines.post("/api/freezes", json=body | {"site": "brackwater"})).json()["id"]
    assert [one["site"] for one in (await as_tom.get("/api/freezes")).json()] == ["brackwater"]
    await releasing.foretell(database)
    assert (await look(as_tom, change))["change"]["sites"][0]["foretold"] == "nothing goes live then: Harbour days"
    await when(database, run_jobs, at(2))
    assert (await state(as_tom, change))[0] == "held"
    late = await as_tom.post(f"/api/changes/{change}/let-go")
    assert late.status_code == 204, "its moment is still to come by the clock on the wall"
    now = {"begins": in_days(-1), "ends": in_days(1), "why": "Today"}
    await as_ines.post("/api/freezes", json=now)
    by_hand = await as_tom.post(f"{SITE}/releases?in={change}", headers={"idempotency-key": "frozen"})
    assert (by_hand.status_code, "Today" in by_hand.json()["detail"]) == (409, True), "by hand neither"
    assert (await as_tom.get(f"{SITE}/going-out?in={change}")).status_code == 409


async def release_asked(api: httpx.AsyncClient, database: Database, change: str, asked_by: str) -> UUID:
    """A release of the change that waits for its job, asked for by Tom or begun at its moment."""
    if asked_by == "a person":
        answer = await api.post(f"{SITE}/releases?in={change}", headers={"idempotency-key": change})
        assert answer.status_code == 202, answer.text
    else:
        await releasing.begin_due(database, lambda: at(2) + timedelta(seconds=2))
    ((release, waits),) = await asked(database, "SELECT id, state FROM release")
    assert waits == "waiting"
    return UUID(str(release))


@pytest.mark.parametrize("asked_by", ["a person", "the clock"])
async def test_a_freeze_that_begins_while_a_release_waits_is_kept(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, run_jobs: Jobs, asked_by: str
) -> None:  # fmt: skip
    before = await shown(as_tom)
    change = await with_entry(as_tom, "Summer")
    assert (await scheduled(as_tom, change, in_days(2))).status_code == 204
    await approved(as_tom, as_ines, change)
    release = await release_asked(as_tom, database, change, asked_by)
    body = {"begins": in_days(-1), "ends": in_days(1), "why": "Harbour days"}
    made = (await as_ines.post("/api/freezes", json=body)).json()["id"]
    writes = brackwater.places.writes
    await run_jobs()
    over = (await as_tom.get(f"/api/releases/{release}")).json()
    assert over["state"] == "failed"
    assert over["says"].startswith("Nothing goes live at Brackwater Ferries until")
    assert "Harbour days" in over["says"]
    assert (await added(as_tom, before), brackwater.places.writes) == ([], writes)
    assert (await as_ines.delete(f"/api/freezes/{made}")).status_code == 204
    again = await as_tom.post(f"{SITE}/releases?in={change}", headers={"idempotency-key": "again"})
    assert again.status_code == 202, again.text
    await run_jobs()
    assert await added(as_tom, before) == ["Summer"]


@pytest.mark.parametrize(("minutes", "is_late"), [(14, False), (16, True)])
async def test_what_is_taken_up_long_after_its_moment_does_not_go_live(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, fetcher: Fetcher, brackwater: StandIn,
    minutes: int, is_late: bool,
) -> None:  # fmt: skip
    """It was begun in time, and then no worker was there. In time, it is sent; the site refuses a request that is dated days ahead."""
    before = await shown(as_tom)
    change = await with_entry(as_tom, "Summer")
    assert (await scheduled(as_tom, change, in_days(2))).status_code == 204
    await approved(as_tom, as_ines, change)
    release = await release_asked(as_tom, database, change, "the clock")
    await sending.carry_out(database, fetcher, release, lambda: at(2) + timedelta(minutes=minutes))
    over = (await as_tom.get(f"/api/releases/{release}")).json()
    assert (over["state"], "when its moment came" in over["says"]) == ("failed", is_late)
    assert any(one.startswith("PUT") for one in brackwater.asked) != is_late
    assert await added(as_tom, before) == []


async def test_undone_in_one_step_and_what_was_edited_since_stays(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, run_jobs: Jobs
) -> None:
    before = await shown(as_tom)
    summer, later = await with_entry(as_tom, "Summer"), await with_entry(as_tom, "Later")
    assert (await as_tom.post(f"/api/changes/{summer}/undo", json={})).status_code == 409, "it is live nowhere"
    assert (await put_live(as_tom, summer, run_jobs))["state"] == "live"
    assert (await put_live(as_tom, later, run_jobs))["state"] == "live"
    undone = await as_tom.post(f"/api/changes/{summer}/undo", json={})
    assert undone.status_code == 202, undone.text
    again = await as_tom.post(f"/api/changes/{summer}/undo", json={})
    assert again.status_code == 409, "it is on its way"
    await run_jobs()
    assert await added(as_tom, before) == ["Later"]
    assert (await state(as_tom, summer))[0] == "undone"
    # What builds on it since is not torn out unasked.
    named = await begin(as_tom, "Named anew")
    bench = await read(as_tom, f"{HEADER}?in={named}")
    items = [one | {"label": {"en": "Even later"}} if one.get("label", {}).get("en") == "Later line" else one for one in bench["document"]["items"]]  # fmt: skip
    assert (await save_in(as_tom, named, bench["document"] | {"items": items}, bench["hash"])).status_code == 200
    assert (await put_live(as_tom, named, run_jobs))["state"] == "live"
    assert (await as_tom.get(f"/api/changes/{summer}/undo")).json() == [], "it is live nowhere any more"
    meets = await as_tom.post(f"/api/changes/{later}/undo", json={})
    assert meets.status_code == 409
    (at,) = (await as_tom.get(f"/api/changes/{later}/undo")).json()
    (conflict,) = at["conflicts"]
    assert (at["site"], conflict["title"] in meets.json()["detail"]) == ("brackwater", True)
    assert "Even later" in conflict["ours"] + conflict["title"], "what is live is called so by now"
    key = conflict["key"]
    chosen = await as_tom.post(f"/api/changes/{later}/undo", json={"choices": {key: "theirs"}})
    assert chosen.status_code == 202, chosen.text
    await run_jobs()
    assert await shown(as_tom) == before


async def test_moments_that_a_clock_does_not_show_and_those_that_pass(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn
) -> None:
    change = await with_entry(as_tom, "Summer")
    skipped = await scheduled(as_tom, change, "2027-03-28T01:30")
    assert (skipped.status_code, skipped.json()["comes"]) == (422, "never")
    assert skipped.json()["offers"] == ["2027-03-28T00:59", "2027-03-28T02:00"]
    assert skipped.json()["detail"].startswith("Brackwater Ferries: ")
    twice = await scheduled(as_tom, change, "2027-10-31T01:30")
    assert (twice.status_code, twice.json()["comes"]) == (422, "twice")
    assert (await scheduled(as_tom, change, twice.json()["offers"][1])).status_code == 204
    assert (await look(as_tom, change))["change"]["sites"][0]["goes_at"] == "2027-10-31T01:30:00Z"
    assert (await scheduled(as_tom, change, in_days(-1))).status_code == 422
    assert (await scheduled(as_tom, change, "soon")).status_code == 422
    assert (await scheduled(as_tom, change, in_days(3), in_days(3))).status_code == 422
    assert (await scheduled(as_tom, change, "2027-04-01T03:00", kind="instant")).status_code == 204
    assert (await look(as_tom, change))["change"]["sites"][0]["goes"] == "2027-04-01T04:00"
    # The rules of a zone change after it was scheduled: four o'clock stays four o'clock, and it is told.
    assert (await scheduled(as_tom, change, "2027-04-01T04:00")).status_code == 204
    async with database.transaction() as session:
        await (await session.connection()).execute(text("UPDATE change_part SET goes_at = goes_at + interval '1 hour'"))
    await releasing.foretell(database)
    assert (await look(as_tom, change))["change"]["sites"][0]["goes_at"] == "2027-04-01T03:00:00Z"
    assert any("has other rules now" in says for says in await told(as_tom, "schedule"))
    assert (await as_tom.delete(f"/api/changes/{change}/schedule")).status_code == 204
    assert (await as_tom.delete(f"/api/changes/{change}/schedule")).status_code == 409
    assert (await look(as_tom, change))["change"]["schedule"] is None


@pytest.mark.parametrize("too", [False, True])
async def test_a_moment_that_is_moved_is_approved_again_where_the_policy_says_so(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn, too: bool
) -> None:
    await policy(as_ines, moment_too=too)
    change = await with_entry(as_tom, "Summer")
    assert (await scheduled(as_tom, change, in_days(2))).status_code == 204
    await approved(as_tom, as_ines, change)
    assert (await scheduled(as_tom, change, in_days(3))).status_code == 204
    assert await state(as_tom, change) == (("in review", 0, 1) if too else ("scheduled", 1, 1))
    assert (await do(as_tom, change, "hold", says="")).status_code == (409 if too else 204)
    assert (await as_tom.post(f"/api/changes/{change}/let-go")).status_code == (409 if too else 204)


async def test_each_site_of_a_change_has_its_own_clock_and_goes_or_stays_by_itself(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, run_jobs: Jobs
) -> None:
    await on_shelf(database, "tokio", {"top": ["https://x.example/"]}, zone="Asia/Tokyo")
    async with database.transaction() as session:
        connection = await session.connection()
        await connection.exec_driver_sql("UPDATE site SET connection = 'endpoint' WHERE key = 'tokio'")
    change = await with_entry(as_tom, "Everywhere")
    bench = (await as_tom.get(f"/api/sites/tokio/menus/top?in={change}")).json()
    more = bench["document"] | {"name": "Top of it"}
    saved = await as_tom.put(f"/api/sites/tokio/menus/top?in={change}", json=more, headers={"if-match": bench["hash"]})
    assert saved.status_code == 200, saved.text
    assert (await scheduled(as_tom, change, in_days(2))).status_code == 204
    await approved(as_tom, as_ines, change)
    lines = {one["key"]: one for one in (await look(as_tom, change))["change"]["sites"]}
    assert {one["goes"] for one in lines.values()} == {in_days(2)}
    assert lines["tokio"]["goes_at"] < lines["brackwater"]["goes_at"]
    tokio = datetime.fromisoformat(lines["tokio"]["goes_at"])
    await when(database, run_jobs, tokio)
    lines = {one["key"]: one for one in (await look(as_tom, change))["change"]["sites"]}
    assert "Where this site takes its menus is not known" in lines["tokio"]["says"]
    assert (await state(as_tom, change))[0] == "scheduled", "the other one is still to come"
    await when(database, run_jobs, at(2))
    lines = {one["key"]: one for one in (await look(as_tom, change))["change"]["sites"]}
    assert lines["brackwater"]["live_at"] is not None
    assert lines["tokio"]["live_at"] is None
    back = await as_tom.post(f"/api/changes/{change}/undo", json={"site": "brackwater"})
    assert back.status_code == 202, back.text
    await run_jobs()
    lines = {one["key"]: one for one in (await look(as_tom, change))["change"]["sites"]}
    assert lines["brackwater"]["over_at"] is not None


async def test_what_failed_before_its_moment_is_missed_at_it_and_told_once_of_all_its_sites(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, run_jobs: Jobs
) -> None:
    """Put live by hand too early, it failed: its moment does not pass in silence."""
    change = await with_entry(as_tom, "Summer")
    assert (await scheduled(as_tom, change, in_days(2))).status_code == 204
    await approved(as_tom, as_ines, change)
    kept, brackwater.places.secret = brackwater.places.secret, "whsec_" + "A" * 43 + "="
    assert (await put_live(as_tom, change, run_jobs))["state"] == "failed"
    brackwater.places.secret = kept
    (site,) = (await look(as_tom, change))["change"]["sites"]
    assert site["says"] == "", "its moment is still to come"
    await when(database, run_jobs, at(2))
    assert (await state(as_tom, change))[0] == "missed"
    assert "it had failed before" in (await look(as_tom, change))["change"]["sites"][0]["says"]
    assert (await scheduled(as_tom, change, in_days(3))).status_code == 204, "it can be given another"
    several = await with_entry(as_tom, "Several")
    for key in ("one", "two"):
        await on_shelf(database, key, {"top": ["https://x.example/"]})
        bench = (await as_tom.get(f"/api/sites/{key}/menus/top?in={several}")).json()
        more = bench["document"] | {"name": "More"}
        saved = await as_tom.put(f"/api/sites/{key}/menus/top?in={several}", json=more, headers={"if-match": bench["hash"]})  # fmt: skip
        assert saved.status_code == 200, saved.text
    assert (await scheduled(as_tom, several, in_days(2))).status_code == 204
    await when(database, run_jobs, at(2))
    told_of = [one["subject"] for one in (await as_ines.get("/api/notices")).json()["channels"][0]["told"]]
    assert len([one for one in told_of if one.startswith("Several did not go live at ") and "one of its 3 sites" in one]) == 1  # fmt: skip


@pytest.mark.parametrize("between", ["nothing", "its pages are others", "a freeze"])
async def test_planned_ahead_it_is_begun_once_by_names_alone_and_otherwise_worked_out_anew(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, between: str
) -> None:
    change = await with_entry(as_tom, "Summer")
    assert (await scheduled(as_tom, change, in_days(2))).status_code == 204
    await approved(as_tom, as_ines, change)
    await releasing.plan_soon(database, lambda: at(2) - timedelta(minutes=70))
    assert await asked(database, "SELECT count(*) FROM release_plan") == [(0,)], "not days before"
    await releasing.plan_soon(database, lambda: at(2) - timedelta(minutes=10))
    ((target, steps),) = await asked(database, "SELECT target, steps FROM release_plan")
    assert [(step["location"], step["device"]) for step in steps] == [("header", "desktop")]
    # Whether it is taken can be told from another state that is noted in it.
    await asked(database, "UPDATE release_plan SET target = (SELECT live_state FROM site) RETURNING 1")
    if between == "its pages are others":
        await asked(database, "UPDATE site SET inventory = inventory + 1 RETURNING 1")
    elif between == "a freeze":
        body = {"begins": in_days(1, 0), "ends": in_days(3, 0), "why": "Harbour days"}
        assert (await as_ines.post("/api/freezes", json=body)).status_code == 201
    await asyncio.gather(*(releasing.begin_due(database, lambda: at(2) + timedelta(seconds=2)) for _ in range(4)))
    begun = await asked(database, "SELECT release.target, live_state FROM release, site")
    if between == "a freeze":
        assert begun == []
        assert (await state(as_tom, change))[0] == "held"
    else:
        ((goes, live),) = begun
        assert goes == (live if between == "nothing" else target)
        assert (await state(as_tom, change))[0] == "going live"
        sent = await asked(database, "SELECT location, device, menu, placed, hash FROM release_step ORDER BY position")
        assert sent == [
            tuple(step[name] for name in ("location", "device", "menu", "placed", "hash")) for step in steps
        ]
        assert await asked(database, "SELECT 1 FROM ledger WHERE action = 'put live' AND says LIKE 'Asked%'") == [(1,)]


async def test_the_lens_shows_what_is_scheduled_at_every_moment_to_come(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, run_jobs: Jobs
) -> None:
    summer, unapproved = await with_entry(as_tom, "Summer"), await with_entry(as_tom, "Unapproved")
    open_one = await with_entry(as_tom, "Open")
    for change in (summer, unapproved):
        assert (await scheduled(as_tom, change, in_days(2), in_days(9))).status_code == 204
    await approved(as_tom, as_ines, summer)
    await releasing.foretell(database)

    async def seen(days: int, view: str = "live") -> list[str]:
        """Whose entries a visitor gets then, in the place and by all that shows it."""
        query = f"in={view}&at={in_days(days, 5)}"
        strip = (await as_tom.get(f"{HEADER}/resolved?{query}&location=header")).json()["strip"]
        matrix = (await as_tom.get(f"{SITE}/places/header/audiences?{query}")).json()
        (site,) = (await as_tom.get(f"/api/shelf/signs?{query}&site=brackwater")).json()
        (sign,) = [one for one in site["signs"] if one["location"] == "header"]
        page = (await as_tom.get(f"{SITE}/elevation?{query}")).text
        findings = str((await as_tom.get(f"{HEADER}/findings?{query}")).json())
        titles = ["Open", "Summer", "Unapproved"]
        found = [title for title in titles if f"{title} line" in strip]
        assert [title for title in titles if any(row["label"] == f"{title} line" for row in matrix["rows"])] == found
        assert [title for title in titles if f"{title} line" in page] == found
        assert [title for title in titles if f"{title} line" in findings] == found, "each leads nowhere yet"
        assert sign["count"] == before + len(found)
        if view == "live":
            ahead = (await as_tom.get(f"/api/findings/ahead?{query}")).json()
            (line,) = [one["line"] for one in ahead["lines"] if "labels of header" in one["line"]["cause"]]
            assert line["entries"] == 1 + len(found), "what comes has no label in Dutch"
            assert sum(ahead["counts"].values()) == len(ahead["lines"])
            then = (await as_tom.get(f"{SITE}/hanging-then?{query}")).json()
            assert (then["says"] == "Summer goes live") == bool(found)
        return found

    before = len(await every_label(as_tom))
    assert await seen(1) == []
    assert await seen(3) == ["Summer"]
    assert await seen(10) == []
    assert [await seen(days, open_one) for days in (1, 3, 10)] == [["Open"], ["Open", "Summer"], ["Open"]]
    notches = (await as_tom.get(f"{SITE}/timeline?in=live&days=30")).json()["notches"]
    assert [(one["at"], one["says"]) for one in notches] == [
        (in_days(2), ["Summer goes live"]), (in_days(9), ["Summer comes to its end"]),
    ]  # fmt: skip
    assert (await do(as_tom, summer, "hold", says="")).status_code == 204
    await releasing.foretell(database)
    assert await seen(3) == [], "nobody lets it go"
    assert (await as_tom.post(f"/api/changes/{summer}/let-go")).status_code == 204
    await releasing.foretell(database)
    assert await seen(3) == ["Summer"]
    for change in (summer, unapproved):
        assert (await as_tom.delete(f"/api/changes/{change}/schedule")).status_code == 204
    await releasing.foretell(database)
    assert await seen(3) == [], "of a site without moments nothing is foretold"


async def every_label(api: httpx.AsyncClient) -> list[str]:
    def walked(items: list[dict[str, Any]]) -> list[str]:
        return [label for one in items for label in (one["id"], *walked(one.get("items", [])))]

    return walked((await read(api, f"{HEADER}?in=live"))["document"]["items"])


async def asked(database: Database, query: str) -> list[tuple[Any, ...]]:
    async with database.transaction() as session:
        return [tuple(row) for row in await (await session.connection()).execute(text(query))]
