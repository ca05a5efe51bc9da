"""Shared menus: begun, followed by sites with what is theirs, adjusted, rolled forward in one change; what is found of them."""

import json
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import httpx
import pytest
from sqlalchemy import text

from sign_shelf.core.sharing.filling import page_in_role
from sign_shelf.desk import findings
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.store import sites
from sign_shelf.store.database import Database
from sign_shelf.store.shared_menus import page_names
from tests.desk.conftest import on_shelf
from tests.live_sites import live_site, make_change_live

LEGAL = "shared:legal"
FIRST = """\
Privacy -> @privacy
Imprint -> /imprint
"Call {site.phone}" -> tel:{site.phone}
"""
SECOND = """\
Your privacy -> @privacy
"Call {site.phone}" -> tel:{site.phone}
Accessibility -> /accessibility
"""


@pytest.fixture
async def three_sites(database: Database) -> None:
    for key, more in {"alder": {"phone": "+44 1"}, "brant": {"phone": "+44 2"}, "cairn": {}}.items():
        await on_shelf(database, key, {"foot": ["/here"]}, details=more, roles={"privacy": "fares"})


async def made(api: httpx.AsyncClient, method: str, path: str, **body: Any) -> dict[str, Any]:
    answer = await api.request(method, f"/api{path}", json=body, headers={"idempotency-key": str(uuid4())})
    assert answer.is_success, answer.text
    told: dict[str, Any] = answer.json()
    return told


async def shared(api: httpx.AsyncClient) -> dict[str, Any]:
    answer = await api.get("/api/shared-menus/legal")
    assert answer.status_code == 200, answer.text
    told: dict[str, Any] = answer.json()
    return told


async def labels(database: Database, site: str) -> list[str]:
    return [next(iter(item.label.values())) for item in (await live_site(database, site)).menus[LEGAL].items]  # type: ignore[union-attr]


async def saved(api: httpx.AsyncClient, site: str, change: str, edit: Any) -> None:
    where = f"/api/sites/{site}/menus/{LEGAL}?in={change}"
    page = await api.get(where)
    document = page.json()["document"]
    edit(document["items"])
    answer = await api.put(where, json=document, headers={"if-match": page.headers["etag"]})
    assert answer.status_code == 200, answer.text


