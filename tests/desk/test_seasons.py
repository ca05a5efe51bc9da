"""Changes that come back every year: made anew when the year's is over, approved where that was agreed."""

from datetime import datetime, timedelta
from typing import Any

import httpx
import pytest

from sign_shelf.core.basics.clock import clock_of, moment_of
from sign_shelf.core.changes.season import in_year
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.jobs import releasing
from sign_shelf.store.database import Database
from tests.api.test_changes import put_live
from tests.desk.conftest import on_shelf  # noqa: F401 - a fixture
from tests.desk.test_review import as_rosa, do, policy, state  # noqa: F401 - a fixture
from tests.desk.test_schedule import ZONE, Jobs, added, approved, at, in_days, scheduled, shown, told, when, with_entry

YEARLY = {"goes": "date", "ends": "date", "approved": True}


async def every_year(api: httpx.AsyncClient, change: str, **other: Any) -> httpx.Response:
    return await api.put(f"/api/changes/{change}/season", json=YEARLY | other)


async def of_title(api: httpx.AsyncClient, title: str) -> dict[str, Any]:
    (found,) = [one for one in (await api.get("/api/changes")).json() if one["title"] == title]
    return dict(found)


def next_year(days: int) -> tuple[str, datetime]:
    reading = in_year(in_days(days), "date", 1)
    return reading, moment_of(clock_of(ZONE).instant(reading))


async def test_next_year_s_is_made_when_this_year_s_is_over_and_stays_approved(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, run_jobs: Jobs
) -> None:
    summer = await with_entry(as_tom, "Summer")
    assert (await every_year(as_tom, summer)).status_code == 409, "it has no moment yet"
    await scheduled(as_tom, summer, in_days(2))
    answer = await every_year(as_tom, summer)
    assert answer.status_code == 422, "it has no end"
    await scheduled(as_tom, summer, in_days(2), in_days(9))
    await approved(as_tom, as_ines, summer)
    assert (await every_year(as_tom, summer)).status_code == 204
    assert (await scheduled(as_tom, summer, in_days(2))).status_code == 422, "an end in each year"
    first = (await of_title(as_tom, "Summer"))["schedule"]
    assert first["season"]["says"].startswith("on ")
    comes = [one["goes_reading"] for one in (await as_tom.get("/api/seasons")).json()]
    assert comes == [in_year(in_days(2), "date", years) for years in (1, 2, 3)]
    before = await shown(as_tom)
    await when(database, run_jobs, at(2) + timedelta(seconds=1))
    assert await added(as_tom, before) == ["Summer"]
    # Meanwhile somebody else puts something live: next year's goes on top of it.
    other = await with_entry(as_tom, "Later")
    await put_live(as_tom, other, run_jobs)
    await when(database, run_jobs, at(9) + timedelta(seconds=1))
    assert await added(as_tom, before) == ["Later"]
    reading, moment = next_year(2)
    await releasing.foretell(database, lambda: at(9) + timedelta(minutes=1))
    await releasing.foretell(database, lambda: at(9) + timedelta(minutes=2))
    again = await of_title(as_tom, f"Summer {reading[:4]}")
    assert (again["state"], again["schedule"]["goes"], again["approvals"]) == ("scheduled", reading, 1)
    assert again["schedule"]["season"]["says"] == first["season"]["says"]
    await when(database, run_jobs, moment + timedelta(seconds=1))
    assert sorted(await added(as_tom, before)) == ["Later", "Summer"]
    assert any(
        f"Summer {reading[:4]} is scheduled: Summer comes back every year" in one
        for one in await told(as_tom, "schedule")
    )


async def test_what_is_agreed_to_be_looked_at_each_year_waits_for_it_and_its_author_does_not_approve(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, run_jobs: Jobs
) -> None:
    await policy(as_ines, approvals=1)
    summer = await with_entry(as_tom, "Summer")
    await scheduled(as_tom, summer, in_days(2), in_days(9))
    await approved(as_tom, as_ines, summer)
    await every_year(as_tom, summer, approved=False)
    for moment in (at(2), at(9)):
        await when(database, run_jobs, moment + timedelta(seconds=1))
    await releasing.foretell(database, lambda: at(9) + timedelta(minutes=1))
    reading, moment = next_year(2)
    again = await of_title(as_tom, f"Summer {reading[:4]}")
    assert (again["state"], again["waits_for_me"]) == ("in review", False), "it is Tom's still"
    assert (await of_title(as_ines, again["title"]))["waits_for_me"]
    await when(database, run_jobs, moment + timedelta(seconds=1))
    assert (await state(as_tom, again["id"]))[0] == "missed"
    # That it was missed ends nothing: the year after it comes again, and waits again.
    last = next_year(9)[1]
    await releasing.foretell(database, lambda: last + timedelta(minutes=1))
    third = await of_title(as_tom, f"Summer {int(reading[:4]) + 1}")
    assert third["state"] == "in review"
    # Withdrawn, it comes no more.
    assert (await do(as_tom, third["id"], "withdraw")).status_code == 204
    await releasing.foretell(database, lambda: last + timedelta(minutes=2))
    assert (await as_tom.get("/api/seasons")).json() == []
    assert any("this year's was withdrawn" in one for one in await told(as_tom, "schedule"))


@pytest.mark.parametrize("by", ["season", "schedule"])
async def test_it_can_be_said_that_it_comes_no_more(as_tom: httpx.AsyncClient, brackwater: StandIn, by: str) -> None:
    summer = await with_entry(as_tom, "Summer")
    await scheduled(as_tom, summer, in_days(2), in_days(9))
    await every_year(as_tom, summer)
    assert len((await as_tom.get("/api/seasons")).json()) == 3
    assert (await as_tom.delete(f"/api/changes/{summer}/{by}")).status_code == 204
    assert (await as_tom.get("/api/seasons")).json() == []
    assert (await as_tom.delete(f"/api/changes/{summer}/season")).status_code == 409
