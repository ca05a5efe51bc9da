"""The ledger: sealed line by line, so that none can be changed or taken out unseen; taken out whole."""

import asyncio
import csv
import io
import json
import re
import subprocess
import sys
from collections.abc import Awaitable, Callable
from datetime import UTC, datetime

import httpx
import pytest
from sqlalchemy import text

from sign_shelf.core.basics.chain import BEGINNING, sealed
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import Person
from sign_shelf.jobs import watching
from sign_shelf.settings import Settings
from sign_shelf.store import ledger_seals
from sign_shelf.store.database import Database
from tests.accounts import sign_in as enter
from tests.api.test_changes import begin, put_live, relabelled
from tests.constants import PASSWORD
from tests.running import environment

Jobs = Callable[[], Awaitable[None]]


async def tampered(database: Database, sql: str) -> None:
    """As whoever has the database itself may."""
    async with database.transaction() as session:
        connection = await session.connection()
        await connection.execute(text("ALTER TABLE ledger DISABLE TRIGGER USER"))
        await connection.execute(text("ALTER TABLE ledger_seal DISABLE TRIGGER USER"))
        await connection.execute(text(sql))


async def checked(database: Database) -> ledger_seals.Checked:
    async with database.transaction() as session:
        return await ledger_seals.check(session)


@pytest.mark.parametrize(
    ("sql", "says"),
    [
        ("UPDATE ledger SET says = 'Nothing' WHERE id = (SELECT line FROM ledger_seal WHERE position = 3)", "is not what was written: Nothing"),
        ("UPDATE ledger SET person_id = (SELECT id FROM person LIMIT 1) WHERE id = (SELECT line FROM ledger_seal WHERE position = 3)", "is not what was written"),
        ("UPDATE ledger SET detail = '{\"a\": 1}' WHERE id = (SELECT line FROM ledger_seal WHERE position = 3)", "is not what was written"),
        ("DELETE FROM ledger WHERE id = (SELECT line FROM ledger_seal WHERE position = 3)", "is gone: it was sealed as the 3"),
        ("DELETE FROM ledger_seal WHERE position = 3", "The seal 3 is gone"),
        ("UPDATE ledger_seal SET hash = 'sha256:' || repeat('0', 64) WHERE position = 3", "is not what was written"),
    ],
)  # fmt: skip
async def test_the_first_line_that_is_not_what_was_written_is_named(
    as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn, run_jobs: Jobs, sql: str, says: str
) -> None:
    change = await begin(as_tom, "Summer")
    await relabelled(as_tom, change, "Sail")
    await put_live(as_tom, change, run_jobs)
    before = await checked(database)
    assert (before.lines, before.broken) == (0, None)
    assert before.waiting >= 4
    await watching.seal_ledger(database)
    whole = await checked(database)
    assert (whole.lines, whole.waiting, whole.broken) == (before.waiting, 0, None)
    await begin(as_tom, "Autumn")
    await watching.seal_ledger(database)
    more = await checked(database)
    assert (more.lines, more.broken) == (whole.lines + 1, None)
    assert more.last != whole.last
    await tampered(database, sql)
    broken = await checked(database)
    assert broken.lines == 2
    assert broken.broken is not None
    assert says in broken.broken


def test_a_seal_is_over_all_that_came_before() -> None:
    first = sealed(BEGINNING, {"says": "a"})
    assert sealed(first, {"says": "b"}) != sealed(BEGINNING, {"says": "b"})
    assert sealed(BEGINNING, {"b": 1, "a": 2}) == sealed(BEGINNING, {"a": 2, "b": 1})


