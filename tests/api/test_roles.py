"""Every route × every role, asked with what would succeed: who may, gets a good answer; who may not, is told so, and
nothing changes."""

import json
import os
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import AsyncExitStack, asynccontextmanager
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from random import Random
from typing import Any
from uuid import UUID, uuid4

import httpx
import pytest
from sqlalchemy import text
from sqlmodel import select

from sign_shelf.api.app import create_app
from sign_shelf.demo.stand_ins.server import StandIn
from sign_shelf.desk import review
from sign_shelf.desk.people import add_person
from sign_shelf.desk.permission import ROLES
from sign_shelf.jobs import watching
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import STATIC, Settings
from sign_shelf.store import changes, drift, inventory, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import ChangePartRow, DriftRow
from tests.accounts import sign_in
from tests.api.test_places import renamed_font
from tests.constants import OWN_PAGE, PASSWORD, SHELF
from tests.desk.conftest import on_shelf

WHOLE = bool(os.environ.get("ATTACK"))
DESCRIBED = json.loads((Path(__file__).parents[2] / "docs" / "openapi.json").read_text())
DOERS = {"owner", "lead", "editor", "reviewer"}
LOOKERS = {*DOERS, "viewer"}
MENU = "/api/sites/brackwater/menus/header"


@dataclass
class Desk:
    """What a request is made of: somebody who may look, and what is there at the moment."""

    look: httpx.AsyncClient
    site: StandIn
    database: Database
    ids: dict[str, str] = field(default_factory=dict)

    async def get(self, path: str) -> Any:
        answer = await self.look.get(path)
        assert answer.status_code == 200, (path, answer.text)
        return answer.json()

    async def menu(self) -> Any:
        return await self.get(MENU)


Request = dict[str, Any]
Made = Callable[[Desk], Awaitable[Request]]


def plainly(path: str, **request: Any) -> Made:
    async def made(desk: Desk) -> Request:
        return {"url": path.format(**desk.ids), **request}

    return made


async def saved(desk: Desk) -> Request:
    bench = await desk.menu()
    changed = bench["document"] | {"name": f"Header {uuid4()}"}
    return {"url": MENU, "json": changed, "headers": {"if-match": bench["hash"]}}


async def edited(desk: Desk) -> None:
    request = await saved(desk)
    assert (await desk.look.put(**request)).status_code == 200


async def document(desk: Desk, path: str, **more: Any) -> Request:
    return {"url": path, "json": {"document": (await desk.menu())["document"], **more}}


async def outline(desk: Desk) -> Request:
    return {"url": "/api/outline", "json": (await desk.menu())["document"]}


async def taken_back(desk: Desk) -> Request:
    bench = await desk.menu()
    await edited(desk)
    now = (await desk.menu())["document"]
    return {"url": f"{MENU}/take-back", "json": {"before": bench["hash"], "document": now, "keys": []}}


async def merged(desk: Desk) -> Request:
    bench = await desk.menu()
    return {"url": f"{MENU}/merge", "json": {"base": bench["hash"], "ours": bench["document"]}}


async def facts(desk: Desk) -> Request:
    kept = await desk.get("/api/sites/brackwater/facts")
    known = kept["own"] | {"audiences": {**kept["own"].get("audiences", {}), str(uuid4()): {"signed_in": True}}}
    return {
        "url": "/api/sites/brackwater/facts", "json": {"known": known, "sets": kept["sets"]},
        "headers": {"if-match": kept["hash"]},
    }  # fmt: skip


async def shared_facts(desk: Desk) -> Request:
    sets = (await desk.get("/api/sites/brackwater/facts"))["shared"]
    key, mark = sets[0]["key"], sets[0]["hash"]
    known = {"facts": {f"f{uuid4().hex[:8]}": {"type": "flag"}}}
    return {"url": f"/api/fact-sets/{key}", "json": {"known": known}, "headers": {"if-match": mark}}


async def template(desk: Desk) -> Request:
    offer = next(one for one in await desk.get("/api/templates") if one["newest"])
    whole = await desk.get(f"/api/templates/{offer['key']}/{offer['version']}")
    return {"url": "/api/templates", "json": {"template": whole | {"title": f"Quay {uuid4()}"}}}


async def tried_template(desk: Desk) -> Request:
    return (await template(desk)) | {"url": "/api/templates/try"}


async def switched(desk: Desk) -> Request:
    """To another version of the site's own template, so that everything has its place."""
    request = await template(desk)
    site = await desk.get("/api/sites/brackwater")
    whole = await desk.get(f"/api/templates/{site['template_key']}/{site['template_version']}")
    newest = max(one["version"] for one in await desk.get("/api/templates") if one["key"] == site["template_key"])
    request["json"]["template"] = whole | {"title": f"Quay {uuid4()}", "version": newest}
    kept = await desk.look.put(**request)
    assert kept.status_code == 200, kept.text
    body = {"template": site["template_key"], "version": newest + 1, "matches": {}}
    return {"url": "/api/sites/brackwater/switch", "json": body}


async def begun(desk: Desk) -> str:
    """A change that everybody may do something with."""
    answer = await desk.look.post(**await another(desk))
    assert answer.status_code == 201, answer.text
    return str(answer.json()["change"])


async def another(desk: Desk) -> Request:
    return {
        "url": "/api/sites/brackwater/changes", "json": {"title": "Summer"},
        "headers": {"idempotency-key": str(uuid4())},
    }  # fmt: skip


async def worked_in(desk: Desk) -> Request:
    return {"url": "/api/sites/brackwater/work", "json": {"change": await begun(desk)}}


async def called(desk: Desk) -> Request:
    return {"url": f"/api/changes/{await begun(desk)}", "json": {"title": f"Autumn {uuid4()}"}}


async def withdrawn(desk: Desk) -> Request:
    return {"url": f"/api/changes/{await begun(desk)}/withdraw"}


async def to_review(desk: Desk) -> Request:
    change = await begun(desk)
    await edited(desk)
    return {"url": f"/api/changes/{change}/review"}


async def declined(desk: Desk) -> Request:
    asked = await to_review(desk)
    assert (await desk.look.post(**asked)).status_code == 204
    change = asked["url"].rpartition("/")[0]
    return {"url": f"{change}/decline", "json": {"content": (await desk.get(change))["content"], "says": "Not yet"}}


