"""One process, one loopback port a site."""

import asyncio
import json
import secrets
from base64 import b64encode
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from email.utils import format_datetime
from hashlib import sha256
from html import escape
from importlib.resources import files
from pathlib import Path
from typing import get_args
from urllib.parse import parse_qs

import uvicorn
from aiosmtpd.controller import Controller
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, PlainTextResponse, RedirectResponse, Response
from starlette.routing import Route

from sign_shelf.core.errors import Refusal
from sign_shelf.core.model.facts import Visitor
from sign_shelf.core.model.menu import Device
from sign_shelf.core.outline import format_outline, parse_outline
from sign_shelf.demo.stand_ins.asking import Asking
from sign_shelf.demo.stand_ins.building import Building
from sign_shelf.demo.stand_ins.content import Content, all_contents
from sign_shelf.demo.stand_ins.elsewhere import Elsewhere, elsewhere_server
from sign_shelf.demo.stand_ins.faults import AT, Answering, Faults
from sign_shelf.demo.stand_ins.more_pages import AT as MORE_PAGES
from sign_shelf.demo.stand_ins.more_pages import MorePages
from sign_shelf.demo.stand_ins.pages import PageWriter, site_document
from sign_shelf.demo.stand_ins.places import Answer, Places
from sign_shelf.outside.endpoint import PLACED_TYPE, WELL_KNOWN

MENUS = "/sign-shelf/menus"
PING = "/sign-shelf/ping"
CLOCK = "/__clock"
"""`PUT` with `{"at": …}` has the site live at that moment, so that what is signed then is not old; null: now."""
FIRST_PORT = 8411


@dataclass
class StandIn:
    """A site that is running or about to. `answer_after_s` makes its menu interface slow, for trying faults."""

    content: Content
    places: Places
    port: int
    asking: Asking
    answer_after_s: float = 0.0
    hold_reads: bool = False
    """Whether reads are slow as well."""
    faults: Faults = field(default_factory=Faults)
    more_pages: MorePages = field(default_factory=MorePages)
    asked: list[str] = field(default_factory=list)
    """Methods and addresses of the requests to the menu interface, in order."""
    deaf_to_facts: bool = False
    """Whether it shows everybody what strangers get, for trying faults."""
    pings: int = 0
    """How often it was told that something else is to be had."""

    @property
    def base(self) -> str:
        return f"http://127.0.0.1:{self.port}/"


def new_secret() -> str:
    """A signing key in the form of the Standard Webhooks scheme."""
    return "whsec_" + b64encode(secrets.token_bytes(24)).decode()


def make_stand_ins(
    folder: Path, ports: Iterable[int] | None = None, contents: Iterable[Content] | None = None
) -> list[StandIn]:
    """The sites of these contents; without, those of the demo but for its small ones. Ports and signing keys are made once and kept in
    `folder`."""
    folder.mkdir(parents=True, exist_ok=True)
    kept_file = folder / "sites.json"
    kept = json.loads(kept_file.read_text()) if kept_file.exists() else {}
    numbers = iter(ports) if ports is not None else iter(range(FIRST_PORT, FIRST_PORT + 1_000))
    made = []
    for content in all_contents() if contents is None else contents:
        own = kept.setdefault(content.key, {"port": next(numbers), "secret": new_secret()})
        built = Building(folder, content.key) if content.built else None
        places = Places(content, folder / f"{content.key}.json", own["secret"], built)
        more_pages = MorePages(folder / f"{content.key}-pages.json")
        made.append(StandIn(content, places, own["port"], Asking(content, folder), more_pages=more_pages))
    kept_file.touch(mode=0o600)
    kept_file.write_text(json.dumps(kept))
    return made


