"""Every route of the published interface, by its own description: who may use it, and that nothing makes it fail."""

import itertools
import json
import os
import re
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from pathlib import Path
from random import Random
from typing import Any, TypeVar

import httpx
import pytest

from sign_shelf.desk.people import add_person
from sign_shelf.store.database import Database
from tests.accounts import sign_in
from tests.constants import PASSWORD

DESCRIBED = json.loads((Path(__file__).parents[2] / "docs" / "openapi.json").read_text())
OPEN = {
    ("post", "/api/session"),
    ("delete", "/api/session"),
    ("get", "/api/health"),
    ("get", "/api/health/ready"),
    ("get", "/api/schemas/menu.json"),
    ("get", "/api/session/elsewhere"),
    ("post", "/api/invitations/{token}"),
}
"""What answers to whom nobody knows."""
BY_LINK = {("get", "/api/invitations/{token}")}
"""What answers to whoever has the link, and to others that there is nothing."""
WITHOUT_RIGHTS = {
    ("post", "/api/outline"),
    ("post", "/api/sweeps/preview"),
    ("put", "/api/shelf/views/{name}"),
    ("delete", "/api/shelf/views/{name}"),
    ("post", "/api/templates/try"),
    ("post", "/api/sites/{site}/looks/{location}/try"),
    ("post", "/api/sites/{site}/switch/report"),
    ("post", "/api/sites/{site}/facts/try"),
    ("post", "/api/fact-sets/{key}/try"),
    ("post", "/api/sites/{site}/rules/read"),
    ("post", "/api/sites/{site}/menus/{menu}/listing"),
    ("post", "/api/sites/{site}/menus/{menu}/take-back"),
    ("delete", "/api/session"),
    ("post", "/api/session"),
    ("put", "/api/session/password"),
    ("delete", "/api/session/sign-ins"),
    ("delete", "/api/session/sign-ins/{sign_in_id}"),
    ("post", "/api/session/tokens"),
    ("post", "/api/session/second-factor"),
    ("put", "/api/session/second-factor"),
    ("delete", "/api/session/second-factor"),
    ("post", "/api/invitations/{token}"),
    ("put", "/api/there/{change}"),
    ("post", "/api/sites/{site}/changes/{change}/settling"),
    ("post", "/api/there/{change}/gone"),
    ("put", "/api/changes/{change}/looked"),
    ("post", "/api/changes/{change}/remarks"),
    ("put", "/api/changes/{change}/remarks/{remark}/settled"),
    ("post", "/api/feeds"),
    ("delete", "/api/feeds"),
    ("post", "/api/notices/channels"),
    ("put", "/api/notices/channels/{channel_id}"),
    ("delete", "/api/notices/channels/{channel_id}"),
    ("post", "/api/notices/channels/{channel_id}/trial"),
    ("post", "/api/notices/{notice_id}/again"),
}
"""What is asked with a body and changes nothing, or is for everybody who has signed in."""
GOOD = {
    "site": "brackwater",
    "menu": "header",
    "location": "header",
    "device": "desktop",
    "key": "quayside",
    "version": "1",
    "kind": "css",
    "format": "outline",
    "name": "x",
}
ODD_PATHS = [
    "nowhere",
    "%00",
    "..%2F..%2Fetc",
    "a" * 5_000,
    "%F0%9F%9A%A2",
    "%27%3B%20DROP%20TABLE%20site%3B--",
    "-1",
    "1e999",
]
ODD_QUERIES = ["", "\0", "x" * 6_000, "-1", "99999999999999999999", "1e999", "NaN", "[]", "{", '{"roles": {"a": [[]]}}', "null",
               "2027-02-30T99:99", "9999-12-31T23:59", "0001-01-01T00:00", "../..", "'; DROP TABLE site; --", "é\u202e"]  # fmt: skip
