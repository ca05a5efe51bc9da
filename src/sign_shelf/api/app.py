"""The application: routers, guards, the published schemas, and the built interface."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, JSONResponse
from sqlalchemy import text
from starlette.responses import Response

from sign_shelf.api import problems
from sign_shelf.api.delivery import Delivery, DeliveryFirst
from sign_shelf.api.guards import BodyLimit, NoNulls, same_origin
from sign_shelf.api.routes import ROUTERS
from sign_shelf.core.errors import NotFound
from sign_shelf.core.menu import MenuDocument, menu_schema
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.settings import STATIC, Settings
from sign_shelf.store.database import Database


def create_app(settings: Settings) -> FastAPI:
    delivery = Delivery(settings.database.get_secret_value())

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        app.state.database = Database(settings.database.get_secret_value(), pool_size=settings.pool_size)
        async with Fetcher(settings.allowed_private_hosts) as fetcher, delivery.watching(app.state.database):
            app.state.fetcher = fetcher
            yield
        await app.state.database.close()

    app = FastAPI(
        title="Sign Shelf",
        version="0.1.0",
        lifespan=lifespan,
        openapi_url="/api/openapi.json",
        docs_url=None,
        redoc_url=None,
    )
    app.state.settings = settings
    app.middleware("http")(same_origin)
    app.add_middleware(BodyLimit)
    app.add_middleware(NoNulls)
    app.add_middleware(DeliveryFirst, delivery=delivery)
    problems.install(app)
    for router in ROUTERS:
        app.include_router(router)

    app.openapi = lambda: _with_menu_document(app)  # type: ignore[method-assign]

    @app.get("/api/health", tags=["server"])
    async def health(request: Request) -> dict[str, str]:
        """Answers once the database does."""
        async with request.app.state.database.transaction() as session:
            await (await session.connection()).execute(text("SELECT 1"))
        return {"status": "ok"}

    @app.get("/api/schemas/menu.json", tags=["server"])
    async def schema() -> JSONResponse:
        """The JSON Schema of the menu document."""
        return JSONResponse(menu_schema(), media_type="application/schema+json")

    @app.api_route("/api/{path:path}", methods=["GET", "POST", "PUT", "DELETE"], include_in_schema=False)
    async def no_such_api(path: str) -> Any:
        raise NotFound("There is no such address.", where=f"/api/{path}", remedy="See /api/openapi.json.")

    @app.get("/{path:path}", include_in_schema=False)
    async def interface(path: str) -> Response:
        """Files of the built interface; its first page for every address that is a view."""
        wanted = (STATIC / path).resolve()
        if path and wanted.is_relative_to(STATIC) and wanted.is_file():
            lasting = "public, max-age=31536000, immutable" if path.startswith("assets/") else "no-cache"
            return FileResponse(wanted, headers={"cache-control": lasting})
        front = STATIC / "index.html"
        if not front.is_file():
            raise NotFound("The interface is not built.", where=f"/{path}", remedy="Run `make build`.")
        return FileResponse(front, headers={"cache-control": "no-cache"})

    return app


_HOLDS_A_DOCUMENT = (
    ("BenchPage", "document"),
    ("SettleBody", "ours"),
    ("CreateMenuBody", "document"),
    ("IncomingMenuOut", "document"),
    ("CopyBody", "document"),
    ("TakeBackBody", "document"),
)


def _with_menu_document(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI description, in which menu documents have their full schema wherever they go in or out."""
    if app.openapi_schema is None:
        described = FastAPI.openapi(app)
        schemas = described["components"]["schemas"]
        whole = MenuDocument.model_json_schema(ref_template="#/components/schemas/{model}")
        schemas |= whole.pop("$defs")
        schemas["MenuDocument"] = whole
        reference = {"$ref": "#/components/schemas/MenuDocument"}
        for model, field in _HOLDS_A_DOCUMENT:
            schemas[model]["properties"][field] = reference
        saving = described["paths"]["/api/sites/{site}/menus/{menu}"]["put"]
        saving["requestBody"] = {"required": True, "content": {"application/json": {"schema": reference}}}
        app.openapi_schema = described
    return app.openapi_schema
