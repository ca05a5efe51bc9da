"""Signing in: cookies, tokens, pauses that grow, roles, accounts that are taken away, and requests from other sites."""

import asyncio
import json
from collections.abc import AsyncIterator
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from typing import Any
from uuid import uuid4

import httpx
import pytest
from pydantic import SecretStr
from sqlalchemy import text
from starlette.requests import Request

from sign_shelf.api.app import create_app
from sign_shelf.api.guards import client_address
from sign_shelf.core.errors import Clash, NotAllowed, Refusal
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk import people
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import Person
from sign_shelf.desk.sign_in import ACCOUNT, ADDRESS, BROWSER, Asked, TooManyTries, sign_in, who
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database
from tests.accounts import sign_in as enter
from tests.constants import KEY, OWN_PAGE, PASSWORD, SHELF
from tests.desk.conftest import on_shelf

NOW = datetime(2026, 11, 24, 12, 0, tzinfo=UTC)
DAY = timedelta(days=1)


@pytest.fixture
async def owen(database: Database) -> Person:
    return await add_person(
        database, email="owen@quillfen.example", name="Owen Marsh", password=PASSWORD, role="owner", now=NOW
    )


@pytest.fixture
async def elsewhere(configured: Settings, database: Database) -> AsyncIterator[httpx.AsyncClient]:
    """Another browser."""
    app = create_app(configured)
    app.state.database = database
    transport = httpx.ASGITransport(app=app)
    async with httpx.AsyncClient(transport=transport, base_url=SHELF, headers=OWN_PAGE) as client:
        yield client


async def tried(database: Database, email: str, password: str, now: datetime, asked: Asked) -> str:
    try:
        await sign_in(database, email=email, password=SecretStr(password), asked=asked, now=now, lasts=DAY)
    except (NotAllowed, TooManyTries) as refusal:
        return refusal.code
    return "in"


async def test_a_session_lives_on_the_server_and_ends_with_sign_out(api: httpx.AsyncClient, ines: Person) -> None:
    answer = await api.post("/api/session", json={"email": " INES@quillfen.example", "password": PASSWORD})
    for cookie in answer.headers.get_list("set-cookie"):
        assert "httponly" in cookie.lower()
        assert "samesite=lax" in cookie.lower()
    assert (await api.get("/api/session")).json()["name"] == "Ines Calder"
    kept = dict(api.cookies)
    assert (await api.delete("/api/session")).status_code == 204
    api.cookies.update(kept)
    assert (await api.get("/api/session")).status_code == 401


async def test_cookies_go_over_https_alone_where_it_is_said(
    configured: Settings, database: Database, ines: Person
) -> None:
    app = create_app(configured.model_copy(update={"secure_cookies": True}))
    app.state.database = database
    async with httpx.AsyncClient(transport=httpx.ASGITransport(app=app), base_url=SHELF, headers=OWN_PAGE) as client:
        answer = await client.post("/api/session", json={"email": ines.email, "password": PASSWORD})
    assert all("secure" in cookie.lower() for cookie in answer.headers.get_list("set-cookie"))


async def test_sixty_tries_at_once_are_not_more_than_one_may_have(database: Database, ines: Person) -> None:
    """They come from sixty addresses, the right password among them; what is not tried says when to come again."""
    asked = [(f"wrong {n}" if n != 41 else PASSWORD, Asked(address=f"198.51.100.{n}")) for n in range(60)]
    answers = await asyncio.gather(*(tried(database, ines.email, word, NOW, where) for word, where in asked))
    assert answers.count("too-many-tries") == 60 - ACCOUNT.free
    assert answers.count("not-allowed") + answers.count("in") == ACCOUNT.free


async def test_pauses_grow_and_keep_nobody_out_for_long(database: Database, ines: Person) -> None:
    """Whoever guesses waits longer and longer; who knows the password waits half a minute at most, and in a browser of
    theirs not at all."""
    here = Asked(address="203.0.113.7")
    first = await sign_in(database, email=ines.email, password=SecretStr(PASSWORD), asked=here, now=NOW, lasts=DAY)
    at, waited = NOW, []
    for n in range(ACCOUNT.free + 12):
        stranger = Asked(address=f"198.51.100.{n}")
        while await tried(database, ines.email, "wrong", at, stranger) == "too-many-tries":
            at += timedelta(seconds=1)
        waited.append(at)
    pauses = [int((later - earlier).total_seconds()) for earlier, later in pairwise(waited)]
    assert pauses == [0, 0, 0, 0, 1, 2, 4, 8, 16, *[ACCOUNT.longest_s] * 7]
    assert await tried(database, ines.email, PASSWORD, at, here) == "too-many-tries"
    assert await tried(database, ines.email, PASSWORD, at + timedelta(seconds=ACCOUNT.longest_s), here) == "in"
    for n in range(9):
        await tried(database, ines.email, "wrong", at + timedelta(minutes=1), Asked(address=f"198.51.100.{n}"))
    known = Asked(address="192.0.2.200", mark=first.mark)
    assert await tried(database, ines.email, PASSWORD, at + timedelta(minutes=1), known) == "in"
    for _ in range(BROWSER.free):
        assert await tried(database, ines.email, "wrong", at, known) == "not-allowed"
    assert await tried(database, ines.email, PASSWORD, at, known) == "too-many-tries", (
        "a known browser guesses no faster"
    )


