"""Findings for pipelines: SARIF 2.1.0 (OASIS), one run, with logical locations, as a menu has no lines of its own."""

from collections.abc import Iterable
from typing import Any
from urllib.parse import quote

from sign_shelf.core.checks.finding import Finding, Severity
from sign_shelf.core.checks.registry import CODES

_LEVELS: dict[Severity, str] = {"stop": "error", "warn": "warning", "note": "note"}


def sarif(found: Iterable[Finding], *, file: str) -> dict[str, Any]:
    """The log, ready for JSON; `file` is the site document's name as it was given, - for standard input."""
    told = list(found)
    return {
        "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
        "version": "2.1.0",
        "runs": [
            {
                "tool": {"driver": {"name": "Sign Shelf", "rules": [_rule(code) for code in _codes(told)]}},
                "results": [_result(one, file) for one in told],
            }
        ],
    }


def _codes(told: Iterable[Finding]) -> list[str]:
    return list(dict.fromkeys(one.code for one in told))


def _rule(code: str) -> dict[str, Any]:
    known = CODES[code]
    return {"id": code, "shortDescription": {"text": f"Found when {known.when}: {known.matters}."}}


def _result(one: Finding, file: str) -> dict[str, Any]:
    at, name = _place(one)
    logical = {"logicalLocations": [{"name": name, "fullyQualifiedName": at, "kind": "member"}]}
    physical = {"physicalLocation": {"artifactLocation": {"uri": quote(file)}}} if file != "-" else {}
    return {
        "ruleId": one.code,
        "level": _LEVELS[one.severity],
        "message": {"text": f"{one.says}. {one.fix}" if one.fix else one.says},
        "locations": [physical | logical],
        "partialFingerprints": {"signShelf/v1": one.fingerprint()},
    }


def _place(one: Finding) -> tuple[str, str]:
    """In full, and in short."""
    if one.menu is not None:
        below = f"/items/{one.item}" if one.item else ""
        return f"menus/{one.menu}{below}", f"{one.menu} {one.number}" if one.number else one.menu
    return (f"locations/{one.location}", one.location) if one.location is not None else ("site", "site")
