"""Review: asked for, approved for what was looked at, void by any edit, standing where what is live moves on beside it."""

import asyncio
from collections.abc import AsyncIterator, Awaitable, Callable
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import httpx
import pytest

from sign_shelf.api.app import create_app
from sign_shelf.core.notices import Wishes
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.digest import Digests
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import Person
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database
from tests.accounts import sign_in
from tests.api.test_changes import SITE, begin, put_live, relabelled, save_in
from tests.api.test_menus import HEADER, read, with_line
from tests.constants import OWN_PAGE, PASSWORD, SHELF

Jobs = Callable[[], Awaitable[None]]


@pytest.fixture
async def as_rosa(configured: Settings, database: Database, fetcher: Fetcher) -> AsyncIterator[httpx.AsyncClient]:
    """Who reviews, and edits where she must."""
    email = "rosa@quillfen.example"
    await add_person(database, email=email, name="Rosa Fenn", password=PASSWORD, role="reviewer", now=datetime.now(UTC))
    app = create_app(configured)
    app.state.database, app.state.fetcher = database, fetcher
    async with httpx.AsyncClient(transport=httpx.ASGITransport(app=app), base_url=SHELF, headers=OWN_PAGE) as client:
        await sign_in(client, email)
        yield client


async def look(api: httpx.AsyncClient, change: str) -> dict[str, Any]:
    answer = await api.get(f"/api/changes/{change}")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


async def state(api: httpx.AsyncClient, change: str) -> tuple[str, int, int]:
    told = (await look(api, change))["change"]
    return told["state"], told["approvals"], told["wanted"]


async def do(api: httpx.AsyncClient, change: str, deed: str, **body: Any) -> httpx.Response:
    """With the content name that one has just looked at, where the deed is a verdict."""
    if deed in {"approve", "decline"} and "content" not in body:
        body["content"] = (await look(api, change))["content"]
    return await api.post(f"/api/changes/{change}/{deed}", json=body if deed != "review" else None)


async def asked_for(api: httpx.AsyncClient, title: str = "Summer") -> str:
    """A change with one edit, under review."""
    change = await begin(api, title)
    await relabelled(api, change, title)
    assert (await do(api, change, "review")).status_code == 204
    return change


async def added(api: httpx.AsyncClient, change: str, words: str) -> None:
    bench = await read(api, f"{HEADER}?in={change}")
    assert (await save_in(api, change, with_line(bench["document"], words), bench["hash"])).status_code == 200


async def policy(api: httpx.AsyncClient, **wanted: Any) -> None:
    settings = (await api.get(f"{SITE}/settings")).json()
    kept = await api.put(f"{SITE}/settings", json=wanted, headers={"if-match": f'"{settings["hash"]}"'})
    assert kept.status_code == 200, kept.text


async def test_what_is_approved_is_what_was_looked_at_and_any_edit_makes_it_void(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs
) -> None:
    change = await begin(as_tom, "Summer")
    assert (await do(as_tom, change, "review")).json()["detail"] == "Summer does nothing yet."
    await relabelled(as_tom, change, "Sail with us")
    assert (await do(as_tom, change, "review")).status_code == 204
    told = await look(as_tom, change)
    assert (told["change"]["state"], told["change"]["waits_for_me"], told["can"]) == (
        "in review",
        False,
        ["edit", "schedule", "withdraw"],
    )
    ((part,),) = [told["parts"]]
    assert part["name"] == "Brackwater Ferries"
    assert [edit["says"] for edit in part["menus"][0]["edits"]["first"]] == ["Relabelled Timetables to Sail with us"]
    assert (await do(as_tom, change, "approve")).status_code == 403, "nobody approves their own"
    seen = await look(as_ines, change)
    assert seen["change"]["waits_for_me"]
    assert {"approve", "decline"} <= set(seen["can"])
    refused = await as_tom.post(f"{SITE}/releases?in={change}", headers={"idempotency-key": "early"})
    assert (refused.status_code, refused.json()["detail"]) == (409, "Summer is in review: it cannot put live.")

    await added(as_tom, change, "One more")
    assert (await state(as_ines, change))[0] == "draft", "an edit takes it back"
    assert (await do(as_tom, change, "review")).status_code == 204
    stale = await do(as_ines, change, "approve", content=seen["content"])
    assert (stale.status_code, stale.json()["detail"].partition(":")[0]) == (409, "Summer is not what you looked at")
    assert (await do(as_ines, change, "decline", says=" ")).status_code == 422, "a reason is given"
    assert (await do(as_ines, change, "decline", says="Too long on a phone")).status_code == 204
    assert await state(as_ines, change) == ("draft", 0, 1)
    assert (await look(as_tom, change))["said"][0]["says"] == "Too long on a phone"
    assert (await do(as_tom, change, "review")).status_code == 204
    assert (await do(as_ines, change, "approve", says="Better")).status_code == 204
    assert await state(as_ines, change) == ("approved", 1, 1)
    assert (await do(as_ines, change, "approve")).status_code == 409, "it is approved"
    assert (await put_live(as_tom, change, run_jobs))["state"] == "live"
    says = [line["says"] for line in (await as_ines.get("/api/ledger?site=brackwater")).json()]
    assert {
        "Asked for a review of Summer",
        "Approved Summer",
        "Asked for changes to Summer: Too long on a phone",
    } <= set(says)


