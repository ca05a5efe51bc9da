"""To a new version without downtime: what a migration may do beside servers and workers that run, and that they go on."""

import asyncio
import os
import signal
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import psycopg
import pytest
from alembic import command as alembic
from sqlalchemy import create_engine, inspect
from sqlalchemy.engine import Inspector
from typer.testing import CliRunner

from sign_shelf.cli import app as cli
from sign_shelf.demo.cluster import Cluster, free_port
from sign_shelf.demo.seed import take_in_stand_in
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.people import add_person
from sign_shelf.store.database import RUNS, Database, driver_address
from sign_shelf.store.migrate import MIGRATIONS, ahead, alembic_config, migrate, upgrade
from tests.constants import KEY, PASSWORD, SEALS
from tests.databases import bare_database, make_database
from tests.running import answers, command, environment
from tests.waiting import eventually

SITE = "/api/sites/brackwater"
NEXT = """
import sqlalchemy as sa
from alembic import op

revision, down_revision, branch_labels, depends_on = "9999", "{head}", None, None
beside = True


def upgrade() -> None:
    op.add_column("release_step", sa.Column("made_up", sa.String, nullable=False, server_default="as before"))
    op.add_column("site", sa.Column("made_up", sa.String))
    op.create_table("made_up", sa.Column("site_id", sa.Uuid, sa.ForeignKey("site.id"), primary_key=True))
"""


class Schema:
    """Each table's columns, keys, constraints and indexes, read in five queries."""

    def __init__(self, inspector: Inspector) -> None:
        def by_table(found: dict[Any, Any]) -> dict[str, Any]:
            return {table: told for (_, table), told in found.items()}

        self.columns = by_table(inspector.get_multi_columns())
        self.keys = by_table(inspector.get_multi_pk_constraint())
        self.indexes = by_table(inspector.get_multi_indexes())
        self.constraints = [
            by_table(inspector.get_multi_unique_constraints()), by_table(inspector.get_multi_check_constraints()),
        ]  # fmt: skip


def demands(before: Schema, after: Schema) -> Iterator[str]:
    """What servers that know the schema before cannot go on with."""
    for table, columns in before.columns.items():
        if table not in after.columns:
            yield f"{table} is gone"
            continue
        was = {one["name"]: one for one in columns}
        now = {one["name"]: one for one in after.columns[table]}
        for name, column in was.items():
            if name not in now:
                yield f"{table}.{name} is gone"
            elif repr(now[name]["type"]) != repr(column["type"]):
                yield f"{table}.{name} is of another type"
            elif column["nullable"] and not now[name]["nullable"]:
                yield f"{table}.{name} must be given now"
            elif column["default"] is not None and now[name]["default"] is None:
                yield f"{table}.{name} has no default any more"
        for name in now.keys() - was.keys():
            if not now[name]["nullable"] and now[name]["default"] is None:
                yield f"{table}.{name} is new and must be given"
        if before.keys[table] != after.keys[table]:
            yield f"{table} has another key"
        for had, has in zip(before.constraints, after.constraints, strict=True):
            told = [one for one in has[table] if one not in had[table]]
            yield from (f"{table} has a constraint that it had not: {one['name']}" for one in told)
        unique = [one for one in after.indexes[table] if one["unique"] and one not in before.indexes[table]]
        yield from (f"{table} has an index that it had not: {one['name']}" for one in unique)


def test_what_says_that_servers_may_run_beside_it_takes_nothing_from_them_and_asks_nothing(cluster: Cluster) -> None:
    address = bare_database(cluster, "stepwise")
    steps = ahead(address).steps
    assert [step.revision for step in steps] == sorted(step.revision for step in steps)
    engine = create_engine(driver_address(address))
    told = {}
    alembic.upgrade(alembic_config(address, SEALS), "0020")

    def schema() -> Schema:
        with engine.connect() as connection:
            return Schema(inspect(connection))

    before = schema()
    for step in (step for step in steps if step.revision > "0020"):
        alembic.upgrade(alembic_config(address, SEALS), step.revision)
        after = schema()
        told[step.revision], before = list(demands(before, after)), after
    engine.dispose()
    assert {step.revision: told[step.revision] for step in steps if step.beside} == {
        step.revision: [] for step in steps if step.beside
    }
    assert {"release_step.done is new and must be given", "drift has another key"} <= set(told["0029"])


def test_what_they_would_not_go_on_with_waits_until_they_are_stopped(
    cluster: Cluster, monkeypatch: pytest.MonkeyPatch
) -> None:
    address = bare_database(cluster, "older")
    alembic.upgrade(alembic_config(address, SEALS), "0028")
    monkeypatch.setenv("SIGN_SHELF_DATABASE", address)
    monkeypatch.setenv("SIGN_SHELF_KEY", KEY.get_secret_value())
    look = CliRunner().invoke(cli, ["migrate", "--look"]).output
    assert (
        "0029  Releases that a person carries out on the site; places that differ for an audience alone.  with servers"
        in look
    )
    assert "0030  Views of the shelf that people keep.  beside what runs" in look
    with psycopg.connect(address, application_name=RUNS):
        refused = CliRunner().invoke(cli, ["migrate"])
        assert refused.exit_code != 0
        assert "would not go on with 0029" in str(refused.output) + str(refused.exception)
        assert ahead(address).now == "0028"
        alembic.upgrade(alembic_config(address, SEALS), "0033")
        assert [step.revision for step in ahead(address).in_the_way] == ["0034", "0035"], "none of those between"
    assert CliRunner().invoke(cli, ["migrate"]).exit_code == 0
    assert ahead(address).steps == ()


