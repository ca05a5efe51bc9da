"""The built interface: its files from memory, and its first page for every address that is a view."""

import mimetypes
from dataclasses import dataclass
from hashlib import blake2b
from pathlib import Path

from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import ASGIApp, Receive, Scope, Send

from sign_shelf.api.problems import problem, refusal_response
from sign_shelf.core.errors import NotFound
from sign_shelf.settings import STATIC

_ELSEWHERE = ("/api/", "/metrics")


@dataclass(frozen=True, slots=True)
class _File:
    body: bytes
    packed: bytes | None
    """With gzip, where the build made that."""
    headers: dict[str, str]
    changed_ns: int
    """When the file was written, in nanoseconds."""


class Interface:
    """Answers before anything else is looked at: a first visit takes some fifty files."""

    def __init__(self, app: ASGIApp, folder: Path = STATIC) -> None:
        self.app = app
        self._folder = folder
        self._files: dict[str, _File] = {}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["path"].startswith(_ELSEWHERE):
            await self.app(scope, receive, send)
            return
        await self._answer(scope)(scope, receive, send)

    def _answer(self, scope: Scope) -> Response:
        if scope["method"] not in {"GET", "HEAD"}:
            refusal = problem(405, "method-not-allowed", "A page can only be read.", remedy="Use GET.")
            refusal.headers["allow"] = "GET, HEAD"
            return refusal
        name = scope["path"].removeprefix("/")
        file = self._read(name) or self._read("index.html")
        if file is None:
            return refusal_response(
                NotFound("The interface is not built.", where=scope["path"], remedy="Run `make build`.")
            )
        asked = Headers(scope=scope)
        if asked.get("if-none-match") == file.headers["etag"]:
            return Response(status_code=304, headers=file.headers)
        if file.packed is not None and "gzip" in asked.get("accept-encoding", ""):
            return _of(scope, file.packed, file.headers | {"content-encoding": "gzip"})
        return _of(scope, file.body, file.headers)

    def _read(self, name: str) -> _File | None:
        """None where there is no such file in the folder. Read again where it was built anew."""
        kept = self._files.get(name)
        path = self._folder / name
        try:
            if kept is None and not path.resolve().is_relative_to(self._folder.resolve()):
                return None
            changed_ns = path.stat().st_mtime_ns
            if kept is None or kept.changed_ns != changed_ns:
                kept = self._files[name] = _file(path, name, changed_ns)
        except (OSError, ValueError):
            return None
        return kept


def _file(path: Path, name: str, changed_ns: int) -> _File:
    body = path.read_bytes()
    packed = path.with_name(f"{path.name}.gz")
    # Python 3.11 does not know the type of fonts.
    kind = "font/woff2" if path.suffix == ".woff2" else mimetypes.guess_type(path.name)[0] or "application/octet-stream"
    return _File(
        body=body,
        packed=packed.read_bytes() if packed.is_file() else None,
        headers={
            "content-type": f"{kind}; charset=utf-8" if kind.startswith("text/") else kind,
            # The names of assets change with their content.
            "cache-control": "public, max-age=31536000, immutable" if name.startswith("assets/") else "no-cache",
            "vary": "accept-encoding",
            "etag": f'"{blake2b(body, digest_size=12).hexdigest()}"',
        },
        changed_ns=changed_ns,
    )


def _of(scope: Scope, body: bytes, headers: dict[str, str]) -> Response:
    if scope["method"] == "HEAD":
        return Response(headers=headers | {"content-length": str(len(body))})
    return Response(body, headers=headers)