async def with_a_moment(desk: Desk) -> Request:
    change = await begun(desk)
    request = {"url": f"/api/changes/{change}/schedule", "json": {"kind": "clock", "goes": "2031-04-01T04:00"}}
    assert (await desk.look.put(**request)).status_code == 204
    return request


async def is_there(desk: Desk) -> Request:
    return {"url": f"/api/there/{await begun(desk)}", "json": {"page": str(uuid4())}}


async def gone(desk: Desk) -> Request:
    asked = await is_there(desk)
    return {"url": f"{asked['url']}/gone", "json": asked["json"]}


async def since_looked(desk: Desk) -> Request:
    return {"url": f"/api/changes/{await begun(desk)}/since"}


async def looked(desk: Desk) -> Request:
    change = f"/api/changes/{await begun(desk)}"
    return {"url": f"{change}/looked", "json": {"content": (await desk.get(change))["content"]}}


async def every_year(desk: Desk) -> Request:
    request = await with_a_moment(desk)
    request["json"]["ends"] = "2031-10-01T04:00"
    assert (await desk.look.put(**request)).status_code == 204
    url = request["url"].replace("/schedule", "/season")
    return {"url": url, "json": {"goes": "date", "ends": "date", "approved": True}}


async def every_year_no_more(desk: Desk) -> Request:
    asked = await every_year(desk)
    assert (await desk.look.put(**asked)).status_code == 204
    return {"url": asked["url"]}


async def without_a_moment(desk: Desk) -> Request:
    return {"url": (await with_a_moment(desk))["url"]}


async def held(desk: Desk, state: str = "scheduled", deed: str = "hold") -> Request:
    change = (await with_a_moment(desk))["url"].split("/")[3]
    await said(desk, f"UPDATE change SET state = '{state}' WHERE id = '{change}'")
    return {"url": f"/api/changes/{change}/{deed}", "json": {"says": "Wait"}}


async def let_go(desk: Desk) -> Request:
    return await held(desk, "held", "let-go")


NOTHING_UNDONE = "UPDATE release SET state = 'failed' WHERE kind = 'undo'"


async def undo_asked(desk: Desk) -> Request:
    return {"url": (await undone(desk))["url"]}


async def undone(desk: Desk) -> Request:
    """Of the change that went live first, as if nobody had undone it before."""
    await said(desk, NOTHING_UNDONE)
    async with desk.database.transaction() as session:
        found = text("SELECT change_id FROM release WHERE id = CAST(:release AS uuid)")
        change = (await (await session.connection()).execute(found, {"release": desk.ids["release"]})).scalar_one()
    return {"url": f"/api/changes/{change}/undo", "json": {}}


async def said(desk: Desk, sql: str) -> None:
    async with desk.database.transaction() as session:
        await (await session.connection()).execute(text(sql))


async def linked(desk: Desk) -> Request:
    change = await begun(desk)
    await edited(desk)
    return {"url": f"/api/changes/{change}/sign-offs", "json": {"for_whom": "Mrs Hale"}}


async def link_withdrawn(desk: Desk) -> Request:
    request = await linked(desk)
    made = (await desk.look.post(**request)).json()["id"]
    return {"url": f"{request['url']}/{made}"}


async def frozen(desk: Desk) -> Request:
    body = {"begins": "2031-01-01T00:00", "ends": "2031-01-02T00:00", "why": "New year"}
    return {"url": "/api/freezes", "json": body}


async def freeze_ended(desk: Desk) -> Request:
    made = (await desk.look.post(**await frozen(desk))).json()["id"]
    return {"url": f"/api/freezes/{made}"}


async def remarked(desk: Desk) -> Request:
    return {"url": f"/api/changes/{await begun(desk)}/remarks", "json": {"says": "Is it?"}}


async def remark_settled(desk: Desk) -> Request:
    request = await remarked(desk)
    made = (await desk.look.post(**request)).json()["id"]
    return {"url": f"{request['url']}/{made}/settled", "json": {"settled": True}}


async def one_change(desk: Desk) -> Request:
    return {"url": f"/api/changes/{await begun(desk)}"}


async def brought(desk: Desk) -> Request:
    return {"url": f"/api/changes/{await begun(desk)}/sites/brackwater/brings"}


async def drawn(desk: Desk) -> Request:
    return {"url": f"/api/changes/{await begun(desk)}/sites/brackwater/drawn"}


async def beside_each_other(desk: Desk) -> Request:
    return {"url": f"/api/changes/{await begun(desk)}/sites/brackwater/menus/header/rails"}


async def caught_up(desk: Desk) -> Request:
    return {"url": f"/api/sites/brackwater/changes/{await begun(desk)}/catch-up", "json": {}}


async def settled_so_far(desk: Desk) -> Request:
    asked = await caught_up(desk)
    return asked | {"url": asked["url"].replace("catch-up", "settling")}


async def left_out(desk: Desk) -> Request:
    change = await begun(desk)
    await edited(desk)
    return {
        "url": f"/api/sites/brackwater/changes/{change}/left-out", "json": {"menu": MENU.rpartition("/")[2]},
        "headers": {"idempotency-key": str(uuid4())},
    }  # fmt: skip


async def in_conflict(desk: Desk) -> Request:
    return {"url": f"/api/sites/brackwater/changes/{await begun(desk)}/conflicts"}


async def read_again(desk: Desk) -> Request:
    return {
        "url": f"{SITE}/places/footer/desktop/read-again", "json": {"what": "take over"},
        "headers": {"idempotency-key": str(uuid4())},
    }  # fmt: skip


async def released(desk: Desk) -> Request:
    await said(desk, NOTHING_UNDONE)
    await edited(desk)
    return {"url": "/api/sites/brackwater/releases", "headers": {"idempotency-key": str(uuid4())}}


async def loose_menu(desk: Desk) -> str:
    """In a change that everybody may edit."""
    request = {"json": {"name": f"Loose {uuid4()}"}, "headers": {"idempotency-key": str(uuid4())}}
    change = await begun(desk)
    made = await desk.look.post(f"{SITE}/menus", params={"in": change}, **request)
    assert made.status_code == 201, made.text
    desk.ids["change"] = change
    return f"{SITE}/menus/{made.json()['key']}"


async def copied_menu(desk: Desk) -> Request:
    return {"url": f"{MENU}/copies", "headers": {"idempotency-key": str(uuid4())}}


async def put_away(desk: Desk) -> Request:
    url = await loose_menu(desk)
    return {"url": f"{url}/archived", "params": {"in": desk.ids["change"]}, "json": {"archived": True}}


