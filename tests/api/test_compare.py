"""Sites side by side: the same place of each, and an entry brought over to where its neighbours stand."""

from uuid import uuid4

import httpx
import pytest

from sign_shelf.store.database import Database
from tests.desk.conftest import on_shelf


@pytest.fixture
async def three_sites(database: Database) -> None:
    for key, addresses in (("alder", ["/a", "/b", "/c"]), ("brant", ["/a", "/c"]), ("cinder", ["/a", "/b", "/c"])):
        await on_shelf(database, key, {"top": addresses})


@pytest.mark.usefixtures("three_sites")
async def test_what_most_sites_have_and_one_lacks_is_told_and_brought_over(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, database: Database
) -> None:
    path = "/api/compare?site=alder&site=brant&site=cinder&location=top"
    told = (await as_ines.get(path)).json()
    assert [(one["site"], one["location"], one["menu"]) for one in told["columns"]] == [
        ("alder", "top", "top"), ("brant", "top", "top"), ("cinder", "top", "top"),
    ]  # fmt: skip
    goals = [[cell["leads_to"] if cell else None for cell in row["cells"]] for row in told["rows"]]
    assert goals == [["/a", "/a", "/a"], ["/b", None, "/b"], ["/c", "/c", "/c"]]
    assert [row["lacking"] for row in told["rows"]] == [[], [1], []]

    body = {
        "site": "alder",
        "menu": "top",
        "item": told["rows"][1]["cells"][0]["item"],
        "to_site": "brant",
        "to_menu": "top",
    }
    key = {"idempotency-key": str(uuid4())}
    one = await as_ines.post("/api/compare/bring", json=body, headers=key)
    again = await as_ines.post("/api/compare/bring", json=body, headers=key)
    assert one.status_code == 201, one.text
    assert one.json() == again.json()
    items = (await as_ines.get(f"/api/sites/brant/menus/top?in={one.json()['change']}")).json()["document"]["items"]
    assert [item["target"]["url"] for item in items] == ["/a", "/b", "/c"], "between its neighbours"
    assert items[1]["origin"] == "alder/top/top-1"

    for query, says in (
        ("site=alder&location=top", "Two to 12 sites"), ("site=alder&site=nowhere&location=top", "no site"),
        ("site=alder&site=brant&location=nowhere", "It has top"),
    ):  # fmt: skip
        refused = await as_ines.get(f"/api/compare?{query}")
        assert refused.status_code in {404, 422}
        assert says in refused.text
    # Who may only look at one of them brings nothing there, and who may look at none of them compares nothing.
    async with database.transaction() as session:
        connection = await session.connection()
        await connection.exec_driver_sql("UPDATE person SET role = 'viewer' WHERE email = 'tom@quillfen.example'")
    assert (await as_tom.get(path)).status_code == 200
    assert (await as_tom.post("/api/compare/bring", json=body, headers={"idempotency-key": "tom"})).status_code == 403
    async with database.transaction() as session:
        connection = await session.connection()
        await connection.exec_driver_sql("UPDATE person SET role = 'none' WHERE email = 'tom@quillfen.example'")
    assert (await as_tom.get(path)).status_code == 403
    gone = await as_ines.post(
        "/api/compare/bring", json=body | {"item": "nothing"}, headers={"idempotency-key": "gone"}
    )
    assert gone.status_code == 404