async def test_one_address_cannot_try_every_account(database: Database, ines: Person) -> None:
    """Nor does an account of one's own buy more tries at others; and an IPv6 network is one address."""
    here = [Asked(address=f"2001:db8:7:7::{n:x}") for n in range(1, ADDRESS.free + 3)]
    for n, asked in enumerate(here[:-1]):
        if n == 10:
            assert await tried(database, ines.email, PASSWORD, NOW, asked) == "in"
        else:
            assert await tried(database, f"nobody{n}@x.example", "wrong", NOW, asked) == "not-allowed"
    assert await tried(database, "somebody@x.example", "wrong", NOW, here[-1]) == "too-many-tries"
    assert await tried(database, "somebody@x.example", "wrong", NOW, Asked(address="2001:db8:8::1")) == "not-allowed"


async def test_refused_tries_say_when_to_come_again(api: httpx.AsyncClient, ines: Person) -> None:
    for email in (ines.email, "nobody@quillfen.example"):
        answers = [
            await api.post("/api/session", json={"email": email, "password": "wrong"}) for _ in range(ACCOUNT.free + 1)
        ]
        assert [answer.status_code for answer in answers] == [403] * ACCOUNT.free + [429]
        assert answers[-1].headers["retry-after"] == "1" or answers[-1].headers["retry-after"] == "2"
        assert "seconds" in answers[-1].json()["remedy"]


@pytest.mark.parametrize(
    ("told", "proxies", "address"),
    [
        ("", "", "10.0.0.1"),
        ("203.0.113.9", "", "10.0.0.1"),
        ("203.0.113.9", "10.0.0.0/8", "203.0.113.9"),
        ("1.2.3.4, 203.0.113.9, 10.0.0.5", "10.0.0.0/8", "203.0.113.9"),
        ("1.2.3.4, nonsense", "10.0.0.1", "10.0.0.1"),
    ],
)
def test_who_a_proxy_speaks_for_is_believed_of_our_own_alone(told: str, proxies: str, address: str) -> None:
    settings = Settings(database=SecretStr("x"), key=KEY, proxies=proxies)
    scope = {"type": "http", "client": ("10.0.0.1", 1), "headers": [(b"x-forwarded-for", told.encode())]}
    assert client_address(Request(scope), settings) == address


@pytest.mark.parametrize("method", ["POST", "DELETE"])
async def test_other_sites_cannot_make_requests_for_a_person(as_ines: httpx.AsyncClient, method: str) -> None:
    """Fetch Metadata and Origin are both heeded, and a write must say where it comes from."""
    foreign = [
        {"sec-fetch-site": "cross-site"}, {"sec-fetch-site": "same-site"}, {"origin": "https://evil.example"},
        {"origin": "null"}, {"origin": "null", "host": ""}, {"origin": "http://shelf.example.evil.example"}, {"origin": "http://shelf.example:81"},
    ]  # fmt: skip
    for headers in foreign:
        answer = await as_ines.request(method, "/api/session", headers=headers)
        assert (answer.status_code, answer.json()["type"]) == (403, "urn:sign-shelf:problem:cross-site"), headers
    del as_ines.headers["origin"]
    assert (await as_ines.delete("/api/session")).json()["type"] == "urn:sign-shelf:problem:cross-site"
    own = {"sec-fetch-site": "same-origin", "origin": SHELF}
    assert (await as_ines.delete("/api/session", headers=own)).status_code == 204


