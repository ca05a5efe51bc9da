"""Sites that answer slowly, half, wrongly or not at all: the release fails in words, and nothing is lost."""

import asyncio
import json
from collections.abc import AsyncIterator, Awaitable, Callable
from datetime import UTC, datetime

import httpx
import pytest
from pydantic import SecretStr
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, PlainTextResponse, Response, StreamingResponse
from starlette.routing import Route

from sign_shelf.core.errors import SiteRefused, SourceRefused
from sign_shelf.core.model.menu import menu_document
from sign_shelf.core.protocol.placed import placed_menu
from sign_shelf.demo.cluster import free_port
from sign_shelf.demo.stand_ins.server import StandIn, new_secret
from sign_shelf.outside.endpoint import discover, read_slot, write_slot
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import sites
from sign_shelf.store.database import Database
from tests.api.test_menus import read
from tests.desk.test_put_live import ask, edited
from tests.serving import serving

Jobs = Callable[[], Awaitable[None]]

PLACED = placed_menu("header", "desktop", menu_document("Header"), ())
WHOLE = json.dumps(PLACED.to_json())


async def half() -> AsyncIterator[bytes]:
    yield WHOLE[:20].encode()
    raise ConnectionResetError


def answers() -> dict[str, Callable[[], Response]]:
    etag = {"etag": '"1"'}
    return {
        "no tag": lambda: Response(WHOLE),
        "weak tag": lambda: Response(WHOLE, headers={"etag": 'W/"1"'}),
        "no json": lambda: PlainTextResponse("<html>", headers=etag),
        "another document": lambda: JSONResponse({"format": "sign-shelf/menu"}, headers=etag),
        "too deep": lambda: PlainTextResponse("[" * 100_000, headers=etag),
        "too much": lambda: PlainTextResponse("x" * 5_000_000, headers=etag),
        "an error": lambda: PlainTextResponse("no", 500),
        "a redirect": lambda: Response(status_code=302, headers={"location": "http://localhost:1/"}),
        "half": lambda: StreamingResponse(half(), headers=etag | {"content-length": str(len(WHOLE))}),
    }


@pytest.mark.parametrize(
    ("kind", "says"),
    [
        ("no tag", "no strong entity tag"),
        ("weak tag", "no strong entity tag"),
        ("no json", "no placed menu"),
        ("another document", "no placed menu"),
        ("too deep", "no placed menu"),
        ("too much", "larger than"),
        ("an error", "answers 500"),
        ("a redirect", "answers 302"),
        ("half", "No usable answer"),
    ],
)
@pytest.mark.filterwarnings("ignore")
async def test_a_slot_that_is_answered_wrongly_is_refused(fetcher: Fetcher, kind: str, says: str) -> None:
    async def answer(request: Request) -> Response:
        return answers()[kind]()

    port = free_port()
    with serving(Starlette(routes=[Route("/{rest:path}", answer, methods=["GET", "PUT"])]), port):
        menus = f"http://127.0.0.1:{port}/menus"
        with pytest.raises((SiteRefused, SourceRefused), match=says):
            await read_slot(fetcher, menus, "header", "desktop")
        if kind in {"no tag", "weak tag", "too much", "an error", "a redirect", "half"}:
            with pytest.raises((SiteRefused, SourceRefused)):
                await write_slot(
                    fetcher,
                    menus,
                    PLACED,
                    secrets=[SecretStr(new_secret())],
                    etag='"1"',
                    idempotency_key="k",
                    at=datetime.now(UTC),
                )


@pytest.mark.parametrize(
    "document",
    [
        {"protocol": "sign-shelf/site", "version": 2},
        {"protocol": "something-else"},
        [],
        {
            "protocol": "sign-shelf/site",
            "version": 1,
            "name": "X",
            "menus": "http://elsewhere.example/menus",
            "template": {"key": "t", "devices": {"desktop": [0, None]}, "locations": []},
        },
    ],
)
async def test_a_discovery_that_cannot_be_trusted_counts_as_none(fetcher: Fetcher, document: object) -> None:
    """Menus are only ever written to the host that was asked."""

    async def answer(request: Request) -> Response:
        return JSONResponse(document)

    port = free_port()
    with serving(Starlette(routes=[Route("/.well-known/sign-shelf", answer)]), port):
        assert await discover(fetcher, f"http://127.0.0.1:{port}/") is None


