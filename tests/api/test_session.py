"""Signing in: cookies, limits, roles, and requests from other sites."""

from datetime import UTC, datetime

import httpx
import pytest

from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.permission import Person
from sign_shelf.desk.sign_in import FAILURES_FOR_ACCOUNT, add_person
from sign_shelf.store.database import Database
from tests.conftest import PASSWORD, sign_in


async def test_a_session_lives_on_the_server_and_ends_with_sign_out(api: httpx.AsyncClient, ines: Person) -> None:
    answer = await api.post("/api/session", json={"email": " INES@quillfen.example", "password": PASSWORD})
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=lax" in cookie
    assert (await api.get("/api/session")).json()["name"] == "Ines Calder"
    kept = dict(api.cookies)
    assert (await api.delete("/api/session")).status_code == 204
    api.cookies.update(kept)
    assert (await api.get("/api/session")).status_code == 401


async def test_wrong_passwords_are_limited_for_known_and_unknown_accounts(api: httpx.AsyncClient, ines: Person) -> None:
    for email in (ines.email, "nobody@quillfen.example"):
        answers = [
            await api.post("/api/session", json={"email": email, "password": "wrong"})
            for _ in range(FAILURES_FOR_ACCOUNT + 1)
        ]
        assert [answer.status_code for answer in answers] == [403] * FAILURES_FOR_ACCOUNT + [429]
        assert "quarter of an hour" in answers[-1].json()["remedy"]
    locked = await api.post("/api/session", json={"email": ines.email, "password": PASSWORD})
    assert locked.status_code == 429


async def test_other_sites_cannot_make_requests_for_a_person(as_ines: httpx.AsyncClient) -> None:
    """Fetch Metadata and Origin are both heeded; our own pages are let through."""
    for headers in ({"sec-fetch-site": "cross-site"}, {"origin": "https://evil.example"}):
        answer = await as_ines.delete("/api/session", headers=headers)
        assert (answer.status_code, answer.json()["type"]) == (403, "urn:sign-shelf:problem:cross-site")
    own = {"sec-fetch-site": "same-origin", "origin": "http://shelf.example"}
    assert (await as_ines.delete("/api/session", headers=own)).status_code == 204


async def test_a_viewer_may_look_and_nothing_else(
    api: httpx.AsyncClient, database: Database, brackwater: StandIn
) -> None:
    await add_person(
        database, email="guest@quillfen.example", name="Guest", password=PASSWORD, role="viewer", now=datetime.now(UTC)
    )
    await sign_in(api, "guest@quillfen.example")
    bench = (await api.get("/api/sites/brackwater/menus/header")).json()
    writes = [
        api.put(
            "/api/sites/brackwater/menus/header",
            json=bench["document"] | {"name": "x"},
            headers={"if-match": bench["hash"]},
        ),
        api.post("/api/sites/brackwater/menus", json={"name": "x"}, headers={"idempotency-key": "a"}),
        api.post("/api/sites/brackwater/releases", headers={"idempotency-key": "b"}),
        api.post("/api/take-ins", json={"url": "https://x.example"}, headers={"idempotency-key": "c"}),
        api.put("/api/sites/brackwater/places/header/desktop", json={"menu": "footer"}),
        api.put("/api/sites/brackwater/secret", json={"secret": "whsec_AAAA"}),
    ]
    for write in writes:
        answer = await write
        assert (answer.status_code, answer.json()["title"]) == (403, "Not allowed")


@pytest.mark.parametrize(
    "path", ["/api/shelf", "/api/sites/brackwater", "/api/ledger", "/api/sites/x/menus/y", "/api/sites/x/pages"]
)
async def test_nothing_is_told_to_whom_nobody_knows(api: httpx.AsyncClient, path: str) -> None:
    api.cookies.set("sign_shelf_session", "made-up")
    assert (await api.get(path)).status_code == 401


async def test_every_answer_carries_the_guards_of_the_browser(api: httpx.AsyncClient) -> None:
    headers = (await api.get("/api/health")).headers
    assert "script-src 'self'" in headers["content-security-policy"]
    assert headers["x-content-type-options"] == "nosniff"
