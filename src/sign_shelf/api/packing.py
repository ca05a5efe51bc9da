"""What is looked at goes out compressed where it is long."""

from starlette.middleware.gzip import GZipMiddleware
from starlette.types import ASGIApp, Receive, Scope, Send

SHORT = 1_000
"""Bytes that go out as they are."""


class PackedViews:
    """Only answers to GET: keys and passwords are told once, to whoever makes them, in answers to POST. A secret in one
    answer with what the asker may choose would show itself by how short it gets."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app
        self._packed = GZipMiddleware(app, minimum_size=SHORT, compresslevel=5)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        view = scope["type"] == "http" and scope["method"] == "GET" and scope["path"].startswith("/api/")
        await (self._packed if view else self.app)(scope, receive, send)
