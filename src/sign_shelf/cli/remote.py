"""A running server in place of files: `sign-shelf --server URL …`, with a token of a person's in SIGN_SHELF_TOKEN."""

import json
import os
import time
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Annotated, Any
from urllib.parse import quote
from uuid import uuid4

import typer

from sign_shelf.core.errors import Refusal

TOKEN = "SIGN_SHELF_TOKEN"
LOOKS_EVERY_S = 1.0
_OVER = {"live", "failed", "by hand"}
"""What is to be done by hand takes a person's time."""


@dataclass(frozen=True)
class Server:
    """`change` is the one that is looked in, by its id; None: what the token's person works in, or else what is live."""

    url: str
    change: str | None

    def ask(
        self, method: str, path: str, *, headers: dict[str, str] | None = None, body: object = None, **query: str
    ) -> bytes:
        """What it answers. Raises Refusal in its own words, and where it does not answer."""
        import httpx

        token = os.environ.get(TOKEN, "")
        if not token:
            raise Refusal(f"{TOKEN} is not set.", remedy="Make a token on your own page, and give it in that variable.")
        inside = {"in": self.change} if self.change is not None else {}
        try:
            answer = httpx.request(
                method, f"{self.url.rstrip('/')}{path}", params=inside | query, timeout=60, trust_env=False,
                content=json.dumps(body) if body is not None else None,
                headers={"authorization": f"Bearer {token}"} | ({"content-type": "application/json"} if body is not None else {}) | (headers or {}),
            )  # fmt: skip
        except (httpx.HTTPError, httpx.InvalidURL) as failed:
            raise Refusal(
                f"{self.url} does not answer: {failed}.", remedy="Check the address given by --server."
            ) from failed
        if answer.is_success:
            return answer.content
        raise _refused(answer.status_code, answer.content)


def _refused(status: int, content: bytes) -> Refusal:
    try:
        told = json.loads(content)
        return Refusal(str(told["detail"]), where=told.get("where"), remedy=told.get("remedy"))
    except (ValueError, KeyError, TypeError):
        return Refusal(
            f"The server answered {status}, and not as Sign Shelf does.", remedy="Check the address given by --server."
        )


_SERVER: ContextVar[Server | None] = ContextVar("server", default=None)


def given() -> Server | None:
    """The server that the command line names."""
    return _SERVER.get()


def use(server: Server | None) -> None:
    _SERVER.set(server)


def put_live(
    site: Annotated[str, typer.Argument(help="The site's key.")],
    wait: Annotated[
        float, typer.Option(min=0, help="Seconds to wait until it is live, or has failed; 0: not at all.")
    ] = 600.0,
) -> None:
    """Puts live at the site what was done in the change, on a server. Exit 1 where it fails, or is not live in time."""
    server = given()
    if server is None:
        raise Refusal("Which server?", remedy="Write sign-shelf --server URL --in CHANGE put-live SITE.")
    asked = server.ask("POST", f"/api/sites/{quote(site, safe='')}/releases", headers={"idempotency-key": str(uuid4())})
    release: dict[str, Any] = json.loads(asked)
    ends = time.monotonic() + wait
    while release["state"] not in _OVER and time.monotonic() < ends:
        time.sleep(min(LOOKS_EVERY_S, max(ends - time.monotonic(), 0)))
        release = json.loads(server.ask("GET", f"/api/releases/{release['id']}"))
    print(json.dumps(release, ensure_ascii=False, indent=2))
    raise typer.Exit(0 if release["state"] == "live" or (wait == 0 and release["state"] != "failed") else 1)


put_live.__name__ = "put-live"
