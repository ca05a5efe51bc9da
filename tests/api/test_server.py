"""The server around the routers: health, contracts, the built interface, and what nobody should be able to break."""

import json
import re
from html import unescape
from pathlib import Path
from typing import Any
from uuid import UUID

import httpx
import pytest
from hypothesis import given
from hypothesis import strategies as st
from prometheus_client.parser import text_string_to_metric_families
from pydantic import SecretStr, ValidationError

from sign_shelf.api.app import create_app
from sign_shelf.api.guards import signed_in
from sign_shelf.api.interface import BuiltFiles
from sign_shelf.core.errors import InvalidDocument, Refusal
from sign_shelf.core.model.documents import problems_of, read_menu
from sign_shelf.core.model.menu import MenuDocument, menu_schema
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.permission import Person
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import STATIC, Settings
from sign_shelf.store.database import Database
from tests.constants import KEY, OWN_PAGE, SEALS, SHELF
from tests.examples import examples
from tests.running import running

DOCS = Path(__file__).parents[2] / "docs"


async def test_health_and_published_contracts(as_ines: httpx.AsyncClient) -> None:
    api = as_ines
    assert (await api.get("/api/health")).json() == {"status": "ok"}
    schema = await api.get("/api/schemas/menu.json")
    assert schema.headers["content-type"] == "application/schema+json"
    assert schema.json() == json.loads((DOCS / "menu.schema.json").read_text())
    assert (await api.get("/api/openapi.json")).json() == json.loads((DOCS / "openapi.json").read_text())


async def test_the_interface_answers_for_every_view_and_no_file_outside_it(api: httpx.AsyncClient) -> None:
    front = await api.get("/sites/brackwater/menus/header?device=phone")
    assert (front.status_code, "<div id=" in front.text) == (200, True)
    assert front.headers["cache-control"] == "no-cache"
    asset = next(STATIC.glob("assets/*.js")).relative_to(STATIC)
    kept = await api.get(f"/{asset}")
    assert "immutable" in kept.headers["cache-control"]
    packed = await api.get(f"/{asset}", headers={"accept-encoding": "gzip"})
    plain = await api.get(f"/{asset}", headers={"accept-encoding": "identity"})
    assert (packed.headers["content-encoding"], packed.headers["vary"]) == ("gzip", "accept-encoding")
    assert "content-encoding" not in plain.headers
    assert packed.content == plain.content
    assert int(packed.headers["content-length"]) < len(plain.content) * 0.9
    assert "javascript" in packed.headers["content-type"]
    again = await api.get(f"/{asset}", headers={"if-none-match": kept.headers["etag"]})
    assert (again.status_code, again.content) == (304, b"")
    headed = await api.head(f"/{asset}", headers={"accept-encoding": "identity"})
    assert (headed.content, headed.headers["content-length"]) == (b"", str(len(plain.content)))
    assert front.headers["x-content-type-options"] == headed.headers["x-content-type-options"] == "nosniff"
    for path in (
        "/../settings.py",
        "/%2e%2e/settings.py",
        "/..%2f..%2fpyproject.toml",
        "/assets/../../settings.py",
        "/assets",
        "/" + "a" * 5_000,
    ):
        answer = await api.get(path)
        assert "SIGN_SHELF" not in answer.text
    assert (await api.post("/shelf")).status_code == 405


def test_a_file_of_the_interface_is_kept_once_under_one_name() -> None:
    """A stranger who writes its address in other ways gets the first page, and fills no memory."""
    files, asset = BuiltFiles(), next(STATIC.glob("assets/*.js")).name
    scope = {"type": "http", "method": "GET", "path": "/", "headers": []}
    assert files.answer(f"assets/{asset}", scope) is not None
    for name in (
        f"assets/./{asset}",
        f"assets//{asset}",
        f"assets/../assets/{asset}",
        f"/{STATIC}/assets/{asset}",
        "assets/\0",
    ):
        assert files.answer(name, scope) is None, name


_scalars = (
    st.none()
    | st.booleans()
    | st.integers(-5, 5)
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.text(max_size=8)
)
_keys = st.sampled_from(
    ["format", "version", "name", "items", "id", "kind", "label", "target", "page", "url", "look", "from", "when", "x"]
)
_values = st.sampled_from(["sign-shelf/menu", "link", "heading", "listing", "include", "en", "javascript:x", "\0", "a"])
anything = st.recursive(
    _scalars | _values,
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(_keys | st.text(max_size=4), inner, max_size=5),
    max_leaves=25,
)


@given(anything)
@examples(300)
def test_any_json_is_a_menu_or_a_refusal_with_paths(value: Any) -> None:
    """Whatever is sent, reading it ends in a document or in problems that a person can find; never in anything else."""
    try:
        read_menu(value)
    except InvalidDocument as refused:
        assert refused.problems
        assert all(problem.says and "as:" not in problem.where for problem in refused.problems)


