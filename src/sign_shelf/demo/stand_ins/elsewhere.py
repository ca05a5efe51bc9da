"""What the clients' menus lead to elsewhere, ticket offices and shops, played by one server that answers for all these names."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from html import escape
from pathlib import Path

import uvicorn
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, PlainTextResponse, Response
from starlette.routing import Route

from sign_shelf.core.basics.address import name_of
from sign_shelf.core.model.menu import Link, UrlTarget, walk
from sign_shelf.demo.stand_ins.certificate import certificate
from sign_shelf.demo.stand_ins.content import Content
from sign_shelf.demo.stand_ins.faults import AT, Fault, Faults

USUALLY: Mapping[str, Mapping[str, Fault]] = {
    "live.brackwater.example": {"/": "404"},
    "kaarten.vesper-quay.example": {"/": "chain"},
    "shop.thornby-railway.example": {"/": "error"},
}
"""What does not work in the demo, so that there is something to be found."""
BAD_CERTIFICATE = frozenset({"give.thornby-railway.example"})


@dataclass
class Elsewhere:
    """`port` for https; `folder` keeps its certificate."""

    hosts: tuple[str, ...]
    port: int
    folder: Path
    faults: dict[str, Faults] = field(default_factory=dict)

    @property
    def authority(self) -> Path:
        return self.folder / "certificate.pem"

    @property
    def names(self) -> str:
        """As the setting has it that says where names stand."""
        return ",".join(f"{host}=127.0.0.1:{self.port}" for host in self.hosts)


def elsewhere_of(contents: Iterable[Content], folder: Path, port: int = 8410) -> Elsewhere:
    """All hosts that the sites' menus name, but for the sites' own. Port and certificate are kept in
    `folder` from the first time on."""
    named = {
        name_of(item.target.url)
        for content in contents for menu in content.menus.values() for _, item in walk(menu.items)
        if isinstance(item, Link) and isinstance(item.target, UrlTarget)
    }  # fmt: skip
    hosts = tuple(sorted(host for host in named if host.endswith(".example")))
    kept = folder / "port"
    if not kept.exists():
        certificate(folder, [host for host in hosts if host not in BAD_CERTIFICATE], days=4_000)
        kept.write_text(str(port))
    faults = {host: Faults(dict(USUALLY.get(host, {}))) for host in hosts}
    return Elsewhere(hosts, int(kept.read_text()), folder, faults)


def elsewhere_app(elsewhere: Elsewhere) -> Starlette:
    async def page(request: Request) -> Response:
        host = request.headers.get("host", "").partition(":")[0]
        return HTMLResponse(
            f'<!doctype html><html lang="en"><title>{escape(host)}</title><h1>{escape(host)}</h1></html>'
        )

    async def answer(request: Request) -> Response:
        faults = elsewhere.faults.get(request.headers.get("host", "").partition(":")[0])
        if faults is None:
            return PlainTextResponse("no such host", 421)
        return await (faults.administer(request) if request.url.path == AT else faults.answer(request, page))

    return Starlette(routes=[Route("/{path:path}", answer, methods=["GET", "HEAD", "PUT"])])


def elsewhere_server(elsewhere: Elsewhere) -> uvicorn.Server:
    config = uvicorn.Config(
        elsewhere_app(elsewhere), host="127.0.0.1", port=elsewhere.port, log_level="warning",
        ssl_certfile=elsewhere.authority, ssl_keyfile=elsewhere.folder / "key.pem",
    )  # fmt: skip
    return uvicorn.Server(config)