async def test_as_many_approve_as_the_site_wants_and_nothing_goes_live_without_where_it_wants_so(
    as_ines: httpx.AsyncClient,
    as_tom: httpx.AsyncClient,
    as_rosa: httpx.AsyncClient,
    brackwater: StandIn,
    run_jobs: Jobs,
) -> None:
    await policy(as_ines, approvals=2, review_first=True)
    change = await begin(as_tom, "Winter")
    await relabelled(as_tom, change, "Winter")
    early = await as_tom.post(f"{SITE}/releases?in={change}", headers={"idempotency-key": "early"})
    told = await as_tom.get(f"{SITE}/going-out?in={change}")
    for answer in (early, told):
        assert (answer.status_code, answer.json()["detail"]) == (
            409, "Winter has 2 approvals too few to go live at Brackwater Ferries."
        )  # fmt: skip
    assert (await do(as_tom, change, "review")).status_code == 204
    one, two = await asyncio.gather(do(as_ines, change, "approve"), do(as_rosa, change, "approve"))
    assert (one.status_code, two.status_code) == (204, 204), "both at once"
    assert await state(as_tom, change) == ("approved", 2, 2)
    assert {one["by"] for one in (await look(as_tom, change))["said"] if one["holds"]} == {"Ines Calder", "Rosa Fenn"}
    # Whoever edited it is one of its authors from then on.
    await added(as_rosa, change, "By Rosa")
    assert (await do(as_tom, change, "review")).status_code == 204
    assert (await do(as_rosa, change, "approve")).status_code == 403
    assert (await do(as_ines, change, "approve")).status_code == 204
    assert await state(as_tom, change) == ("in review", 1, 2)
    await policy(as_ines, approvals=1)
    again = await asked_for(as_tom, "Spring")
    assert (await do(as_rosa, again, "approve")).status_code == 204
    assert (await put_live(as_tom, again, run_jobs))["state"] == "live"


async def test_an_approval_stands_where_what_is_live_moves_on_beside_it_and_is_asked_for_again_where_not(
    as_ines: httpx.AsyncClient,
    as_tom: httpx.AsyncClient,
    as_rosa: httpx.AsyncClient,
    brackwater: StandIn,
    run_jobs: Jobs,
) -> None:
    change = await asked_for(as_tom, "Summer")
    assert (await do(as_ines, change, "approve")).status_code == 204
    before = (await look(as_ines, change))["content"]
    beside = await begin(as_ines, "Beside it")
    bench = await read(as_ines, f"{SITE}/menus/footer?in={beside}")
    footer = with_line(bench["document"], "Beside it")
    made = await as_ines.put(f"{SITE}/menus/footer?in={beside}", json=footer, headers={"if-match": bench["hash"]})
    assert made.status_code == 200, made.text
    assert (await put_live(as_ines, beside, run_jobs))["state"] == "live"
    told = await look(as_ines, change)
    assert told["content"] != before, "it sets out from something else"
    assert (told["change"]["state"], told["change"]["approvals"]) == ("approved", 1)
    (holds,) = [one for one in told["said"] if one["holds"]]
    assert holds["stands_since"]
    ledger = (await as_ines.get("/api/ledger?site=brackwater")).json()
    assert any(line["says"].startswith("Summer stays approved by Ines Calder") for line in ledger)

    # Somebody else does half of it: what would go live is no longer what was approved.
    more = await asked_for(as_tom, "Two edits")
    await added(as_tom, more, "Second edit")
    assert (await do(as_tom, more, "review")).status_code == 204
    assert (await do(as_rosa, more, "approve")).status_code == 204
    half = await begin(as_ines, "Half of it")
    await relabelled(as_ines, half, "Two edits")
    assert (await put_live(as_ines, half, run_jobs))["state"] == "live"
    assert await state(as_ines, more) == ("in review", 0, 1)
    ledger = (await as_ines.get("/api/ledger?site=brackwater")).json()
    assert any(line["says"].startswith("Two edits is to be approved again") for line in ledger)


