"""Taking a site in over HTTP: begun by a person, read by a job, kept when confirmed."""

import asyncio
import os
import signal
from collections.abc import Awaitable, Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from random import Random
from uuid import UUID

import httpx
import psycopg
import pytest
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, PlainTextResponse, RedirectResponse, Response
from starlette.routing import Route

from sign_shelf.demo import cluster as clusters
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins, stand_in_app
from sign_shelf.desk import take_in
from sign_shelf.desk.people import add_person
from sign_shelf.jobs.rescue import look
from sign_shelf.jobs.worker import queue_app
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.reading import read_site
from sign_shelf.outside.reading.inventory import FOLLOWED, OPENED
from sign_shelf.settings import Settings
from sign_shelf.store import queue
from sign_shelf.store.database import Database
from sign_shelf.store.requests import RequestKey
from tests.constants import PASSWORD, SEALS
from tests.databases import cluster_folder, copy_cluster, make_database
from tests.running import command, environment, running
from tests.serving import serving
from tests.waiting import eventually

ATTACK = bool(os.environ.get("ATTACK"))
"""`make test-attack` asks for all of it; `make test` for a short form."""
Jobs = Callable[[], Awaitable[None]]


async def begin(api: httpx.AsyncClient, url: str, key: str = "one") -> str:
    answer = await api.post("/api/take-ins", json={"url": url}, headers={"idempotency-key": key})
    assert answer.status_code == 202, answer.text
    return str(answer.json()["id"])


async def test_a_site_is_read_confirmed_and_on_the_shelf(
    as_ines: httpx.AsyncClient, stand_in: StandIn, run_jobs: Jobs
) -> None:
    taken = await begin(as_ines, stand_in.base)
    assert await begin(as_ines, stand_in.base) == taken
    early = await as_ines.post(f"/api/take-ins/{taken}/confirm", json={})
    assert early.status_code == 409
    await run_jobs()
    found = (await as_ines.get(f"/api/take-ins/{taken}")).json()
    assert (found["state"], found["proposal"]["name"]) == ("ready", "Brackwater Ferries")
    wrong = await as_ines.post(f"/api/take-ins/{taken}/confirm", json={"zone": "Mars/Olympus"})
    assert "IANA" in wrong.json()["detail"]
    body = {
        "key": "brackwater",
        "zone": "Europe/London",
        "secret": stand_in.places.secret,
        "menus": ["header", "drawer-phone"],
    }

    async def confirm() -> httpx.Response:
        return await as_ines.post(f"/api/take-ins/{taken}/confirm", json=body)

    answers = await asyncio.gather(confirm(), confirm())
    assert [answer.json()["site"] for answer in answers] == ["brackwater", "brackwater"]
    shelf = (await as_ines.get("/api/shelf?device=desktop")).json()
    assert [site["key"] for site in shelf] == ["brackwater"]
    drawn = (await as_ines.get("/api/shelf/signs?device=desktop&site=brackwater")).json()
    signs = {sign["location"]: (sign["placement"], sign["leaning"], sign["menu"]) for sign in drawn[0]["signs"]}
    assert signs["header"] == ("own", False, "header")
    assert signs["drawer"] == ("own", True, "drawer-phone")
    assert signs["legal"] == ("none", False, None)
    again = await begin(as_ines, stand_in.base, key="two")
    await run_jobs()
    clash = await as_ines.post(f"/api/take-ins/{again}/confirm", json={"key": "other"})
    assert clash.status_code == 409
    assert "Brackwater Ferries has the address" in clash.json()["detail"]


async def test_what_cannot_be_read_says_why(as_ines: httpx.AsyncClient, run_jobs: Jobs) -> None:
    taken = await begin(as_ines, "http://localhost:9/")
    await run_jobs()
    found = (await as_ines.get(f"/api/take-ins/{taken}")).json()
    assert found["state"] == "failed"
    assert "private address" in found["says"]
    assert "SIGN_SHELF_PRIVATE_HOSTS" in found["says"]


