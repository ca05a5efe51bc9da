"""Places, looks, templates, fit and fonts over HTTP: what a person does on the site's page and in Setup."""

import hashlib
from collections.abc import Awaitable, Callable
from datetime import UTC, datetime
from io import BytesIO
from typing import Any
from uuid import uuid4

import httpx
import pytest
from fontTools.ttLib import TTFont

from sign_shelf.core.look import PlaceLook
from sign_shelf.demo.stand_ins.content import all_contents
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk.people import add_person
from sign_shelf.settings import STATIC
from sign_shelf.store import sites
from sign_shelf.store.database import Database
from tests.accounts import sign_in
from tests.constants import PASSWORD

SITE = "/api/sites/brackwater"


async def cell(api: httpx.AsyncClient, location: str, device: str) -> dict[str, Any]:
    found = (await api.get(SITE)).json()
    return next(one for one in found["cells"] if (one["location"], one["device"]) == (location, device))


@pytest.mark.usefixtures("brackwater")
async def test_a_device_is_given_its_own_menu_and_loses_it_again(as_ines: httpx.AsyncClient) -> None:
    """It begins as a copy that remembers what it was copied from; taken down, the place inherits; none is on purpose."""
    before = await cell(as_ines, "header", "tablet")
    assert (before["placement"], before["from_device"]) == ("inherited", "desktop")
    given = await as_ines.post(f"{SITE}/places/header/tablet/own")
    assert given.status_code == 201, given.text
    key = given.json()["menu"]
    assert (await cell(as_ines, "header", "tablet"))["placement"] == "own"
    copy = (await as_ines.get(f"{SITE}/menus/{key}")).json()["document"]
    assert copy["items"][0]["origin"].startswith("header/")
    again = await as_ines.post(f"{SITE}/places/header/tablet/own")
    assert "of its own on a tablet already" in again.json()["detail"]
    none = await as_ines.put(f"{SITE}/places/header/tablet", json={"menu": None})
    assert none.status_code == 204
    empty = await cell(as_ines, "header", "tablet")
    assert (empty["placement"], empty["from_device"]) == ("none", "tablet")
    assert (await as_ines.delete(f"{SITE}/places/header/tablet")).status_code == 204
    assert (await as_ines.delete(f"{SITE}/places/header/tablet")).status_code == 204, "nothing hangs there: no error"
    assert (await cell(as_ines, "header", "tablet"))["placement"] == "inherited"
    assert "Draft" in (await as_ines.get(SITE)).json()["change"]["title"]


@pytest.mark.usefixtures("brackwater")
async def test_nothing_is_hung_where_the_site_says_that_it_has_no_place(
    as_ines: httpx.AsyncClient, database: Database
) -> None:
    """What it says is read when it is taken in, and again on demand."""
    said = (await as_ines.get(SITE)).json()["can"]
    assert (said["facts"], "overlays" in said["shows"], "icons" in said["shows"]) == (
        ["roles", "signed_in", "visitor.id"], True, False,
    )  # fmt: skip
    async with database.transaction() as session:
        row = await sites.site_by_key(session, "brackwater")
        assert row is not None
        fewer = {key: devices for key, devices in said["places"].items() if key != "legal"}
        row.particulars = row.particulars | {"can": said | {"places": fewer}}
        session.add(row)
    refused = await as_ines.put(f"{SITE}/places/legal/desktop", json={"menu": "legal"})
    assert (refused.status_code, "says that it has no Legal line" in refused.json()["detail"]) == (422, True)
    assert (await as_ines.post(f"{SITE}/abilities")).json()["places"]["legal"] == ["phone", "tablet", "desktop"]
    assert (await as_ines.put(f"{SITE}/places/legal/desktop", json={"menu": "legal"})).status_code == 204


