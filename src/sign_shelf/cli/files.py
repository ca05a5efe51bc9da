"""Reading what a command is given: a file, or standard input for `-`."""

import json
import sys
from pathlib import Path
from urllib.parse import quote

from sign_shelf.cli import remote
from sign_shelf.core.errors import InvalidDocument, Problem
from sign_shelf.core.model.documents import MAX_BYTES, parse_json, read
from sign_shelf.core.model.site import SiteDocument


def read_bytes(name: str) -> bytes:
    """The whole input. Raises InvalidDocument where it cannot be read or is over 16 MiB."""
    try:
        data = sys.stdin.buffer.read(MAX_BYTES + 1) if name == "-" else Path(name).read_bytes()
    except OSError as exc:
        raise InvalidDocument([Problem(where=name, says=f"cannot be read: {exc.strerror}")]) from exc
    if len(data) > MAX_BYTES:
        raise InvalidDocument([Problem(where=name, says=f"is larger than {MAX_BYTES} bytes")])
    return data


def read_text(name: str) -> str:
    """The input as UTF-8 text; a bad byte is refused with its place."""
    data = read_bytes(name)
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError as exc:
        line = data[: exc.start].count(b"\n") + 1
        column = exc.start - data.rfind(b"\n", 0, exc.start)
        raise InvalidDocument([Problem(where=f"{name}, line {line}, column {column}", says="is not UTF-8")]) from exc


def write_json(value: object) -> None:
    print(json.dumps(value, ensure_ascii=False, indent=2))


def read_site(name: str) -> SiteDocument:
    """The site document; the one of the site with that key, where a server is given."""
    server = remote.given()
    if server is not None:
        told = server.ask("GET", f"/api/sites/{quote(name, safe='')}/export/json")
        return read(SiteDocument, parse_json(told, what=name), what=name)
    return read(SiteDocument, parse_json(read_bytes(name), what=name), what=name)
