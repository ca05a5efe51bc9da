"""Menus for sites that ask: who may, what they get, how long it holds, and what makes another answer."""

import asyncio
import json
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import jwt
import pytest
from pydantic import SecretStr
from sqlalchemy import event
from starlette.applications import Starlette
from starlette.responses import PlainTextResponse

from sign_shelf.api.app import create_app
from sign_shelf.api.delivery import Delivery
from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.model.documents import content_hash
from sign_shelf.core.model.menu import DEVICES, Labelled
from sign_shelf.core.outline import parse_outline
from sign_shelf.core.protocol.signed_facts import signed, vouched
from sign_shelf.demo import cluster as clusters
from sign_shelf.demo.seed import take_in_stand_in
from sign_shelf.demo.stand_ins.asking import Source, tell_source
from sign_shelf.demo.stand_ins.content import all_contents
from sign_shelf.demo.stand_ins.server import StandIn, make_stand_ins, stand_in_app
from sign_shelf.desk import edit
from sign_shelf.desk.connect import new_key
from sign_shelf.desk.permission import Person
from sign_shelf.jobs import watching
from sign_shelf.settings import Settings
from sign_shelf.store import sites
from sign_shelf.store.database import Database
from tests.accounts import sign_in, site_key
from tests.constants import OWN_PAGE, SEALS, SHELF
from tests.live_sites import live_site, make_live
from tests.serving import serving


@asynccontextmanager
async def asking(settings: Settings, database: Database) -> AsyncIterator[tuple[httpx.AsyncClient, Delivery]]:
    """The delivery of a running server, which listens to the database."""
    app = create_app(settings)
    delivery: Delivery = next(one for one in app.user_middleware if "delivery" in one.kwargs).kwargs["delivery"]  # type: ignore[assignment]
    async with delivery.watching(database):
        for _ in range(200):
            if delivery.listening:
                break
            await asyncio.sleep(0.02)
        assert delivery.listening
        transport = httpx.ASGITransport(app=app)
        async with httpx.AsyncClient(transport=transport, base_url="http://shelf.example") as client:
            yield client, delivery


@pytest.fixture
async def key(database: Database, brackwater: StandIn, ines: Person) -> str:
    return await site_key(database, ines, brackwater.content.key, "delivery")


@pytest.fixture
async def facts_key(database: Database, brackwater: StandIn, ines: Person) -> SecretStr:
    return SecretStr(await site_key(database, ines, brackwater.content.key, "facts"))


URL = "/live/brackwater/header"


async def test_a_site_gets_json_or_html_with_a_tag_that_holds(
    configured: Settings, database: Database, key: str
) -> None:
    async with asking(configured, database) as (client, _):
        shown = {"authorization": f"Bearer {key}"}
        answer = await client.get(URL, params={"device": "desktop", "language": "nl"}, headers=shown)
        assert answer.status_code == 200, answer.text
        menu = answer.json()
        assert (menu["format"], menu["language"]) == ("sign-shelf/delivered-menu", "nl")
        assert menu["items"][0]["label"] == "Dienstregeling"
        assert "Crew rota" not in answer.text, "who may not see an entry does not learn of it"
        assert answer.headers["access-control-allow-origin"] == "*"
        assert answer.headers["vary"] == "Accept"
        age = int(answer.headers["cache-control"].removeprefix("public, max-age="))
        assert 0 < age <= 300
        html = await client.get(URL, headers=shown | {"accept": "text/html, application/json;q=0.5"})
        assert html.text.startswith('<nav aria-label="Header bar" lang="en"><ul>')
        assert html.headers["etag"] != answer.headers["etag"]
        same = await client.get(URL, headers=shown | {"accept": "text/html", "if-none-match": html.headers["etag"]})
        assert (same.status_code, same.content) == (304, b"")
        assert same.headers["etag"] == html.headers["etag"]
        head = await client.head(URL, headers=shown)
        assert (head.status_code, head.content) == (200, b"")
        phone = await client.get(
            "/live/brackwater/drawer", params={"device": "phone", "page": "/timetables"}, headers=shown
        )
        marked = [one for one in phone.json()["items"] if one["current"] == "page"]
        assert [one["label"] for one in marked] == ["Timetables"]


