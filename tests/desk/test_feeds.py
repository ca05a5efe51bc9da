"""Feeds: read alike by two calendar libraries and a feed library; withdrawn and forged addresses tell nothing."""

import json
import subprocess
from collections.abc import Awaitable, Callable
from datetime import UTC, datetime
from pathlib import Path

import feedparser
import httpx
from icalendar import Calendar

from sign_shelf.demo.stand_ins.server import StandIn
from tests.api.test_changes import SITE, put_live
from tests.desk.test_schedule import approved, at, in_days, scheduled, with_entry

Jobs = Callable[[], Awaitable[None]]
FRONTEND = Path(__file__).parents[2] / "frontend"
READ = """
import ICAL from 'ical.js'
let text = ''
for await (const chunk of process.stdin) text += chunk
const found = new ICAL.Component(ICAL.parse(text)).getAllSubcomponents('vevent').map((one) => new ICAL.Event(one))
console.log(JSON.stringify(found.map((one) => [one.uid, one.summary, one.description ?? '', one.startDate.toJSDate().toISOString(),
  one.component.hasProperty('dtend') ? one.endDate.toJSDate().toISOString() : null,
  one.component.getFirstPropertyValue('status')])))
"""


async def test_what_is_ahead_is_read_alike_and_what_went_live_too(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, api: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    lent, stays = await with_entry(as_tom, "Summer; with a, and ü", "Summer line"), await with_entry(as_tom, "Stays")
    assert (await scheduled(as_tom, lent, in_days(3), in_days(9))).status_code == 204
    await approved(as_tom, as_ines, lent)
    assert (await scheduled(as_tom, stays, in_days(5))).status_code == 204
    past = await with_entry(as_tom, "Past")
    assert (await put_live(as_tom, past, run_jobs))["state"] == "live"
    made = (await as_tom.post("/api/feeds")).json()
    calendar, live = (httpx.URL(made[one]).path for one in ("calendar", "live"))
    answer = await api.get(calendar)
    assert answer.status_code == 200, answer.text
    assert answer.headers["content-type"].startswith("text/calendar")
    events = Calendar.from_ical(answer.content).walk("VEVENT")
    one = [
        [
            str(event["uid"]), str(event["summary"]), str(event.get("description", "")), event["dtstart"].dt.astimezone(UTC),
            event["dtend"].dt.astimezone(UTC) if "dtend" in event else None, str(event["status"]),
        ]
        for event in events
    ]  # fmt: skip
    read = subprocess.run(
        ["node", "--input-type=module", "-e", READ], input=answer.content, cwd=FRONTEND, capture_output=True, check=True
    )
    other = [
        [uid, summary, says, datetime.fromisoformat(begins), datetime.fromisoformat(ends) if ends else None, status]
        for uid, summary, says, begins, ends, status in json.loads(read.stdout)
    ]
    assert one == other
    told = {summary: (begins, ends, status) for _, summary, _, begins, ends, status in one}
    assert told == {
        "Summer; with a, and ü: Brackwater Ferries": (at(3), at(9), "CONFIRMED"),
        "Stays: Brackwater Ferries": (at(5), None, "TENTATIVE"),
    }
    assert any("Header: Added Summer" in says for _, _, says, *_ in one)
    feed = feedparser.parse((await api.get(live)).content)
    assert not feed.bozo
    (entry,) = [one for one in feed.entries if "Past" in one.title]
    assert "is live and verified" in entry.title
    assert entry.author == "Tom Arkwright"
    assert entry.id.startswith("urn:sign-shelf:ledger:")
    assert datetime.fromisoformat(entry.updated).tzinfo is not None


async def test_forged_ended_and_withdrawn_addresses_tell_nothing(
    as_tom: httpx.AsyncClient, api: httpx.AsyncClient, brackwater: StandIn
) -> None:
    first = httpx.URL((await as_tom.post("/api/feeds")).json()["calendar"]).path
    assert (await api.get(first)).status_code == 200
    assert (await api.post(first)).status_code in {401, 403, 405}
    assert (await api.get("/api/feeds")).status_code == 401, "an address is no sign-in"
    assert (await api.get(f"{SITE}", headers={"authorization": f"Bearer {first.split('/')[3]}"})).status_code == 401
    second = httpx.URL((await as_tom.post("/api/feeds")).json()["calendar"]).path
    gone = await api.get(first)
    assert (await api.get(second)).status_code == 200
    assert (await as_tom.delete("/api/feeds")).status_code == 204
    withdrawn, forged = await api.get(second), await api.get("/api/feeds/forged/ahead.ics")
    for one in (gone, withdrawn, forged):
        assert one.status_code == 401
        assert one.json()["detail"] == "This address is of nobody."
        assert "brackwater" not in one.text.lower()