def test_a_table_that_somebody_holds_is_waited_for_without_holding_everybody_up(cluster: Cluster) -> None:
    address = bare_database(cluster, "held")
    alembic.upgrade(alembic_config(address, SEALS), "0028")
    with psycopg.connect(address) as holding, psycopg.connect(address, autocommit=True) as reading:
        holding.execute("SELECT count(*) FROM drift")
        done = threading.Thread(target=migrate, args=(address, SEALS))
        done.start()
        waits = "SELECT count(*) FROM pg_locks WHERE NOT granted"
        eventually(lambda: reading.execute(waits).fetchone() != (0,), within_s=90)
        began = time.monotonic()
        reading.execute("SELECT count(*) FROM drift")
        assert time.monotonic() - began < 10, "whoever reads waits for a moment, not for the end of it"
        holding.rollback()
        done.join(60)
    assert ahead(address).steps == ()


async def test_servers_and_workers_go_on_while_the_schema_moves_on_and_new_ones_take_over(
    cluster: Cluster, stand_in: StandIn, tmp_path: Path
) -> None:
    """People read, edit and put live all along: nothing that they ask for fails, and every release is carried out once."""
    address = make_database(cluster, "updating")
    database = Database(address, SEALS)
    ines = await add_person(
        database, email="i@x.example", name="Ines", password=PASSWORD, role="owner", now=datetime.now(UTC)
    )
    await take_in_stand_in(database, stand_in, ines)
    await database.close()
    writes = stand_in.places.writes
    (tmp_path / "9999_next.py").write_text(
        NEXT.format(head=sorted(one.name for one in MIGRATIONS.glob("versions/0*.py"))[-1][:4])
    )
    config = alembic_config(address, SEALS)
    config.set_main_option("version_locations", f"{MIGRATIONS / 'versions'}{os.pathsep}{tmp_path}")
    variables, ports = environment(address, PROCESSES="1"), (free_port(), free_port())
    bases, ends, asked = [f"http://127.0.0.1:{port}" for port in ports], threading.Event(), list[str]()

    def works() -> None:
        """A browser behind a proxy: where one server does not answer, the other is asked."""
        with ExitStack() as all_of_them:
            clients = [
                all_of_them.enter_context(
                    httpx.Client(base_url=base, trust_env=False, headers={"origin": base}, timeout=15)
                )
                for base in bases
            ]

            def ask(method: str, url: str, **given: object) -> httpx.Response:
                until, told = time.monotonic() + 30, list[str]()
                while time.monotonic() < until:
                    for client in clients:
                        try:
                            answer = client.request(method, url, **given)  # type: ignore[arg-type]
                        except httpx.TransportError as lost:
                            told.append(f"{client.base_url}: {lost!r}")
                            continue
                        if answer.status_code not in {502, 503, 504}:
                            return answer
                        told.append(f"{client.base_url}: {answer.status_code} {answer.text}")
                raise AssertionError(f"{method} {url} is answered by neither: {told[-6:]}")

            signed_in = ask("POST", "/api/session", json={"email": "i@x.example", "password": PASSWORD})
            for client in clients:
                client.cookies.update(signed_in.cookies)
            while not ends.is_set():
                bench = ask("GET", f"{SITE}/menus/header").json()
                named = bench["document"] | {"name": f"Header {len(asked)}"}
                saved = ask("PUT", f"{SITE}/menus/header", json=named, headers={"if-match": bench["hash"]})
                # What is going live just now is not in what one goes on from: then it is merged, here the next time round.
                assert saved.status_code in {200, 412}, saved.text
                live = ask("POST", f"{SITE}/releases", headers={"idempotency-key": str(uuid4())})
                if live.status_code == 202:
                    asked.append(live.json()["id"])

    with ExitStack() as run, psycopg.connect(address, autocommit=True) as looking:
        old = [
            run.enter_context(command("serve", "--port", str(ports[0]), environment=variables)),
            run.enter_context(command("worker", environment=variables)),
        ]
        eventually(lambda: answers(bases[0]), within_s=120)
        person = asyncio.get_running_loop().run_in_executor(None, works)
        await asyncio.to_thread(eventually, lambda: len(asked) >= 2 or person.done(), within_s=60)
        assert ahead(address).running > 0
        await asyncio.to_thread(upgrade, config)
        more = len(asked) + 2
        await asyncio.to_thread(eventually, lambda: len(asked) >= more or person.done(), within_s=60)
        new = [
            run.enter_context(command("serve", "--port", str(ports[1]), environment=variables)),
            run.enter_context(command("worker", environment=variables)),
        ]
        await asyncio.to_thread(eventually, lambda: answers(bases[1]), within_s=120)
        for one in old:
            one.send_signal(signal.SIGTERM)
            assert await asyncio.to_thread(one.wait, 30) in {0, -signal.SIGTERM}, "it ended what it was at"
        more = len(asked) + 2
        await asyncio.to_thread(eventually, lambda: len(asked) >= more or person.done(), within_s=60)
        ends.set()
        await person
        left = "SELECT count(*) FROM release WHERE state NOT IN ('live', 'failed')"
        await asyncio.to_thread(eventually, lambda: looking.execute(left).fetchone() == (0,), within_s=60)
        states = dict(looking.execute("SELECT id::text, state FROM release").fetchall())
        assert [states[one] for one in asked] == ["live"] * len(asked)
        assert looking.execute("SELECT DISTINCT made_up FROM release_step").fetchall() == [("as before",)]
        assert stand_in.places.writes - writes == len(asked), "each was carried out once"
        assert all(one.poll() is None for one in new)