async def test_a_program_works_with_a_token_and_needs_no_page(
    as_ines: httpx.AsyncClient, elsewhere: httpx.AsyncClient, brackwater: StandIn
) -> None:
    made = await as_ines.post("/api/session/tokens", json={"name": "nightly check"})
    token = made.json()["token"]
    del elsewhere.headers["origin"]
    for scheme in ("Bearer", "bearer", "BEARER"):
        shown = {"authorization": f"{scheme} {token}"}
        assert (await elsewhere.get("/api/session", headers=shown)).json()["name"] == "Ines Calder"
    new = await elsewhere.post(
        "/api/sites/brackwater/menus", json={"name": "By a program"}, headers=shown | {"idempotency-key": "k"}
    )
    assert new.status_code == 201
    listed = (await as_ines.get("/api/session/sign-ins")).json()
    assert [(one["name"], one["here"]) for one in listed] == [("nightly check", False), ("", True)]
    assert token not in json.dumps(listed)
    assert (await as_ines.delete(f"/api/session/sign-ins/{listed[0]['id']}")).status_code == 204
    assert (await elsewhere.get("/api/session", headers=shown)).status_code == 401
    assert (await as_ines.delete(f"/api/session/sign-ins/{listed[0]['id']}")).status_code == 404


async def test_a_token_may_what_it_was_made_for_where_it_was_made_for_and_until_its_end(
    as_ines: httpx.AsyncClient, elsewhere: httpx.AsyncClient, brackwater: StandIn, database: Database
) -> None:
    del elsewhere.headers["origin"]

    async def asked(token: str, method: str, path: str, **given: Any) -> httpx.Response:
        shown = {"authorization": f"Bearer {token}", "idempotency-key": uuid4().hex}
        return await elsewhere.request(method, path, headers=shown, **given)

    async def token(**of: Any) -> str:
        made = await as_ines.post("/api/session/tokens", json={"name": "nightly"} | of)
        assert made.status_code == 201, made.text
        return str(made.json()["token"])

    site = "/api/sites/brackwater"
    new_menu, goes = ("post", f"{site}/menus", {"json": {"name": "By a program"}}), ("post", f"{site}/releases", {})
    freeze = (
        "post",
        "/api/freezes",
        {"json": {"begins": "2027-01-01T00:00", "ends": "2027-01-02T00:00", "why": "Fair"}},
    )
    more = ("post", "/api/session/tokens", {"json": {"name": "another"}})
    for scope, answers in {
        "look": (403, 403, 403, 403), "edit": (201, 403, 403, 403), "put live": (201, 422, 403, 403),
        "all": (201, 422, 201, 201),
    }.items():  # fmt: skip
        mine = await token(scope=scope)
        assert (await asked(mine, "get", site)).status_code == 200
        found = [await asked(mine, method, path, **given) for method, path, given in (new_menu, goes, freeze, more)]
        assert [one.status_code for one in found] == list(answers), (scope, [one.text for one in found])
        given = {"old": "guess", "new": "four words in a row"}
        refused = await asked(mine, "put", "/api/session/password", json=given)
        assert (refused.status_code, refused.json()["where"]) == (403, "session/password"), (
            "no program tries a password"
        )
        if scope == "look":
            assert found[0].json()["detail"] == "The token nightly may not edit."
            break_all = await asked(mine, "delete", "/api/session/sign-ins")
            assert break_all.status_code == 403
    assert (await as_ines.post("/api/session/tokens", json={"name": "x", "only_at": ["nowhere"]})).status_code == 404
    assert (await as_ines.post("/api/session/tokens", json={"name": "x", "days": 0})).status_code == 422
    mine = (await as_ines.get("/api/session/sign-ins")).json()
    await on_shelf(database, "other", {"top": ["https://x.example/"]})
    kept_to = await token(scope="edit", only_at=["other"], days=2)
    assert [(await asked(kept_to, "get", f"/api/sites/{key}")).status_code for key in ("other", "brackwater")] == [
        200,
        403,
    ]
    assert [one["key"] for one in (await asked(kept_to, "get", "/api/shelf/sites")).json()] == ["other"]
    (listed,) = [one for one in (await as_ines.get("/api/session/sign-ins")).json() if one["only_at"]]
    assert (listed["scope"], listed["only_at"]) == ("edit", ["other"])
    lasts = datetime.fromisoformat(listed["until"]) - datetime.fromisoformat(listed["since"])
    assert lasts == timedelta(days=2)
    async with database.transaction() as session:
        over = text("UPDATE signed_in SET expires_at = now() - interval '1 second' WHERE name <> ''")
        await (await session.connection()).execute(over)
    assert (await asked(kept_to, "get", "/api/sites/other")).status_code == 401
    assert len(mine) == 6, "four tokens, one that a token made, and hers"