async def menu_removed(desk: Desk) -> Request:
    url = await loose_menu(desk)
    return {"url": url, "params": {"in": desk.ids["change"]}}


async def signed(desk: Desk) -> Request:
    return {"url": f"{SITE}/secret", "json": {"secret": desk.site.places.secret}}


async def adopted(desk: Desk) -> Request:
    """What somebody did on the site itself, as it was read there."""
    base = (await desk.get(f"{SITE}/menus/header?in=live"))["document"]
    there = base | {"items": [*base["items"], {"id": "theirs", "kind": "heading", "label": {"en": "Theirs"}}]}
    async with desk.database.transaction() as session:
        site = await sites.site_by_key(session, "brackwater")
        assert site is not None
        await drift.forget(session, site.id)
        session.add(DriftRow(
            site_id=site.id, location="header", device="desktop", edits=[], base=base, there=there, sure=1,
            since=datetime.now(UTC),
        ))  # fmt: skip
    return {
        "url": f"{SITE}/places/header/desktop/adopt", "json": {}, "headers": {"idempotency-key": str(uuid4())},
    }  # fmt: skip


SWEEP = {"query": "site:brackwater", "making": {"do": "look", "emphasis": "strong"}}


async def swept(desk: Desk) -> Request:
    return {
        "url": "/api/sweeps", "json": SWEEP | {"title": "Strong"}, "headers": {"idempotency-key": str(uuid4())},
    }  # fmt: skip


async def cause(desk: Desk) -> dict[str, str]:
    """Something that is found and can be mended at once."""
    lines = (await desk.get("/api/findings"))["lines"]
    line = next(one for one in lines if one["code"].startswith("pending"))
    return {"code": line["code"], "cause": line["cause"]}


async def found_line(desk: Desk) -> Request:
    return {"url": "/api/findings/cause", "params": await cause(desk)}


async def seen_to(desk: Desk) -> Request:
    return {"url": "/api/findings/care", "json": await cause(desk) | {"due": "2027-04-01"}}


async def mended(desk: Desk) -> Request:
    return {
        "url": "/api/findings/mend", "json": await cause(desk) | {"how": "lead", "to": "/fares"},
        "headers": {"idempotency-key": str(uuid4())},
    }  # fmt: skip


async def doubted(desk: Desk) -> Request:
    """A reading told something that nobody confirmed yet."""
    async with desk.database.transaction() as session:
        site = await sites.site_by_key(session, "brackwater")
        assert site is not None
        doubt = {"says": "the sitemap is empty", "at": datetime.now(UTC).isoformat(), "listed": 0, "lost": []}
        await inventory.read_by(session, site.id, datetime.now(UTC))
        await inventory.put_reading(session, site.id, {"doubt": doubt})
    return {"url": f"{SITE}/inventory/doubt", "json": {"believe": True}}


async def led_on(desk: Desk) -> Request:
    """An entry that leads nowhere yet, in a menu of its own."""
    made = {"name": f"Waiting {uuid4()}", "document": {
        "format": "sign-shelf/menu", "version": 1, "name": "Waiting",
        "items": [{"id": "soon", "kind": "link", "label": {"en": "Soon"}, "target": {"pending": {}}}],
    }}  # fmt: skip
    answer = await desk.look.post(f"{SITE}/menus", json=made, headers={"idempotency-key": str(uuid4())})
    assert answer.status_code == 201, answer.text
    change = (await desk.get("/api/sites/brackwater"))["change"]["id"]
    asked = {"site": "brackwater", "menu": answer.json()["key"], "item": "soon", "page": "fares"}
    return {"url": "/api/placeholders/lead", "json": asked, "params": {"in": change}}


async def goes_out(desk: Desk) -> Request:
    await edited(desk)
    change = (await desk.get("/api/sites/brackwater"))["change"]["id"]
    return {"url": "/api/sites/brackwater/going-out", "params": {"in": change}}


async def draft_taken_back(desk: Desk) -> Request:
    hang = await desk.look.put("/api/sites/brackwater/places/legal/desktop", json={"menu": None})
    assert hang.status_code == 204
    edits = (await desk.get("/api/sites/brackwater/draft"))["site"]
    return {"url": "/api/sites/brackwater/draft/take-back", "json": {"keys": [edits[0]["key"]]}}


async def own_menu(desk: Desk) -> Request:
    await desk.look.delete("/api/sites/brackwater/places/legal/tablet")
    await desk.look.put("/api/sites/brackwater/places/legal/desktop", json={"menu": "legal"})
    return {"url": "/api/sites/brackwater/places/legal/tablet/own"}


async def somebody(desk: Desk) -> str:
    made = await desk.look.post("/api/people", json=account())
    assert made.status_code == 201, made.text
    return f"/api/people/{made.json()['id']}"


def account() -> dict[str, str]:
    return {"email": f"{uuid4()}@x.example", "name": "Nell", "role": "viewer", "password": "salt and tall grass"}


def about_somebody(path: str, **request: Any) -> Made:
    async def made(desk: Desk) -> Request:
        return {"url": await somebody(desk) + path, **request}

    return made


async def somebodys_sign_in(desk: Desk) -> Request:
    made = account()
    assert (await desk.look.post("/api/people", json=made)).status_code == 201
    other = httpx.AsyncClient(transport=desk.look._transport, base_url=SHELF, headers=OWN_PAGE)
    entered = await other.post("/api/session", json={"email": made["email"], "password": made["password"]})
    who = next(one["id"] for one in await desk.get("/api/people") if one["email"] == made["email"])
    assert entered.status_code == 200
    one = (await desk.get(f"/api/people/{who}/sign-ins"))[0]["id"]
    return {"url": f"/api/people/{who}/sign-ins/{one}"}


async def somebodys_second_factor(desk: Desk) -> Request:
    who = await somebody(desk)
    await said(desk, f"INSERT INTO second_factor VALUES ('{who.rpartition('/')[2]}', '', now(), now())")
    return {"url": f"{who}/second-factor"}


async def invited(desk: Desk) -> Request:
    return {"url": "/api/people/invitations", "json": account() | {"password": ""}}


async def invitation_withdrawn(desk: Desk) -> Request:
    made = (await desk.look.post(**await invited(desk))).json()["id"]
    return {"url": f"/api/people/invitations/{made}"}