async def test_remarks_are_made_answered_and_settled(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn
) -> None:
    change = await asked_for(as_tom)
    path = f"/api/changes/{change}/remarks"
    bench = await read(as_ines, f"{HEADER}?in={change}")
    item = bench["document"]["items"][0]["id"]
    on = {"says": "Is this the word that they use?", "site": "brackwater", "menu": "header", "item": item}
    first = (await as_ines.post(path, json=on)).json()["id"]
    reply = await as_tom.post(path, json={"says": "It is on their boats.", "answers": first})
    assert reply.status_code == 201
    for body in ({"says": " "}, {"says": "x" * 5_000}):
        assert (await as_tom.post(path, json=body)).status_code == 422
    for body in ({"says": "x", "site": "nowhere"}, {"says": "x", "answers": str(uuid4())},
                 {"says": "x", "answers": reply.json()["id"]}):  # fmt: skip
        assert (await as_tom.post(path, json=body)).status_code == 404, "of this change, and no answer to an answer"
    assert (await as_tom.put(f"{path}/{first}/settled", json={"settled": True})).status_code == 204
    told = (await look(as_ines, change))["remarks"]
    assert [(one["by"], one["item"], one["answers"], one["settled_by"]) for one in told] == [
        ("Ines Calder", item, None, "Tom Arkwright"), ("Tom Arkwright", None, first, None),
    ]  # fmt: skip
    assert (await as_ines.put(f"{path}/{first}/settled", json={"settled": False})).status_code == 204
    assert (await look(as_ines, change))["remarks"][0]["settled_at"] is None


async def test_changes_of_all_sites_are_listed_with_what_they_wait_for(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, as_rosa: httpx.AsyncClient, brackwater: StandIn
) -> None:
    first, second = await asked_for(as_tom, "First"), await begin(as_ines, "Second")
    told = (await as_rosa.get("/api/changes")).json()
    assert [(one["id"], one["title"], one["author"], one["waits_for_me"]) for one in told] == [
        (second, "Second", "Ines Calder", False), (first, "First", "Tom Arkwright", True),
    ]  # fmt: skip
    assert [(site["name"], site["does_nothing"]) for site in told[0]["sites"]] == [("Brackwater Ferries", True)]
    assert (await as_rosa.get(f"/api/changes/{uuid4()}")).status_code == 404


async def test_who_may_not_review_approves_nothing(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database, brackwater: StandIn
) -> None:
    """Whoever only edits does not review."""
    change = await asked_for(as_ines)
    for deed in ("approve", "decline"):
        refused = await do(as_tom, change, deed, says="Well")
        assert (refused.status_code, refused.json()["detail"]) == (403, "The role editor may not review.")
    assert await state(as_ines, change) == ("in review", 0, 1)


async def test_whoever_may_approve_is_told_so_once_a_day(
    as_ines: httpx.AsyncClient,
    as_tom: httpx.AsyncClient,
    database: Database,
    ines: Person,
    tom: Person,
    brackwater: StandIn,
) -> None:
    change, now = await asked_for(as_tom), datetime.now(UTC)

    async def told(person: Person) -> list[str]:
        async with database.transaction() as session:
            said = await (await Digests.of(session, now)).daily(person.id, Wishes(), now)
        return [one.title for one in said.to_review]

    assert (await told(ines), await told(tom)) == (["Summer"], [])
    assert (await do(as_ines, change, "approve")).status_code == 204
    assert await told(ines) == []


async def test_what_it_brings_visitors_is_told_and_drawn(as_tom: httpx.AsyncClient, brackwater: StandIn) -> None:
    change = await begin(as_tom, "Crew rota")
    bench = await read(as_tom, f"{HEADER}?in={change}")
    gone = next(one for one in bench["document"]["items"] if one.get("target", {}).get("page"))
    crew = {"id": "rota", "kind": "link", "label": {"en": "Rota"}, "target": {"url": "/rota"}, "when": "signed_in"}
    items = [one for one in bench["document"]["items"] if one["id"] != gone["id"]] + [crew]
    assert (await save_in(as_tom, change, bench["document"] | {"items": items}, bench["hash"])).status_code == 200
    told = (await as_tom.get(f"/api/changes/{change}/sites/brackwater/brings")).json()
    by_entry = {entry: one for one in told["seen"] for entry in one["entries"]}
    assert (by_entry["Rota"]["sees"], by_entry["Rota"]["everybody"]) == (True, False)
    assert "crew" in by_entry["Rota"]["audiences"]
    label = next(iter(gone["label"].values()))
    assert (by_entry[label]["sees"], by_entry[label]["everybody"], by_entry[label]["location"]) == (
        False,
        True,
        "header",
    )
    drawn = (await as_tom.get(f"/api/changes/{change}/sites/brackwater/drawn?device=desktop&language=nl")).json()
    (header,) = [one for one in drawn if one["location"] == "header"]
    assert 'lang="nl"' in header["after"]["html"]
    assert header["after"]["fits_from"] < header["before"]["fits_from"], (
        "an entry less, and nobody knows of the visitor"
    )
    phone = (await as_tom.get(f"/api/changes/{change}/sites/brackwater/drawn?device=phone")).json()
    assert {one[side]["fits_from"] for one in phone for side in ("before", "after") if one[side]} <= {None}
    nowhere = await as_tom.get(f"/api/changes/{change}/sites/kestrel/brings")
    assert (nowhere.status_code, "does nothing at kestrel" in nowhere.json()["detail"]) == (404, True)
