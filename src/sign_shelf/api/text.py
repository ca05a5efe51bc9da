"""What JSON is let in: the one place where text, numbers and nesting of a request are judged before objects are made.

Depth and size are told from the bytes, with strings left out, at some hundred megabytes a second.
"""

import json
import re
from collections.abc import Iterator
from typing import Any

import numpy as np

from sign_shelf.core.errors import InvalidDocument, Problem

DEEPEST = 80
"""Levels of objects and lists. A menu of 24 levels has 52."""
MOST_PARTS = 1_000_000
"""Values and names. A menu of 20 000 items with all of their settings has some 800 000."""
LARGEST = 2**53
"""Whole numbers beyond it are not the same in every program (RFC 8259, 6)."""

# Possessive, and with an end that may be missing: no input is looked at twice.
_STRING = re.compile(rb'"(?:[^"\\]++|\\.)*+"?', re.DOTALL)
_ODD = re.compile(rb"\\u(?:0000|[dD][89a-fA-F])|NaN|Infinity|\d{16}|[eE]\+?\d{3}")
_OPENS = np.zeros(256, dtype=np.int8)
_OPENS[[ord("["), ord("{")]] = 1
_OPENS[[ord("]"), ord("}")]] = -1


def admitted(body: bytes) -> InvalidDocument | None:
    """Why the JSON is not let in; None where it is, or is none at all, which its reader says better."""
    bones = _STRING.sub(b"0", body)
    parts = bones.count(b",") + bones.count(b":") + 1
    if parts > MOST_PARTS:
        return _refused("", f"has {parts} parts; at most {MOST_PARTS} are read")
    deepest = int(np.cumsum(_OPENS[np.frombuffer(bones, dtype=np.uint8)], dtype=np.int64).max(initial=0))
    if deepest > DEEPEST:
        return _refused("", f"nests {deepest} levels deep; at most {DEEPEST} are read")
    if not _ODD.search(body):
        return None
    try:
        value = json.loads(body)
    except (ValueError, RecursionError):
        return None
    return next((_refused(path, says) for path, says in _odd(value, "")), None)


def _refused(path: str, says: str) -> InvalidDocument:
    return InvalidDocument([Problem(where=path or "body", says=says)], what="request")


def _odd(value: Any, path: str) -> Iterator[tuple[str, str]]:
    match value:
        case str():
            if (says := odd_text(value)) is not None:
                yield path, says
        case bool() | None:
            pass
        case int() if abs(value) > LARGEST:
            yield path, "is a larger number than can be kept"
        case float() if not abs(value) <= 1e300:
            yield path, "is no number that can be kept"
        case dict():
            for key, one in value.items():
                if (says := odd_text(key)) is not None:
                    yield path, f"has a name that {says}"
                yield from _odd(one, f"{path}.{key}" if path else str(key))
        case list():
            for at, one in enumerate(value):
                yield from _odd(one, f"{path}[{at}]")
        case _:
            pass


def odd_text(text: str) -> str | None:
    """Why no other form of text can hold it: a NUL, which PostgreSQL does not keep, or half of a character."""
    if "\0" in text:
        return "has a NUL character in it; leave it out"
    half = next((character for character in text if "\ud800" <= character <= "\udfff"), None)
    return f"has \\u{ord(half):04x} in it, half of a character; send the whole one, or leave it out" if half else None