async def team_begun(desk: Desk) -> Request:
    return {"url": "/api/teams", "json": {"name": str(uuid4())}}


async def team(desk: Desk) -> Request:
    asked = await team_begun(desk)
    made = (await desk.look.post(**asked)).json()["id"]
    return {"url": f"/api/teams/{made}", "json": asked["json"] | {"sites": ["brackwater"], "members": {}}}


async def team_ended(desk: Desk) -> Request:
    return {"url": (await team(desk))["url"]}


async def new_account(desk: Desk) -> Request:
    return {"url": "/api/people", "json": account()}


async def taken_in(desk: Desk) -> Request:
    return {"url": "/api/take-ins", "json": {"url": desk.site.base}, "headers": {"idempotency-key": str(uuid4())}}


async def created(desk: Desk) -> Request:
    body = {"name": f"Menu {uuid4()}"}
    return {"url": "/api/sites/brackwater/menus", "json": body, "headers": {"idempotency-key": str(uuid4())}}


async def new_set(desk: Desk) -> Request:
    body = {"known": {"facts": {"a": {"type": "flag"}}}}
    return {"url": "/api/fact-sets", "json": body, "headers": {"idempotency-key": str(uuid4())}}


async def shared_menu(desk: Desk) -> Request:
    body = {"name": f"Legal {uuid4()}", "outline": "Privacy -> /privacy"}
    return {"url": "/api/shared-menus", "json": body, "headers": {"idempotency-key": str(uuid4())}}


async def next_version(desk: Desk) -> Request:
    kept = await desk.get(f"/api/shared-menus/{desk.ids['shared']}")
    outline = f"{kept['outline']}More -> /more-{uuid4()}"
    return {"url": f"/api/shared-menus/{kept['key']}", "json": kept | {"outline": outline}}


async def followed(desk: Desk) -> Request:
    key = (await desk.look.post(**await shared_menu(desk))).json()["key"]
    return {
        "url": f"/api/shared-menus/{key}/followers", "json": {"sites": ["brackwater"]}, "headers": {"idempotency-key": str(uuid4())},
    }  # fmt: skip


async def compared(desk: Desk) -> Request:
    mark = (await desk.menu())["hash"]
    return {"url": f"{MENU}/comparison", "params": {"before": mark, "after": mark}}


async def one_revision(desk: Desk) -> Request:
    return {"url": f"{MENU}/revisions/{(await desk.menu())['hash']}"}


async def one_template(desk: Desk) -> Request:
    offer = (await desk.get("/api/templates"))[0]
    return {"url": f"/api/templates/{offer['key']}/{offer['version']}"}


async def a_font(desk: Desk) -> Request:
    shipped = next((STATIC / "fonts").glob("*latin*.woff2")).read_bytes()
    return {"url": "/api/fonts", "content": renamed_font(shipped, f"Own {uuid4().hex[:8]}")}


async def traced(desk: Desk) -> Request:
    item = (await desk.menu())["document"]["items"][0]["id"]
    return {"url": "/api/sites/brackwater/places/header/trace", "params": {"item": item}}


async def settled(desk: Desk) -> Request:
    mark = (await desk.get(f"{SITE}/settings"))["hash"]
    return {"url": f"{SITE}/settings", "json": {"name": "Brackwater Ferries"}, "headers": {"if-match": f'"{mark}"'}}


