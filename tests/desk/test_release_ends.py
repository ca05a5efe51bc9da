"""Releases end: live and verified, or failed with their reason and nothing half done, whatever goes wrong on the way."""

import asyncio
import os
import signal
from collections.abc import Awaitable, Callable
from contextlib import ExitStack, closing
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from typing import Any
from uuid import UUID, uuid4

import httpx
import psycopg
import pytest
from pydantic import SecretStr
from sqlalchemy import text

from sign_shelf.core.errors import Busy, Clash, EditRefused, StaleWrite
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.menu import Device, MenuDocument, menu_document
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.protocol.placed import placed_menu
from sign_shelf.demo import cluster as clusters
from sign_shelf.demo.seed import take_in_stand_in
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins, stand_in_app
from sign_shelf.desk import edit, put_live, sending
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import Person
from sign_shelf.jobs.worker import queue_app
from sign_shelf.outside.endpoint import write_slot
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database
from sign_shelf.store.requests import RequestKey
from tests.api.test_changes import begin, relabelled
from tests.api.test_menus import read
from tests.constants import PASSWORD, SEALS
from tests.databases import cluster_folder, copy_cluster, make_database
from tests.desk.test_faults import point_at
from tests.desk.test_put_live import ask, edited
from tests.live_sites import live_site, make_live
from tests.running import answers, command, environment
from tests.serving import serving
from tests.waiting import eventually

Jobs = Callable[[], Awaitable[None]]
SITE = "/api/sites/brackwater"


async def by_hand(site: StandIn, fetcher: Fetcher, location: str, device: Device, menu: MenuDocument) -> None:
    """Somebody at the client changes a place on the site itself."""
    there = site.places.get(location, device)
    placed = placed_menu(location, device, menu, ())
    await write_slot(fetcher, f"{site.base}sign-shelf/menus", placed, secrets=[SecretStr(site.places.secret)],
                     etag=there.etag, idempotency_key=str(uuid4()), at=datetime.now(UTC))  # fmt: skip


async def rename(api: httpx.AsyncClient, menu: str, name: str) -> None:
    bench = await read(api, f"{SITE}/menus/{menu}")
    renamed = bench["document"] | {"name": name}
    answer = await api.put(f"{SITE}/menus/{menu}", json=renamed, headers={"if-match": bench["hash"]})
    assert answer.status_code == 200, answer.text


async def release_of(api: httpx.AsyncClient, release: str) -> dict[str, Any]:
    return dict((await api.get(f"/api/releases/{release}")).json())


async def test_what_went_out_before_a_failure_is_put_back(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, run_jobs: Jobs, fetcher: Fetcher
) -> None:
    """A release is all or nothing to the eye."""
    before = dict(brackwater.places.placed)
    await rename(as_ines, "header", "Top")
    await rename(as_ines, "footer", "Foot")
    release = await ask(as_ines)
    async with database.transaction() as session:
        steps = (await (await session.connection()).execute(
            text("SELECT location, device FROM release_step ORDER BY position"))).all()  # fmt: skip
    assert len(steps) > 1
    last = steps[-1]
    theirs = menu_document("Changed by hand")
    await by_hand(brackwater, fetcher, last.location, last.device, theirs)
    await run_jobs()
    failed = await release_of(as_ines, release["id"])
    assert failed["state"] == "failed"
    assert "changed on the site itself" in failed["says"]
    assert f"{len(steps) - 1} place" in failed["says"]
    for location, device in steps[:-1]:
        assert content_hash(brackwater.places.placed[location, device]) == content_hash(before[location, device])
    assert brackwater.places.placed[last.location, last.device].menu.name == "Changed by hand"
    assert (await read(as_ines, f"{SITE}/menus/header"))["document"]["name"] == "Top", "the edits are where they were"