async def test_nobody_gets_anything_without_the_site_s_key(configured: Settings, database: Database, key: str) -> None:
    async with asking(configured, database) as (client, _):
        for url, headers in [
            (URL, {}),
            (URL, {"authorization": "Bearer wrong"}),
            (f"{URL}?key={key}x", {}),
            (f"/live/nowhere/header?key={key}", {}),
        ]:
            answer = await client.get(url, headers=headers)
            assert (answer.status_code, answer.json()["detail"]) == (401, "No site answers to this key.")
        for url, status in [
            (f"/live/brackwater/nowhere?key={key}", 404),
            (f"{URL}?key={key}&device=watch", 422),
            (f"{URL}?key={key}&fact=crew", 422),
        ]:
            answer = await client.get(url)
            assert (answer.status_code, bool(answer.json().get("remedy"))) == (status, True), answer.text
        assert (await client.post(f"{URL}?key={key}")).status_code == 405
        asked = await client.options(URL)
        assert (asked.status_code, asked.headers["access-control-allow-headers"]) == (204, "Authorization")


async def test_an_answer_from_memory_reads_no_table_until_something_else_is_live(
    configured: Settings, database: Database, key: str
) -> None:
    """And what is live is there for whoever asks next; a draft is not."""
    async with asking(configured, database) as (client, delivery):
        shown = {"authorization": f"Bearer {key}"}
        first = await client.get(URL, headers=shown)
        statements: list[str] = []
        event.listen(database.engine.sync_engine, "before_cursor_execute", lambda *given: statements.append(given[2]))
        again = await client.get(URL, headers=shown | {"if-none-match": first.headers["etag"]})
        assert (again.status_code, statements) == (304, [])
        delivery.listening = False
        delivery._kept.clear()
        assert (await client.get(URL, headers=shown | {"if-none-match": first.headers["etag"]})).status_code == 304
        read = " ".join(statements)
        assert "live_state" in read
        assert not any(table in read for table in ("FROM state", "FROM revision", "FROM tree", "FROM arrangement"))
        delivery.listening = True
        await client.get(URL, headers=shown)
        await make_live(database, "brackwater", {"header": parse_outline("Only this -> /x")})
        for _ in range(200):
            answer = await client.get(URL, headers=shown)
            if answer.headers["etag"] != first.headers["etag"]:
                break
            await asyncio.sleep(0.02)
        assert [one["label"] for one in answer.json()["items"]] == ["Only this"]


GUARDED = """Open -> /open
Members -> /members-only {when signed_in}
  Rota -> /rota-page {when roles has "crew"}
Strangers -> /strangers-only {when not signed_in}
Bridge -> /bridge-page {when roles has "skipper" and device is desktop}
Mine -> /own/{visitor.id} {when signed_in}
Summer -> /summer-page {from 2999-01-01T00:00}
Never -> /never-page {when never}
Broken -> /broken-page {when signed_in adn}
"""
SECRETS = (
    "members-only",
    "rota-page",
    "strangers-only",
    "bridge-page",
    "own/",
    "summer-page",
    "never-page",
    "broken-page",
)


async def test_delivery_leaks_nothing_to_anybody(
    configured: Settings, database: Database, key: str, facts_key: SecretStr
) -> None:
    """As every audience, on every device, for every place, as JSON and HTML: the bytes hold nothing that is not theirs."""
    document = await live_site(database, "brackwater")
    await make_live(database, "brackwater", {name: parse_outline(GUARDED) for name in document.menus})
    audiences = document.audiences
    theirs = {
        "visitor": {"strangers-only"},
        "islander": {"members-only", "own/"},
        "crew": {"members-only", "rota-page", "own/"},
        "skipper": {"members-only", "rota-page", "own/", "bridge-page"},
    }
    async with asking(configured, database) as (client, _):
        shown = {"authorization": f"Bearer {key}"}
        told: dict[str, set[str]] = {name: set() for name in audiences}
        for name, facts in audiences.items():
            token = signed(facts, facts_key)
            for location in document.template.locations:
                for device in DEVICES:
                    for accept in ("application/json", "text/html"):
                        answer = await client.get(
                            f"/live/brackwater/{location.key}",
                            params={"device": device, "facts": token},
                            headers={**shown, "accept": accept},
                        )
                        assert answer.headers["cache-control"].startswith("private, max-age=")
                        found = {secret for secret in SECRETS if secret in answer.text}
                        assert found <= theirs[name], (name, location.key, device)
                        assert "bridge-page" not in found or device == "desktop"
                        told[name] |= found
        assert told == theirs, "and what is theirs they get"


