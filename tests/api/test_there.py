"""Who is in a change with one: told as it happens, to whoever may look, and ended with the sign-in and the server."""

import asyncio
import contextlib
import signal
from collections.abc import AsyncIterator
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID, uuid4

import httpx
import orjson
from sqlalchemy import text

from sign_shelf.api.streams import MOST_OF_ONE
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk import there
from sign_shelf.desk.permission import Person
from sign_shelf.store.database import Database
from tests.api.test_changes import begin, relabelled
from tests.constants import PASSWORD
from tests.running import Running, running


@contextlib.asynccontextmanager
async def entered(shelf: Running, person: Person) -> AsyncIterator[httpx.AsyncClient]:
    async with httpx.AsyncClient(
        base_url=shelf.base, headers={"origin": shelf.base}, trust_env=False, timeout=60
    ) as client:
        answer = await client.post("/api/session", json={"email": person.email, "password": PASSWORD})
        assert answer.status_code == 200, answer.text
        yield client


class Heard:
    """What a stream says, one event after the other."""

    def __init__(self, answer: httpx.Response) -> None:
        self._lines = answer.aiter_lines()

    async def next(self, within_s: float = 10.0) -> dict[str, Any]:
        async with asyncio.timeout(within_s):
            async for line in self._lines:
                if line.startswith("data: "):
                    return dict(orjson.loads(line.removeprefix("data: ")))
        raise AssertionError("the stream has ended")

    async def ended(self, within_s: float) -> None:
        async with asyncio.timeout(within_s):
            async for _ in self._lines:
                pass


async def test_each_hears_where_the_others_are_and_that_somebody_saved(
    address: str, as_ines: httpx.AsyncClient, ines: Person, tom: Person, brackwater: StandIn
) -> None:
    change = await begin(as_ines, "Two at once")
    path, page = f"/api/there/{change}", str(uuid4())
    where = {"page": page, "site": "brackwater", "menu": "header"}
    with running(address, PROCESSES="1") as shelf:
        async with entered(shelf, ines) as ines_s, entered(shelf, tom) as tom_s:
            async with ines_s.stream("GET", path) as answer:
                assert answer.headers["content-type"].startswith("text/event-stream")
                heard = Heard(answer)
                first = await heard.next()
                assert first["people"] == []
                assert (await tom_s.put(path, json=where)).status_code == 204
                (one,) = (await heard.next())["people"]
                assert (one["name"], one["menu"], one["item"]) == ("Tom Arkwright", "header", "")
                assert (await tom_s.put(path, json=where | {"item": "tt"})).status_code == 204
                assert (await heard.next())["people"][0]["item"] == "tt"
                # A page is whose it is: nobody moves another's.
                await ines_s.put(path, json=where | {"item": "stolen"})
                await ines_s.post(f"{path}/gone", json={"page": page})
                await relabelled(as_ines, change, "Sail early")
                saved = await heard.next()
                assert saved["heads"]["brackwater"] != first["heads"]["brackwater"]
                assert saved["people"][0]["item"] == "tt"
                await tom_s.post(f"{path}/gone", json={"page": page})
                assert (await heard.next())["people"] == []
            async with contextlib.AsyncExitStack() as many:
                for _ in range(MOST_OF_ONE):
                    assert (await many.enter_async_context(tom_s.stream("GET", path))).status_code == 200
                assert (await tom_s.get(path)).status_code == 503
                answer = await many.enter_async_context(ines_s.stream("GET", path))
                assert answer.status_code == 200, "others are told nevertheless"
            async with ines_s.stream("GET", path) as answer:
                heard = Heard(answer)
                await heard.next()
                # Signed out, nothing more is told, at the next event at the latest.
                assert (await ines_s.delete("/api/session")).status_code == 204
                await tom_s.put(path, json=where)
                await heard.ended(10)
            async with tom_s.stream("GET", path) as answer:
                heard = Heard(answer)
                await heard.next()
                shelf.server.send_signal(signal.SIGTERM)
                await heard.ended(3)
            assert await asyncio.to_thread(shelf.server.wait, 10) is not None


async def test_who_may_not_look_hears_nothing_and_silence_is_leaving(
    database: Database, as_tom: httpx.AsyncClient, as_ines: httpx.AsyncClient, ines: Person, tom: Person, brackwater: StandIn
) -> None:  # fmt: skip
    change = UUID(await begin(as_ines, "Alone"))
    now = datetime.now(UTC)
    await there.be_there(database, tom, change, page=uuid4(), site="", menu="", item="", now=now)
    assert [one.name for one in (await there.there(database, ines, change, now)).people] == ["Tom Arkwright"]
    later = now + there.HEARD_WITHIN + timedelta(seconds=1)
    assert (await there.there(database, ines, change, later)).people == ()
    async with database.transaction() as session:
        role = "INSERT INTO membership (person_id, site_id, role) SELECT :id, id, 'none' FROM site"
        await (await session.connection()).execute(text(role), {"id": tom.id})
    for answer in (
        await as_tom.put(f"/api/there/{change}", json={"page": str(uuid4())}),
        await as_tom.get(f"/api/there/{change}"),
    ):
        assert answer.status_code == 403
    assert (await as_ines.get(f"/api/there/{uuid4()}")).status_code == 404


async def test_what_became_another_since_one_looked_is_told_until_it_is_seen(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn
) -> None:
    change = await begin(as_ines, "Looked at")
    about = f"/api/changes/{change}"

    async def since() -> tuple[bool, list[str]]:
        told = (await as_tom.get(f"{about}/since")).json()
        return told["at"] is not None, [says for site in told["sites"] for says in site["does"]]

    async def look() -> int:
        content = (await as_tom.get(about)).json()["content"]
        return (await as_tom.put(f"{about}/looked", json={"content": content})).status_code

    await relabelled(as_ines, change, "Sail early")
    assert await since() == (False, [])
    stale = (await as_tom.get(about)).json()["content"]
    assert await look() == 204
    assert await since() == (True, [])
    await relabelled(as_ines, change, "Sail late")
    assert (await as_tom.put(f"{about}/looked", json={"content": stale})).status_code == 409
    seen, does = await since()
    assert (seen, len(does)) == (True, 1)
    assert "Sail early" in does[0]
    assert "Sail late" in does[0]
    assert await look() == 204
    assert await since() == (True, [])
