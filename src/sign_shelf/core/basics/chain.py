"""A chain of lines: each is sealed with a hash over it and the seal before it, so that none can be changed, left out or put in
between without every later seal being another (as hash-linked time stamps are: Haber and Stornetta, 1991)."""

import hashlib
from collections.abc import Mapping

import rfc8785
from pydantic import JsonValue

BEGINNING = "sha256:" + "0" * 64
"""What the first line is sealed onto."""


def sealed(before: str, line: Mapping[str, JsonValue]) -> str:
    """The seal of a line that follows the seal `before`: over both, in canonical form (RFC 8785)."""
    form = rfc8785.dumps({"before": before, "line": dict(line)})
    return "sha256:" + hashlib.sha256(form).hexdigest()
