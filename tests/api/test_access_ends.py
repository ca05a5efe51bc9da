"""What ends when: each row of the table in docs/roles.md, with everything that a person can have open at once."""

from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import AsyncExitStack
from dataclasses import dataclass
from datetime import UTC, datetime
from uuid import UUID

import httpx
import pyotp
import pytest
from sqlalchemy import text

from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import Person
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database
from tests.accounts import browser_at, sign_in
from tests.constants import PASSWORD

NEW = "a lamp on the quay"


@dataclass
class Open:
    """Somebody at two browsers, with a token and a feed address; and an owner."""

    person: Person
    here: httpx.AsyncClient
    elsewhere: httpx.AsyncClient
    owner: httpx.AsyncClient
    stranger: httpx.AsyncClient
    token: str
    feed: str

    def program(self) -> dict[str, str]:
        return {"authorization": f"Bearer {self.token}"}


Act = Callable[[Open], Awaitable[None]]


@pytest.fixture
async def opened(configured: Settings, database: Database, fetcher: Fetcher, tom: Person) -> AsyncIterator[Open]:
    await add_person(
        database,
        email="owen@quillfen.example",
        name="Owen Marsh",
        password=PASSWORD,
        role="owner",
        now=datetime.now(UTC),
    )
    async with AsyncExitStack() as browsers:
        here, elsewhere, owner, stranger = [
            await browsers.enter_async_context(browser_at(configured, database, fetcher)) for _ in range(4)
        ]
        await sign_in(here, tom.email)
        await sign_in(elsewhere, tom.email)
        await sign_in(owner, "owen@quillfen.example")
        token = (await here.post("/api/session/tokens", json={"name": "nightly"})).json()["token"]
        feed = httpx.URL((await here.post("/api/feeds")).json()["calendar"]).path
        yield Open(tom, here, elsewhere, owner, stranger, token, feed)


async def changes_password(one: Open) -> None:
    answer = await one.here.put("/api/session/password", json={"old": PASSWORD, "new": NEW})
    assert answer.status_code == 204, answer.text


async def gets_a_password(one: Open) -> None:
    answer = await one.owner.put(f"/api/people/{one.person.id}/password", json={"password": NEW})
    assert answer.status_code == 204, answer.text


async def is_disabled(one: Open) -> None:
    answer = await one.owner.put(f"/api/people/{one.person.id}/disabled", json={"disabled": True})
    assert answer.status_code == 204, answer.text


async def is_disabled_and_comes_back(one: Open) -> None:
    await is_disabled(one)
    answer = await one.owner.put(f"/api/people/{one.person.id}/disabled", json={"disabled": False})
    assert answer.status_code == 204, answer.text


async def ends_others(one: Open) -> None:
    assert (await one.here.delete("/api/session/sign-ins")).status_code == 204


async def has_all_ended(one: Open) -> None:
    assert (await one.owner.delete(f"/api/people/{one.person.id}/sign-ins")).status_code == 204


async def turns_second_factor_on(one: Open) -> None:
    begun = await one.here.post("/api/session/second-factor", json={"password": PASSWORD})
    code = pyotp.TOTP(begun.json()["secret"]).now()
    answer = await one.here.put("/api/session/second-factor", json={"code": code})
    assert answer.status_code == 200, answer.text


async def signs_out(one: Open) -> None:
    assert (await one.here.delete("/api/session")).status_code == 204


@pytest.mark.parametrize(
    ("act", "goes_on"),
    [
        (changes_password, {"here", "browsers"}),
        (gets_a_password, set()),
        (is_disabled, set()),
        (is_disabled_and_comes_back, set()),
        (ends_others, {"here", "browsers"}),
        (has_all_ended, {"browsers"}),
        (turns_second_factor_on, {"here"}),
        (signs_out, {"elsewhere", "token", "feed", "browsers"}),
    ],
)
async def test_what_goes_on(opened: Open, database: Database, act: Act, goes_on: set[str]) -> None:
    async def browsers() -> int:
        async with database.transaction() as session:
            counted = text("SELECT count(*) FROM known_browser WHERE person_id = :id")
            found = await (await session.connection()).execute(counted, {"id": UUID(str(opened.person.id))})
            return int(found.scalar_one())

    known = await browsers()
    assert known > 0
    assert (await opened.stranger.get(opened.feed)).status_code == 200
    assert (await opened.stranger.get("/api/session", headers=opened.program())).status_code == 200
    await act(opened)
    found = {
        "here": (await opened.here.get("/api/session")).status_code == 200,
        "elsewhere": (await opened.elsewhere.get("/api/session")).status_code == 200,
        "token": (await opened.stranger.get("/api/session", headers=opened.program())).status_code == 200,
        "feed": (await opened.stranger.get(opened.feed)).status_code == 200,
        "browsers": await browsers() == known,
    }
    assert {name for name, lasts in found.items() if lasts} == goes_on


async def test_no_program_changes_a_password_or_a_second_factor(opened: Open) -> None:
    given = {"old": PASSWORD, "new": NEW}
    refused = await opened.stranger.put("/api/session/password", json=given, headers=opened.program())
    assert (refused.status_code, refused.json()["detail"]) == (403, "A program cannot change a password.")
    factor = "/api/session/second-factor"
    for method, body in (("POST", {"password": PASSWORD}), ("PUT", {"code": "123456"}), ("DELETE", {"code": "123456"})):
        answer = await opened.stranger.request(method, factor, json=body, headers=opened.program())
        assert (answer.status_code, answer.json()["detail"]) == (403, "A program cannot change a second factor."), (
            method
        )
    await sign_in(opened.stranger, opened.person.email)