async def test_pages_are_searched_by_title_address_and_type(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    async def refs(words: str) -> list[str]:
        return [
            page["ref"] for page in (await as_ines.get("/api/sites/brackwater/pages", params={"words": words})).json()
        ]

    assert await refs("cabins") == ["on-board-cabins"]
    assert (await refs("timet"))[0] == "timetables"
    assert set(await refs("route skerry")) == {"routes-skerry"}
    assert await refs("100%_") == []
    search = {"words": "cabins", "places": "true"}
    page = (await as_ines.get("/api/sites/brackwater/pages", params=search)).json()[0]
    assert page["places"] == ["Header", "Drawer"]
    page = (await as_ines.get("/api/sites/brackwater/pages", params={"words": "cabins"})).json()[0]
    assert page["places"] == [], "menus are read only where it is asked for"


def site_that(answers: Callable[[str, str], Response | None]) -> tuple[Starlette, int]:
    """A site of one page, but for what `answers` has for a path; and its port."""
    port = clusters.free_port()
    base = f"http://127.0.0.1:{port}/"

    async def answer(request: Request) -> Response:
        found = answers(request.path_params["path"], base)
        if found is not None:
            return found
        return (
            HTMLResponse("<title>Home</title><a href=/a>a</a>")
            if request.url.path == "/"
            else PlainTextResponse("", 404)
        )

    return Starlette(routes=[Route("/{path:path}", answer)]), port


TORN: dict[str, dict[str, Callable[[str], Response]]] = {
    "a redirect": {"": lambda _: Response(status_code=302, headers={"location": "//["})},
    "a sitemap's address": {"robots.txt": lambda _: PlainTextResponse("Sitemap: //[")},
    "a NUL in a sitemap's address": {"robots.txt": lambda base: PlainTextResponse(f"Sitemap: {base}\0map.xml")},
    "a NUL in a sitemap": {
        "robots.txt": lambda base: PlainTextResponse(f"Sitemap: {base}map.xml"),
        "map.xml": lambda base: PlainTextResponse(f"<urlset><url><loc>{base}\0a</loc></url></urlset>"),
    },
    "half of a character": {"": lambda _: Response(b"<title>\xed\xa0\x80</title><a href=/\xed\xa0\x80>x</a>", media_type="text/html")},
    "itself for ever": {"": lambda base: RedirectResponse(base)},
    "a host that is none": {"": lambda _: RedirectResponse("http://%00/")},
    "odd links": {"": lambda _: HTMLResponse("".join(f"<a href='{odd}'>x</a>" for odd in ("//[", "http://[::", "\0", "?", "#", "%", "http:////", "javascript:", "//\\udcff")))},
    "odd lengths": {"": lambda _: Response(b"x", headers={"content-length": "99999999999999999999"})},
}  # fmt: skip


@pytest.mark.parametrize("kind", TORN)
@pytest.mark.filterwarnings("ignore")
async def test_every_reading_ends_read_or_failed_with_its_reason(
    as_ines: httpx.AsyncClient, run_jobs: Jobs, kind: str
) -> None:
    app, port = site_that(lambda path, base: TORN[kind][path](base) if path in TORN[kind] else None)
    with serving(app, port):
        taken = await begin(as_ines, f"http://127.0.0.1:{port}/")
        await run_jobs()
    found = (await as_ines.get(f"/api/take-ins/{taken}")).json()
    assert found["state"] in {"ready", "failed"}
    assert found["state"] == "ready" or found["says"]


async def test_what_nobody_foresaw_ends_the_reading_too(
    as_ines: httpx.AsyncClient, run_jobs: Jobs, stand_in: StandIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    async def surprised(*_: object, **__: object) -> None:
        raise ZeroDivisionError("half \ud800 of it")

    monkeypatch.setattr(take_in, "read_site", surprised)
    taken = await begin(as_ines, stand_in.base)
    await run_jobs()
    found = (await as_ines.get(f"/api/take-ins/{taken}")).json()
    assert (found["state"], "ZeroDivisionError: half ? of it" in found["says"]) == ("failed", True)


async def test_a_site_of_links_without_end_is_read_to_a_bound_in_a_process_of_its_own(
    fetcher: Fetcher, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Every page has links to pages that nobody knew: what is kept is bounded, and said; nothing is parsed here."""
    many = 30_000 if ATTACK else 1_000
    asked: list[str] = []

    def page(path: str, base: str) -> Response | None:
        if path in {"robots.txt", "sitemap.xml"} or path.startswith(".well-known"):
            return None
        asked.append(path)
        links = "".join(f"<a href='/{len(asked)}-{n}'>x</a>" for n in range(many))
        return HTMLResponse(f"<title>{path or 'Home'}</title>{links}")

    def not_here(*_: object) -> None:
        raise AssertionError("parsed in the process that others wait for")

    monkeypatch.setattr("sign_shelf.outside.reading.page.parse", not_here)
    app, port = site_that(page)
    with serving(app, port):
        found = await read_site(fetcher, f"http://127.0.0.1:{port}/")
    assert OPENED <= len(asked) < OPENED + 6, "a batch more at most"
    assert len(found.pages) == FOLLOWED
    assert f"More than {FOLLOWED} addresses are linked; the others are left out." in found.notes


async def test_a_reading_that_never_ends_is_tried_three_times(
    as_ines: httpx.AsyncClient, database: Database, fetcher: Fetcher, stand_in: StandIn
) -> None:
    taken = await begin(as_ines, stand_in.base)
    async with database.transaction() as session:
        row = await take_in._row(session, UUID(taken), lock=True)
        row.tries = take_in.MOST_TRIES
        session.add(row)
    await take_in.carry_out(database, fetcher, UUID(taken))
    found = (await as_ines.get(f"/api/take-ins/{taken}")).json()
    assert (found["state"], "begun 3 times" in found["says"]) == ("failed", True)


async def test_work_that_somebody_does_is_not_taken_up_by_another(
    as_ines: httpx.AsyncClient, configured: Settings, database: Database, stand_in: StandIn, run_jobs: Jobs
) -> None:
    """However late its worker is heard of; and what nobody does is taken up at the second look."""
    taken = await begin(as_ines, stand_in.base)
    app = queue_app(configured, database)
    async with app.open_async():
        worker = await app.job_manager.register_worker()
        job = await app.job_manager.fetch_job(queues=None, worker_id=worker)
        assert job is not None
        async with database.alone(queue.work_name(take_in.TASK, taken)) as mine:
            assert mine
            assert await look(app, database, {job.id or 0}, 0.0) == set()
            await run_jobs()
        undone = await look(app, database, set(), 0.0)
        assert undone == {job.id}
        await look(app, database, undone, 0.0)
    assert (await as_ines.get(f"/api/take-ins/{taken}")).json()["state"] == "reading"
    await run_jobs()
    assert (await as_ines.get(f"/api/take-ins/{taken}")).json()["state"] == "ready"


@contextmanager
def slow_site(folder: Path) -> Iterator[StandIn]:
    sites = make_stand_ins(folder, iter(lambda: clusters.free_port(), None))
    site = next(one for one in sites if one.content.key == "kestrel")
    with serving(stand_in_app(site), site.port):
        yield site


def states(address: str) -> list[tuple[str, str]]:
    try:
        with psycopg.connect(address, connect_timeout=2) as connection:
            return connection.execute("SELECT state, says FROM take_in").fetchall()
    except psycopg.OperationalError:
        return []


def begun(address: str) -> int:
    """How often readings were begun so far; less than nothing while the database is away."""
    try:
        with psycopg.connect(address, connect_timeout=2) as connection:
            found = connection.execute("SELECT sum(tries) FROM take_in").fetchone()
    except psycopg.OperationalError:
        return -1
    return int(found[0]) if found else -1


@pytest.mark.timeout(420)
def test_kills_at_random_leave_no_reading_undone(tmp_path: Path) -> None:
    """kill −9 of workers and of PostgreSQL in the middle of readings: each ends read or failed, with a reason."""
    rounds = 12 if ATTACK else 1
    folder = cluster_folder("killed")
    copy_cluster(folder)
    database = clusters.start(folder)
    random = Random(7)
    try:
        address = make_database(database, "killed")
        variables = environment(address, STALLED_AFTER_S="2", HEARTBEAT_S="0.5")
        with slow_site(tmp_path) as site:
            asyncio.run(asked(address, site.base, how_many=rounds * 2))
            for _ in range(rounds):
                with command("worker", environment=variables) as worker:
                    eventually(lambda: any(state == "reading" for state, _ in states(address)), within_s=90)
                    before = begun(address)
                    eventually(lambda before=before: begun(address) > before, within_s=60)
                    if random.random() < 0.5:
                        database.kill()
                        database = clusters.start(folder, port=database.port)
                    worker.send_signal(signal.SIGKILL)
                    worker.wait()
            with command("worker", environment=variables):
                eventually(
                    lambda: states(address) and all(state != "reading" for state, _ in states(address)), within_s=120
                )
        ended = states(address)
    finally:
        database.stop()
    assert len(ended) == rounds * 2
    assert [one for one in ended if one[0] != "ready" and not (one[0] == "failed" and one[1])] == []


async def asked(address: str, url: str, *, how_many: int) -> None:
    database = Database(address, SEALS)
    person = await add_person(
        database, email="x@x.example", name="X", password=PASSWORD, role="owner", now=datetime.now(UTC)
    )
    for number in range(how_many):
        await take_in.begin(database, person, url, request_key=RequestKey(str(number)), now=datetime.now(UTC))
    await database.close()


def test_a_server_that_is_killed_loses_no_reading_and_doubles_none(address: str, stand_in: StandIn) -> None:
    """Asked, killed with −9 before anything could be looked at, asked again with the same key: one reading, and read."""
    asyncio.run(asked(address, stand_in.base, how_many=0))

    def ask(base: str) -> str:
        with httpx.Client(base_url=base, headers={"origin": base}, timeout=60, trust_env=False) as client:
            client.post("/api/session", json={"email": "x@x.example", "password": PASSWORD})
            answer = client.post("/api/take-ins", json={"url": stand_in.base}, headers={"idempotency-key": "one"})
            assert answer.status_code == 202, answer.text
            return str(answer.json()["id"])

    with running(address, STALLED_AFTER_S="2", HEARTBEAT_S="0.5", PROCESSES="1") as shelf:
        first = ask(shelf.base)
        for process in (shelf.server, shelf.worker):
            process.send_signal(signal.SIGKILL)
            process.wait()
    with running(address, STALLED_AFTER_S="2", HEARTBEAT_S="0.5", PROCESSES="1") as shelf:
        assert ask(shelf.base) == first
        eventually(lambda: [state for state, _ in states(address)] == ["ready"], within_s=60)