@pytest.mark.usefixtures("brackwater")
async def test_what_a_draft_changes_of_the_site_is_listed_and_taken_back_one_by_one(as_ines: httpx.AsyncClient) -> None:
    """Places, looks and the template are edits of the draft like those of menus; with the last one the draft ends."""
    site = (await as_ines.get(SITE)).json()
    hung = next(one["menu"] for one in site["cells"] if (one["location"], one["device"]) == ("legal", "desktop"))
    own = (await as_ines.post(f"{SITE}/places/header/tablet/own")).json()["menu"]
    await as_ines.put(f"{SITE}/places/header/desktop", json={"menu": own})
    await as_ines.put(f"{SITE}/places/legal/desktop", json={"menu": None})
    look = next(one["look"] for one in site["locations"] if one["key"] == "header")
    await as_ines.put(f"{SITE}/looks/header", json={"look": {**look, "size": 21, "text": "#102030"}})
    told = (await as_ines.get(f"{SITE}/draft")).json()
    says = {edit["key"]: edit["says"] for edit in told["site"]}
    assert says["look header"].endswith("size 21, text #102030")
    assert says["place legal desktop"].endswith("for desktop empty, on purpose")
    assert says["place header tablet"].startswith("Hung ")
    assert "instead of" in says["place header desktop"]
    assert [(one["menu"], one["count"] > 0) for one in told["menus"]] == [(own, True)]

    async def back(*keys: str) -> httpx.Response:
        return await as_ines.post(f"{SITE}/draft/take-back", json={"keys": list(keys)})

    assert (await back("place legal desktop", "look header")).status_code == 204
    assert (await cell(as_ines, "legal", "desktop"))["menu"] == hung
    after = (await as_ines.get(SITE)).json()
    assert next(one["look"] for one in after["locations"] if one["key"] == "header") == look
    again = await back("look header")
    assert (again.status_code, "meanwhile" in again.text) == (404, True)
    assert set(await keys_left(as_ines)) == {"place header tablet", "place header desktop"}


@pytest.mark.usefixtures("brackwater")
async def test_a_move_to_another_template_is_taken_back_whole(as_ines: httpx.AsyncClient) -> None:
    """With its looks and with the places that the other template lacks; nothing is left of the draft."""
    before = (await as_ines.get(SITE)).json()
    found = (await as_ines.get(f"/api/templates/{before['template_key']}/{before['template_version']}")).json()
    longer = {
        **found,
        "locations": [{**one, "look": {**one.get("look", {}), "size": 30}} for one in found["locations"]],
    }
    version = (await as_ines.put("/api/templates", json={"template": longer})).json()["version"]
    moved = await as_ines.post(f"{SITE}/switch", json={"template": found["key"], "version": version})
    assert moved.status_code == 204, moved.text
    assert await keys_left(as_ines) == ["template"]
    back = await as_ines.post(f"{SITE}/draft/take-back", json={"keys": ["template"]})
    assert back.status_code == 204, back.text
    after = (await as_ines.get(SITE)).json()
    assert [after[key] for key in ("template_version", "locations", "cells")] == [
        before[key] for key in ("template_version", "locations", "cells")
    ]
    assert after["change"] is None


async def keys_left(api: httpx.AsyncClient) -> list[str]:
    return [edit["key"] for edit in (await api.get(f"{SITE}/draft")).json()["site"]]


@pytest.mark.usefixtures("brackwater")
async def test_places_refuse_what_they_do_not_take(as_ines: httpx.AsyncClient) -> None:
    for location, device, menu, status, says in [
        ("legal", "desktop", "header", 422, "Legal line takes 1"),
        ("header", "phone", "header", 422, "does not exist on a phone"),
        ("nowhere", "desktop", "header", 404, "no location"),
        ("header", "desktop", "gone", 404, 'no menu "gone"'),
    ]:
        answer = await as_ines.put(f"{SITE}/places/{location}/{device}", json={"menu": menu})
        assert (answer.status_code, says in answer.json()["detail"]) == (status, True), answer.text


