"""What is let in: addresses, bodies by their size, text that can be kept, and what is said where the database is away."""

import json
from typing import Any

import httpx
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import SecretStr

from sign_shelf.api.app import create_app
from sign_shelf.api.limits import body_limit
from sign_shelf.api.text import DEEPEST, MOST_PARTS, admitted, odd_text
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database
from tests.constants import KEY, OWN_PAGE, SEALS, SHELF

texts = st.text(st.characters(codec="utf-8", exclude_characters="\0"), max_size=12)
sound = st.recursive(
    st.none() | st.booleans() | st.integers(-(2**53), 2**53) | st.floats(-1e300, 1e300) | texts,
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(texts, inner, max_size=4),
    max_leaves=30,
)


@given(sound)
def test_all_that_can_be_kept_is_let_in(value: Any) -> None:
    for escaped in (True, False):
        assert admitted(json.dumps(value, ensure_ascii=escaped).encode()) is None


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b'{"a": ["\\u0000"]}', "a[0]: has a NUL"),
        (b'{"a": {"b\\u0000": 1}}', "a: has a name that has a NUL"),
        (b'["\\ud800"]', "[0]: has \\ud800"),
        (b'{"x": "\\uDFFF!"}', "x: has \\udfff"),
        (b"[1e999]", "[0]: is no number"),
        (b"[NaN]", "[0]: is no number"),
        (b'{"n": 99999999999999999999}', "n: is a larger number"),
        (b"[" * 200_000, "nests 200000 levels"),
        (b'{"a":' * 90 + b"1" + b"}" * 90, "nests 90 levels"),
        (b"[" + b"1," * (MOST_PARTS + 1), "parts"),
        (b"[[]," * 300_000, "nests 300001 levels"),
    ],
)  # fmt: skip
def test_what_cannot_be_kept_is_named_with_its_place(body: bytes, says: str) -> None:
    refused = admitted(body)
    assert refused is not None
    assert says in str(refused)


@pytest.mark.parametrize(
    "body",
    [
        b'{"a": "[[[[[[' + b"[" * 500 + b'"}',
        b'"\\\\\\"[[[\\\\"',
        b"[" * DEEPEST + b"]" * DEEPEST,
        b'"\\ud83d\\udea2 \\\\u0000"',
        b'"' + b'\\"' * 2_000_000,
        b'"' * 3_000_001,
        b"not json at all \\u0000",
        b"",
    ],
)
def test_brackets_in_strings_are_words(body: bytes) -> None:
    """Among them what would take hours where each quote were looked for anew."""
    assert admitted(body) is None


def test_half_of_a_character_is_told_from_a_whole_one() -> None:
    assert odd_text("\ud800") is not None
    assert odd_text("🚢 Łódź") is None


@pytest.mark.parametrize(
    ("method", "path", "limit"),
    [
        ("GET", "/api/shelf", 0),
        ("POST", "/api/session", 8_192),
        ("PUT", "/api/sites/x/menus/y", 16 * 1024 * 1024),
        ("POST", "/api/sites/x/places/y", 262_144),
        ("POST", "/live/x/y", 0),
    ],
)
def test_routes_take_as_much_as_they_need(method: str, path: str, limit: int) -> None:
    assert body_limit(method, path) == limit


@pytest.mark.parametrize("chunked", [False, True])
async def test_too_much_is_told_whether_its_length_is_or_not(as_ines: httpx.AsyncClient, chunked: bool) -> None:
    async def pieces() -> Any:
        for _ in range(400):
            yield b"x" * 1_024

    body: Any = pieces() if chunked else b"x" * 400 * 1_024
    answer = await as_ines.post("/api/take-ins", content=body, headers={"idempotency-key": "k"})
    assert (answer.status_code, answer.json()["type"]) == (413, "urn:sign-shelf:problem:too-large")
    assert "262144 bytes" in answer.json()["detail"]


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("POST", "/api/sites/brackwater/switch/report", {"template": "\0", "version": 1}),
        ("POST", "/api/sites/brackwater/rules/read", {"rule": "a", "above": ["\ud800"]}),
        ("POST", "/api/take-ins", {"url": "\0"}),
        ("POST", "/api/sites/brackwater/keys/delivery", {"old_counts_hours": 10**400}),
        ("PUT", "/api/sites/brackwater/looks/header", {"look": {"size": float("inf")}}),
    ],
)
@pytest.mark.usefixtures("brackwater")
async def test_no_text_and_no_number_makes_a_route_fail(
    as_ines: httpx.AsyncClient, method: str, path: str, body: dict[str, Any]
) -> None:
    raw = json.dumps(body).encode()
    headers = {"content-type": "application/json", "idempotency-key": "k"}
    answer = await as_ines.request(method, path, content=raw, headers=headers)
    assert answer.status_code == 422, answer.text
    assert "has" in answer.json()["detail"] or "is " in answer.json()["detail"]


@pytest.mark.usefixtures("brackwater")
@pytest.mark.parametrize(
    ("year", "status"), [("0001", 422), ("0999", 422), ("1899", 422), ("1900", 200), ("9990", 200), ("9999", 422)]
)
async def test_any_year_is_answered(as_ines: httpx.AsyncClient, year: str, status: int) -> None:
    for path in ("timeline?since=", "elevation?at=", "clock?at=", "places/header/audiences?at="):
        answer = await as_ines.get(f"/api/sites/brackwater/{path}{year}-06-01T10:00")
        assert answer.status_code == status, (path, answer.text)
        assert "traceback" not in answer.text.lower()


async def test_without_its_database_the_server_says_when_to_come_again(brackwater: StandIn) -> None:
    settings = Settings(database=SecretStr("postgresql://x:y@127.0.0.1:1/none"), key=KEY)
    app = create_app(settings)
    app.state.database = Database(settings.database.get_secret_value(), SEALS, pool_size=1)
    transport = httpx.ASGITransport(app=app, raise_app_exceptions=False)
    async with httpx.AsyncClient(transport=transport, base_url=SHELF, headers=OWN_PAGE) as api:
        api.cookies.set("sign_shelf_session", "x")
        for method, path in [
            ("GET", "/api/shelf"),
            ("GET", "/api/health"),
            ("GET", "/live/a/b"),
            ("POST", "/api/session"),
        ]:
            body = {"email": "a@b.example", "password": "x"} if method == "POST" else None
            answer = await api.request(method, path, json=body)
            assert (answer.status_code, answer.headers["retry-after"]) == (503, "5"), (path, answer.text)
            assert "database does not answer" in answer.json()["detail"]
        ready = await api.get("/api/health/ready")
        assert (ready.status_code, ready.json()["status"]) == (503, "the database does not answer")
    await app.state.database.close()
