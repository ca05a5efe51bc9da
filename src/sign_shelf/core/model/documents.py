"""Reading JSON into models with every problem named by its path, and content hashes."""

import hashlib
from typing import Any, TypeVar

import orjson
import rfc8785
from pydantic import JsonValue, ValidationError
from pydantic_core import from_json

from sign_shelf.core.errors import InvalidDocument, Problem
from sign_shelf.core.model.menu import TAG, MenuDocument, Model

MAX_BYTES = 16 * 1024 * 1024

M = TypeVar("M", bound=Model)


def _path(location: tuple[int | str, ...]) -> str:
    """`items[2].target.url` out of pydantic's location, without the tags of unions, which are no keys."""
    path = ""
    for step in location:
        if isinstance(step, int):
            path += f"[{step}]"
        elif not step.startswith(TAG):
            path += f".{step}" if path else step
    return path


def problems_of(error: ValidationError) -> tuple[Problem, ...]:
    found = []
    for entry in error.errors(include_url=False, include_input=False, include_context=False):
        says = entry["msg"].removeprefix("Value error, ")
        if entry["type"] == "extra_forbidden":
            says = "unknown key; see the format's description for the keys that are known here"
        elif entry["type"] == "missing":
            says = "is required and missing"
        elif entry["type"] == "model_type":
            says = "expected an object with keys"
        found.append(Problem(where=_path(entry["loc"]), says=says[0].lower() + says[1:]))
    return tuple(found)


def parse_json(data: bytes | str, *, what: str = "document") -> Any:
    """JSON as Python values. Raises InvalidDocument for bad UTF-8, broken or too deep JSON, or more than 16 MiB."""
    raw = data.encode("utf-8", "surrogatepass") if isinstance(data, str) else data
    if len(raw) > MAX_BYTES:
        raise InvalidDocument([Problem(where=what, says=f"is larger than {MAX_BYTES} bytes")])
    try:
        raw.decode("utf-8")
    except UnicodeDecodeError as exc:
        raise InvalidDocument([Problem(where=f"{what}, byte {exc.start}", says="is not UTF-8")]) from exc
    try:
        return from_json(raw.removeprefix(b"\xef\xbb\xbf"), allow_inf_nan=False)
    except ValueError as exc:
        raise InvalidDocument([Problem(where=what, says=f"is not JSON: {exc}")]) from exc


def read(model: type[M], value: Any, *, what: str = "document") -> M:
    """`value` as a model. Raises InvalidDocument with every problem and its path."""
    try:
        return model.model_validate(value)
    except ValidationError as exc:
        raise InvalidDocument(problems_of(exc), what=what) from exc


def read_menu(value: Any) -> MenuDocument:
    return read(MenuDocument, value, what="menu document")


def content_hash(document: Model) -> str:
    """The name of a document's content (`named_by_content`)."""
    if isinstance(document, MenuDocument):
        # Known to be simple: a menu has no fractions, and no keys but ASCII ones.
        return _named(_sorted(document.model_dump(by_alias=True, exclude_defaults=True)))
    return named_by_content(document.to_json())


def named_by_content(value: JsonValue) -> str:
    """`sha256:` and 64 hex digits over the value's canonical form."""
    return _named(canonical(value))


def _named(form: bytes) -> str:
    return "sha256:" + hashlib.sha256(form).hexdigest()


def canonical(value: JsonValue) -> bytes:
    """The value in the JSON Canonicalization Scheme (RFC 8785). Raises ValueError for what has no such form: numbers that
    are not finite or beyond 53 bits, lone surrogates."""
    return _sorted(value) if _simple(value) else rfc8785.dumps(value)


def _sorted(value: JsonValue) -> bytes:
    """Sorted and compact. Where all keys are ASCII and no number is a fraction that is the canonical form, ten times as
    quick."""
    try:
        return orjson.dumps(value, option=orjson.OPT_SORT_KEYS)
    except TypeError as exc:
        raise ValueError(str(exc)) from exc


def _simple(value: JsonValue) -> bool:
    if type(value) is dict:
        return all(key.isascii() and (type(one) is str or _simple(one)) for key, one in value.items())
    if type(value) is list:
        return all(type(one) is str or _simple(one) for one in value)
    return type(value) is str or value is None or type(value) is bool or (type(value) is int and abs(value) < _WHOLE)


_WHOLE = 2**53
