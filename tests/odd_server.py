"""A server that answers as few should: leads on in circles, says one thing and then another, hides behind robots.txt."""

import asyncio
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, PlainTextResponse, RedirectResponse, Response
from starlette.routing import Route

from sign_shelf.demo.cluster import free_port
from sign_shelf.outside.fetch import PAGE_BYTES
from tests.serving import serving

LEADS = {"moved": (301, "/"), "for-now": (302, "/"), "one": (301, "/two"), "two": (308, "/"), "round": (302, "/about"),
         "about": (302, "/round"), "inside": (302, "http://10.0.0.1/"), "old": (301, "/page#here"), "lost": (301, "/404"),
         "away": (302, "ftp://files.example/")}  # fmt: skip
PAGE = '<main id="here"><h2 id="zürich">Z</h2><a name="there">x</a></main>'


@dataclass
class Odd:
    port: int
    asked: Counter[str] = field(default_factory=Counter)
    answers: dict[str, int] = field(default_factory=dict)
    """Statuses of pages that now answer otherwise than they would."""
    most: int = 0
    under_way: int = 0

    async def serve(self, request: Request) -> Response:
        name = request.path_params["name"]
        self.asked[f"{request.method} {name}"] += 1
        self.under_way += 1
        self.most = max(self.most, self.under_way)
        try:
            return await self.answer(name, request.method)
        finally:
            self.under_way -= 1

    async def answer(self, name: str, method: str) -> Response:
        times = self.asked[f"{method} {name}"]
        if name in self.answers:
            return PlainTextResponse("", self.answers[name])
        if name in LEADS:
            code, goal = LEADS[name]
            return RedirectResponse(goal, code)
        match name:
            case "robots.txt":
                return PlainTextResponse("User-agent: *\nDisallow: /closed")
            case "404" | "410" | "403":
                return PlainTextResponse("", int(name))
            case "broken":
                return PlainTextResponse("", 500)
            case "in-turns":
                return PlainTextResponse("", 500 if times == 1 else 200)
            case "busy":
                return PlainTextResponse("", 429, {"retry-after": "1"}) if times == 1 else PlainTextResponse("")
            case "no-head" | "head-404" if method == "HEAD":
                return PlainTextResponse("", 405 if name == "no-head" else 404)
            case "slow":
                await asyncio.sleep(20)
            case "empty":
                return HTMLResponse("")
            case "big":
                return HTMLResponse(PAGE + "x" * (PAGE_BYTES + 1))
            case "many":
                await asyncio.sleep(0.05)
        return HTMLResponse(PAGE)


@contextmanager
def odd_server() -> Iterator[Odd]:
    port = free_port()
    server = Odd(port)
    routes = [Route("/{name:path}", server.serve, methods=["GET", "HEAD"])]
    with serving(Starlette(routes=routes), port):
        yield server