@pytest.mark.usefixtures("three_sites")
async def test_sites_follow_keep_what_is_theirs_and_are_rolled_forward_in_one_change(
    database: Database, as_ines: httpx.AsyncClient
) -> None:
    assert await made(as_ines, "POST", "/shared-menus", name="Legal", outline=FIRST) == {"key": "legal"}
    begun = await made(as_ines, "POST", "/shared-menus/legal/followers", sites=["alder", "brant", "cairn"])
    told = await shared(as_ines)
    assert [(one["site"], one["standing"]) for one in told["followers"]] == [
        ("alder", "begins"), ("brant", "begins"), ("cairn", "begins"),
    ]  # fmt: skip
    assert (told["details"], told["roles"], told["outline"]) == (["phone"], ["privacy"], FIRST)
    await make_change_live(database, begun["change"])
    assert await labels(database, "alder") == ["Privacy", "Imprint", "Call +44 1"]
    assert await labels(database, "cairn") == ["Privacy", "Imprint"], "what cannot be filled in is left out"
    again = await as_ines.post(
        "/api/shared-menus/legal/followers", json={"sites": ["alder"]}, headers={"idempotency-key": "again"}
    )
    assert (again.status_code, again.json()["detail"]) == (409, "Alder follows Legal already.")

    # Brant adjusts: its own words for one entry, one hidden, one put in.
    own = (await made(as_ines, "POST", "/sites/brant/changes", title="Our own"))["change"]

    def adjust(items: list[dict[str, Any]]) -> None:
        items[1]["label"]["en"] = "Who we are"
        del items[2]
        items.append({"id": "cookies", "kind": "link", "label": {"en": "Cookies"}, "target": {"url": "/cookies"}})

    await saved(as_ines, "brant", own, adjust)
    await make_change_live(database, own)

    await made(as_ines, "PUT", "/shared-menus/legal", name="Legal", outline=SECOND, version=1)
    stale = await as_ines.put("/api/shared-menus/legal", json={"name": "Legal", "outline": FIRST, "version": 1})
    assert stale.status_code == 409
    assert "version 2" in stale.json()["detail"]
    (listed,) = (await as_ines.get("/api/shared-menus")).json()
    assert (listed["version"], listed["entries"], listed["followers"], listed["behind"]) == (2, 3, 3, 3)
    told = {one["site"]: one for one in (await shared(as_ines))["followers"]}
    assert {key: (one["standing"], one["version"]) for key, one in told.items()} == dict.fromkeys(told, ("behind", 1))
    assert told["brant"]["adjustments"] == [
        "Relabelled Imprint to Who we are", "Added Cookies, to /cookies", "Removed Call +44 2",
    ]  # fmt: skip
    assert told["cairn"]["not_filled"][0]["title"] == "Call {site.phone}"

    ahead = {one["site"]: one for one in (await as_ines.get("/api/shared-menus/legal/forward")).json()}
    assert ahead["alder"]["does"] == [
        "Relabelled Privacy to Your privacy", "Added Accessibility, to /accessibility", "Removed Imprint",
    ]  # fmt: skip
    assert ahead["brant"]["does"] == ["Relabelled Privacy to Your privacy", "Added Accessibility, to /accessibility"]
    assert ahead["brant"]["left"] == ["Who we are"], "an adjustment of what is no more"
    assert "Removed Call +44 2" in ahead["brant"]["keeps"]

    # Three sites first, and here two; the rest another time.
    rolled = await made(as_ines, "POST", "/shared-menus/legal/forward", title="Legal 2", sites=["alder", "brant"])
    assert rolled["sites"] == ["alder", "brant"]
    told = {one["site"]: one for one in (await shared(as_ines))["followers"]}
    assert [told[key]["change"] and told[key]["change"]["title"] for key in told] == ["Legal 2", "Legal 2", None]
    assert await labels(database, "alder") == ["Privacy", "Imprint", "Call +44 1"], "nothing is live of it yet"
    await make_change_live(database, rolled["change"])
    assert await labels(database, "alder") == ["Your privacy", "Call +44 1", "Accessibility"]
    assert await labels(database, "brant") == ["Your privacy", "Who we are", "Cookies", "Accessibility"]
    told = {one["site"]: one for one in (await shared(as_ines))["followers"]}
    assert [told[key]["standing"] for key in told] == ["current", "current", "behind"]
    assert told["brant"]["left"] == ["Who we are"]

    # A site's own detail is another: it is behind until that is taken over.
    settings = (await as_ines.get("/api/sites/alder/settings")).json()
    answer = await as_ines.put(
        "/api/sites/alder/settings", json={"details": {"phone": "+44 9"}}, headers={"if-match": f'"{settings["hash"]}"'}
    )
    assert answer.status_code == 200, answer.text
    rest = await made(as_ines, "POST", "/shared-menus/legal/forward", title="The rest")
    assert rest["sites"] == ["alder", "cairn"]
    await make_change_live(database, rest["change"])
    assert await labels(database, "alder") == ["Your privacy", "Call +44 9", "Accessibility"]
    nothing = await as_ines.post(
        "/api/shared-menus/legal/forward", json={"title": "Once more"}, headers={"idempotency-key": "more"}
    )
    assert (nothing.status_code, "newest version" in nothing.json()["detail"]) == (422, True)

    left = await made(as_ines, "DELETE", "/shared-menus/legal/followers/cairn")
    await make_change_live(database, left["change"])
    told = await shared(as_ines)
    assert [one["site"] for one in told["followers"]] == ["alder", "brant"]
    assert [one["site"] for one in told["others"]] == ["cairn"]
    assert await labels(database, "cairn") == ["Your privacy", "Accessibility"], "what it has stays its own"


@pytest.mark.usefixtures("three_sites")
async def test_what_is_behind_or_no_longer_applies_is_found(database: Database, as_ines: httpx.AsyncClient) -> None:
    await made(as_ines, "POST", "/shared-menus", name="Legal", outline=FIRST)
    begun = await made(as_ines, "POST", "/shared-menus/legal/followers", sites=["brant", "cairn"])
    await saved(as_ines, "brant", begun["change"], lambda items: items[1]["label"].update(en="Who we are"))
    await make_change_live(database, begun["change"])

    async def found() -> set[tuple[str, str]]:
        now = datetime.now(UTC)
        async with database.transaction() as session:
            rows = [await sites.site_by_key(session, key) for key in ("brant", "cairn")]
        for row in rows:
            assert row is not None
            await findings.look(database, row.id, now)
        lines = (await as_ines.get("/api/findings")).json()["lines"]
        return {(one["code"], one["says"]) for one in lines if one["family"] == "sync"}

    missing = (
        "detail-missing",
        "Call {site.phone} of Legal is left out: the site's settings have no phone for {site.phone}",
    )
    assert await found() == {missing}
    await made(as_ines, "PUT", "/shared-menus/legal", name="Legal", outline=SECOND, version=1)
    assert {code for code, _ in await found()} == {"detail-missing", "shared-behind"}
    rolled = await made(as_ines, "POST", "/shared-menus/legal/forward", title="Legal 2")
    await make_change_live(database, rolled["change"])
    says = "Who we are is no more in Legal, and stays here as it was adjusted"
    assert await found() == {missing, ("adjustment-left", says)}