async def test_an_emptied_place_is_emptied_on_the_site(
    as_ines: httpx.AsyncClient, brackwater: StandIn, run_jobs: Callable[[], Awaitable[None]]
) -> None:
    """None on purpose and a taken-down menu go live like any edit: sent, read back, verified."""
    assert brackwater.places.placed["footer", "desktop"].menu.items
    await as_ines.put(f"{SITE}/places/footer/desktop", json={"menu": None})
    await as_ines.delete(f"{SITE}/places/drawer/phone")
    asked = await as_ines.post(f"{SITE}/releases", headers={"idempotency-key": str(uuid4())})
    assert asked.status_code == 202, asked.text
    await run_jobs()
    release = (await as_ines.get(f"/api/releases/{asked.json()['id']}")).json()
    assert (release["state"], release["of"]) == ("live", 2), release
    assert brackwater.places.placed["footer", "desktop"].menu.items == ()
    header = brackwater.places.placed["header", "desktop"].menu.items
    assert [one.id for one in brackwater.places.placed["drawer", "phone"].menu.items] == [one.id for one in header]


@pytest.mark.usefixtures("brackwater")
async def test_the_elevation_and_the_devices_are_drawn_through_the_lens(as_ines: httpx.AsyncClient) -> None:
    desktop = (await as_ines.get(f"{SITE}/elevation")).json()
    phone = (
        await as_ines.get(f"{SITE}/elevation", params={"device": "phone", "drawer": True, "language": "nl"})
    ).json()
    assert (desktop["width"], phone["width"]) == (1280, 390)
    assert {one["location"] for one in phone["standing"]} == {"drawer", "footer", "legal"}
    assert "Dienstregeling" in phone["html"]
    narrow = (await as_ines.get(f"{SITE}/elevation", params={"device": "tablet", "width": 800})).json()
    assert "is-drawer" in narrow["html"], "below the bar's own break width its drawer has taken over"
    columns = (await as_ines.get(f"{SITE}/places/header/devices")).json()
    assert [one["device"] for one in columns] == ["desktop", "tablet", "phone"]
    assert "Islander pass" in columns[2]["lacks"]
    reach = (await as_ines.get(f"{SITE}/reach")).json()
    assert "fares-islander-pass" in reach["lacking"]["phone"]
    home = next(one for one in reach["pages"] if one["path"] == "/")
    assert home["steps"] == {"phone": 0, "tablet": 0, "desktop": 0}


@pytest.mark.usefixtures("brackwater")
async def test_a_look_is_tried_kept_and_exported(as_ines: httpx.AsyncClient) -> None:
    """Trying keeps nothing; what is kept is only what differs from the template, and shows wherever the place is drawn."""
    look = PlaceLook(font="Lora", size=20, text="#777777", ground="#ffffff").model_dump(mode="json")
    tried = (await as_ines.post(f"{SITE}/looks/header/try", json={"look": look})).json()
    assert "--size:20px" in tried["strip"]
    failing = [one for one in tried["contrasts"] if not one["passes"] and one["pair"] == "text"]
    assert {one["state"] for one in failing} >= {"normal"}
    assert "--size:20px" not in (await as_ines.get(f"{SITE}/elevation")).json()["html"]
    refused = await as_ines.post(f"{SITE}/looks/header/try", json={"look": {"text": "red"}})
    assert (refused.status_code, "#rrggbb" in refused.json()["detail"]) == (422, True)
    assert (await as_ines.put(f"{SITE}/looks/header", json={"look": look})).status_code == 200
    assert "--size:20px" in (await as_ines.get(f"{SITE}/elevation")).json()["html"]
    css = await as_ines.get(f"{SITE}/looks.css")
    assert '--header-font: "Lora";' in css.text
    tokens = (await as_ines.get(f"{SITE}/looks.tokens")).json()
    assert tokens["header"]["size"]["$value"] == {"value": 20, "unit": "px"}
    assert (await as_ines.put(f"{SITE}/looks/nowhere", json={"look": look})).status_code == 404