async def test_a_new_password_ends_every_other_sign_in(
    as_ines: httpx.AsyncClient, elsewhere: httpx.AsyncClient, ines: Person
) -> None:
    await enter(elsewhere, ines.email)
    wrong = await as_ines.put("/api/session/password", json={"old": "not this", "new": "four words in a row"})
    assert (wrong.status_code, wrong.json()["where"]) == (403, "old")
    weak = await as_ines.put("/api/session/password", json={"old": PASSWORD, "new": "password1234"})
    assert (weak.status_code, "common password" in weak.json()["detail"]) == (422, True)
    good = await as_ines.put("/api/session/password", json={"old": PASSWORD, "new": "four words in a row"})
    assert good.status_code == 204
    assert (await elsewhere.get("/api/session")).status_code == 401
    assert (await as_ines.get("/api/session")).status_code == 200
    again = await elsewhere.post("/api/session", json={"email": ines.email, "password": "four words in a row"})
    assert again.status_code == 200
    assert (await as_ines.delete("/api/session/sign-ins")).status_code == 204
    assert (await elsewhere.get("/api/session")).status_code == 401


async def test_a_stolen_session_cannot_guess_the_password(as_ines: httpx.AsyncClient) -> None:
    body = {"old": "guess", "new": "four words in a row"}
    answers = [(await as_ines.put("/api/session/password", json=body)).status_code for _ in range(ACCOUNT.free + 1)]
    assert answers == [403] * ACCOUNT.free + [429]


async def test_access_can_be_taken_away_and_given_again(
    api: httpx.AsyncClient, elsewhere: httpx.AsyncClient, owen: Person, tom: Person
) -> None:
    await enter(api, owen.email)
    await enter(elsewhere, tom.email)
    people_ = {one["name"]: one for one in (await api.get("/api/people")).json()}
    assert set(people_) == {"Owen Marsh", "Tom Arkwright"}
    where = f"/api/people/{people_['Tom Arkwright']['id']}"
    seen = (await api.get(f"{where}/sign-ins")).json()
    assert [one["here"] for one in seen] == [False]
    assert (await api.put(f"{where}/disabled", json={"disabled": True})).status_code == 204
    assert (await elsewhere.get("/api/session")).status_code == 401
    kept_out = await elsewhere.post("/api/session", json={"email": tom.email, "password": PASSWORD})
    assert (kept_out.status_code, kept_out.json()["detail"]) == (403, "E-mail address and password do not match.")
    mine = f"/api/people/{people_['Owen Marsh']['id']}/disabled"
    assert (await api.put(mine, json={"disabled": True})).status_code == 409
    assert (await api.put(f"{where}/disabled", json={"disabled": False})).status_code == 204
    assert (await api.put(f"{where}/password", json={"password": "a lamp on the quay"})).status_code == 204
    inside = await elsewhere.post("/api/session", json={"email": tom.email, "password": "a lamp on the quay"})
    assert inside.status_code == 200
    assert (await api.delete(f"{where}/sign-ins")).status_code == 204
    assert (await elsewhere.get("/api/session")).status_code == 401
    new = {"email": "Nell@quillfen.example", "name": "Nell", "role": "editor", "password": "salt and tall grass"}
    assert (await api.post("/api/people", json=new)).json()["email"] == "nell@quillfen.example"
    told = [line["says"] for line in (await api.get("/api/ledger")).json()]
    assert told[0] == "Added the account of Nell, editor"
    assert "Disabled the account of Tom Arkwright" in told


@pytest.mark.parametrize(
    ("email", "name", "password", "role", "says"),
    [
        ("ines@quillfen.example", "X", PASSWORD, "editor", "already"),
        ("x@x.example", "X", PASSWORD, "king", "Roles are owner, lead"),
        ("x@x.example", "X", "short", "editor", "5 signs"),
        ("x@x.example", "X", "x" * 201, "editor", "at most 200"),
        ("x@x.example", "X", "letmeinletmein", "editor", "easy to guess|Repeats"),
        ("x@x.example", "Xanthe Quill", "Xanthe Quill", "editor", "easy to guess"),
        ("ines", "X", PASSWORD, "editor", "no e-mail address"),
        ("a b@x.example", "X", PASSWORD, "editor", "no e-mail address"),
        ("a@x..example", "X", PASSWORD, "editor", "no e-mail address"),
        ("x@x.example", "two\nlines", PASSWORD, "editor", "on one line"),
    ],
)
async def test_accounts_that_cannot_be_are_refused(
    database: Database, ines: Person, email: str, name: str, password: str, role: str, says: str
) -> None:
    with pytest.raises((Refusal, Clash)) as refused:
        await add_person(database, email=email, name=name, password=password, role=role, now=NOW)
    assert refused.match(says)