async def point_at(database: Database, menus: str) -> None:
    async with database.transaction() as session:
        site = await sites.site_by_key(session, "brackwater", lock=True)
        assert site is not None
        site.endpoint = menus
        session.add(site)


async def test_a_site_that_says_yes_and_does_nothing_is_not_called_live(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, run_jobs: Jobs
) -> None:
    """Fail closed: what reads back as something else is not live, whatever the site answered."""
    before = brackwater.places.get("header", "desktop")

    async def answer(request: Request) -> Response:
        body = {} if request.method == "PUT" else before.body
        return JSONResponse(body, headers={"etag": before.etag or ""})

    port = free_port()
    await edited(as_ines)
    with serving(Starlette(routes=[Route("/{rest:path}", answer, methods=["GET", "PUT"])]), port):
        await point_at(database, f"http://127.0.0.1:{port}/menus")
        release = await ask(as_ines)
        await run_jobs()
    told = (await as_ines.get(f"/api/releases/{release['id']}")).json()
    assert told["state"] == "failed"
    assert "does not show what was sent" in told["says"]
    bench = await read(as_ines)
    assert bench["live_hash"] != bench["hash"]
    assert [edit["says"] for edit in bench["changes"]["first"]] == ["Added Quiet lounge, to /x"]


async def test_a_site_that_is_away_fails_and_can_be_tried_again(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, run_jobs: Jobs
) -> None:
    await edited(as_ines)
    await point_at(database, f"http://127.0.0.1:{free_port()}/menus")
    release = await ask(as_ines, "first")
    await run_jobs()
    assert "No usable answer" in (await as_ines.get(f"/api/releases/{release['id']}")).json()["says"]
    await point_at(database, f"{brackwater.base}sign-shelf/menus")
    again = await ask(as_ines, "second")
    await run_jobs()
    assert (await as_ines.get(f"/api/releases/{again['id']}")).json()["state"] == "live"


async def test_edits_made_while_a_release_fails_are_kept_and_so_are_those_that_failed(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, run_jobs: Jobs
) -> None:
    """Another draft was begun meanwhile. What failed is in its own change, to be worked in again; what was begun goes live
    without it, and then it goes live with what is live."""
    await edited(as_ines)
    await point_at(database, f"http://127.0.0.1:{free_port()}/menus")
    await ask(as_ines)
    footer = await read(as_ines, "/api/sites/brackwater/menus/footer")
    renamed = footer["document"] | {"name": "Foot"}
    answer = await as_ines.put("/api/sites/brackwater/menus/footer", json=renamed, headers={"if-match": footer["hash"]})
    assert answer.status_code == 200
    header = await read(as_ines)
    assert [edit["says"] for edit in header["changes"]["first"]] == ["Added Quiet lounge, to /x"], "seen meanwhile"
    second = await ask(as_ines, "waits")
    await run_jobs()
    first_failed = (await as_ines.get("/api/sites/brackwater/changes")).json()
    assert {one["state"] for one in first_failed} == {"failed"}
    await point_at(database, f"{brackwater.base}sign-shelf/menus")
    assert (await as_ines.get(f"/api/releases/{second['id']}")).json()["state"] == "failed"
    newest, oldest = first_failed
    for number, change in enumerate((newest, oldest)):
        asked = await as_ines.post(
            f"/api/sites/brackwater/releases?in={change['id']}", headers={"idempotency-key": f"again {number}"}
        )
        assert asked.status_code == 202, asked.text
        await run_jobs()
        assert (await as_ines.get(f"/api/releases/{asked.json()['id']}")).json()["state"] == "live"
        assert ("Quiet lounge" in str(brackwater.places.placed["header", "desktop"].menu.to_json())) == (number == 1)
    assert brackwater.places.placed["footer", "desktop"].menu.name == "Foot"


async def test_releases_of_one_site_wait_for_each_other(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    await edited(as_ines)
    first = await ask(as_ines, "one")
    bench = await read(as_ines)
    await as_ines.put(
        "/api/sites/brackwater/menus/header",
        json=bench["document"] | {"name": "Header two"},
        headers={"if-match": bench["hash"]},
    )
    second = await ask(as_ines, "two")
    await asyncio.gather(run_jobs(), run_jobs())
    await run_jobs()
    states = [(await as_ines.get(f"/api/releases/{one['id']}")).json()["state"] for one in (first, second)]
    assert states == ["live", "live"]
    assert brackwater.places.placed["header", "desktop"].menu.name == "Header two"
    assert brackwater.places.writes == 2