ODD_BODIES: list[Any] = [None, [], {}, "x", 0, {"x": 1}, {"menu": {}}, {"look": {"size": "big"}}, {"look": None},
              {"known": []}, {"known": {"facts": {"a": 1}}}, {"known": {"audiences": {"a": {"roles": {}}}}, "mends": {"a": 1}},
              {"rule": "x" * 150_000}, {"rule": "(" * 9_000}, {"rule": "\ud800"},
              {"rule": "\0"}, {"name": "half \ud800", "outline": "\udfff"}, {"ours": {"name": "\ud800"}}, {"rule": "a", "above": ["(", "never", "x" * 5_000]}, {"keys": ["template", "look header", "\0"]},
              {"template": {"key": "\ud800"}}, {"list": {"limit": 10**30}}, {"document": {"items": [[[[]]]]}, "keys": [1]},
              {"name": "\u202e", "outline": "\t" * 9_000}, {"matches": {"header": 3}, "template": "quayside", "version": 1}]  # fmt: skip


def routes() -> Iterator[tuple[str, str, dict[str, Any]]]:
    for path, methods in DESCRIBED["paths"].items():
        for method, about in methods.items():
            if method in {"get", "post", "put", "delete"}:
                yield method, path, about


ROUTES = list(routes())
WHOLE = bool(os.environ.get("ATTACK"))
T = TypeVar("T")