@pytest.mark.parametrize("what", ["take over", "put back"])
async def test_what_was_changed_on_the_site_is_taken_over_or_put_back(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs, fetcher: Fetcher, what: str
) -> None:
    """It is no dead end: afterwards the place can be written to again."""
    await by_hand(brackwater, fetcher, "header", "desktop", parse_outline('{menu "By hand"}\nTheirs -> /theirs'))
    await edited(as_ines)
    await ask(as_ines)
    await run_jobs()
    answer = await as_ines.post(
        f"{SITE}/places/header/desktop/read-again", json={"what": what}, headers={"idempotency-key": "again"}
    )
    assert answer.status_code == 200, answer.text
    await run_jobs()
    if what == "put back":
        assert (await release_of(as_ines, answer.json()["release"]))["state"] == "live"
        assert brackwater.places.placed["header", "desktop"].menu.name == "Header"
    else:
        bench = await read(as_ines)
        assert [item["label"]["en"] for item in bench["document"]["items"]] == ["Theirs"]
        assert next(edit["says"] for edit in bench["changes"]["first"]) == "Added Theirs, to /theirs"
    again = await ask(as_ines, "second")
    await run_jobs()
    assert (await release_of(as_ines, again["id"]))["state"] == "live"
    shown = brackwater.places.placed["header", "desktop"].menu
    assert ("Quiet lounge" in str(shown.to_json())) == (what == "put back")


async def test_a_release_that_no_longer_goes_with_what_is_live_ends(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs, database: Database
) -> None:
    """While it waited something else went live, and the two do not go together."""
    change = await begin(as_ines, "Slowly")
    await relabelled(as_ines, change, "Slowly")
    asked = await as_ines.post(f"{SITE}/releases?in={change}", headers={"idempotency-key": "slowly"})
    assert asked.status_code == 202, asked.text
    live = await live_site(database, "brackwater")
    first, *others = live.menus["header"].items
    quickly = live.menus["header"].with_items((first.model_copy(update={"label": {"en": "Quickly"}}), *others))
    await make_live(database, "brackwater", {"header": quickly})
    await run_jobs()
    failed = await release_of(as_ines, asked.json()["id"])
    assert (failed["state"], "do not agree on" in failed["says"]) == ("failed", True), failed["says"]
    bench = await read(as_ines, f"{SITE}/menus/header?in={change}")
    assert bench["document"]["items"][0]["label"]["en"] == "Slowly", "its edits are where they were"


async def test_a_write_whose_answer_was_lost_is_known_as_one_s_own(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, run_jobs: Jobs
) -> None:
    """The site has applied it and the release failed all the same: the next one goes over it."""
    await edited(as_ines)
    first = await ask(as_ines)
    await run_jobs()
    assert (await release_of(as_ines, first["id"]))["state"] == "live"
    async with database.transaction() as session:
        # As if no answer had come: what the site shows is not what we last saw there.
        await (await session.connection()).execute(
            text("UPDATE live_slot SET etag = '\"lost\"', hash = 'sha256:lost' WHERE location = 'header'")
        )
    await rename(as_ines, "header", "Top")
    again = await ask(as_ines, "again")
    await run_jobs()
    assert (await release_of(as_ines, again["id"]))["state"] == "live"
    assert brackwater.places.placed["header", "desktop"].menu.name == "Top"


async def test_a_site_that_is_away_for_a_while_is_tried_again(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, configured: Any, fetcher: Fetcher
) -> None:

    await edited(as_ines)
    release = await ask(as_ines)
    await point_at(database, f"http://127.0.0.1:{clusters.free_port()}/menus")
    for _ in range(3):
        with pytest.raises(Busy):
            await sending.carry_out(database, fetcher, UUID(release["id"]), lambda: datetime.now(UTC))
        told = await release_of(as_ines, release["id"])
        assert (told["state"], "It is tried again" in told["says"]) == ("sending", True)
    await point_at(database, f"{brackwater.base}sign-shelf/menus")
    await sending.carry_out(database, fetcher, UUID(release["id"]), lambda: datetime.now(UTC))
    assert (await release_of(as_ines, release["id"]))["state"] == "live"


async def test_a_job_keeps_its_place_while_the_database_is_away(
    as_ines: httpx.AsyncClient, brackwater: StandIn, configured: Settings, database: Database, run_jobs: Jobs
) -> None:
    """A release that is asked for later never overtakes it: the lock of the site stays with the job."""
    await edited(as_ines)
    first = await ask(as_ines)
    nowhere = Database(f"postgresql://nobody@127.0.0.1:{clusters.free_port()}/nowhere", SEALS)
    app = queue_app(configured, nowhere)
    async with app.open_async():
        await app.run_worker_async(wait=False, install_signal_handlers=False, listen_notify=False)
    await nowhere.close()
    async with database.transaction() as session:
        jobs = (await (await session.connection()).execute(
            text("SELECT status::text, lock LIKE 'site:%', scheduled_at > now() FROM procrastinate_jobs"))).all()  # fmt: skip
    assert [tuple(job) for job in jobs] == [("todo", True, True)]
    await run_jobs()
    assert (await release_of(as_ines, first["id"]))["state"] == "live"


