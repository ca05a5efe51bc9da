"""Addresses as browsers read them (WHATWG URL Standard)."""

import re
from functools import lru_cache
from urllib.parse import urljoin, urlsplit

import ada_url


def normal(url: str, base: str) -> str | None:
    """The absolute http(s) address without its fragment, as a browser would ask for it (WHATWG URL); else None."""
    try:
        parsed = ada_url.URL(url, base)
    except ValueError:
        return None
    if parsed.protocol not in {"http:", "https:"} or parsed.username or parsed.password:
        return None
    parsed.hash = ""
    return str(parsed.href).rstrip("#")


def origin(url: str) -> str:
    parts = urlsplit(url)
    return f"{parts.scheme}://{parts.netloc}"


_origin = lru_cache(1_000)(origin)


_PLAIN_PATH = re.compile(r"/(?!/)(?:[^?#;./]|\.(?!/|\.|$)|/(?!\.))*+")
"""Without steps up or to itself, and with nothing behind it."""


def joined(base: str, path: str) -> str:
    """The address of a path on a site; one that cannot be joined stays as it is."""
    try:
        if _PLAIN_PATH.fullmatch(path):
            # Nearly all are, and each page of each menu is asked for: it comes to the same in a tenth of the time.
            return _origin(base) + path
        return urljoin(base, path)
    except ValueError:
        return path


def host_of(url: str) -> str:
    """Host and port in lower case; empty for an address within a site, and for one that no browser would follow."""
    try:
        return str(ada_url.URL(url if not url.startswith("//") else f"https:{url}").host)
    except ValueError:
        return ""