SITE = "/api/sites/brackwater"
LOOK = {"look": {"size": 18}}
ROUTES: dict[tuple[str, str], tuple[set[str], Made]] = {
    ("post", "/api/fact-sets"): (DOERS, new_set),
    ("put", "/api/fact-sets/{key}"): (DOERS, shared_facts),
    ("post", "/api/fact-sets/{key}/try"): (set(ROLES), plainly("/api/fact-sets/{set}/try", json={"known": {}})),
    ("post", "/api/fonts"): (DOERS, a_font),
    ("post", "/api/outline"): (set(ROLES), outline),
    ("get", "/api/people"): ({"owner"}, plainly("/api/people")),
    ("post", "/api/people"): ({"owner"}, new_account),
    ("put", "/api/people/{person_id}/disabled"): ({"owner"}, about_somebody("/disabled", json={"disabled": True})),
    ("put", "/api/people/{person_id}/password"): ({"owner"}, about_somebody("/password", json={"password": "a lamp on the quay"})),
    ("delete", "/api/people/{person_id}/second-factor"): ({"owner"}, somebodys_second_factor),
    ("get", "/api/people/invitations"): ({"owner"}, plainly("/api/people/invitations")),
    ("post", "/api/people/invitations"): ({"owner"}, invited),
    ("delete", "/api/people/invitations/{invitation}"): ({"owner"}, invitation_withdrawn),
    ("get", "/api/teams"): ({"owner"}, plainly("/api/teams")),
    ("post", "/api/teams"): ({"owner"}, team_begun),
    ("put", "/api/teams/{team}"): ({"owner"}, team),
    ("delete", "/api/teams/{team}"): ({"owner"}, team_ended),
    ("get", "/api/session/second-factor"): (set(ROLES), plainly("/api/session/second-factor")),
    ("get", "/api/people/{person_id}/sign-ins"): ({"owner"}, about_somebody("/sign-ins")),
    ("delete", "/api/people/{person_id}/sign-ins"): ({"owner"}, about_somebody("/sign-ins")),
    ("delete", "/api/people/{person_id}/sign-ins/{sign_in_id}"): ({"owner"}, somebodys_sign_in),
    ("post", "/api/session/tokens"): (set(ROLES), plainly("/api/session/tokens", json={"name": "t"})),
    ("put", "/api/session/password"): (set(ROLES), plainly("/api/session/password", json={"old": PASSWORD, "new": PASSWORD})),
    ("delete", "/api/session/sign-ins"): (set(ROLES), plainly("/api/session/sign-ins")),
    ("get", "/api/sites/{site}/clock"): (LOOKERS, plainly(f"{SITE}/clock", params={"at": "2027-04-01T04:00"})),
    ("post", "/api/sites/{site}/draft/take-back"): (DOERS, draft_taken_back),
    ("put", "/api/sites/{site}/facts"): (DOERS, facts),
    ("post", "/api/sites/{site}/facts/try"): (LOOKERS, plainly(f"{SITE}/facts/try", json={"known": {}})),
    ("post", "/api/sites/{site}/incoming/copy"): (DOERS, lambda desk: document(desk, f"{SITE}/incoming/copy", site="brackwater", menu="header")),
    ("post", "/api/sites/{site}/incoming/data"): (DOERS, plainly(f"{SITE}/incoming/data", content=b"A -> /a\n")),
    ("post", "/api/sites/{site}/incoming/live"): (DOERS, plainly(f"{SITE}/incoming/live", json={"path": "/"})),
    ("get", "/api/sites/{site}/incoming/menu/{from_site}/{from_menu}"): (DOERS, plainly(f"{SITE}/incoming/menu/brackwater/footer")),
    ("get", "/api/sites/{site}/connection"): (DOERS, plainly(f"{SITE}/connection")),
    ("post", "/api/sites/{site}/connection/try"): ({"owner", "lead"}, plainly(f"{SITE}/connection/try", json={"kind": "observe"})),
    ("get", "/api/releases/{release}/by-hand"): (LOOKERS, plainly("/api/releases/{release}/by-hand")),
    ("post", "/api/sites/{site}/keys/{kind}"): ({"owner", "lead"}, plainly(f"{SITE}/keys/delivery", json={})),
    ("put", "/api/sites/{site}/looks/{location}"): (DOERS, plainly(f"{SITE}/looks/header", json=LOOK)),
    ("post", "/api/sites/{site}/looks/{location}/try"): (LOOKERS, plainly(f"{SITE}/looks/header/try", json=LOOK)),
    ("get", "/api/sites/{site}/looks.{kind}"): (LOOKERS, plainly(f"{SITE}/looks.css")),
    ("post", "/api/sites/{site}/menus"): (DOERS, created),
    ("put", "/api/sites/{site}/menus/{menu}"): (DOERS, saved),
    ("get", "/api/sites/{site}/menus/{menu}/comparison"): (LOOKERS, compared),
    ("get", "/api/sites/{site}/menus/{menu}/comparison/with/{other_site}/{other_menu}"): (LOOKERS, plainly(f"{MENU}/comparison/with/brackwater/footer")),
    ("get", "/api/sites/{site}/settings"): (LOOKERS, plainly(f"{SITE}/settings")),
    ("put", "/api/sites/{site}/settings"): ({"owner", "lead"}, settled),
    ("put", "/api/sites/{site}/archived"): ({"owner", "lead"}, plainly(f"{SITE}/archived", json={"archived": False})),
    ("get", "/api/sites/{site}/export/{form}"): (LOOKERS, plainly("/api/sites/brackwater/export/csv")),
    ("get", "/api/sites/{site}/menus/{menu}/export/{format}"): (LOOKERS, plainly(f"{MENU}/export/csv")),
    ("post", "/api/sites/{site}/menus/{menu}/copies"): (DOERS, copied_menu),
    ("put", "/api/sites/{site}/menus/{menu}/archived"): (DOERS, put_away),
    ("delete", "/api/sites/{site}/menus/{menu}"): (DOERS, menu_removed),
    ("post", "/api/sites/{site}/menus/{menu}/listing"): (LOOKERS, plainly(f"{MENU}/listing", json={"list": {"type": "page"}})),
    ("post", "/api/sites/{site}/menus/{menu}/merge"): (DOERS, merged),
    ("get", "/api/sites/{site}/menus/{menu}/revisions/{hash}"): (LOOKERS, one_revision),
    ("post", "/api/sites/{site}/menus/{menu}/take-back"): (LOOKERS, taken_back),
    ("get", "/api/sites/{site}/places/{location}/trace"): (LOOKERS, traced),
    ("put", "/api/sites/{site}/places/{location}/{device}"): (DOERS, plainly(f"{SITE}/places/footer/desktop", json={"menu": "footer"})),
    ("delete", "/api/sites/{site}/places/{location}/{device}"): (DOERS, plainly(f"{SITE}/places/strip/tablet")),
    ("post", "/api/sites/{site}/places/{location}/{device}/read-again"): (DOERS, read_again),
    ("post", "/api/sites/{site}/places/{location}/{device}/own"): (DOERS, own_menu),
    ("post", "/api/sites/{site}/releases"): (DOERS, released),
    ("get", "/api/sites/{site}/going-out"): (LOOKERS, goes_out),
    ("get", "/api/sites/{site}/report"): (LOOKERS, plainly(f"{SITE}/report?month=2026-01")),
    ("get", "/api/sites/{site}/hanging-then"): (LOOKERS, plainly(f"{SITE}/hanging-then?at=2027-04-02T12:00")),
    ("get", "/api/findings/cause"): (LOOKERS, found_line),
    ("get", "/api/sync"): (LOOKERS, plainly("/api/sync?site=brackwater")),
    ("post", "/api/sites/{site}/sync/read"): (DOERS, plainly(f"{SITE}/sync/read")),
    ("put", "/api/sites/{site}/sync"): (DOERS, plainly(f"{SITE}/sync", json={"every_minutes": 60})),
    ("post", "/api/sites/{site}/places/{location}/{device}/adopt"): (DOERS, adopted),
    ("get", "/api/shared-menus"): (LOOKERS, plainly("/api/shared-menus")),
    ("post", "/api/shared-menus"): (DOERS, shared_menu),
    ("get", "/api/shared-menus/{shared}"): (LOOKERS, plainly("/api/shared-menus/{shared}")),
    ("put", "/api/shared-menus/{shared}"): (DOERS, next_version),
    ("post", "/api/shared-menus/{shared}/followers"): (DOERS, followed),
    ("get", "/api/shared-menus/{shared}/forward"): (LOOKERS, plainly("/api/shared-menus/{shared}/forward")),
    ("get", "/api/sweeps"): (set(ROLES), plainly("/api/sweeps?query=fares")),
    ("post", "/api/sweeps/preview"): (set(ROLES), plainly("/api/sweeps/preview", json=SWEEP)),
    ("post", "/api/sweeps"): (DOERS, swept),
    ("get", "/api/findings/ahead"): (set(ROLES), plainly("/api/findings/ahead?at=2027-04-02T12:00")),
    ("put", "/api/findings/care"): (DOERS, seen_to),
    ("post", "/api/findings/mend"): (DOERS, mended),
    ("get", "/api/sites/{site}/inventory"): (LOOKERS, plainly(f"{SITE}/inventory")),
    ("post", "/api/sites/{site}/inventory/read"): (DOERS, plainly(f"{SITE}/inventory/read")),
    ("get", "/api/sites/{site}/inventory/news"): (
        LOOKERS, plainly(f"{SITE}/inventory/news", params={"since": "2026-11-01T00:00:00Z"})
    ),
    ("get", "/api/sites/{site}/inventory/versions/{version}"): (LOOKERS, plainly(f"{SITE}/inventory/versions/1")),
    ("put", "/api/sites/{site}/inventory/doubt"): (DOERS, doubted),
    ("post", "/api/sites/{site}/inventory/place"): (
        DOERS, plainly(f"{SITE}/inventory/place", json={"ref": "news", "menu": "header", "parent": None, "at": 0})
    ),
    ("post", "/api/sites/{site}/inventory/dismiss"): (DOERS, plainly(f"{SITE}/inventory/dismiss", json={"refs": []})),
    ("post", "/api/sites/{site}/inventory/bring-back"): (DOERS, plainly(f"{SITE}/inventory/bring-back", json={"refs": []})),
    ("get", "/api/sites/{site}/places/{location}/plain"): (LOOKERS, plainly(f"{SITE}/places/header/plain")),
    ("get", "/api/sites/{site}/inventory/pages/{ref}/without"): (
        LOOKERS, plainly(f"{SITE}/inventory/pages/news/without")
    ),
    ("put", "/api/sites/{site}/inventory/pages/{ref}/ends"): (
        DOERS, plainly(f"{SITE}/inventory/pages/news/ends", json={"ends": "2027-03-01"})
    ),
    ("post", "/api/notices/channels"): (set(ROLES), plainly("/api/notices/channels", json={"url": "https://desk.example/"})),
    ("get", "/api/placeholders"): (set(ROLES), plainly("/api/placeholders")),
    ("post", "/api/placeholders/lead"): (DOERS, led_on),
    ("post", "/api/findings/check"): (DOERS, plainly("/api/findings/check", json={"site": "brackwater"})),
    ("post", "/api/sites/{site}/rules/read"): (LOOKERS, plainly(f"{SITE}/rules/read", json={"rule": "signed_in"})),
    ("put", "/api/sites/{site}/secret"): ({"owner", "lead"}, signed),
    ("post", "/api/sites/{site}/abilities"): (DOERS, plainly(f"{SITE}/abilities")),
    ("post", "/api/sites/{site}/switch"): (DOERS, switched),
    ("post", "/api/sites/{site}/switch/report"): (LOOKERS, plainly(f"{SITE}/switch/report", json={"template": "quayside", "version": 1})),
    ("post", "/api/sites/{site}/changes"): (DOERS, another),
    ("put", "/api/sites/{site}/work"): (DOERS, worked_in),
    ("put", "/api/changes/{change}"): (DOERS, called),
    ("post", "/api/changes/{change}/withdraw"): (DOERS, withdrawn),
    ("get", "/api/changes/{change}"): (LOOKERS, one_change),
    ("get", "/api/changes/{change}/sites/{site}/menus/{menu}/rails"): (LOOKERS, beside_each_other),
    ("get", "/api/changes/{change}/sites/{site}/brings"): (LOOKERS, brought),
    ("get", "/api/changes/{change}/sites/{site}/drawn"): (LOOKERS, drawn),
    ("post", "/api/changes/{change}/review"): (DOERS, to_review),
    ("put", "/api/changes/{change}/schedule"): (DOERS, with_a_moment),
    ("delete", "/api/changes/{change}/schedule"): (DOERS, without_a_moment),
    ("put", "/api/there/{change}"): (LOOKERS, is_there),
    ("post", "/api/there/{change}/gone"): (set(ROLES), gone),
    ("get", "/api/changes/{change}/since"): (LOOKERS, since_looked),
    ("put", "/api/changes/{change}/looked"): (LOOKERS, looked),
    ("get", "/api/seasons"): (set(ROLES), plainly("/api/seasons")),
    ("get", "/api/windows"): (set(ROLES), plainly("/api/windows")),
    ("put", "/api/changes/{change}/season"): (DOERS, every_year),
    ("delete", "/api/changes/{change}/season"): (DOERS, every_year_no_more),
    ("post", "/api/changes/{change}/hold"): (DOERS, held),
    ("post", "/api/changes/{change}/let-go"): (DOERS, let_go),
    ("post", "/api/changes/{change}/sign-offs"): (DOERS, linked),
    ("delete", "/api/changes/{change}/sign-offs/{link}"): (DOERS, link_withdrawn),
    ("post", "/api/changes/{change}/undo"): (DOERS, undone),
    ("get", "/api/changes/{change}/undo"): (DOERS, undo_asked),
    ("get", "/api/ledger/export/{form}"): (set(ROLES), plainly("/api/ledger/export/csv")),
    ("post", "/api/feeds"): (set(ROLES), plainly("/api/feeds")),
    ("delete", "/api/feeds"): (set(ROLES), plainly("/api/feeds")),
    ("post", "/api/freezes"): ({"owner", "lead"}, frozen),
    ("delete", "/api/freezes/{freeze}"): ({"owner", "lead"}, freeze_ended),
    ("post", "/api/changes/{change}/decline"): ({"owner", "lead", "reviewer"}, declined),
    ("post", "/api/changes/{change}/remarks"): (LOOKERS, remarked),
    ("put", "/api/changes/{change}/remarks/{remark}/settled"): (DOERS, remark_settled),
    ("post", "/api/sites/{site}/changes/{change}/catch-up"): (DOERS, caught_up),
    ("post", "/api/sites/{site}/changes/{change}/settling"): (LOOKERS, settled_so_far),
    ("post", "/api/sites/{site}/changes/{change}/left-out"): (DOERS, left_out),
    ("get", "/api/sites/{site}/changes/{change}/conflicts"): (LOOKERS, in_conflict),
    ("put", "/api/people/{person_id}/role"): ({"owner"}, plainly("/api/people/{guest}/role", json={"role": "viewer"})),
    ("put", "/api/people/{person_id}/role/{site}"): ({"owner"}, plainly("/api/people/{guest}/role/brackwater", json={"role": None})),
    ("get", "/api/shelf/signs"): (set(ROLES), plainly("/api/shelf/signs", params={"site": "brackwater"})),
    ("get", "/api/shelf/sites"): (set(ROLES), plainly("/api/shelf/sites")),
    ("post", "/api/take-ins"): (DOERS, taken_in),
    ("post", "/api/take-ins/{take_in_id}/confirm"): (DOERS, plainly("/api/take-ins/{take_in}/confirm", json={})),
    ("get", "/api/take-ins/{take_in_id}"): (LOOKERS, plainly("/api/take-ins/{take_in}")),
    ("put", "/api/shelf/views/{name}"): (set(ROLES), plainly("/api/shelf/views/mine", json={"show": "mine"})),
    ("delete", "/api/shelf/views/{name}"): (set(ROLES), plainly("/api/shelf/views/mine")),
    ("get", "/api/search"): (set(ROLES), plainly("/api/search", params={"words": "header"})),
    ("get", "/api/releases/{release}"): (LOOKERS, plainly("/api/releases/{release}")),
    ("put", "/api/templates"): (DOERS, template),
    ("post", "/api/templates/try"): (set(ROLES), tried_template),
    ("get", "/api/templates/{key}/{version}"): (set(ROLES), one_template),
}  # fmt: skip
"""Who may, and what to ask. Routes that are only looked at and need nothing but names are not listed: all may."""

