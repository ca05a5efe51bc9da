"""Misbehaving on purpose, so that what is found can be tried: which address of a stand-in does what, at `/__faults`.

`PUT /__faults` with `{"/fares": "gone", "/sitemap.xml": "empty"}` has these from then on and no others; `{}` none.
"""

import asyncio
import json
import re
from collections import Counter
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from typing import Literal, get_args

from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, PlainTextResponse, RedirectResponse, Response

Fault = Literal["404", "gone", "error", "error in turns", "slow", "never", "moved", "chain", "loop", "no parts", "no overlay", "by script",
                "unpublished", "empty", "hang up"]  # fmt: skip
FAULTS: tuple[Fault, ...] = get_args(Fault)
AT = "/__faults"
_ON_THE_WAY = "on-the-way"
Answering = Callable[[Request], Awaitable[Response]]


@dataclass
class Faults:
    """By path. What is `unpublished` is in no sitemap either."""

    at: dict[str, Fault] = field(default_factory=dict)
    asked: Counter[str] = field(default_factory=Counter)

    def of(self, path: str) -> Fault | None:
        return self.at.get(path)

    async def administer(self, request: Request) -> Response:
        if request.method == "PUT":
            try:
                wanted = json.loads(await request.body())
            except ValueError:
                return PlainTextResponse("no JSON", 422)
            if not isinstance(wanted, dict) or not set(wanted.values()) <= set(FAULTS):
                return PlainTextResponse(f"paths with one of: {', '.join(FAULTS)}", 422)
            self.at = wanted
        return JSONResponse(self.at)

    async def answer(self, request: Request, well: Answering) -> Response:
        """As the fault of the address has it; as it would be where it has none."""
        path = request.url.path
        self.asked[path] += 1
        match self.of(path):
            case "404" | "unpublished":
                return PlainTextResponse("There is nothing here.", 404)
            case "gone":
                return PlainTextResponse("It is gone.", 410)
            case "error":
                return PlainTextResponse("It broke.", 500)
            case "error in turns" if self.asked[path] % 2:
                return PlainTextResponse("It broke.", 500)
            case "slow":
                await asyncio.sleep(12)
            case "never":
                await asyncio.sleep(3_600)
            case "hang up":
                raise ConnectionResetError("hung up on purpose")
            case "moved":
                return RedirectResponse(f"{path.rstrip('/')}/moved", 301)
            case "chain":
                way = request.query_params.get(_ON_THE_WAY, "0")
                if int(way) < 3:
                    return RedirectResponse(f"{path}?{_ON_THE_WAY}={int(way) + 1}", 302)
            case "loop":
                return RedirectResponse(path + ("" if request.url.query else "?again"), 302)
            case "empty":
                return Response("", media_type="application/xml")
            case "no parts" | "no overlay" | "by script" as fault:
                return _without(await well(request), fault)
            case _:
                pass
        return await well(request)


def _without(page: Response, fault: Literal["no parts", "no overlay", "by script"]) -> Response:
    text = bytes(page.body).decode()
    if fault == "by script":
        # The navigations are there once a script has run.
        return HTMLResponse(
            re.sub(r"(<nav\b[^>]*>)(.*?)(</nav>)", r"\1<script>/* \2 */</script>\3", text, flags=re.S), page.status_code
        )
    gone = ' id="' if fault == "no parts" else "<dialog"
    return HTMLResponse(text.replace(gone, ' data-id="' if fault == "no parts" else "<template"), page.status_code)