async def test_savers_and_releasers_never_wait_for_each_other(
    database: Database, brackwater: StandIn, ines: Person, run_jobs: Jobs
) -> None:
    """Twelve people save and put live at once, in one menu and in others: nobody is ever stuck, and no save is lost."""
    now = datetime.now(UTC)
    people = [
        await add_person(database, email=f"p{n}@x.example", name=f"P{n}", password=PASSWORD, role="editor", now=now)
        for n in range(12)
    ]
    live = await live_site(database, "brackwater")
    done = {"saved": 0, "asked": 0}

    async def work(number: int, person: Person) -> None:
        menu = ("header", "footer", "legal")[number % 3]
        document = live.menus[menu]
        on = content_hash(document)
        for turn in range(4):
            line = parse_outline(f"Line {number} {turn} -> /x").items
            document = document.with_items((*document.items, *line))
            try:
                saved = await edit.save_menu(
                    database, person, "brackwater", menu, expected=on, document=document, now=datetime.now(UTC)
                )
            except StaleWrite as stale:
                document, on = MenuDocument.model_validate(stale.merge["document"]), str(stale.merge["on"])
                continue
            on, done["saved"] = saved.hash, done["saved"] + 1
            if turn % 2:
                try:
                    await put_live.ask(
                        database, person, "brackwater", request_key=RequestKey(f"{number} {turn}"), now=now
                    )
                    done["asked"] += 1
                except (Clash, EditRefused):
                    continue

    async def releasing(stop: asyncio.Event) -> None:
        while not stop.is_set():
            await run_jobs()

    stop = asyncio.Event()
    jobs = asyncio.create_task(releasing(stop))
    await asyncio.wait_for(asyncio.gather(*(work(n, one) for n, one in enumerate(people))), 120)
    stop.set()
    await jobs
    await run_jobs()
    assert done["saved"] >= 24
    assert done["asked"] >= 6
    async with database.transaction() as session:
        connection = await session.connection()
        states = dict((await connection.execute(text("SELECT state, count(*) FROM release GROUP BY state"))).all())  # type: ignore[arg-type]
        wrong = (
            await connection.execute(text("SELECT says FROM release WHERE says LIKE 'Something went wrong%'"))
        ).all()
    assert wrong == []
    assert states.keys() <= {"live", "failed"}


def _client(base: str) -> httpx.Client:
    return httpx.Client(base_url=base, headers={"origin": base}, timeout=30, trust_env=False)


def _persistently(ask: Callable[[], httpx.Response]) -> httpx.Response:
    """What is answered in the end: whoever meets a server that was killed asks again."""
    found: list[httpx.Response] = []

    def answered() -> bool:
        try:
            answer = ask()
        except httpx.HTTPError:
            return False
        if answer.status_code >= 500:
            return False
        found.append(answer)
        return True

    eventually(answered, within_s=150)
    return found[-1]


def test_a_worker_outlives_a_database_that_dies_while_it_is_asked_for_work(tmp_path: Path) -> None:
    folder = cluster_folder("away")
    copy_cluster(folder)
    cluster = clusters.start(folder)
    try:
        address = make_database(cluster, "away")

        def told(question: str) -> bool:
            with psycopg.connect(address) as connection:
                row = connection.execute(f"SELECT count(*) > 0 FROM {question}").fetchone()  # type: ignore[arg-type]
            return row is not None and row[0]

        at_work = "procrastinate_workers WHERE last_heartbeat > now() - interval '1 second'"
        with command("worker", environment=environment(address, HEARTBEAT_S="0.3")) as worker:
            eventually(lambda: told(at_work))
            with closing(psycopg.connect(address)) as holding:
                holding.execute("LOCK TABLE procrastinate_jobs")
                eventually(lambda: told("pg_stat_activity WHERE wait_event_type = 'Lock' AND query ~ 'fetch_job'"))
                cluster.kill()
            cluster = clusters.start(folder, port=cluster.port)
            eventually(lambda: worker.poll() is not None or told(at_work))
            assert worker.poll() is None
    finally:
        cluster.stop()