ELSEWHERE = {
    ("post", "/api/session"), ("delete", "/api/session"), ("delete", "/api/session/sign-ins/{sign_in_id}"),
    ("get", "/api/fonts/own/{name}/{version}"), ("get", "/api/health"), ("get", "/api/health/ready"),
    ("get", "/api/session/elsewhere"), ("get", "/api/invitations/{token}"), ("post", "/api/invitations/{token}"),
    ("get", "/api/there/{change}"), ("post", "/api/session/second-factor"), ("put", "/api/session/second-factor"), ("delete", "/api/session/second-factor"),
    ("delete", "/api/shared-menus/{shared}/followers/{site}"), ("post", "/api/shared-menus/{shared}/forward"), ("get", "/api/compare"), ("post", "/api/compare/bring"), ("get", "/api/shelf/report"), ("put", "/api/sites/{site}/connection"),
    ("put", "/api/releases/{release}/by-hand"), ("post", "/api/releases/{release}/by-hand/look"), ("post", "/api/releases/{release}/by-hand/give-up"),
    ("get", "/api/feeds/{token}/ahead.ics"), ("get", "/api/feeds/{token}/live.atom"),
    ("post", "/api/changes/{change}/approve"), ("get", "/api/notices/kept-mail"), ("put", "/api/notices/channels/{channel_id}"), ("delete", "/api/notices/channels/{channel_id}"),
    ("post", "/api/notices/channels/{channel_id}/trial"), ("post", "/api/notices/{notice_id}/again"),
}  # fmt: skip
"""What is tested in tests/api/test_session.py and test_places.py: it needs or ends what all others stand on; what is one's
own, whoever one is, in tests/desk/test_notices.py; what only somebody else's change is for, in test_review.py; what needs no sign-in but an address, in test_feeds.py; ways in, in
test_ways_in.py; what never ends, in test_there.py; and what takes several sites,
in test_compare.py, test_shared_menus.py and tests/desk/test_report.py, or a repository, in tests/desk/test_repository.py; another connection, in test_connections.py, and what is done by hand, in test_by_hand.py."""
NAMES = {"site": "brackwater", "menu": "header", "location": "header", "device": "desktop"}
EVERY = sorted({(m, p) for p, methods in DESCRIBED["paths"].items() for m in methods} - ELSEWHERE)