@given(body=anything)
@examples(40)
async def test_no_body_makes_the_server_fail(whole_address: str, body: Any) -> None:
    """Every write, with anything as its body: an answer below 500, as problem details where it is a refusal."""
    app = create_app(Settings(database=SecretStr(whole_address), key=KEY))
    app.state.database = Database(whole_address, SEALS, pool_size=1)
    app.state.fetcher = Fetcher()
    somebody = Person(id=UUID(int=0), name="Somebody", email="x@x.example", role="owner")
    app.dependency_overrides[signed_in] = lambda: somebody
    transport = httpx.ASGITransport(app=app, raise_app_exceptions=False)
    async with httpx.AsyncClient(transport=transport, base_url=SHELF, headers=OWN_PAGE) as api:
        for method, path in WRITES:
            headers = {"if-match": "x", "idempotency-key": "k"}
            answer = await api.request(method, path, json=body, headers=headers)
            assert answer.status_code < 500, (path, answer.text)
            if answer.status_code >= 400:
                assert answer.headers["content-type"] == "application/problem+json"
                assert answer.json()["detail"]
    await app.state.database.close()


WRITES = [
    ("POST", "/api/session"),
    ("PUT", "/api/sites/nowhere/menus/header"),
    ("POST", "/api/sites/nowhere/menus"),
    ("POST", "/api/sites/nowhere/menus/header/merge"),
    ("POST", "/api/sites/nowhere/menus/header/take-back"),
    ("POST", "/api/sites/nowhere/menus/header/listing"),
    ("POST", "/api/sites/nowhere/incoming/data"),
    ("POST", "/api/sites/nowhere/incoming/copy"),
    ("POST", "/api/sites/nowhere/incoming/live"),
    ("POST", "/api/outline"),
    ("PUT", "/api/sites/nowhere/places/header/desktop"),
    ("POST", "/api/sites/nowhere/looks/header/try"),
    ("PUT", "/api/sites/nowhere/looks/header"),
    ("POST", "/api/sites/nowhere/switch/report"),
    ("POST", "/api/sites/nowhere/switch"),
    ("POST", "/api/templates/try"),
    ("PUT", "/api/templates"),
    ("PUT", "/api/sites/nowhere/secret"),
    ("POST", "/api/take-ins/00000000-0000-0000-0000-000000000000/confirm"),
    ("POST", "/api/sites/nowhere/releases"),
]


def shown(strip: str) -> list[str]:
    """The labels that the strip shows, in document order."""
    return [unescape(words) for words in re.findall(r'<span class="text">([^<]*)</span>', strip)]


@pytest.mark.parametrize(
    ("path", "expected"),
    [
        (
            "/api/sites/brackwater/menus/header/resolved?device=phone&location=drawer",
            ["Book", "Timetables", "Contact", "Service news"],
        ),
        (
            "/api/sites/brackwater/menus/header/resolved?device=desktop&location=header&language=nl",
            ["Dienstregeling", "Boeken"],
        ),
        ("/api/sites/brackwater/menus/legal/resolved?device=tablet", ["Privacy", "Terms of carriage"]),
    ],
)
async def test_a_menu_is_resolved_for_the_device_and_language_of_the_lens(
    as_ines: httpx.AsyncClient, brackwater: StandIn, path: str, expected: list[str]
) -> None:
    found = shown((await as_ines.get(path)).json()["strip"])
    assert [label for label in found if label in expected] == expected