def stand_in_app(site: StandIn) -> Starlette:
    content, places = site.content, site.places

    def respond(answer: Answer) -> Response:
        headers = {"etag": answer.etag, "cache-control": "no-cache"} if answer.etag else {}
        kind = PLACED_TYPE if answer.status == 200 and "menu" in answer.body else "application/json"
        return JSONResponse(answer.body, answer.status, headers=headers, media_type=kind)

    async def menu(request: Request) -> Response:
        site.asked.append(f"{request.method} {request.url.path}")
        location, device = request.path_params["location"], request.path_params["device"]
        if device not in get_args(Device):
            return PlainTextResponse("no such device", 404)
        if request.method == "GET":
            await asyncio.sleep(site.answer_after_s if site.hold_reads else 0)
            answer = places.get(location, device)
            if answer.etag and request.headers.get("if-none-match") == answer.etag:
                return Response(status_code=304, headers={"etag": answer.etag})
            told = respond(answer)
            if edited := places.by_hand.get((location, device)):
                told.headers.update({"edited-by": edited[0], "last-modified": format_datetime(edited[1], usegmt=True)})
            return told
        if content.asks:
            return PlainTextResponse("this site asks for its menus", 405)
        body = await request.body()
        answer = places.put(location, device, dict(request.headers), body)
        await asyncio.sleep(site.answer_after_s)
        return respond(answer)

    async def discovery(request: Request) -> Response:
        return JSONResponse(
            {
                "protocol": "sign-shelf/site",
                "version": 1,
                "name": content.name,
                "zone": content.zone,
                "languages": list(content.languages),
                "menus": MENUS,
                "signing": "standard-webhooks",
                "asks": content.asks,
                **({"vouched": True, "ping": PING} if content.asks else {}),
                "facts": sorted(content.facts.facts),
                "shows": ["buttons", "badges", "overlays", "new-tab", "folding"],
                "template": content.template.to_json(),
            }
        )

    async def clock(request: Request) -> Response:
        at = (await request.json()).get("at")
        places.lives_at = datetime.fromisoformat(at) if at else None
        return Response(status_code=204)

    async def ping(request: Request) -> Response:
        if refusal := places.unsigned(dict(request.headers), await request.body()):
            return respond(refusal)
        site.pings += 1
        site.asking.forget()
        return Response(status_code=204)

    async def writer(request: Request, ref: str) -> PageWriter:
        asked = request.query_params.get("language", "")
        language = asked if asked in content.languages else content.languages[0]
        # Whose facts these are is for the shelf to tell: they are handed on as they came.
        facts = "" if site.deaf_to_facts else request.headers.get("sign-shelf-facts", "")
        places.build_again()
        got = await site.asking.everything(ref, language, facts)
        given = None if got is None else lambda location, device, page: got[location, device]
        here = site.more_pages.of(content)
        document = site_document(here, places.placed, site.base)
        return PageWriter(here, document, language, datetime.now(UTC), given, _visitor(content, request))

    async def page(request: Request) -> Response:
        path = "/" + request.path_params["path"].rstrip("/")
        if goal := site.more_pages.moved().get(path):
            return RedirectResponse(goal, 301)
        found = next((page for page in site.more_pages.of(content).pages if page.path == path), None)
        if found is None:
            return HTMLResponse((await writer(request, "home")).missing(), 404)
        return HTMLResponse((await writer(request, found.ref)).page(found))

    async def robots(request: Request) -> Response:
        return PlainTextResponse(f"User-agent: *\nDisallow: /back-office\nSitemap: {site.base}sitemap.xml\n")

    async def sitemap(request: Request) -> Response:
        there = [page.path for page in site.more_pages.of(content).pages if site.faults.of(page.path) != "unpublished"]
        rows = "".join(f"<url><loc>{escape(site.base.rstrip('/') + path)}</loc></url>" for path in there)
        text = f'<?xml version="1.0" encoding="UTF-8"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">{rows}</urlset>'
        return Response(text, media_type="application/xml")

    async def back_office(request: Request) -> Response:
        forms = "".join(
            f'<form method="post" action="/back-office/{location}/{device}"><h2>{escape(location)}, {device}</h2>'
            f'<textarea name="outline" rows="12" cols="80" aria-label="{escape(location)} on a {device}">'
            f"{escape(format_outline(placed.menu))}</textarea><p><label>Edited by <input name='who'></label> "
            f"<button>Keep {escape(location)} for {device}</button></p></form>"
            for (location, device), placed in sorted(places.placed.items())
        )
        return HTMLResponse(
            f'<!doctype html><html lang="en"><meta charset="utf-8"><title>Back office – {escape(content.name)}</title>'
            f"<h1>{escape(content.name)}: signing key</h1><p>Whoever sends menus to this site signs them with</p>"
            f"<p><code>{escape(places.secret)}</code></p>{forms}</html>"
        )

    async def by_hand(request: Request) -> Response:
        location, device = request.path_params["location"], request.path_params["device"]
        given = {name: value[0] for name, value in parse_qs((await request.body()).decode("utf-8", "replace")).items()}
        try:
            menu = parse_outline(given.get("outline", "").replace("\r\n", "\n"), language=content.languages[0])
        except Refusal as refusal:
            return PlainTextResponse(str(refusal), 422)
        places.edit(location, device, menu, given.get("who", ""), datetime.now(UTC))
        return RedirectResponse("/back-office", 303)

    async def asset(request: Request) -> Response:
        name = request.url.path.strip("/")
        text = (files("sign_shelf.demo.stand_ins") / name).read_text("utf-8")
        if name == "look.css":
            tokens = "".join(f"--{key}:{value};" for key, value in content.palette.items())
            widths = content.template.devices
            text = f":root{{{tokens}}}\n{text}\n" + "".join(
                f"@media (min-width:{low}px) and (max-width:{high or 99999}px)"
                f"{{.place{_others(device)},.drawer-box{_others(device)}{{display:none}}}}\n"
                for device, (low, high) in widths.items()
            )
        return Response(text, media_type="text/css" if name.endswith("css") else "text/javascript")

    def faulty(well: Answering) -> Answering:
        async def answer(request: Request) -> Response:
            return _tagged(request, await site.faults.answer(request, well))

        return answer

    return Starlette(
        routes=[
            Route(MORE_PAGES, site.more_pages.administer, methods=["GET", "PUT"]),
            Route(AT, site.faults.administer, methods=["GET", "PUT"]),
            Route(CLOCK, clock, methods=["PUT"]),
            *(
                []
                if content.silent
                else [
                    Route(WELL_KNOWN, discovery),
                    Route(MENUS + "/{location}/{device}", menu, methods=["GET", "PUT"]),
                ]
            ),
            Route(PING, ping, methods=["POST"]),
            Route("/robots.txt", robots),
            Route("/sitemap.xml", faulty(sitemap)),
            Route("/back-office", back_office),
            Route("/back-office/{location}/{device}", by_hand, methods=["POST"]),
            Route("/look.css", asset),
            Route("/overlays.js", asset),
            Route("/{path:path}", faulty(page)),
        ]
    )


