"""What the bench asks for over HTTP: the past, comparisons, edits taken back, what comes in and goes out, vocabulary."""

import json
from copy import deepcopy
from typing import Any

import httpx
import pytest

from sign_shelf.core.outline import parse_outline
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.permission import Person
from tests.api.test_menus import HEADER, labels, read, save, together, with_line

SITE = "/api/sites/brackwater"


async def incoming(api: httpx.AsyncClient, data: str | bytes, **query: str) -> Any:
    answer = await api.post(f"{SITE}/incoming/data", content=data, params=query)
    assert answer.status_code == 200, answer.text
    return answer.json()


async def test_the_past_tells_who_did_what_and_any_state_can_be_looked_at(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn
) -> None:
    await together(as_ines, as_tom)
    bench = await read(as_ines)
    one = (await save(as_ines, with_line(bench["document"], "One"), bench["hash"])).json()["hash"]
    two_doc = with_line((await read(as_ines))["document"], "Two")
    two = (await save(as_ines, two_doc, one)).json()["hash"]
    three = (await save(as_tom, two_doc | {"name": "Top bar"}, two)).json()["hash"]
    entries = (await as_ines.get(f"{HEADER}/history")).json()["entries"]
    assert [(entry["by"], entry["saves"]) for entry in entries] == [("Tom Arkwright", 1), ("Ines Calder", 2), (None, 1)]
    assert [edit["says"] for edit in entries[0]["edits"]["first"]] == ["Renamed the menu from Header to Top bar"]
    assert [edit["says"] for edit in entries[1]["edits"]["first"]] == ["Added One, to /x", "Added Two, to /x"]
    assert (entries[2]["before"], entries[2]["hash"]) == (None, bench["hash"])
    earlier = (await as_ines.get(f"{HEADER}/revisions/{one}")).json()
    assert labels(earlier)[-1] == "One"
    between = (await as_ines.get(f"{HEADER}/comparison", params={"before": three, "after": one})).json()
    assert [edit["op"] for edit in between["first"]] == ["set", "remove"]
    unknown = await as_ines.get(f"{HEADER}/revisions/sha256:0")
    assert (unknown.status_code, unknown.json()["title"]) == (404, "Not found")


async def test_a_long_past_is_told_page_by_page(
    as_ines: httpx.AsyncClient, as_tom: httpx.AsyncClient, brackwater: StandIn
) -> None:
    """Two people in turn: every save an entry; pages follow each other without a gap."""
    await together(as_ines, as_tom)
    bench = await read(as_ines)
    document, hash = bench["document"], bench["hash"]
    for number in range(18):
        api = as_ines if number % 2 else as_tom
        document = with_line(document, f"Line {number}")
        hash = (await save(api, document, hash)).json()["hash"]
    first = (await as_ines.get(f"{HEADER}/history")).json()
    rest = (await as_ines.get(f"{HEADER}/history", params={"before": first["next"]})).json()
    said = [entry["edits"]["first"][0]["says"] for entry in [*first["entries"], *rest["entries"]]]
    assert said[:18] == [f"Added Line {number}, to /x" for number in reversed(range(18))]
    assert (len(first["entries"]), rest["next"]) == (15, None)