async def test_every_password_that_can_be_kept_signs_in(database: Database) -> None:
    longest = "".join(chr(0x4E00 + n * n * 7 % 8_191) for n in range(200))
    await add_person(database, email="long@x.example", name="Long", password=longest, role="viewer", now=NOW)
    assert await tried(database, "long@x.example", longest, NOW, Asked(address="192.0.2.1")) == "in"
    assert await tried(database, "long@x.example", longest[:-1], NOW, Asked(address="192.0.2.1")) == "not-allowed"


async def test_sessions_are_kept_by_hash_and_end_in_time(database: Database, ines: Person) -> None:
    made = await sign_in(
        database, email=ines.email, password=SecretStr(PASSWORD), asked=Asked(address="192.0.2.1"), now=NOW, lasts=DAY
    )
    assert made.person == ines
    rows = await people.sign_ins(database, ines, ines.id, NOW)
    assert made.token.get_secret_value() not in repr((rows, made))
    assert await who(database, made.token, NOW) == ines
    assert await who(database, made.token, NOW + DAY) is None


async def test_a_viewer_may_look_and_nothing_else(
    api: httpx.AsyncClient, database: Database, brackwater: StandIn
) -> None:
    await add_person(
        database, email="guest@quillfen.example", name="Guest", password=PASSWORD, role="viewer", now=datetime.now(UTC)
    )
    await enter(api, "guest@quillfen.example")
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
        api.post("/api/sites/brackwater/keys/delivery", json={}),
        api.get("/api/people"),
    ]
    for write in writes:
        answer = await write
        assert (answer.status_code, answer.json()["title"]) == (403, "Not allowed")


async def test_keys_of_sites_are_told_once_and_the_one_before_counts_for_a_while(
    as_ines: httpx.AsyncClient, brackwater: StandIn
) -> None:
    first = (await as_ines.post("/api/sites/brackwater/keys/delivery", json={})).json()
    second = (await as_ines.post("/api/sites/brackwater/keys/delivery", json={"old_counts_hours": 2})).json()
    site = await as_ines.get("/api/sites/brackwater")
    assert [(one["kind"], one["until"] is None) for one in site.json()["keys"]] == [
        ("delivery", True), ("delivery", False), ("signing", True),
    ]  # fmt: skip
    assert site.json()["keys"][1]["until"] == second["old_counts_until"]
    for key in (first["key"], second["key"], brackwater.places.secret):
        assert key not in site.text
    wrong = await as_ines.put("/api/sites/brackwater/secret", json={"secret": "whsec_" + "A" * 32})
    assert (wrong.status_code, "does not know" in wrong.json()["detail"]) == (422, True)
    # As the site's back office does it: from now on this one counts there.
    brackwater.places.secret = "whsec_" + "B" * 32
    right = await as_ines.put("/api/sites/brackwater/secret", json={"secret": brackwater.places.secret})
    assert right.status_code == 204, right.text
    kinds = [one["kind"] for one in (await as_ines.get("/api/sites/brackwater")).json()["keys"]]
    assert kinds == ["signing", "delivery", "delivery", "signing"], "menus are signed with both for a day"


@pytest.mark.parametrize(
    "path", ["/api/shelf", "/api/sites/brackwater", "/api/ledger", "/api/sites/x/menus/y", "/api/sites/x/pages"]
)
async def test_nothing_is_told_to_whom_nobody_knows(api: httpx.AsyncClient, path: str) -> None:
    api.cookies.set("sign_shelf_session", "made-up")
    assert (await api.get(path)).status_code == 401


@pytest.mark.parametrize(
    ("method", "path", "status"),
    [
        ("GET", "/api/health", 200),
        ("GET", "/api/nowhere", 401),
        ("GET", "/live/nowhere/header", 401),
        ("GET", "/live/%00/header", 422),
        ("POST", "/api/session", 413),
        ("POST", "/live/x/y", 405),
        ("GET", "/", 200),
    ],
)
async def test_every_answer_carries_the_guards_of_the_browser(
    api: httpx.AsyncClient, method: str, path: str, status: int
) -> None:
    answer = await api.request(method, path, content=b"x" * 9_000 if status == 413 else None)
    assert answer.status_code == status
    assert "default-src 'none'" in answer.headers["content-security-policy"]
    assert answer.headers["x-content-type-options"] == "nosniff"