def _tagged(request: Request, answer: Response) -> Response:
    """With its entity tag, as it is by now; not sent where the asker has it."""
    if answer.status_code != 200:
        return answer
    etag = f'"{sha256(bytes(answer.body)).hexdigest()[:24]}"'
    headers = {"etag": etag, "cache-control": "no-cache"}
    if request.headers.get("if-none-match") == etag:
        return Response(status_code=304, headers=headers)
    answer.headers.update(headers)
    return answer


def _visitor(content: Content, request: Request) -> Visitor:
    """What the site knows of who visits: `?as=crew` plays somebody of that audience, who in earnest would have signed in."""
    audiences = content.facts.audiences
    asked = request.query_params.get("as", "")
    return audiences[asked] if asked in audiences else next(iter(audiences.values()), {})


def _others(device: Device) -> str:
    """Selects what is not for the device."""
    return f":not(.on-{device})"


async def serve_stand_ins(sites: list[StandIn], elsewhere: Elsewhere, mail: Controller | None = None) -> None:
    """Serves all of them until cancelled or told to stop by a signal; `mail` takes letters meanwhile."""
    servers = [
        uvicorn.Server(uvicorn.Config(stand_in_app(site), host="127.0.0.1", port=site.port, log_level="warning"))
        for site in sites
    ]
    servers.append(elsewhere_server(elsewhere))
    if mail is not None:
        mail.start()
    try:
        await asyncio.gather(*(server.serve() for server in servers))
    finally:
        if mail is not None:
            mail.stop()