async def test_single_edits_are_taken_back(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    bench = await read(as_ines)
    changed = deepcopy(with_line(bench["document"], "Quiet lounge"))
    changed["items"][0]["label"]["en"] = "When we sail"
    saved = (await save(as_ines, changed, bench["hash"])).json()
    keys = {edit["says"]: edit["key"] for edit in saved["changes"]["first"]}
    body = {"before": bench["hash"], "document": changed, "keys": [keys["Relabelled Timetables to When we sail"]]}
    mended = (await as_ines.post(f"{HEADER}/take-back", json=body)).json()
    assert labels(mended)[0] == "Timetables"
    assert labels(mended)[-1] == "Quiet lounge"
    whole = (await as_ines.post(f"{HEADER}/take-back", json=body | {"keys": list(keys.values())})).json()
    assert whole == bench["document"]


async def test_a_copy_remembers_its_origin_and_is_compared_with_it(
    as_ines: httpx.AsyncClient, brackwater: StandIn
) -> None:
    (copy,) = (await as_ines.get(f"{SITE}/incoming/menu/brackwater/header", params={"into": "drawer-phone"})).json()
    assert copy["document"]["items"][0]["origin"] == "header/timetables"
    assert "book" in copy["already"], "what the drawer leads to already is named"
    copy["document"]["items"][0]["label"]["en"] = "When"
    made = await as_ines.post(
        f"{SITE}/menus", json={"name": "Twin", "document": copy["document"]}, headers={"idempotency-key": "k"}
    )
    assert made.status_code == 201
    compared = (await as_ines.get(f"{SITE}/menus/{made.json()['key']}/comparison/with/brackwater/header")).json()
    said = [edit["says"] for edit in compared["first"] if "is a copy of" not in edit["says"]]
    assert said == ["Renamed the menu from Header to Twin", "Relabelled Timetables to When"]


async def test_what_is_read_is_told_before_anything_is_kept(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    (found,) = await incoming(as_ines, "- Fares -> /fares\n  - Out -> https://else.example/", into="header")
    assert (found["count"], found["depth"]) == (2, 2)
    out = found["document"]["items"][0]["items"][0]
    assert (out["new_tab"], out["rel"]) == (True, ["noopener", "external"]), "as the site's policy has outside links"
    (table,) = await incoming(
        as_ines, b"path,label,target,colour\n1,Fares,/fares,red\n2,Bad,javascript:x,\n", name="Fares"
    )
    assert table["document"]["items"][0]["target"] == {"page": "fares"}
    assert [note["where"] for note in table["notes"]] == ["line 3"]
    assert [(one["head"], one["role"]) for one in table["table"]["columns"]][2:] == [
        ("target", "target"),
        ("colour", ""),
    ]
    menus = await incoming(
        as_ines, "<nav aria-label=A><a href=/fares>F</a></nav><nav><ul><li><a href=/b>B</a></ul></nav>"
    )
    assert [menu["title"] for menu in menus] == ["A", "Contents"]
    (told,) = await incoming(as_ines, "A -> javascript:x")
    assert (told["notes"][0]["where"], told["document"]["items"][0]["target"]) == (
        "line 1", {"pending": {"note": "was not understood: javascript:x"}},
    )  # fmt: skip
    refused = await as_ines.post(f"{SITE}/incoming/data", content=b"PK\x03\x04 a spreadsheet's own file")
    assert (refused.status_code, "save it as CSV" in refused.text) == (422, True)
    assert len((await read(as_ines))["document"]["items"]) == 6, "nothing was kept"


async def test_the_live_page_and_cut_lines_come_in_as_copies(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    live = (await as_ines.post(f"{SITE}/incoming/live", json={"path": "/fares"})).json()
    header = next(menu for menu in live if menu["title"] == "Header bar")
    assert header["document"]["items"][0]["target"] == {"page": "timetables"}
    away = await as_ines.post(f"{SITE}/incoming/live", json={"path": "https://else.example/"})
    assert (away.status_code, "is no address of" in away.json()["detail"]) == (422, True)
    cut = parse_outline("Book -> /book").to_json()
    body = {"site": "brackwater", "menu": "header", "document": cut}
    (copied,) = (await as_ines.post(f"{SITE}/incoming/copy", json=body)).json()
    assert copied["document"]["items"][0]["origin"] == "header/book"


@pytest.mark.parametrize(
    ("format", "kind", "begins"),
    [
        ("outline", "text/plain", '{menu "Header"}\nTimetables -> @timetables'),
        ("json", "application/vnd.sign-shelf.menu+json", '{\n  "format"'),
        ("html", "text/html", '<nav aria-label="Header">'),
        ("opml", "text/x-opml", "<?xml"),
        ("csv", "text/csv", "path,kind,label,label:nl,target,settings"),
        ("linkset", "application/linkset+json", '{\n  "linkset"'),
        ("jsonld", "application/ld+json", '{\n  "@context"'),
    ],
)
async def test_a_menu_goes_out_in_every_format(
    as_ines: httpx.AsyncClient, brackwater: StandIn, format: str, kind: str, begins: str
) -> None:
    answer = await as_ines.get(f"{HEADER}/export/{format}")
    assert answer.headers["content-type"].startswith(kind)
    assert answer.text.startswith(begins)
    assert "brackwater-header." in answer.headers["content-disposition"]


async def test_what_items_can_name_is_offered(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    known = (await as_ines.get(f"{SITE}/vocabulary")).json()
    assert {"type": "route", "pages": 7} in known["types"]
    assert known["overlays"][0]["key"] == "question-form"
    assert {"name": "visitor.id", "type": "text"} in known["facts"]
    icons = (await as_ines.get("/api/icons", params={"words": "ticket"})).json()
    assert icons[0]["name"] == "ticket"
    assert icons[0]["svg"].startswith("<svg")
    assert "noopener" in {one["name"] for one in (await as_ines.get("/api/relations")).json()}
    query = {"list": {"type": "route", "order": "title", "limit": 3}}
    listed = (await as_ines.post(f"{HEADER}/listing", json=query)).json()
    assert (listed["count"], [page["title"] for page in listed["first"]]) == (
        3,
        ["Eastwick", "Great Holm", "Little Holm"],
    )
    elsewhere = (await as_ines.post(f"{HEADER}/listing", json=query | {"language": "sv"})).json()
    assert elsewhere == listed, "a language that the site does not speak has no order here"
    text = await as_ines.post("/api/outline", content=json.dumps(parse_outline("A -> /a").to_json()))
    assert text.text == "A -> /a\n"


async def test_the_strip_comes_in_the_language_of_the_lens(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    query = {"device": "desktop", "location": "header", "language": "nl"}
    got = (await as_ines.get(f"{HEADER}/resolved", params=query)).json()
    assert '<span class="text">Dienstregeling</span>' in got["strip"]
    assert '<svg class="icon"' in got["strip"]
    assert {hidden["id"] for hidden in got["hidden"]} >= {"crew-rota"}


async def test_findings_come_with_their_number_and_fix(as_ines: httpx.AsyncClient, brackwater: StandIn) -> None:
    found = (await as_ines.get(f"{HEADER}/findings")).json()
    dog = next(one for one in found if one["code"] == "pending")
    assert (dog["number"], dog["fix"]) == ("4.3", "Choose a page.")
    assert (await as_ines.get(f"{SITE}/menus/nowhere/findings")).status_code == 404


async def test_only_who_may_edit_brings_lines_in(
    api: httpx.AsyncClient, brackwater: StandIn, ines: Person, as_tom: httpx.AsyncClient
) -> None:
    nobody = await api.post(f"{SITE}/incoming/data", content=b"A -> /a")
    assert nobody.status_code == 401
    unknown = await as_tom.post("/api/sites/nowhere/incoming/data", content=b"A -> /a")
    assert unknown.status_code == 404
