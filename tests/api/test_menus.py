"""Editing over HTTP: revisions, conditions, merges, creates that happen once, refusals in full."""

import asyncio
from typing import Any

import httpx
import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.store.database import Database

HEADER = "/api/sites/brackwater/menus/header"


async def read(api: httpx.AsyncClient, path: str = HEADER) -> dict[str, Any]:
    answer = await api.get(path)
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def with_line(document: dict[str, Any], label: str) -> dict[str, Any]:
    line = {"id": label.lower().replace(" ", "-"), "kind": "link", "label": {"en": label}, "target": {"url": "/x"}}
    return document | {"items": [*document["items"], line]}


async def save(api: httpx.AsyncClient, document: dict[str, Any], on: str, path: str = HEADER) -> httpx.Response:
    return await api.put(path, json=document, headers={"if-match": f'"{on}"'})


async def together(*people: httpx.AsyncClient) -> str:
    """All of them work in one change of Brackwater Ferries, which the first begins; its id."""
    first, *others = people
    begun = await first.post(
        "/api/sites/brackwater/changes", json={"title": "Together"}, headers={"idempotency-key": "together"}
    )
    for other in others:
        joined = await other.put("/api/sites/brackwater/work", json={"change": begun.json()["change"]})
        assert joined.status_code == 204, joined.text
    return str(begun.json()["change"])


def labels(document: dict[str, Any]) -> list[str]:
    return [next(iter(item["label"].values())) for item in document["items"] if "label" in item]