@asynccontextmanager
async def desk_of(
    configured: Settings, database: Database, brackwater: StandIn, fetcher: Fetcher, run_jobs: Any
) -> AsyncIterator[tuple[Desk, dict[str, httpx.AsyncClient]]]:
    """What requests are made of, with an owner who may look; and somebody of each role."""
    app = create_app(configured)
    app.state.database, app.state.fetcher = database, fetcher
    async with AsyncExitStack() as open_now:
        clients = {}
        for role in ROLES:
            client = await open_now.enter_async_context(
                httpx.AsyncClient(transport=httpx.ASGITransport(app=app), base_url=SHELF, headers=OWN_PAGE)
            )
            email = f"{role}@quillfen.example"
            await add_person(database, email=email, name=role, password=PASSWORD, role=role, now=datetime.now(UTC))
            await sign_in(client, email)
            clients[role] = client
        desk = Desk(clients["owner"], brackwater, database)
        guest = await add_person(
            database, email="a.guest@quillfen.example", name="A guest", password=PASSWORD, role="none",
            now=datetime.now(UTC),
        )  # fmt: skip
        desk.ids["guest"] = str(guest.id)
        desk.ids["set"] = (await desk.look.post(**await new_set(desk))).json()["key"]
        desk.ids["shared"] = (await desk.look.post(**await shared_menu(desk))).json()["key"]
        desk.ids["release"] = (await desk.look.post(**await released(desk))).json()["id"]
        await run_jobs()
        taken = await desk.look.post(**await taken_in(desk))
        desk.ids["take_in"] = taken.json()["id"]
        await run_jobs()
        await watching.look(database, fetcher)
        yield desk, clients


@pytest.mark.parametrize("part", range(2))
async def test_every_route_lets_in_whom_it_should(
    configured: Settings, database: Database, brackwater: StandIn, fetcher: Fetcher, run_jobs: Any, part: int
) -> None:
    async with desk_of(configured, database, brackwater, fetcher, run_jobs) as (desk, clients):
        asked = 0
        for method, path in EVERY[part::2]:
            allowed, made = (
                ROUTES[method, path]
                if (method, path) in ROUTES
                else (LOOKERS if "{site}" in path else set(ROLES), named(path))
            )
            refused = sorted(set(ROLES) - allowed)
            if refused:
                # Nothing changes by it, so that all of them ask the same.
                request = await made(desk)
                lines = await desk.get("/api/ledger")
                for role in refused:
                    answer = await clients[role].request(method, **request)
                    asked += 1
                    # Who may look at none of its sites is not told that the change is there.
                    unseen = role == "none" and "in" in request.get("params", {})
                    assert answer.status_code == (404 if unseen else 403), (method, path, role, answer.text)
                    assert ("no such change" if unseen else "may not") in answer.json()["detail"]
                assert await desk.get("/api/ledger") == lines, (method, path)
            # In the usual suite one of those who may, which differs from route to route; each in `make test-attack`.
            for role in sorted(allowed) if WHOLE else [Random(f"{method} {path}").choice(sorted(allowed))]:
                request = await made(desk)
                if role in DOERS:
                    await beside(desk, clients[role])
                answer = await clients[role].request(method, **request)
                asked += 1
                # A site that is on the shelf already is not kept twice, whoever asks.
                good = {409} if path.endswith("/confirm") else {200, 201, 202, 204}
                assert answer.status_code in good, (method, path, role, answer.text)
        assert asked >= len(EVERY[part::2])


