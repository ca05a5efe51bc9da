"""How a site gets its menus: each kind of connection tried before it is used, and what is wrong told."""

from datetime import UTC, datetime, timedelta
from typing import Any

import httpx
import pytest
from pydantic import SecretStr

from sign_shelf.demo.stand_ins.server import StandIn, new_secret
from sign_shelf.jobs import watching
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database
from tests.api.test_changes import begin, relabelled
from tests.constants import KEY, LOOPBACK
from tests.desk.test_release_ends import Jobs, ask, release_of
from tests.desk.test_repository import git, remote  # noqa: F401
from tests.desk.test_sync import by_hand

SITE = "/api/sites/brackwater"
CONNECTION = f"{SITE}/connection"


@pytest.fixture
def configured(address: str, remote: Any) -> Settings:  # noqa: F811
    return Settings(database=SecretStr(address), key=KEY, private_hosts="127.0.0.1", repositories=remote.parent)


@pytest.fixture
async def fetcher(remote: Any) -> Any:  # noqa: F811
    async with Fetcher(LOOPBACK, repositories=remote.parent) as opened:
        yield opened


async def tried(api: httpx.AsyncClient, **wanted: Any) -> dict[str, tuple[str, str]]:
    answer = await api.post(f"{CONNECTION}/try", json=wanted)
    assert answer.status_code == 200, answer.text
    return {one["check"]: (one["outcome"], one["says"]) for one in answer.json()}


def wrong(found: dict[str, tuple[str, str]]) -> list[str]:
    return [check for check, (outcome, _) in found.items() if outcome == "fails"]


async def used(api: httpx.AsyncClient, **wanted: Any) -> httpx.Response:
    return await api.put(CONNECTION, json=wanted)


async def test_each_kind_is_tried_and_what_is_wrong_is_told(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn, remote: Any  # noqa: F811
) -> None:  # fmt: skip
    known = (await as_ines.get(CONNECTION)).json()
    assert (known["kind"], known["signing"], known["delivery"]) == ("endpoint", True, False)
    assert (await as_tom.post(f"{CONNECTION}/try", json={"kind": "observe"})).status_code == 403

    sending = await tried(as_ines, kind="endpoint")
    assert wrong(sending) == []
    assert sending["take a signed menu (200, with a strong ETag)"][0] == "ok"
    another = await tried(as_ines, kind="endpoint", secret=new_secret())
    assert "take a signed menu (200, with a strong ETag)" in wrong(another)
    assert (await as_ines.post(f"{CONNECTION}/try", json={"kind": "endpoint", "secret": "no key"})).status_code == 422

    committing = await tried(as_ines, kind="repository", remote=str(remote))
    assert wrong(committing) == []
    assert "0 of" in committing["answer, with a branch main"][1]
    assert git(remote, "for-each-ref") == "", "tried without pushing anything"
    none = await tried(as_ines, kind="repository", remote=str(remote.parent / "none.git"))
    assert "no repository there" in none["answer, with a branch main"][1]
    odd = await tried(as_ines, kind="repository", remote="--upload-pack=x")
    assert wrong(odd) == ["have an address that we may reach"]

    asking = await tried(as_ines, kind="fetch")
    assert wrong(asking) == ["have a key to ask with", "say of itself that it asks"]
    looking = await tried(as_ines, kind="observe")
    assert wrong(looking) == []
    assert looking["show Header bar on the desktop"] == ("ok", "Found by its likeness; as verified.")
    mark = (await as_ines.get(f"{SITE}/settings")).json()["hash"]
    seen_at = {"header": '.top nav[aria-label="Header bar"]', "legal": "#nowhere"}
    kept = await as_ines.put(f"{SITE}/settings", json={"seen_at": seen_at}, headers={"if-match": f'"{mark}"'})
    assert kept.json()["seen_at"] == seen_at
    at = await tried(as_ines, kind="observe")
    assert at["show Header bar on the desktop"] == ("ok", f"Found at {seen_at['header']}; as verified.")
    assert at["show Legal line on the desktop"][1].startswith("Found by its likeness, as nothing stands at #nowhere")
    gone = await as_ines.put(f"{SITE}/settings", json={"seen_at": {}}, headers={"if-match": f'"{kept.json()["hash"]}"'})
    assert gone.json()["hash"] == mark
    await by_hand(brackwater, "Timetables", "Sailing times")
    edited = await tried(as_ines, kind="observe")
    assert edited["show Header bar on the desktop"] == (
        "ok",
        "Found by its likeness; it differs in 1 edit, which Sync will tell.",
    )


async def test_a_site_is_moved_from_one_kind_to_another_and_what_it_shows_otherwise_is_drift(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn, run_jobs: Jobs, database: Database,
    fetcher: Fetcher,
) -> None:  # fmt: skip
    assert (await used(as_tom, kind="observe")).status_code == 403
    assert (await used(as_ines, kind="observe")).status_code == 204
    assert (await as_ines.get(SITE)).json()["connection"] == "observe"
    await by_hand(brackwater, "Timetables", "Sailing times")
    unknown = await used(as_ines, kind="endpoint", secret=new_secret())
    assert (unknown.status_code, "does not know this signing key" in unknown.json()["detail"]) == (422, True)
    assert (await as_ines.get(CONNECTION)).json()["kind"] == "observe", "nothing was changed"
    assert (await used(as_ines, kind="endpoint", secret=brackwater.places.secret)).status_code == 204
    assert (await used(as_ines, kind="pigeon")).status_code == 422

    # What somebody edited meanwhile is told, not taken for what was verified.
    await watching.read_what_sites_show(database, fetcher, lambda: datetime.now(UTC) + timedelta(hours=2))
    (sync,) = (await as_ines.get("/api/sync?site=brackwater")).json()
    (drift,) = sync["drifts"]
    assert [edit["says"] for edit in drift["edits"]] == ["Relabelled Timetables to Sailing times"]
    back = await as_ines.post(
        f"{SITE}/places/header/desktop/read-again", json={"what": "put back"}, headers={"idempotency-key": "back"}
    )
    await run_jobs()
    assert (await release_of(as_ines, back.json()["release"]))["state"] == "live"
    await relabelled(as_ines, await begin(as_ines, "Times"), "Times")
    release = await ask(as_ines)
    clash = await used(as_ines, kind="observe")
    assert (clash.status_code, "goes live there just now" in clash.json()["detail"]) == (409, True)
    await run_jobs()
    assert (await release_of(as_ines, release["id"]))["state"] == "live"
    ledger = (await as_ines.get("/api/ledger?site=brackwater")).text
    assert "Brackwater Ferries gets its menus otherwise: we only look" in ledger