@pytest.mark.timeout(900)
def test_kills_at_random_leave_no_release_stuck_and_none_done_twice(tmp_path: Path) -> None:
    """kill −9 of server, worker and PostgreSQL while releases go out: each is live and verified exactly once, or failed with
    its reason, and the site shows what the shelf calls live."""
    many = 200 if os.environ.get("DEEP") else 5
    folder = cluster_folder("killed-releases")
    copy_cluster(folder)
    cluster = clusters.start(folder)
    random = Random(11)
    try:
        address = make_database(cluster, "releases")
        site = next(
            one
            for one in make_stand_ins(tmp_path / "sites", iter(lambda: clusters.free_port(), None))
            if one.content.key == "brackwater"
        )
        variables = environment(address, STALLED_AFTER_S="1.5", HEARTBEAT_S="0.3", PROCESSES="1")
        port = clusters.free_port()
        base = f"http://127.0.0.1:{port}"
        with serving(stand_in_app(site), site.port), ExitStack() as running:
            asyncio.run(_taken_in(address, site))

            def begin(*words: str) -> Any:
                return running.enter_context(command(*words, environment=variables))

            worker, server = begin("worker"), begin("serve", "--port", str(port))
            eventually(lambda: answers(base), within_s=150)
            client = running.enter_context(_client(base))
            _persistently(lambda: client.post("/api/session", json={"email": "x@x.example", "password": PASSWORD}))
            colleague = running.enter_context(_client(base))
            _persistently(lambda: colleague.post("/api/session", json={"email": "y@x.example", "password": PASSWORD}))
            asked: list[str] = []
            scheduled: list[str] = []
            for number in range(many):
                if number % 4 == 3:
                    # Every fourth goes by itself, at a moment that comes while everything is killed.
                    scheduled.append(_given_a_moment(client, colleague, address, number))
                for _ in range(5):
                    bench = _persistently(lambda: client.get(f"{SITE}/menus/header")).json()
                    renamed = bench["document"] | {"name": f"Header {number}"}
                    mark = {"if-match": bench["hash"]}
                    kept = _persistently(lambda: client.put(f"{SITE}/menus/header", json=renamed, headers=mark))  # noqa: B023
                    if kept.status_code != 412:  # Something went live in between, and the draft moved on with it.
                        break
                key = {"idempotency-key": f"release {number}"}
                answer = _persistently(lambda: client.post(f"{SITE}/releases", headers=key))  # noqa: B023
                if answer.status_code == 202:
                    asked.append(answer.json()["id"])
                elif "do not agree" in answer.text:
                    asked.append(_settled(client, number))
                match random.randrange(6):
                    case 0:
                        worker.send_signal(signal.SIGKILL)
                        worker.wait()
                        worker = begin("worker")
                    case 1 if number % 3 == 0:
                        server.send_signal(signal.SIGKILL)
                        server.wait()
                        server = begin("serve", "--port", str(port))
                    case 2:
                        cluster.kill()
                        cluster = clusters.start(folder, port=cluster.port)
            with psycopg.connect(address, autocommit=True) as connection:

                def left() -> int:
                    row = connection.execute(
                        "SELECT (SELECT count(*) FROM release WHERE state NOT IN ('live', 'failed')) + "
                        "(SELECT count(*) FROM change_part part JOIN change ON change.id = part.change_id "
                        "WHERE goes_at IS NOT NULL AND part.live_at IS NULL AND says = '' AND state <> 'failed')"
                    ).fetchone()
                    return int(row[0]) if row else -1

                eventually(lambda: left() == 0, within_s=240)
                ended = connection.execute("SELECT id::text, state, says FROM release").fetchall()
                went = connection.execute(
                    "SELECT change.id::text, change.state, count(*) FILTER (WHERE release.state = 'live'), part.says FROM change "
                    "JOIN schedule ON schedule.change_id = change.id LEFT JOIN release ON release.change_id = change.id "
                    "JOIN change_part part ON part.change_id = change.id GROUP BY change.id, part.says"
                ).fetchall()
                told = connection.execute(
                    "SELECT detail ->> 'release', count(*) FROM ledger WHERE action IN ('live', 'release failed') GROUP BY 1"
                ).fetchall()
    finally:
        cluster.stop()
    assert len(asked) >= many * 0.9
    assert set(asked) <= {release for release, _, _ in ended}
    assert all(state == "live" or says for _, state, says in ended)
    assert dict(told) == dict.fromkeys((release for release, _, _ in ended), 1), "each ends exactly once"
    assert sum(state == "live" for _, state, _ in ended) >= many * 0.7
    assert {change for change, _, _, _ in went} == set(scheduled), "none is lost"
    assert all(times == (state == "live") for _, state, times, _ in went), "and none goes twice"
    assert sum(times for _, _, times, _ in went) >= len(scheduled) * 0.7, went


