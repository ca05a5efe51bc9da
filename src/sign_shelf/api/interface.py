"""The built interface: its files, from memory, and its first page for every address that is a view."""

import mimetypes
from dataclasses import dataclass
from hashlib import blake2b
from pathlib import Path

from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import ASGIApp, Receive, Scope, Send

from sign_shelf.core.errors import NotFound
from sign_shelf.settings import STATIC


@dataclass(frozen=True, slots=True)
class _File:
    body: bytes
    packed: bytes | None
    """With gzip, where the build made that."""
    headers: dict[str, str]
    changed_ns: int
    """When the file was written, in nanoseconds."""


class BuiltFiles:
    """The files of a folder as they are built."""

    def __init__(self, folder: Path = STATIC) -> None:
        self._folder = folder
        self._files: dict[str, _File] = {}

    def answer(self, name: str, scope: Scope) -> Response | None:
        """None where there is no such file."""
        file = self._read(name) if name else None
        if file is None:
            return None
        asked = Headers(scope=scope)
        if asked.get("if-none-match") == file.headers["etag"]:
            return Response(status_code=304, headers=file.headers)
        if file.packed is not None and "gzip" in asked.get("accept-encoding", ""):
            return _of(scope, file.packed, file.headers | {"content-encoding": "gzip"})
        return _of(scope, file.body, file.headers)

    def front(self, scope: Scope) -> Response:
        """The first page, which shows every view. Raises NotFound where nothing is built."""
        answer = self.answer("index.html", scope)
        if answer is None:
            raise NotFound("The interface is not built.", where=scope["path"], remedy="Run `make build`.")
        return answer

    def _read(self, name: str) -> _File | None:
        """None where there is no such file in the folder. Read again where it was built anew."""
        # A file has one name: others would lead outside, or let a stranger fill the memory with copies.
        if not {"", ".", ".."}.isdisjoint(name.split("/")):
            return None
        kept = self._files.get(name)
        path = self._folder / name
        try:
            changed_ns = path.stat().st_mtime_ns
            if kept is None or kept.changed_ns != changed_ns:
                kept = self._files[name] = _file(path, name, changed_ns)
        except (OSError, ValueError):
            return None
        return kept


class FilesFirst:
    """Answers for a file before anything else is looked at: a first visit takes some fifty of them."""

    def __init__(self, app: ASGIApp, files: BuiltFiles) -> None:
        self.app = app
        self._files = files

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        answer = None
        if scope["type"] == "http" and scope["method"] in {"GET", "HEAD"} and not scope["path"].startswith("/api/"):
            answer = self._files.answer(scope["path"].removeprefix("/"), scope)
        await (answer or self.app)(scope, receive, send)


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
            # Weak: packed and plain bodies share it.
            "etag": f'W/"{blake2b(body, digest_size=12).hexdigest()}"',
        },
        changed_ns=changed_ns,
    )


def _of(scope: Scope, body: bytes, headers: dict[str, str]) -> Response:
    if scope["method"] == "HEAD":
        return Response(headers=headers | {"content-length": str(len(body))})
    return Response(body, headers=headers)