async def _templates(database: Database) -> None:
    async with database.transaction() as session:
        for content in all_contents():
            await sites.keep_template(session, content.template)


@pytest.mark.usefixtures("brackwater")
async def test_a_site_is_moved_to_another_template_knowingly(as_ines: httpx.AsyncClient, database: Database) -> None:
    """The report changes nothing; what does not fit stops the move until it is matched by hand."""
    await _templates(database)
    wanted = {"template": "dome", "version": 1, "matches": {}}
    told = (await as_ines.post(f"{SITE}/switch/report", json=wanted)).json()
    kept = {one["location"]: one for one in told["kept"]}
    assert (kept["header"]["by"], kept["strip"]["to"], told["fits"]) == ("key", None, True)
    assert (await as_ines.get(SITE)).json()["template_key"] == "quayside"
    stuck = {"template": "branch-line", "version": 1, "matches": {"header": "second"}}
    refused = await as_ines.post(f"{SITE}/switch", json=stuck)
    assert (refused.status_code, "does not fit there" in refused.json()["detail"]) == (422, True)
    assert (await as_ines.post(f"{SITE}/switch", json=wanted)).status_code == 204
    moved = (await as_ines.get(SITE)).json()
    assert (moved["template_key"], [one["key"] for one in moved["locations"]]) == (
        "dome",
        ["header", "drawer", "footer"],
    )
    assert (await cell(as_ines, "header", "desktop"))["menu"] == "header"
    assert any(menu["key"] == "legal" and menu["hangs"] == 0 for menu in moved["menus"])
    assert "already" in (await as_ines.post(f"{SITE}/switch", json=wanted)).json()["detail"]
    gone = await as_ines.post(f"{SITE}/switch/report", json={"template": "nowhere", "version": 1})
    assert gone.status_code == 404


@pytest.mark.usefixtures("brackwater")
async def test_a_changed_template_is_a_new_version_and_sites_stay_on_theirs(
    as_ines: httpx.AsyncClient, database: Database
) -> None:
    await _templates(database)
    template = (await as_ines.get("/api/templates/quayside/1")).json()
    template["locations"][1]["depth"] = 2
    drawn = await as_ines.post("/api/templates/try", json={"template": template}, params={"scrolled": True})
    assert "Your site" in drawn.json()["html"]
    saved = await as_ines.put("/api/templates", json={"template": template})
    assert saved.json()["version"] == 2
    late = await as_ines.put("/api/templates", json={"template": template | {"version": 1}})
    assert (late.status_code, "saved meanwhile" in late.json()["detail"]) == (409, True)
    offers = {(one["key"], one["version"]): one for one in (await as_ines.get("/api/templates")).json()}
    assert (offers["quayside", 1]["used_by"], offers["quayside", 1]["newest"]) == (["Brackwater Ferries"], False)
    assert offers["quayside", 2]["newest"]
    report = (await as_ines.post(f"{SITE}/switch/report", json={"template": "quayside", "version": 2})).json()
    assert all(one["by"] == "key" for one in report["kept"])
    bad = template | {"locations": [template["locations"][0] | {"stand_in": "gone"}], "version": 2}
    refused = await as_ines.put("/api/templates", json={"template": bad})
    assert (refused.status_code, 'names "gone"' in refused.json()["detail"]) == (422, True)
    assert (await as_ines.get("/api/templates/quayside/9")).status_code == 404