def _settled(client: httpx.Client, number: int) -> str:
    """What it was built on failed, or something else goes live before it: as a person would, one keeps one's own and asks again,
    once that has ended."""
    tries = iter(range(1_000))

    def asked_again() -> str | None:
        change = _persistently(lambda: client.get(SITE)).json()["change"]["id"]
        met = _persistently(lambda: client.get(f"{SITE}/changes/{change}/conflicts")).json()
        mine = {"choices": {one["key"]: "ours" for one in met}}
        _persistently(lambda: client.post(f"{SITE}/changes/{change}/catch-up", json=mine))
        key = {"idempotency-key": f"release {number} settled {next(tries)}"}
        answer = _persistently(lambda: client.post(f"{SITE}/releases", headers=key))
        assert answer.status_code == 202 or "do not agree" in answer.text, answer.text
        return str(answer.json()["id"]) if answer.status_code == 202 else None

    found: list[str] = []
    eventually(lambda: bool(found) or found.extend(filter(None, [asked_again()])) or bool(found), within_s=150)
    return found[0]


def _given_a_moment(client: httpx.Client, colleague: httpx.Client, address: str, number: int) -> str:
    """A change of its own that adds an entry, approved, whose moment comes in a second and a half."""
    begun = {"idempotency-key": f"change {number}"}
    title = {"title": f"By itself {number}"}
    change = str(_persistently(lambda: client.post(f"{SITE}/changes", json=title, headers=begun)).json()["change"])
    menu = f"{SITE}/menus/header?in={change}"
    entry = {
        "id": f"n{number}",
        "kind": "link",
        "label": {"en": f"By itself {number}"},
        "target": {"url": f"/{number}"},
    }

    def is_saved() -> bool:
        bench = _persistently(lambda: client.get(menu)).json()
        more = bench["document"] | {"items": [*bench["document"]["items"], entry]}
        mark = {"if-match": bench["hash"]}
        return _persistently(lambda: client.put(menu, json=more, headers=mark)).status_code == 200

    # What goes live meanwhile is in between.
    eventually(is_saved, within_s=150)
    moment = {"kind": "instant", "goes": (datetime.now(UTC) + timedelta(days=2)).strftime("%Y-%m-%dT%H:%M")}
    _persistently(lambda: client.put(f"/api/changes/{change}/schedule", json=moment))
    _persistently(lambda: client.put(f"{SITE}/work", json={"change": None}))
    about = f"/api/changes/{change}"

    # What goes live meanwhile makes it another, which is approved where it is asked for again.
    def is_scheduled() -> bool:
        seen = _persistently(lambda: colleague.get(about)).json()
        said = seen["change"]["state"]
        if said == "draft":
            answer = _persistently(lambda: client.post(f"{about}/review"))
        elif said == "in review":
            answer = _persistently(lambda: colleague.post(f"{about}/approve", json={"content": seen["content"]}))
        else:
            return bool(said == "scheduled")
        assert answer.status_code in {204, 409}, answer.text
        return False

    eventually(is_scheduled, within_s=150)

    def comes() -> bool:
        try:
            with psycopg.connect(address) as connection:
                soon = "UPDATE change_part SET goes_at = now() + interval '1.5 s' WHERE change_id = %s"
                connection.execute(soon, [change])
        except psycopg.Error:
            return False
        return True

    eventually(comes, within_s=150)
    return change


async def _taken_in(address: str, site: StandIn) -> None:
    database = Database(address, SEALS)
    for name in ("y", "x"):
        person = await add_person(
            database, email=f"{name}@x.example", name=name, password=PASSWORD, role="owner", now=datetime.now(UTC)
        )
    await take_in_stand_in(database, site, person)
    await database.close()