async def test_facts_count_only_where_the_site_vouches_for_them(
    configured: Settings, database: Database, key: str, facts_key: SecretStr
) -> None:
    """Nobody becomes crew by saying so: not unsigned, with another key, with another algorithm, over, or of a wrong type."""
    crew = {"signed_in": True, "roles": ("crew",), "visitor.id": "c-77"}
    soon, past = datetime.now(UTC) + timedelta(seconds=40), datetime.now(UTC) - timedelta(seconds=1)
    good = signed(crew, facts_key, until=soon)
    head, claims, signature = good.split(".")
    forged = [
        signed(crew, SecretStr(key)),
        signed(crew, facts_key, until=past),
        f"{head}.{claims}.",
        f"{head}.{claims}.{signature[::-1]}",
        jwt.encode({"facts": {"signed_in": True, "roles": ["crew"]}}, "", algorithm="none"),
        jwt.encode({"facts": ["crew"]}, facts_key.get_secret_value(), algorithm="HS256"),
        jwt.encode({"facts": {"signed_in": True}, "exp": 10**400}, facts_key.get_secret_value(), algorithm="HS256"),
        signed({**crew, "roles": ("cook",)}, facts_key),
        json.dumps({"signed_in": True, "roles": ["crew"]}),
        "x" * 5_000,
        "é.é.é",
    ]
    async with asking(configured, database) as (client, delivery):
        shown = {"authorization": f"Bearer {key}"}

        async def labels(token: str) -> list[str]:
            answer = await client.get(URL, params={"facts": token}, headers=shown)
            assert answer.status_code == 200, answer.text
            return [one["label"] for one in answer.json()["items"]]

        assert "Crew rota" in await labels(good)
        age = (await client.get(URL, params={"facts": good}, headers=shown)).headers["cache-control"]
        assert int(age.rpartition("=")[2]) <= 40, "it is not kept past the token's end"
        for token in forged:
            assert "Crew rota" not in await labels(token), token
        assert "device" not in vouched(signed({"device": "phone"}, facts_key), facts_key, {}, soon).facts
        rota = await client.get(
            URL, params={"facts": signed({**crew, "visitor.id": "../x y"}, facts_key)}, headers=shown
        )
        assert (
            next(one["href"] for one in rota.json()["items"] if one["label"] == "Crew rota") == "/crew/..%2Fx%20y/rota"
        )
        assert delivery.listening