async def test_it_is_taken_out_whole_with_the_change_and_why(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    change = await begin(as_tom, "=Summer")
    named = await as_tom.put(f"/api/changes/{change}", json={"title": "=Summer", "why": "The client's wish"})
    assert named.status_code == 204, named.text
    await relabelled(as_tom, change, "Sail")
    await put_live(as_tom, change, run_jobs)
    shown = (await as_ines.get("/api/ledger", params={"limit": 500})).json()
    raw = await as_ines.get("/api/ledger/export/jsonl")
    assert [json.loads(line) for line in raw.text.splitlines()] == shown
    live = next(one for one in shown if one["action"] == "live")
    assert (live["change"], live["why"]) == (change, "The client's wish")
    assert live["release"]
    table = await as_ines.get("/api/ledger/export/csv", params={"action": "live"})
    assert table.headers["content-disposition"] == 'attachment; filename="ledger.csv"'
    (row,) = csv.DictReader(io.StringIO(table.text))
    assert (row["change"], row["why"], row["person"]) == (change, "The client's wish", "Tom Arkwright")
    assert row["says"].startswith("'=Summer is live"), "no spreadsheet runs it"
    assert (await as_ines.get("/api/ledger/export/csv?site=nowhere")).status_code == 404


async def test_lines_of_accounts_are_for_owners_and_for_who_did_it(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, tom: Person, ines: Person, database: Database, brackwater: StandIn
) -> None:  # fmt: skip
    """In the log, in what is taken out of it, and for programs; an address that holds a secret is not in it at all."""
    now = datetime.now(UTC)
    secret = "https://hooks.example/T0/B0/sEcReT?key=hidden"
    assert (await as_ines.post("/api/notices/channels", json={"url": secret})).status_code == 201
    await add_person(database, email="owen@quillfen.example", name="Owen", password=PASSWORD, role="owner", now=now)
    token = (await as_ines.post("/api/session/tokens", json={"name": "reads", "scope": "look"})).json()["token"]

    async def told(client: httpx.AsyncClient, **more: str) -> tuple[str, ...]:
        texts = []
        for path in ("/api/ledger?limit=500", "/api/ledger/export/csv", "/api/ledger/export/jsonl"):
            answer = await client.get(path, headers=more)
            assert answer.status_code == 200, answer.text
            assert "sEcReT" not in answer.text
            assert "hidden" not in answer.text
            texts.append(answer.text)
        return tuple(texts)

    assert all("Gets notices at https://hooks.example" in text for text in await told(as_ines))
    assert not any("hooks.example" in text or "Owen" in text for text in await told(as_tom))
    program = {"authorization": f"Bearer {token}", "cookie": ""}
    as_ines.cookies.clear()
    assert not any("hooks.example" in text for text in await told(as_ines, **program))
    await enter(as_tom, "owen@quillfen.example")
    assert all("hooks.example" in text for text in await told(as_tom))


async def test_who_looks_after_single_sites_reads_lines_of_these_sites_alone(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, tom: Person, database: Database, brackwater: StandIn
) -> None:
    made = {"name": "Legal", "outline": "Privacy -> /privacy"}
    kept = await as_ines.post("/api/shared-menus", json=made, headers={"idempotency-key": "legal"})
    assert kept.status_code == 201, kept.text
    await begin(as_ines, "Summer")
    assert "shared menu Legal" in (await as_tom.get("/api/ledger")).text
    async with database.transaction() as session:
        for statement in (
            "UPDATE person SET role = 'none' WHERE id = :id",
            "INSERT INTO membership (person_id, site_id, role) SELECT :id, id, 'editor' FROM site",
        ):
            await (await session.connection()).execute(text(statement), {"id": tom.id})
    here = (await as_tom.get("/api/ledger")).text
    assert "Began Summer" in here
    assert "shared menu Legal" not in here


async def test_the_command_says_whether_it_holds(configured: Settings, database: Database, brackwater: StandIn) -> None:
    await watching.seal_ledger(database)
    variables = environment(configured.database.get_secret_value())

    async def verified() -> tuple[int, str]:
        words = [sys.executable, "-m", "sign_shelf", "ledger", "verify"]
        done = await asyncio.to_thread(subprocess.run, words, env=variables, capture_output=True, text=True)
        return done.returncode, done.stdout

    code, says = await verified()
    assert code == 0
    assert re.fullmatch(r"\d+ lines, all as they were written\. The last seal is sha256:[0-9a-f]{64}\.\n", says)
    await tampered(database, "UPDATE ledger SET says = 'Nothing happened'")
    code, says = await verified()
    assert code == 1
    assert "is not what was written: Nothing happened The 0 sealed before it are as they were." in says