async def test_a_save_is_a_revision_and_the_same_again_is_none(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    bench = await read(as_ines)
    changed = with_line(bench["document"], "Quiet lounge")
    first = await save(as_ines, changed, bench["hash"])
    assert first.json()["new"] is True
    assert [edit["says"] for edit in first.json()["changes"]["first"]] == ["Added Quiet lounge, to /x"]
    again = await save(as_ines, changed, bench["hash"])
    assert (again.json()["new"], again.headers["etag"]) == (False, first.headers["etag"])
    back = await save(as_ines, bench["document"], first.json()["hash"])
    assert (back.json()["hash"], back.json()["changes"]["count"]) == (bench["hash"], 0)


async def test_the_second_of_two_saves_is_answered_with_what_the_first_did(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn
) -> None:
    """Nothing is lost: the merge comes with the refusal and can be saved on the revision that it names."""
    await together(as_ines, as_tom)
    bench = await read(as_ines)
    assert (await save(as_tom, with_line(bench["document"], "By Tom"), bench["hash"])).status_code == 200
    refused = await save(as_ines, with_line(bench["document"], "By Ines"), bench["hash"])
    assert refused.status_code == 412
    problem = refused.json()
    assert "Tom Arkwright" in problem["detail"]
    assert problem["merge"]["did"] == ["Added By Tom, to /x"]
    assert problem["merge"]["conflicts"] == []
    merged = await save(as_ines, problem["merge"]["document"], problem["merge"]["on"])
    assert merged.status_code == 200
    assert labels((await read(as_tom))["document"])[-2:] == ["By Ines", "By Tom"]


async def test_a_conflict_is_settled_by_choice(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn
) -> None:
    await together(as_ines, as_tom)
    bench = await read(as_ines)

    def renamed(name: str) -> dict[str, Any]:
        first, *rest = bench["document"]["items"]
        return dict(bench["document"] | {"items": [first | {"label": {"en": name}}, *rest]})

    await save(as_tom, renamed("Sailings"), bench["hash"])
    refused = (await save(as_ines, renamed("Departures"), bench["hash"])).json()["merge"]
    told = [(one["field"], one["ours"], one["theirs"]) for one in refused["conflicts"]]
    assert told == [("its label in English", "Departures", "Sailings")]
    settled = await as_ines.post(
        HEADER + "/merge",
        json={"base": bench["hash"], "ours": renamed("Departures"), "choices": {"timetables": "theirs"}},
    )
    assert labels(settled.json()["document"])[0] == "Sailings"


async def test_many_at_once_lose_no_edit(as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database) -> None:
    """Twenty clients save at the same moment and merge where they must: every accepted save is in the history."""
    bench = await read(as_ines)

    async def client(number: int) -> None:
        document, on = with_line(bench["document"], f"Line {number}"), bench["hash"]
        while (answer := await save(as_ines, document, on)).status_code == 412:
            merge = answer.json()["merge"]
            document, on = merge["document"], merge["on"]
        assert answer.status_code == 200, answer.text

    await asyncio.gather(*(client(number) for number in range(20)))
    last = await read(as_ines)
    assert {f"Line {number}" for number in range(20)} <= set(labels(last["document"]))
    async with database.transaction() as session:
        revisions = (
            await (await session.connection()).execute(
                text("SELECT count(*) FROM revision WHERE change_id IS NOT NULL")
            )
        ).scalar_one()
    assert revisions == 20


async def test_creating_twice_makes_it_once(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    """Two presses at once, and one later, with the same key: one menu. Another request with the key: refused."""

    async def press(name: str = "Regatta week") -> httpx.Response:
        return await as_ines.post(
            "/api/sites/brackwater/menus", json={"name": name}, headers={"idempotency-key": "one"}
        )

    answers = [*await asyncio.gather(press(), press()), await press()]
    assert [answer.status_code for answer in answers] == [201, 201, 201]
    assert len({answer.json()["key"] for answer in answers}) == 1
    site = (await as_ines.get("/api/sites/brackwater")).json()
    assert [menu["name"] for menu in site["menus"]].count("Regatta week") == 1
    assert (await press("Another")).status_code == 422


async def test_a_menu_begins_from_an_outline_and_hangs_where_it_fits(
    as_ines: httpx.AsyncClient, brackwater: StandIn
) -> None:
    made = await as_ines.post(
        "/api/sites/brackwater/menus",
        json={"name": "Summer", "outline": "Boats:\n  Skerry -> @routes-skerry\nBook -> /book"},
        headers={"idempotency-key": "two"},
    )
    key = made.json()["key"]
    assert (await as_ines.get(f"/api/sites/brackwater/menus/{key}/export/outline")).text.startswith(
        '{menu "Summer"}\nBoats:\n'
    )
    refused = await as_ines.put("/api/sites/brackwater/places/legal/desktop", json={"menu": key})
    assert refused.status_code == 422
    assert "has 2 levels, Legal line takes 1" in refused.json()["detail"]
    assert "Header bar" in refused.json()["remedy"]
    wrong_device = await as_ines.put("/api/sites/brackwater/places/header/phone", json={"menu": key})
    assert "tablet, desktop" in wrong_device.json()["remedy"]
    assert (await as_ines.put("/api/sites/brackwater/places/header/tablet", json={"menu": key})).status_code == 204
    cells = (await as_ines.get("/api/sites/brackwater")).json()["cells"]
    hung = {(cell["location"], cell["device"]): (cell["placement"], cell["menu"]) for cell in cells}
    assert hung["header", "tablet"] == ("own", key)
    assert hung["header", "desktop"] == ("own", "header")
    assert hung["legal", "phone"] == ("inherited", "legal")


async def test_menus_may_not_include_themselves(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    def including(document: dict[str, Any], menu: str) -> dict[str, Any]:
        return document | {"items": [*document["items"], {"id": "inc", "kind": "include", "menu": menu}]}

    footer = await read(as_ines, "/api/sites/brackwater/menus/footer")
    there = await as_ines.put(
        "/api/sites/brackwater/menus/footer",
        json=including(footer["document"], "header"),
        headers={"if-match": footer["hash"]},
    )
    assert there.status_code == 200
    bench = await read(as_ines)
    refused = await save(as_ines, including(bench["document"], "footer"), bench["hash"])
    assert "header → footer → header" in refused.json()["detail"]


async def test_revisions_and_the_ledger_never_change(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database
) -> None:
    for table in ("revision", "tree", "ledger"):
        for statement in (
            f"DELETE FROM {table}",
            f"UPDATE {table} SET {'at = at' if table != 'tree' else 'items = 0'}",
        ):
            with pytest.raises(DBAPIError, match="never changed"):
                async with database.transaction() as session:
                    await (await session.connection()).execute(text(statement))
    lines = (await as_ines.get("/api/ledger")).json()
    assert lines[0]["says"] == "Took in Brackwater Ferries: 28 pages, 5 menus"


@pytest.mark.parametrize(
    ("body", "where", "says"),
    [
        (b"{", None, "not JSON"),
        (b"\xff", None, "not UTF-8"),
        (b'{"format": "sign-shelf/menu", "version": 1}', "name", "missing"),
        (
            b'{"format":"sign-shelf/menu","version":1,"name":"x","items":[{"id":"a","kind":"link","label":{"en":"x"},"target":{"url":"javascript:alert(1)"}}]}',
            "items[0].target.url",
            "javascript:",
        ),
        (b'{"format":"sign-shelf/menu","version":1,"name":"x","colour":1}', "colour", "unknown key"),
        (b"[" * 100_000, None, "nests 100000 levels deep"),
    ],
)
async def test_bad_documents_are_refused_in_full(
    as_ines: httpx.AsyncClient, brackwater: StandIn, body: bytes, where: str | None, says: str
) -> None:
    answer = await as_ines.put(HEADER, content=body, headers={"if-match": "x"})
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"
    assert says in answer.json()["detail"]
    assert where is None or answer.json()["where"] == where


async def test_bad_requests_are_answered_without_a_stack_trace(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    bench = await read(as_ines)
    cases = [
        (as_ines.put(HEADER, json=bench["document"]), 428, "If-Match"),
        (as_ines.post("/api/sites/brackwater/menus", json={"name": "x"}), 428, "Idempotency-Key"),
        (
            as_ines.put(HEADER, json=with_line(bench["document"], "x"), headers={"if-match": "sha256:nope"}),
            404,
            "never had",
        ),
        (as_ines.get("/api/sites/nowhere"), 404, "nowhere"),
        (as_ines.get("/api/sites/brackwater/menus/nope"), 404, "nope"),
        (as_ines.get("/api/nothing/here"), 404, "no such address"),
        (as_ines.get("/api/sites/brackwater/pages?limit=0"), 422, "greater"),
        (as_ines.get(HEADER + "/resolved?location=moon"), 422, "no location"),
        (as_ines.get(HEADER + "/resolved?language=%00"), 422, "NUL"),
        (
            as_ines.post("/api/sites/brackwater/menus", json={"name": "  "}, headers={"idempotency-key": "k"}),
            422,
            "name",
        ),
        (as_ines.post("/api/session", content=b"\xff\xff", headers={"content-type": "application/json"}), 400, "body"),
        (as_ines.put("/api/sites/brackwater/secret", json={"secret": "open sesame"}), 422, "signing key"),
        (as_ines.get("/api/releases/00000000-0000-0000-0000-000000000000"), 404, "release"),
        (as_ines.put(HEADER, content=b"x" * (21 * 1024 * 1024), headers={"if-match": "x"}), 413, "larger"),
    ]
    for asked, status, says in cases:
        answer = await asked
        assert (answer.status_code, "Traceback" in answer.text) == (status, False), answer.text
        assert says in answer.text


async def new_menu(api: httpx.AsyncClient, name: str, outline: str = "A -> /a") -> str:
    made = await api.post(
        "/api/sites/brackwater/menus", json={"name": name, "outline": outline}, headers={"idempotency-key": name}
    )
    return f"/api/sites/brackwater/menus/{made.json()['key']}"


async def line_of(api: httpx.AsyncClient, menu: str) -> dict[str, Any] | None:
    lines = (await api.get("/api/sites/brackwater")).json()["menus"]
    return next((one for one in lines if menu.endswith(f"/{one['key']}")), None)


@pytest.mark.usefixtures("brackwater")
async def test_a_copy_of_a_menu_remembers_what_it_was_copied_from(as_ines: httpx.AsyncClient) -> None:
    made = await as_ines.post(f"{HEADER}/copies", headers={"idempotency-key": "c"})
    again = await as_ines.post(f"{HEADER}/copies", headers={"idempotency-key": "c"})
    assert (made.status_code, made.json()) == (201, again.json())
    copy = (await read(as_ines, f"/api/sites/brackwater/menus/{made.json()['key']}"))["document"]
    assert (copy["name"], copy["items"][0]["origin"]) == ("Header, copy", "header/timetables")


@pytest.mark.usefixtures("brackwater")
async def test_a_menu_is_put_away_and_removed_only_where_nothing_is_lost_by_it(as_ines: httpx.AsyncClient) -> None:
    """What hangs it and what includes it is told first; one that was live stays on record."""
    refused = await as_ines.put(f"{HEADER}/archived", json={"archived": True})
    assert (refused.status_code, "hangs in Header bar for desktop" in refused.json()["detail"]) == (422, True)
    offers = await new_menu(as_ines, "Offers")
    around = await new_menu(as_ines, "Around", f"+ {offers.rsplit('/', 1)[1]}")
    refused = await as_ines.delete(offers)
    assert (refused.status_code, "is included in Around" in refused.json()["detail"]) == (422, True)
    assert (await as_ines.delete(around)).status_code == 204
    assert (await as_ines.put(f"{offers}/archived", json={"archived": True})).status_code == 204
    assert (await line_of(as_ines, offers) or {})["archived"]
    loose = (await as_ines.get("/api/shelf")).json()[0]["loose"]
    assert (await as_ines.put(f"{offers}/archived", json={"archived": False})).status_code == 204
    assert (await as_ines.get("/api/shelf")).json()[0]["loose"] == loose + 1
    assert (await as_ines.delete(offers)).status_code == 204
    assert await line_of(as_ines, offers) is None
    for device in ("desktop",):
        await as_ines.put(f"/api/sites/brackwater/places/header/{device}", json={"menu": None})
    refused = await as_ines.delete(HEADER)
    assert (refused.status_code, refused.json()["remedy"]) == (422, "Put it away instead.")
    assert (await as_ines.put(f"{HEADER}/archived", json={"archived": True})).status_code == 204


@pytest.mark.usefixtures("brackwater")
async def test_the_ledger_is_asked_by_person_menu_kind_and_day(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient
) -> None:
    for number in range(3):
        bench = await read(as_ines)
        await save(as_ines, with_line(bench["document"], f"Line {number}"), bench["hash"])
    await as_tom.put("/api/sites/brackwater/places/legal/phone", json={"menu": "legal"})

    async def told(**asked: Any) -> list[dict[str, Any]]:
        answer = await as_ines.get("/api/ledger", params=asked)
        assert answer.status_code == 200, answer.text
        return list(answer.json())

    edits = await told(who="Ines Calder", action="edit")
    assert [(one["menu"], one["site"]) for one in edits] == [("header", "brackwater")] * 3
    assert [one["id"] for one in await told(menu="header", limit=2, before=edits[0]["id"])] == [
        one["id"] for one in edits[1:]
    ]
    assert [one["says"] for one in await told(action=["hang", "take down"])] == ["Hung Legal in Legal line for phone"]
    assert await told(who="Nobody") == await told(until="2020-01-01T00:00:00Z") == []
    assert len(await told(since="2020-01-01T00:00:00Z", who="Tom Arkwright")) >= 1