@pytest.mark.usefixtures("brackwater")
async def test_the_ruler_has_every_language_and_says_what_would_fit(as_ines: httpx.AsyncClient) -> None:
    ruler = (await as_ines.get(f"{SITE}/places/header/fit", params={"width": 700})).json()
    assert [one["language"] for one in ruler["languages"]] == ["en", "nl"]
    english, dutch = ruler["languages"]
    assert english["fits_from"] < dutch["fits_from"], "Dutch needs more room"
    assert english["zones"][0] == {"low": 320, "high": 859, "says": "drawer"}
    assert english["drawer_from_overflow"]["low"] == 860
    assert english["first_to_go"]["label"] == "Book"
    assert {one["kind"] for one in ruler["suggestions"]} >= {"icon-alone", "move"}
    wide = (await as_ines.get(f"{SITE}/places/header/fit", params={"width": 1400})).json()
    assert wide["suggestions"] == []
    assert (await as_ines.get(f"{SITE}/places/footer/fit")).json()["languages"] == []
    assert (await as_ines.get(f"{SITE}/places/nowhere/fit")).status_code == 404


async def test_a_font_of_the_agency_s_own_is_checked_kept_and_measured_with(
    as_ines: httpx.AsyncClient, brackwater: StandIn
) -> None:
    shipped = STATIC / "fonts" / "inter-latin-wght-normal.woff2"
    taken = await as_ines.post("/api/fonts", content=shipped.read_bytes())
    assert "one of the fonts that ship" in taken.json()["detail"]
    for bad in (b"", b"GIF89a", shipped.read_bytes()[:9_000]):
        assert (await as_ines.post("/api/fonts", content=bad)).status_code == 422
    own = renamed_font(shipped.read_bytes(), "Brackwater Own")
    added = await as_ines.post("/api/fonts", content=own)
    assert (added.status_code, added.json()) == (
        201, {"family": "Brackwater Own", "lightest": 100, "heaviest": 900, "own": True},
    )  # fmt: skip
    css = (await as_ines.get("/api/fonts/own.css")).text
    file = await as_ines.get(css.split('url("')[1].split('"')[0])
    assert (file.status_code, file.content[:4]) == (200, b"\0\1\0\0")
    look = PlaceLook(font="Brackwater Own").model_dump(mode="json")
    await as_ines.put(f"{SITE}/looks/header", json={"look": look})
    measured = (await as_ines.get(f"{SITE}/places/header/fit")).json()["languages"][0]
    await as_ines.put(f"{SITE}/looks/header", json={"look": look | {"font": "Inter"}})
    same = (await as_ines.get(f"{SITE}/places/header/fit")).json()["languages"][0]
    assert measured["natural"] == same["natural"]
    assert brackwater.content.key == "brackwater"
    assert hashlib.sha256(file.content).hexdigest()[:16] in css


def renamed_font(woff2: bytes, family: str) -> bytes:
    """The font under another name, as TrueType: a font of somebody's own."""
    font = TTFont(BytesIO(woff2))
    for record in font["name"].names:
        if record.nameID in {1, 16}:
            record.string = family
    font.flavor = None
    out = BytesIO()
    font.save(out)
    return out.getvalue()


@pytest.mark.usefixtures("brackwater")
async def test_a_viewer_changes_no_place_look_template_or_font(api: httpx.AsyncClient, database: Database) -> None:
    await add_person(
        database, email="guest@quillfen.example", name="Guest", password=PASSWORD, role="viewer", now=datetime.now(UTC)
    )
    await sign_in(api, "guest@quillfen.example")
    for method, url, body in [
        ("PUT", f"{SITE}/places/header/tablet", {"menu": None}),
        ("DELETE", f"{SITE}/places/header/desktop", None),
        ("POST", f"{SITE}/places/header/tablet/own", None),
        ("PUT", f"{SITE}/looks/header", {"look": {}}),
        ("POST", f"{SITE}/switch", {"template": "dome", "version": 1}),
        ("PUT", "/api/templates", {"template": {}}),
        ("POST", "/api/fonts", None),
    ]:
        assert (await api.request(method, url, json=body)).status_code == 403, url
    assert (await api.get(f"{SITE}/elevation")).status_code == 200