async def test_an_answer_changes_in_the_second_in_which_a_window_opens(
    configured: Settings, database: Database, key: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The minute after this one, on the site's clock: max-age ends there, and the kept answer is not given after it."""
    now = datetime.now(UTC)
    opens = now.replace(second=0, microsecond=0) + timedelta(minutes=1)
    wall = clock_of("Europe/London").now(opens)
    await make_live(database, "brackwater", {"header": parse_outline(f"Now -> /n\nSoon -> /s {{from {wall}}}")})
    clock = {"now": now}

    class Clock(datetime):
        @classmethod
        def now(cls, tz: Any = None) -> datetime:
            return clock["now"].astimezone(tz)

    monkeypatch.setattr("sign_shelf.api.delivery.datetime", Clock)
    monkeypatch.setattr("sign_shelf.api.delivery.time", lambda: clock["now"].timestamp())
    async with asking(configured, database) as (client, _):
        shown = {"authorization": f"Bearer {key}"}
        for second, labels in [(-1, ["Now"]), (0, ["Now", "Soon"]), (1, ["Now", "Soon"])]:
            clock["now"] = opens + timedelta(seconds=second)
            answer = await client.get(URL, headers=shown)
            assert [one["label"] for one in answer.json()["items"]] == labels
            age = int(answer.headers["cache-control"].rpartition("=")[2])
            assert age <= (opens - clock["now"]).total_seconds() or second >= 0


@pytest.fixture
async def saltmarsh(database: Database, tmp_path: Path, ines: Person) -> AsyncIterator[StandIn]:
    """Saltmarsh Clay School, which asks for its menus."""
    made = make_stand_ins(tmp_path / "asking", iter(lambda: clusters.free_port(), None))
    site = next(one for one in made if one.content.key == "saltmarsh")
    with serving(stand_in_app(site), site.port):
        await take_in_stand_in(database, site, ines)
        yield site


async def test_a_site_that_asks_shows_what_was_put_live(
    configured: Settings, database: Database, saltmarsh: StandIn, ines: Person, fetcher: Any,
    run_jobs: Callable[[], Awaitable[None]], tmp_path: Path,
) -> None:  # fmt: skip
    """Its pages are made of what it asks for; a release is live once its home page shows it, and undone where it
    does not."""
    app = create_app(configured)
    app.state.database, app.state.fetcher = database, fetcher
    delivery: Delivery = next(one for one in app.user_middleware if "delivery" in one.kwargs).kwargs["delivery"]  # type: ignore[assignment]
    delivery.database = database
    async with database.transaction() as session:
        row = await sites.site_by_key(session, "saltmarsh")
        assert row is not None
        assert row.connection == "fetch"
    before = await live_site(database, "saltmarsh")
    transport = httpx.ASGITransport(app=app)
    async with httpx.AsyncClient(transport=transport, base_url=SHELF, headers=OWN_PAGE) as client:
        await sign_in(client, ines.email)
        shown = await site_key(database, ines, "saltmarsh", "delivery")
        menu = before.menus["header"]
        changed = menu.with_items(
            (menu.items[0].model_copy(update={"label": {"en": "All our courses"}}), *menu.items[1:])
        )
        saved = await edit.save_menu(
            database, ines, "saltmarsh", "header", expected=content_hash(menu), document=changed, now=datetime.now(UTC)
        )
        assert saved.new

        async def put_live() -> dict[str, Any]:
            asked = await client.post("/api/sites/saltmarsh/releases", headers={"idempotency-key": str(uuid4())})
            assert asked.status_code == 202, asked.text
            await run_jobs()
            return (await client.get(f"/api/releases/{asked.json()['id']}")).json()  # type: ignore[no-any-return]

        failed = await put_live()
        assert failed["state"] == "failed"
        assert 'does not show "All our courses"' in failed["says"]
        assert await live_site(database, "saltmarsh") == before
        assert saltmarsh.pings == 2, "told that something else is to be had, and that it is not"
        port = clusters.free_port()
        with serving(_own_loop(configured), port) as address:
            tell_source(saltmarsh.asking.folder, "saltmarsh", Source(f"{address}live", shown))
            done = await put_live()
            assert (done["state"], done["says"]) == ("live", "the site asked and shows it")
            assert saltmarsh.pings == 3
            async with httpx.AsyncClient(trust_env=False) as visitor:
                page = (await visitor.get(f"{saltmarsh.base}shop")).text
        assert "All our courses" in page
        assert 'aria-current="page"' in page
        kept = json.loads((saltmarsh.asking.folder / "saltmarsh-asks.json").read_text())
        assert kept["key"] == shown


def _own_loop(configured: Settings) -> Any:
    """A server for another thread: its database belongs to that thread's loop, and to the request."""

    async def answer(scope: Any, receive: Any, send: Any) -> None:
        if not scope["path"].startswith("/live/"):
            await PlainTextResponse("no", 404)(scope, receive, send)
            return
        delivery = Delivery(configured.database)
        delivery.database = Database(configured.database.get_secret_value(), SEALS, pool_size=1)
        try:
            await delivery(scope, receive, send)
        finally:
            await delivery.database.close()

    app = Starlette(routes=[])
    app.router.default = answer
    return app


async def test_answers_are_kept_by_what_was_meant_and_can_do_nothing_by_themselves(
    configured: Settings, database: Database, key: str
) -> None:
    """Pages and queries without end that mean the same are one; a refusal may be read by any origin's script as well."""
    async with asking(configured, database) as (client, delivery):
        shown = {"authorization": f"bearer {key}"}
        for number in range(40):
            answer = await client.get(URL, params={"page": f"/nowhere/{number}{'x' * 3_000}"}, headers=shown)
            assert answer.status_code == 200
        assert len(delivery._kept) == 1
        assert len(delivery._meant) == 0, "an address that long is read anew each time"
        for header in ("content-security-policy", "x-content-type-options", "referrer-policy"):
            assert header in answer.headers
        assert answer.headers["content-security-policy"].startswith("sandbox")
        refused = await client.get(URL)
        assert (refused.status_code, refused.headers["access-control-allow-origin"]) == (401, "*")


async def test_a_key_that_was_replaced_counts_until_it_is_over(
    configured: Settings, database: Database, key: str, ines: Person
) -> None:
    async with asking(configured, database) as (client, delivery):

        async def answered(shown: str) -> int:
            return (await client.get(URL, headers={"authorization": f"Bearer {shown}"})).status_code

        assert await answered(key) == 200
        now = datetime.now(UTC)
        newer = await new_key(database, ines, "brackwater", "delivery", old_counts=timedelta(hours=1), now=now)
        assert (await answered(key), await answered(newer.get_secret_value())) == (200, 200)
        newest = await site_key(database, ines, "brackwater", "delivery")
        for _ in range(200):
            if await answered(key) == 401:
                break
            await asyncio.sleep(0.02)
        codes = [await answered(one) for one in (key, newer.get_secret_value(), newest)]
        assert codes == [401, 401, 200]
        assert delivery.listening


async def test_menus_can_have_an_origin_of_their_own(configured: Settings, database: Database, key: str) -> None:
    """Under the delivery's host there is nothing but menus, and no menu under another one."""
    async with asking(configured.model_copy(update={"delivery_host": "menus.example"}), database) as (client, _):
        shown = {"authorization": f"Bearer {key}"}
        there = shown | {"host": "menus.example:443"}
        assert (await client.get(URL, headers=there)).status_code == 200
        assert (await client.get(URL, headers=shown)).status_code == 421
        for path in ("/", "/api/session", "/api/shelf"):
            refused = await client.get(path, headers=there)
            assert (refused.status_code, "content-security-policy" in refused.headers) == (421, True)


@pytest.fixture
async def asks(database: Database, tmp_path: Path, ines: Person) -> AsyncIterator[StandIn]:
    """Brackwater Ferries as a site that asks for its menus, for each of its visitors."""
    whole = next(one for one in all_contents() if one.key == "brackwater")
    places = tuple(one for one in whole.template.locations if one.key in {"header", "drawer"})
    content = replace(
        whole, asks=True, template=whole.template.model_copy(update={"locations": places}),
        menus={"header": whole.menus["header"]},
    )  # fmt: skip
    (site,) = make_stand_ins(tmp_path / "asking", iter(lambda: clusters.free_port(), None), [content])
    with serving(stand_in_app(site), site.port):
        await take_in_stand_in(database, site, ines)
        yield site


async def test_its_page_is_read_as_each_of_its_visitors(
    configured: Settings, database: Database, asks: StandIn, ines: Person, fetcher: Any, as_ines: httpx.AsyncClient,
) -> None:  # fmt: skip
    """By facts that are signed with its own key. An entry that crew alone get is missed where the page has it not; nobody is crew by
    saying so."""
    shown = await site_key(database, ines, "brackwater", "delivery")
    crew = "Crew notes"
    menu = (await live_site(database, "brackwater")).menus["header"]
    with_crew = parse_outline(f"{crew} -> /crew {{when roles has crew}}").items
    await make_live(database, "brackwater", {"header": menu.with_items((*menu.items, *with_crew))})

    async def differs() -> list[tuple[str, str, str, list[str]]]:
        assert (await as_ines.post("/api/sites/brackwater/sync/read")).status_code == 202
        await watching.read_what_sites_show(database, fetcher, lambda: datetime.now(UTC) + timedelta(minutes=1))
        (one,) = (await as_ines.get("/api/sync?site=brackwater")).json()
        assert one["says"] == ""
        return [
            (drift["location"], drift["device"], drift["audience"], [edit["says"] for edit in drift["edits"]])
            for drift in one["drifts"]
        ]

    with serving(_own_loop(configured), clusters.free_port()) as address:
        tell_source(asks.asking.folder, "brackwater", Source(f"{address}live", shown))
        assert await differs() == []
        # From now on the site hands nothing on: whoever is crew gets what strangers get.
        asks.deaf_to_facts = True
        found = await differs()
        assert {place[:3] for place in found} == {("header", "desktop", "crew"), ("header", "desktop", "skipper")}
        assert all(any(f"Removed {crew}" in one for one in says) for *_, says in found), found
        async with httpx.AsyncClient(trust_env=False) as visitor:
            asks.deaf_to_facts = False
            forged = signed({"signed_in": True, "roles": ["crew"]}, SecretStr("another key that is long enough for it"))
            page = await visitor.get(asks.base, headers={"sign-shelf-facts": forged})
        assert "Timetables" in page.text
        assert crew not in page.text
        taken = await as_ines.post(
            "/api/sites/brackwater/places/header/desktop/adopt", json={"audience": "crew"}, headers={"idempotency-key": "crew"}
        )  # fmt: skip
        assert taken.status_code == 200, taken.text
        bench = (await as_ines.get(f"/api/sites/brackwater/menus/header?in={taken.json()['change']}")).json()
        labels = [item["label"]["en"] for item in bench["document"]["items"]]
        assert labels == [
            item.label["en"] for item in menu.items if isinstance(item, Labelled) and item.id != "crew-rota"
        ], "what crew alone get is gone, what others get stays"
