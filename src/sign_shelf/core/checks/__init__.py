"""The checks over a site: one file a family, the registry of them, and what runs them."""

from sign_shelf.core.checks.check import Check, Code
from sign_shelf.core.checks.finding import Finding, Severity
from sign_shelf.core.checks.registry import CHECKS, CODES, FAMILY_OF
from sign_shelf.core.checks.running import Checked
from sign_shelf.core.checks.view import PlaceDrifted, SharedSeen, SiteView

__all__ = [
    "CHECKS",
    "CODES",
    "FAMILY_OF",
    "Check",
    "Checked",
    "Code",
    "Finding",
    "PlaceDrifted",
    "Severity",
    "SharedSeen",
    "SiteView",
]