async def test_nobody_approves_what_they_wrote_into(
    configured: Settings, database: Database, brackwater: StandIn, fetcher: Fetcher, run_jobs: Any
) -> None:
    """Whatever it was: a reviewer makes every kind of write, in the owner's change or one of their own, and is an author of each
    change that it moved."""
    async with desk_of(configured, database, brackwater, fetcher, run_jobs) as (desk, clients):
        reviewer = clients["reviewer"]
        change = await begun(desk)
        await edited(desk)
        place = f"{SITE}/places/legal/desktop"
        assert (await reviewer.put(place, params={"in": change}, json={"menu": None})).status_code == 204
        assert (await desk.look.post(f"/api/changes/{change}/review")).status_code == 204
        content = {"content": (await desk.get(f"/api/changes/{change}"))["content"]}
        mine = await reviewer.post(f"/api/changes/{change}/approve", json=content)
        assert (mine.status_code, "somebody else approves" in mine.text) == (403, True)
        assert (await clients["lead"].post(f"/api/changes/{change}/approve", json=content)).status_code == 204

        me = UUID((await reviewer.get("/api/session")).json()["id"])
        moved: set[tuple[str, str]] = set()
        for (method, path), (allowed, made) in ROUTES.items():
            if method == "get" or "reviewer" not in allowed or path.startswith("/api/session"):
                continue
            request = await made(desk)
            await beside(desk, reviewer)
            async with database.transaction() as session:
                before = await heads(session)
            answer = await reviewer.request(method, **request)
            assert answer.is_success or answer.status_code == 409, (method, path, answer.text)
            async with database.transaction() as session:
                after = await heads(session)
                wrote_into = {change for (change, site), head in after.items() if before.get((change, site)) != head}
                rows = [row for id in wrote_into if (row := await changes.change_by_id(session, id)) is not None]
                for one in await review.reviewed(session, rows):
                    assert me in one.authors, (method, path)
                    moved.add((method, path))
        assert {path for _, path in moved} >= {
            f"/api/sites/{{site}}/{kind}"
            for kind in (
                "facts", "looks/{location}", "switch", "menus", "menus/{menu}", "menus/{menu}/archived", "draft/take-back",
                "inventory/place", "changes/{change}/left-out",
            )
        }  # fmt: skip


TAKES_A_CHANGE = [
    (method, path)
    for path, methods in DESCRIBED["paths"].items()
    for method, about in methods.items()
    if any(parameter["name"] == "in" for parameter in about.get("parameters", []))
]


async def test_nobody_looks_or_writes_into_a_change_of_other_clients(
    configured: Settings, database: Database, brackwater: StandIn, fetcher: Fetcher, run_jobs: Any
) -> None:
    """Every route that takes a change, asked at the person's own site: by an editor of that site alone, by a token that is kept to it,
    and by who may look at the other client's site but not edit it."""
    await on_shelf(database, "kestrel", {"top": ["/a"]})
    async with desk_of(configured, database, brackwater, fetcher, run_jobs) as (desk, clients):
        key = {"idempotency-key": "theirs"}
        theirs = (
            await desk.look.post("/api/sites/kestrel/changes", json={"title": "Kestrel's own"}, headers=key)
        ).json()
        foreign = theirs["change"]
        people = {row["email"]: row["id"] for row in await desk.get("/api/people")}
        for role, at_site in (("none", "editor"), ("viewer", "editor")):
            given = {"role": at_site}
            path = f"/api/people/{people[f'{role}@quillfen.example']}/role/brackwater"
            assert (await desk.look.put(path, json=given)).status_code == 204
        token = await desk.look.post("/api/session/tokens", json={"name": "kept", "only_at": ["brackwater"]})
        kept = httpx.AsyncClient(
            transport=clients["owner"]._transport, base_url=SHELF,
            headers={"authorization": f"Bearer {token.json()['token']}"},
        )  # fmt: skip
        asked = 0
        for method, path in TAKES_A_CHANGE:
            known = ROUTES.get((method, path))
            request = await known[1](desk) if known else {"url": path.format(**NAMES | desk.ids)}
            request["params"] = {**request.get("params", {}), "in": foreign, "into": "header"}
            for who in (clients["none"], kept):
                answer = await who.request(method, **request)
                asked += 1
                if "{site}" in path:
                    assert answer.status_code in {403, 404}, (method, path, answer.text)
                assert "Kestrel" not in answer.text, (method, path)
            answer = await clients["viewer"].request(method, **request)
            if "{site}" in path:
                assert answer.status_code in {200, 204, 403, 404, 409}, (method, path, answer.text)
        assert asked > 100
        async with database.transaction() as session:
            found = await changes.sites_of(session, UUID(foreign))
        assert [(site.key, part.base == part.head) for site, part in found] == [("kestrel", True)]
        # Who may edit both adds a site to it.
        both = await clients["editor"].post(
            f"{SITE}/menus", params={"in": foreign}, json={"name": "Ours"}, headers={"idempotency-key": "ours"}
        )
        assert both.status_code == 201, both.text
        mixed = await clients["none"].get(MENU, params={"in": foreign})
        assert mixed.status_code == 200, "it is of their site now"


async def heads(session: Session) -> dict[tuple[UUID, UUID], str]:
    """What each change has at each site."""
    found = await session.exec(select(ChangePartRow.change_id, ChangePartRow.site_id, ChangePartRow.head))
    return {(change, site): head for change, site, head in found}


async def beside(desk: Desk, person: httpx.AsyncClient) -> None:
    """The person works in the change in which the owner works: what the request is made of is there."""
    inside = [one["id"] for one in await desk.get("/api/sites/brackwater/changes") if one["working"]]
    joined = await person.put("/api/sites/brackwater/work", json={"change": inside[0] if inside else None})
    assert joined.status_code == 204, joined.text


def named(path: str) -> Made:
    return plainly(path.format(**NAMES))


def test_every_write_is_in_the_table() -> None:
    writes = {one for one in EVERY if one[0] != "get"}
    assert writes <= ROUTES.keys(), "a new write needs a request that would succeed, and a word on who may"
