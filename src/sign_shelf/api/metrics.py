"""What a monitoring system reads (Prometheus, the text format): how long requests take, and what waits.

Told to whoever shows the token of the settings, and to nobody where there is none.
"""

import secrets
from random import getrandbits
from time import perf_counter

import structlog
from fastapi import APIRouter, Request, Response
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Counter, Gauge, Histogram, generate_latest
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from sign_shelf.api.guards import Config, Db
from sign_shelf.core.errors import NotFound
from sign_shelf.store.gauges import Gauges, gauges

router = APIRouter()
_BUCKETS = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 5.0, 10.0, 30.0)


class Metrics:
    """Of one server process."""

    def __init__(self) -> None:
        self.registry = CollectorRegistry()
        self.took = Histogram(
            "sign_shelf_request_seconds", "How long requests took, by what they ask for.", ["noun", "method"],
            buckets=_BUCKETS, registry=self.registry,
        )  # fmt: skip
        self.answered = Counter("sign_shelf_requests", "Requests answered.", ["noun", "status"], registry=self.registry)
        self.held = Gauge(
            "sign_shelf_loop_held_seconds", "The longest that the event loop was held in five minutes.", registry=self.registry
        )  # fmt: skip
        self.gauges = {
            name: Gauge(f"sign_shelf_{name.removesuffix('_s')}{'_seconds' if name.endswith('_s') else ''}",
                        name.removesuffix("_s").replace("_", " ").capitalize(), registry=self.registry)
            for name in Gauges._fields
        }  # fmt: skip

        self._counted: dict[tuple[str, int], Counter] = {}
        self._timed: dict[tuple[str, str], Histogram] = {}

    def note(self, noun: str, method: str, status: int, seconds: float) -> None:
        """Of every answer, delivery's as well: what stands for these labels is looked up once."""
        counted = self._counted.get((noun, status))
        if counted is None:
            counted = self._counted[noun, status] = self.answered.labels(noun, f"{status // 100}xx")
        counted.inc()
        # What is streamed lasts as long as somebody listens.
        if noun != "there":
            timed = self._timed.get((noun, method))
            if timed is None:
                timed = self._timed[noun, method] = self.took.labels(noun, method)
            timed.observe(seconds)

    def keep(self, found: Gauges, held_ms: float) -> None:
        self.held.set(held_ms / 1_000)
        for name, value in found._asdict().items():
            self.gauges[name].set(value if value is not None else 0)


_ID = b"sign-shelf-request"


class Measured:
    """How long each request takes, until its last byte is sent; and an id for it, which stands in every line of the log that it comes
    to and in its answer. The process that people are connected to gives it; those that it hands requests to take it over."""

    def __init__(self, app: ASGIApp, metrics: Metrics, *, gives: bool) -> None:
        self.app = app
        self.metrics = metrics
        self._gives = gives

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        began = perf_counter()
        status = 500
        others = [header for header in scope["headers"] if header[0] != _ID]
        given = b"" if self._gives or len(others) == len(scope["headers"]) else dict(scope["headers"])[_ID]
        name = given or b"%016x" % getrandbits(64)
        scope["headers"] = [*others, (_ID, name)]
        # Each request is a task with a context of its own, which ends with it.
        structlog.contextvars.bind_contextvars(request=name.decode("ascii", "replace"))

        async def noted(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                if self._gives:
                    message["headers"] = [*message.get("headers", ()), (b"x-request-id", name)]
            await send(message)

        noun = noun_of(scope["path"])
        try:
            await self.app(scope, receive, noted)
        finally:
            method = scope["method"] if scope["method"] in _METHODS else "other"
            self.metrics.note(noun, method, status, perf_counter() - began)


_METHODS = {"GET", "HEAD", "POST", "PUT", "DELETE"}
_NOUNS = {
    "sites", "shelf", "changes", "findings", "session", "there", "health", "people", "ledger", "sync", "sweeps", "search", "releases",
}  # fmt: skip


def noun_of(path: str) -> str:
    """One of a few, whatever strangers ask for."""
    _, first, second, *_ = [*path.split("/", 3), "", "", ""]
    if first == "api":
        return second if second in _NOUNS else "other"
    return {"live": "delivery", "sign-off": "sign-off", "metrics": "metrics"}.get(first, "interface")


@router.get("/metrics", include_in_schema=False)
async def metrics(request: Request, database: Db, settings: Config) -> Response:
    token = settings.metrics_token.get_secret_value()
    shown = request.headers.get("authorization", "").removeprefix("Bearer ")
    if not token or not secrets.compare_digest(shown.encode(), token.encode()):
        raise NotFound("There is no such address.", where="/metrics")
    kept: Metrics = request.app.state.metrics
    watch = request.app.state.watch
    async with database.transaction() as session:
        kept.keep(await gauges(session), watch.longest_ms() if watch else 0.0)
    return Response(generate_latest(kept.registry), media_type=CONTENT_TYPE_LATEST)
