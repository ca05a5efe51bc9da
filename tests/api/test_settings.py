"""What a site is, told and changed over HTTP: settings, places by the site's own names, putting away, taking all out."""

import re
from typing import Any

import httpx

from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.jobs import watching
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import sites
from sign_shelf.store.database import Database

SITE = "/api/sites/brackwater"


async def settings(api: httpx.AsyncClient) -> dict[str, Any]:
    answer = await api.get(f"{SITE}/settings")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


async def keep(api: httpx.AsyncClient, on: str, **changes: object) -> httpx.Response:
    return await api.put(f"{SITE}/settings", json=changes, headers={"if-match": f'"{on}"'})


async def test_settings_are_kept_on_top_of_what_was_read(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    before = await settings(as_ines)
    assert (before["connection"], before["archived_at"]) == ("endpoint", None)
    assert {"name": "Ines Calder", "role": "lead"} in before["people"]
    kept = await keep(
        as_ines, before["hash"], name="Brackwater", zone="Europe/Amsterdam", languages=["en", "nl", "cy"],
        hosts=[{"host": "staging.brackwater.example", "kind": "staging"}], outside_links="same_tab", approvals=2,
    )  # fmt: skip
    assert kept.status_code == 200, kept.text
    after = await settings(as_ines)
    assert after == kept.json()
    assert (after["name"], after["zone"], after["languages"], after["approvals"], after["outside_links"]) == (
        "Brackwater", "Europe/Amsterdam", ["en", "nl", "cy"], 2, "same_tab",
    )  # fmt: skip
    page = (await as_ines.get(SITE)).json()
    assert (page["name"], page["zone"], page["languages"]) == ("Brackwater", "Europe/Amsterdam", ["en", "nl", "cy"])
    line = (await as_ines.get("/api/ledger", params={"limit": 1})).json()[0]
    assert line["says"].startswith("Brackwater: is called Brackwater, lives by the clock of Europe/Amsterdam")
    assert (await keep(as_ines, after["hash"], approvals=1)).json()["outside_links"] == "same_tab", (
        "the rest of the policy stays"
    )
    after = await settings(as_ines)
    late = await keep(as_ines, before["hash"], name="Too late")
    assert (late.status_code, (await settings(as_ines))["name"]) == (412, "Brackwater")
    back = await keep(
        as_ines, after["hash"], name=before["name"], zone=before["zone"], languages=before["languages"], hosts=[]
    )
    assert back.status_code == 200


async def test_the_policy_says_what_is_found_and_what_stops_a_release(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database, fetcher: Fetcher
) -> None:
    async def found(code: str) -> list[str]:
        await watching.look(database, fetcher)
        lines = (await as_ines.get("/api/findings?site=brackwater")).json()["lines"]
        return [one["says"] for one in lines if one["code"] == code]

    assert await found("required-missing") == await found("page-far") == []
    before = await settings(as_ines)
    assert (before["stops"], before["label_length"], before["steps"]) == ("stop", None, None)
    kept = await keep(as_ines, before["hash"], label_length=6, steps=1, required={"strip": ["fares"]}, stops="warn")
    assert kept.status_code == 200, kept.text
    assert [kept.json()[name] for name in ("label_length", "steps", "required", "stops")] == [
        6,
        1,
        {"strip": ["fares"]},
        "warn",
    ]
    (missing,) = await found("required-missing")
    assert re.fullmatch(
        r"Top strip must lead to Fares and passes, and does not on a (tablet|desktop), and 1 more", missing
    )
    assert await found("page-far")
    assert any("the site's policy takes 6" in says for says in await found("label-long"))
    bench = (await as_ines.get(f"{SITE}/menus/footer")).json()
    line = {"id": "new", "kind": "link", "label": {"en": "Read more"}, "target": {"url": "/fares"}}
    document = bench["document"] | {"items": [*bench["document"]["items"], line]}
    saved = await as_ines.put(f"{SITE}/menus/footer", json=document, headers={"if-match": f'"{bench["hash"]}"'})
    assert saved.status_code == 200, saved.text
    stopped = await as_ines.post(f"{SITE}/releases", headers={"idempotency-key": "go"})
    assert (stopped.status_code, "A finding stops it" in stopped.text) == (422, True), stopped.text
    loose = await keep(as_ines, kept.json()["hash"], stops="nothing", label_length=0, steps=0, required={})
    assert [loose.json()[name] for name in ("label_length", "steps", "required", "stops")] == [
        None,
        None,
        {},
        "nothing",
    ]
    assert (await as_ines.post(f"{SITE}/releases", headers={"idempotency-key": "go"})).status_code == 202


async def test_what_cannot_be_is_refused_with_what_would_work(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    mark = (await settings(as_ines))["hash"]
    for changes, says in [
        ({"zone": "Europe/Atlantis"}, "is no IANA time zone"),
        ({"base": "ftp://x"}, "expected http"),
        ({"languages": ["EN-"]}, "languages"),
        ({"seen_at": {"header": "nav["}}, "is no CSS selector; write one such as"),
        ({"seen_at": {"heder": "#main-menu"}}, "it has drawer, footer, header, legal, strip"),
        ({"base": "http://127.0.0.1:9/"}, "answers in the site protocol"),
    ]:
        answer = await keep(as_ines, mark, **changes)
        assert answer.status_code in {409, 422}, (changes, answer.text)
        assert says in answer.text, (changes, answer.text)
    assert (await settings(as_ines))["hash"] == mark
    bare = await as_ines.put(f"{SITE}/settings", json={"name": "x"})
    assert bare.status_code == 428


async def test_a_site_that_is_put_away_is_told_of_and_not_edited(
    as_ines: httpx.AsyncClient, brackwater: StandIn
) -> None:
    assert (await as_ines.put(f"{SITE}/archived", json={"archived": True})).status_code == 204
    try:
        shown = [line["key"] for line in (await as_ines.get("/api/shelf")).json()]
        assert "brackwater" not in shown
        away = (await as_ines.get("/api/shelf", params={"away": True})).json()
        assert [line["key"] for line in away] == ["brackwater"]
        assert away[0]["archived_at"] is not None
        assert "brackwater" not in [one["key"] for one in (await as_ines.get("/api/shelf/sites")).json()]
        found = (await as_ines.get("/api/search", params={"words": "brackwater"})).json()
        assert [one for one in found["sites"] if one["key"] == "brackwater"] == []
        bench = (await as_ines.get(f"{SITE}/menus/header")).json()
        document = bench["document"] | {"name": "Other"}
        refused = await as_ines.put(
            f"{SITE}/menus/header", json=document, headers={"if-match": f'"{bench["hash"]}"'}
        )  # fmt: skip
        assert (refused.status_code, refused.json()["remedy"]) == (409, "Take it out again in its settings to edit it.")
    finally:
        assert (await as_ines.put(f"{SITE}/archived", json={"archived": False})).status_code == 204
    assert "brackwater" in [line["key"] for line in (await as_ines.get("/api/shelf")).json()]


async def test_places_have_the_sites_own_names(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    """A place of the template that the site calls otherwise: what is hung there goes to the site's place."""
    page = (await as_ines.get(SITE)).json()
    assert all(one["called"] == one["key"] for one in page["locations"])
    wrong = await keep(as_ines, (await settings(as_ines))["hash"], places={"legal": "small-print"})
    assert wrong.status_code == 200
    refused = await as_ines.put(f"{SITE}/places/legal/desktop", json={"menu": "legal"})
    assert (refused.status_code, "has no Legal line" in refused.text) == (422, True), refused.text
    assert "Say in its settings which of them this is" in refused.text
    both = await keep(as_ines, wrong.json()["hash"], places={"legal": "header"})
    assert (both.status_code, "Header bar and Legal line are both header" in both.text) == (409, True), both.text
    right = await keep(as_ines, wrong.json()["hash"], places={})
    assert right.status_code == 200
    assert (await as_ines.put(f"{SITE}/places/legal/desktop", json={"menu": "legal"})).status_code == 204


async def test_where_places_of_another_template_stood_keeps_nothing_from_being_settled(
    as_ines: httpx.AsyncClient, brackwater: StandIn, database: Database
) -> None:
    async with database.transaction() as session:
        row = await sites.site_by_key(session, "brackwater")
        assert row is not None
        row.particulars = row.particulars | {"seen_at": {"of-another": "#there"}}
        session.add(row)
    kept = await keep(
        as_ines,
        (await settings(as_ines))["hash"],
        name="Brackwater",
        seen_at={"of-another": "#there", "header": "#here"},
    )
    assert (kept.status_code, kept.json()["seen_at"]) == (200, {"of-another": "#there", "header": "#here"}), kept.text


async def test_all_menus_are_taken_out_at_once(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    table = await as_ines.get(f"{SITE}/export/csv")
    assert table.headers["content-disposition"] == 'attachment; filename="brackwater.csv"'
    assert f"{brackwater.base}timetables" in table.text
    paper = await as_ines.get(f"{SITE}/export/print")
    assert paper.headers["content-type"].startswith("text/html")
    assert "script" not in paper.headers["content-security-policy"].replace("default-src", "")
    assert "Timetables" in paper.text
    whole = await as_ines.get(f"{SITE}/export/json")
    assert whole.json()["format"] == "sign-shelf/site"


async def test_what_a_paste_holds_is_told_before_anything_is_kept(
    as_ines: httpx.AsyncClient, brackwater: StandIn
) -> None:
    async def read(text: str, **query: object) -> dict[str, Any]:
        answer = await as_ines.post(f"{SITE}/incoming/data", content=text.encode(), params=query)  # type: ignore[arg-type]
        assert answer.status_code == 200, answer.text
        return dict(answer.json()[0])

    titled = await read("Timetables\nNo such page\nBad {colour red}\n")
    assert titled["titles"]["asked"] == 2
    (match,) = titled["titles"]["matches"]
    assert (match["sure"], match["pages"][0]["path"]) == (True, "/timetables")
    assert [note["where"] for note in titled["notes"]] == ["line 3"]
    table = await read("Titel;Ziel\nBoote;/boats\n")
    assert [(one["head"], one["role"]) for one in table["table"]["columns"]] == [("Titel", "label"), ("Ziel", "target")]
    assert (table["table"]["headed"], table["table"]["sure"]) == (True, False)
    said = await read("Titel;Ziel\nBoote;/boats\n", columns=["target", "label"], headed=False)
    assert said["count"] == 2
    unchanged = (await as_ines.get(f"{SITE}/menus/header")).json()["document"]
    assert "Boote" not in str(unchanged)
