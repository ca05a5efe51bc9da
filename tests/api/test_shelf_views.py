"""The shelf as each person looks at it: sites by their client and by the teams that look after them, and views that are kept."""

import httpx

from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.permission import Person
from sign_shelf.store import teams
from sign_shelf.store.database import Database
from sign_shelf.store.sites import site_by_key
from sign_shelf.store.tables import TeamRow

VIEWS = "/api/shelf/views"


async def test_a_site_says_whose_it_is_and_who_looks_after_it(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database
) -> None:
    settings = (await as_ines.get("/api/sites/brackwater/settings")).json()
    assert settings["client"] is None
    mark = {"if-match": f'"{settings["hash"]}"'}
    kept = await as_ines.put("/api/sites/brackwater/settings", json={"client": " Vessel Coast Council "}, headers=mark)
    assert (kept.status_code, kept.json()["client"]) == (200, "Vessel Coast Council")
    async with database.transaction() as session:
        site = await site_by_key(session, "brackwater")
        assert site is not None
        for name in ("Shore", "Boats"):
            team = TeamRow(name=name)
            session.add(team)
            await session.flush()
            await teams.keep(session, team.id, [site.id], {})
    (line,) = (await as_ines.get("/api/shelf")).json()
    assert (line["client"], line["teams"]) == ("Vessel Coast Council", ["Boats", "Shore"])
    mark = {"if-match": f'"{kept.json()["hash"]}"'}
    none = await as_ines.put("/api/sites/brackwater/settings", json={"client": ""}, headers=mark)
    assert none.json()["client"] is None
    assert "Brackwater Ferries: is a site of Vessel Coast Council" in (await as_ines.get("/api/ledger")).text


async def test_views_are_kept_by_their_names_each_persons_own(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, ines: Person
) -> None:
    at = {"show": "broken", "order": "by client", "dense": True, "find": "ferries"}
    assert (await as_ines.put(f"{VIEWS}/Ferries", json=at)).status_code == 204
    assert (await as_ines.put(f"{VIEWS}/Mine", json={"show": "mine"})).status_code == 204
    assert (await as_ines.put(f"{VIEWS}/Mine", json={"order": "by team"})).status_code == 204
    found = (await as_ines.get(VIEWS)).json()
    assert [one["name"] for one in found] == ["Ferries", "Mine"]
    assert found[0]["at"] == at
    assert found[1]["at"] == {"show": None, "order": "by team", "dense": None, "find": None}, "the newer of one name"
    assert (await as_tom.get(VIEWS)).json() == []
    for odd in ({"show": "everything"}, {"size": 3}, {"find": "x" * 201}):
        assert (await as_ines.put(f"{VIEWS}/Odd", json=odd)).status_code == 422
    assert (await as_ines.put(f"{VIEWS}/{'x' * 201}", json={})).status_code == 422
    for number in range(28):
        assert (await as_ines.put(f"{VIEWS}/View {number}", json={})).status_code == 204
    full = await as_ines.put(f"{VIEWS}/One more", json={})
    assert (full.status_code, "30 views are kept already" in full.json()["detail"]) == (422, True)
    assert (await as_ines.delete(f"{VIEWS}/Mine")).status_code == 204
    assert "Mine" not in {one["name"] for one in (await as_ines.get(VIEWS)).json()}
