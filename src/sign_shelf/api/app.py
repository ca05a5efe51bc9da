"""The application: routers, guards and the published schemas."""

import gc
from collections.abc import AsyncIterator
from contextlib import AsyncExitStack, asynccontextmanager
from functools import cache
from typing import Any

from fastapi import FastAPI, Request
from fastapi.responses import JSONResponse
from starlette.responses import Response

from sign_shelf.api import metrics, problems
from sign_shelf.api.delivery import Delivery, DeliveryFirst
from sign_shelf.api.entrance import KnownPeople, SafeHeaders, SoundAddress, SoundJson, WholeBody
from sign_shelf.api.interface import BuiltFiles, FilesFirst
from sign_shelf.api.loop_watch import LoopWatch
from sign_shelf.api.metrics import Measured, Metrics
from sign_shelf.api.packing import PackedViews
from sign_shelf.api.processes import Apart, Processes
from sign_shelf.api.routes import ROUTES
from sign_shelf.api.streams import Streams
from sign_shelf.core.errors import NotFound
from sign_shelf.core.model.menu import menu_schema
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import Settings
from sign_shelf.store.database import Database


def create_app(settings: Settings, processes: Processes | None = None, *, pool_size: int | None = None) -> FastAPI:
    """With `processes`, the one that people are connected to: it hands requests to them. Without, it works on every
    request itself. `pool_size`: database connections that it keeps, if not as many as are set."""
    delivery, files = Delivery(settings.database), BuiltFiles()

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        app.state.database = Database.configured(settings, pool_size=pool_size)
        async with AsyncExitStack() as running:
            running.push_async_callback(app.state.database.close)
            app.state.fetcher = await running.enter_async_context(Fetcher.configured(settings))
            if processes is not None:
                app.state.watch = LoopWatch()
                await running.enter_async_context(processes.running())
                await running.enter_async_context(delivery.watching(app.state.database, Database.of_replica(settings)))
                await running.enter_async_context(app.state.streams.watching())
                # What is there now stays: looking it through again and again would hold the loop.
                gc.collect()
                gc.freeze()
                await running.enter_async_context(app.state.watch.watching())
            yield

    app = FastAPI(
        title="Sign Shelf",
        version="0.1.0",
        lifespan=lifespan,
        routes=ROUTES.routes,
        openapi_url="/api/openapi.json",
        docs_url=None,
        redoc_url=None,
        # What is recursive would be described twice, word for word.
        separate_input_output_schemas=False,
    )
    app.state.settings = settings
    app.state.streams = Streams(settings.database)
    app.state.watch = None
    app.state.processes = processes
    app.state.metrics = Metrics()
    # The last one added stands first.
    app.add_middleware(SoundJson)
    if processes is not None:
        app.add_middleware(Apart, processes=processes)
    else:
        app.add_middleware(PackedViews)
    app.add_middleware(WholeBody)
    app.add_middleware(KnownPeople)
    app.add_middleware(SoundAddress)
    app.add_middleware(FilesFirst, files=files)
    app.add_middleware(SafeHeaders)
    app.add_middleware(DeliveryFirst, delivery=delivery, host=settings.delivery_host)
    app.add_middleware(Measured, metrics=app.state.metrics, gives=processes is not None)
    problems.install(app)

    app.openapi = lambda: _described(app)  # type: ignore[method-assign]

    @app.get("/api/schemas/menu.json", tags=["server"])
    async def schema() -> JSONResponse:
        """The JSON Schema of the menu document."""
        return Response(_published(), media_type="application/schema+json")  # type: ignore[return-value]

    app.include_router(metrics.router)

    @app.api_route("/api/{path:path}", methods=["GET", "POST", "PUT", "DELETE"], include_in_schema=False)
    async def no_such_api(path: str) -> Any:
        raise NotFound("There is no such address.", where=f"/api/{path}", remedy="See /api/openapi.json.")

    @app.get("/{path:path}", include_in_schema=False)
    async def view(request: Request) -> Response:
        """The first page of the interface, for every address that nothing else answers to."""
        return files.front(request.scope)

    # Routes are made ready when they are first matched: now, and not while somebody waits.
    for route in app.routes:
        route.matches({"type": "http", "method": "GET", "path": "/api/nowhere", "root_path": "", "headers": []})
    return app


@cache
def _published() -> bytes | memoryview:
    """Anybody may ask for it, so it is worked out once."""
    return JSONResponse(menu_schema()).body


def _describe_refusals(described: dict[str, Any]) -> None:
    """Every route may refuse, with a problem; which statuses there are is said once."""
    components = described["components"]
    for unused in ("HTTPValidationError", "ValidationError"):
        components["schemas"].pop(unused, None)
    components["schemas"]["ProblemOut"] = problems.ProblemOut.model_json_schema()
    components["responses"] = problems.described()
    for methods in described["paths"].values():
        for about in methods.values():
            about["responses"].pop("422", None)
            about["responses"] |= {
                "4XX": {"$ref": "#/components/responses/Refused"}, "503": {"$ref": "#/components/responses/NotNow"}
            }  # fmt: skip


def _described(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI description, with what every route may refuse."""
    if app.openapi_schema is None:
        described = FastAPI.openapi(app)
        _describe_refusals(described)
        app.openapi_schema = described
    return app.openapi_schema