def some(odd: Sequence[T], key: str) -> Sequence[T]:
    """Of what is odd: all of it in `make test-attack`, else a third, which differs from route to route."""
    return odd if WHOLE else Random(key).sample(odd, len(odd) // 3)


CHANGES = [one for one in ROUTES if one[0] != "get" and one[:2] not in WITHOUT_RIGHTS]


def filled(path: str, **other: str) -> str:
    return re.sub(r"\{(\w+)\}", lambda name: other.get(name[1], GOOD.get(name[1], "1")), path)


def test_every_route_says_what_it_is_for() -> None:
    """And the client's own checks hold: each has one id, a noun's tag, and says what it answers."""
    ids = [about["operationId"] for _, _, about in ROUTES]
    assert len(set(ids)) == len(ids)
    for method, path, about in ROUTES:
        assert about["tags"] or path.startswith("/api/health"), (method, path)
        assert any(code.startswith("2") for code in about["responses"]), (method, path)


@pytest.mark.usefixtures("brackwater")
async def test_nobody_gets_anywhere_without_signing_in(api: httpx.AsyncClient) -> None:
    for method, path, about in ROUTES:
        answer = await api.request(method, filled(path), json={} if "requestBody" in about else None)
        asked = (method, path, answer.status_code, answer.text)
        if (method, path) in OPEN:
            assert answer.status_code != 404, asked
        elif (method, path) in BY_LINK:
            assert answer.status_code == 404, asked
        else:
            assert answer.status_code == 401, asked
            told = answer.text.lower().replace(filled(path), "").replace("sites/brackwater", "")
            assert "brackwater" not in told, asked


@pytest.mark.usefixtures("brackwater")
async def test_who_may_only_look_changes_nothing_by_any_route(api: httpx.AsyncClient, database: Database) -> None:
    """Whatever the body is like: the ledger has not a line more, and the site is as it was."""
    vera = await add_person(
        database, email="vera@quillfen.example", name="Vera", password=PASSWORD, role="viewer", now=datetime.now(UTC)
    )
    await sign_in(api, vera.email)
    before = (await api.get("/api/sites/brackwater")).json()
    lines = (await api.get("/api/ledger")).json()
    headers = {"if-match": '"x"', "idempotency-key": "k"}
    bodies: list[Any] = [
        {},
        {"menu": None},
        {"look": {"size": 20}},
        {"known": {}, "sets": []},
        {"keys": ["template"]},
        {"template": "quayside", "version": 1, "matches": {}},
        {"name": "x"},
        {"url": "https://x.example/"},
        {"secret": "whsec_" + "a" * 32},
        {"base": "sha256:0", "ours": {}, "choices": {}},
    ]
    for method, path, about in CHANGES:
        for body in bodies if "requestBody" in about else [None]:
            answer = await api.request(method, filled(path), json=body, headers=headers)
            assert answer.status_code in {403, 404, 409, 422}, (method, path, body, answer.text)
    assert (await api.get("/api/sites/brackwater")).json() == before
    assert (await api.get("/api/ledger")).json() == lines
    refused = await api.put("/api/sites/brackwater/facts", json={"known": {}, "sets": []}, headers=headers)
    assert (refused.status_code, "The role viewer may not design" in refused.text) == (403, True)


@pytest.mark.usefixtures("brackwater")
@pytest.mark.parametrize("part", range(2))
async def test_no_path_and_no_query_makes_a_route_fail(as_ines: httpx.AsyncClient, part: int) -> None:
    """Looked at with odd names in the path and odd values in every parameter: answered, with a sentence where refused."""
    asked = 0
    for _, path, about in [one for one in ROUTES if one[0] == "get"][part::2]:
        names = re.findall(r"\{(\w+)\}", path)
        urls = [filled(path, **{name: odd}) for name in names for odd in some(ODD_PATHS, path + name)]
        queries = [
            {one["name"]: odd}
            for one in about.get("parameters", [])
            if one["in"] == "query"
            for odd in some(ODD_QUERIES, path + one["name"])
        ]
        requests = [*((url, {}) for url in urls), *((filled(path), query) for query in queries)]
        for url, query in requests:
            answer = await as_ines.get(url, params=query)
            asked += 1
            assert answer.status_code < 500, (url, query, answer.text)
            if answer.status_code >= 400 and answer.headers["content-type"] == "application/problem+json":
                told = answer.json()
                assert told["detail"]
                assert len(answer.text) < 20_000
                assert "Traceback" not in answer.text
    assert asked > 20


async def test_no_sign_in_makes_the_server_fail(api: httpx.AsyncClient) -> None:
    for email in ["\0", "a@b.example\0", "x" * 90_000, "é@é.example", "' OR 1=1 --", "\ud800"]:
        for password in ["\0", "x" * 90_000, "\ud800"]:
            raw = json.dumps({"email": email, "password": password}).encode()
            answer = await api.post("/api/session", content=raw, headers={"content-type": "application/json"})
            assert answer.status_code in {403, 413, 422, 429}, (email[:20], password[:20], answer.text[:200])


@pytest.mark.usefixtures("brackwater")
@pytest.mark.parametrize("part", range(2))
async def test_no_body_makes_a_route_fail(as_ines: httpx.AsyncClient, part: int) -> None:
    takes = [(method, path) for method, path, about in ROUTES if "requestBody" in about and path != "/api/session"]
    numbers = itertools.count()
    for method, path in takes[part::2]:
        for body in some(ODD_BODIES, path):
            headers = {"if-match": '"sha256:0"', "idempotency-key": f"odd {next(numbers)}"}
            raw = json.dumps(body).encode()
            answer = await as_ines.request(
                method, filled(path), content=raw, headers={**headers, "content-type": "application/json"}
            )
            assert answer.status_code < 500, (method, path, str(body)[:80], answer.text[:300])
        for raw, kind in [
            (b"\xff\xfe", "application/json"),
            (b"{" * 5_000, "application/json"),
            (b"a=1", "text/plain"),
        ]:
            headers = {"if-match": '"x"', "idempotency-key": f"odd {next(numbers)}", "content-type": kind}
            answer = await as_ines.request(method, filled(path), content=raw, headers=headers)
            assert answer.status_code < 500, (method, path, raw[:20], answer.text[:300])
    site = (await as_ines.get("/api/sites/brackwater")).json()
    assert site["name"] == "Brackwater Ferries", "and the site is there afterwards"