@pytest.mark.parametrize(
    ("outline", "where", "says"),
    [
        ("Privacy ->", "line 1, column 11", "the target is missing"),
        ('{menu "Legal"}\nPrivacy ->', "line 2, column 11", "the target is missing"),
        ("+ header", "include", "holds its entries itself"),
        ("\n".join(f"Entry {at} -> /{at}" for at in range(501)), "outline", "at most 500 entries"),
    ],
)
async def test_what_cannot_be_shared_is_refused_and_makes_no_version(
    as_ines: httpx.AsyncClient, outline: str, where: str, says: str
) -> None:
    answer = await as_ines.post(
        "/api/shared-menus", json={"name": "Legal", "outline": outline}, headers={"idempotency-key": str(uuid4())}
    )
    assert answer.status_code == 422, answer.text
    assert answer.json()["where"] == where
    assert says in answer.json()["detail"]
    assert (await as_ines.get("/api/shared-menus")).json() == []
    unseen = {"name": "\u202e", "outline": "Privacy -> /privacy"}
    answer = await as_ines.post("/api/shared-menus", json=unseen, headers={"idempotency-key": str(uuid4())})
    assert (answer.status_code, answer.json()["problems"][0]["where"]) == (422, "name")


@pytest.mark.usefixtures("three_sites")
async def test_who_may_not_edit_at_a_site_is_told_and_rolls_the_others_forward(
    database: Database, as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, tom: Person
) -> None:
    await made(as_ines, "POST", "/shared-menus", name="Legal", outline=FIRST)
    begun = await made(as_ines, "POST", "/shared-menus/legal/followers", sites=["alder", "brant"])
    await make_change_live(database, begun["change"])
    await made(as_ines, "PUT", "/shared-menus/legal", name="Legal", outline=SECOND, version=1)
    async with database.transaction() as session:
        await (await session.connection()).execute(
            text(
                "INSERT INTO membership (person_id, site_id, role) SELECT :person, id, 'viewer' FROM site WHERE key = 'brant'"
            ),
            {"person": tom.id},
        )
    ahead = {one["site"]: one["refused"] for one in (await as_tom.get("/api/shared-menus/legal/forward")).json()}
    assert ahead == {"alder": None, "brant": "You may not edit at this site."}
    rolled = await made(as_tom, "POST", "/shared-menus/legal/forward", title="Legal 2")
    assert rolled["sites"] == ["alder"]
    answer = await as_tom.post(
        "/api/shared-menus/legal/followers", json={"sites": ["brant"]}, headers={"idempotency-key": "x"}
    )
    assert answer.status_code == 403


@pytest.mark.parametrize(
    ("path", "words", "role", "read"),
    [
        ("/p/1", "Privacité", "privacite", True), ("/Legal/PRIVACY.html", "Data", "privacy", True),
        ("/x", "PRIVACY notice", "privacy-notice", True), ("/x", "Fares", "privacy", False),
    ],
)  # fmt: skip
async def test_every_page_is_read_that_may_be_in_a_role(
    database: Database, path: str, words: str, role: str, read: bool
) -> None:
    await on_shelf(database, "alder", {"foot": ["/here"]})
    async with database.transaction() as session:
        await (await session.connection()).execute(
            text("UPDATE page SET path = :path, title = CAST(:title AS json) WHERE ref = 'fares'"),
            {"path": path, "title": json.dumps({"en": words})},
        )
        site = await sites.site_by_key(session, "alder")
        assert site is not None
        names = (await page_names(session, [site.id], [role], []))[site.id]
    assert [one.ref for one in names] == (["fares"] if read else [])
    assert page_in_role(role, facts_of(site), names) == ("fares" if read else None)