async def test_windows_open_at_the_moment_that_is_asked_for(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    """The summer timetable shows from 1 April 04:00 on the site's clock."""
    path = "/api/sites/brackwater/menus/header/resolved"

    async def below(at: str) -> list[str]:
        return shown((await as_ines.get(path, params={"location": "header", "at": at})).json()["strip"])

    assert "Summer" not in await below("2027-04-01T03:59")
    assert "Summer" in await below("2027-04-01T04:00")
    assert "Summer" in await below("2027-09-30T13:00")
    assert "Summer" not in await below("2027-10-01T04:00")


def test_refusals_read_as_sentences() -> None:
    refusal = Refusal("The port is taken.", where="8400", remedy="Take another one.")
    assert str(refusal) == "8400: The port is taken. Take another one."
    assert str(Refusal("No.")) == "No."


def test_problems_name_the_path_without_the_tags_of_unions() -> None:
    raw = {
        "format": "sign-shelf/menu",
        "version": 1,
        "name": "x",
        "items": [{"id": "a", "kind": "link", "target": {"page": 1}}],
    }
    with pytest.raises(ValidationError) as caught:
        MenuDocument.model_validate(raw)
    assert [problem.where for problem in problems_of(caught.value)] == ["items[0].target.page"]
    assert menu_schema()["title"].startswith("Sign Shelf menu document")


async def test_the_shelf_tells_of_each_sign_what_a_visitor_of_the_device_gets(
    as_ines: httpx.AsyncClient, brackwater: StandIn
) -> None:
    """Own, inherited and stand-in menus, what is still open, and miniatures with bars as long as the labels."""

    async def signs(device: str) -> dict[str, dict[str, Any]]:
        board = (await as_ines.get("/api/shelf/signs", params={"device": device, "site": "brackwater"})).json()[0]
        return {sign["location"]: sign for sign in board["signs"]}

    desktop = await signs("desktop")
    assert list(desktop) == ["strip", "header", "drawer", "footer", "legal"]
    assert desktop["drawer"]["leaning"] is True
    header = desktop["header"]
    assert (header["count"], header["depth"], header["pending"], header["changed"]) == (14, 2, 1, False)
    assert [(bar["chars"], bar["kind"]) for bar in header["bars"]][:2] == [(10, "plain"), (14, "plain")]
    assert header["bars"][-1]["kind"] == "button"
    assert [bar["kind"] for bar in header["bars"][3]["items"]] == ["plain", "plain", "pending"]
    tablet = await signs("tablet")
    assert tablet["header"]["placement"] == "inherited"
    phone = await signs("phone")
    assert (phone["drawer"]["leaning"], phone["header"]["leaning"]) == (False, True)
    assert (await as_ines.get("/api/shelf/signs", params={"device": "watch", "site": "brackwater"})).status_code == 422
    assert (await as_ines.get("/api/shelf/signs", params={"site": ["brackwater"] * 31})).status_code == 422
    assert (await as_ines.get("/api/shelf/signs", params={"site": "nowhere"})).json() == []


async def test_a_site_tells_its_places_devices_and_loose_menus(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    await as_ines.post("/api/sites/brackwater/menus", json={"name": "Loose"}, headers={"idempotency-key": "l"})
    site = (await as_ines.get("/api/sites/brackwater")).json()
    assert site["device_widths"]["tablet"] == {"low": 768, "high": 1099}
    assert (site["pages"], [key["kind"] for key in site["keys"]], site["connection"]) == (28, ["signing"], "endpoint")
    assert brackwater.places.secret not in json.dumps(site), "the signing key never leaves the server"
    cells = {(cell["location"], cell["device"]): cell for cell in site["cells"]}
    assert cells["header", "phone"]["placement"] == "absent"
    assert (cells["legal", "tablet"]["placement"], cells["legal", "tablet"]["from_device"]) == ("inherited", "desktop")
    assert [(menu["name"], menu["changed"]) for menu in site["menus"] if menu["hangs"] == 0] == [("Loose", True)]


async def test_every_answer_of_the_interface_is_never_kept_by_caches(
    as_ines: httpx.AsyncClient, brackwater: StandIn
) -> None:
    for path in ("/api/session", "/api/shelf", "/api/sites/brackwater", "/api/ledger"):
        assert (await as_ines.get(path)).headers["cache-control"] == "no-store"


async def test_what_a_monitoring_system_reads_is_told_to_whoever_shows_the_token(
    address: str, as_ines: httpx.AsyncClient, brackwater: StandIn
) -> None:
    shows = {"authorization": "Bearer watch-me"}
    with running(address, PROCESSES="1", METRICS_TOKEN="watch-me") as shelf:
        async with httpx.AsyncClient(base_url=shelf.base, trust_env=False, timeout=60) as client:
            first = await client.get("/api/shelf", headers={"sign-shelf-request": "mine"})
            ids = {first.headers["x-request-id"], (await client.get("/api/shelf")).headers["x-request-id"]}
            assert len(ids) == 2, "each has an id of its own, and nobody gives themselves one"
            assert "mine" not in ids
            assert (await client.get("/metrics")).status_code == 404
            assert (await client.get("/metrics", headers={"authorization": "Bearer watch"})).status_code == 404
            answer = await client.get("/metrics", headers=shows)
    assert answer.status_code == 200, answer.text
    told = {
        (sample.name, *sorted(sample.labels.values())): sample.value
        for family in text_string_to_metric_families(answer.text)
        for sample in family.samples
    }
    assert told[("sign_shelf_sites",)] == 1
    assert told["sign_shelf_requests_total", "4xx", "shelf"] == 2
    assert told["sign_shelf_request_seconds_count", "GET", "shelf"] == 2
    assert {"sign_shelf_jobs_waiting", "sign_shelf_release_lag_seconds", "sign_shelf_oldest_check_seconds"} <= {
        name for name, *_ in told
    }
    assert (await as_ines.get("/metrics", headers=shows)).status_code == 404, "without a token nobody is told"
