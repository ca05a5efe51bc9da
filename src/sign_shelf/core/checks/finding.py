"""What a check finds."""

import hashlib
from typing import Literal

import rfc8785

from sign_shelf.core.model.menu import Device, Model

Severity = Literal["stop", "warn", "note"]
RANK: dict[Severity, int] = {"stop": 0, "warn": 1, "note": 2}


class Finding(Model):
    """One problem at one exact place. Keys that do not apply are absent."""

    code: str
    severity: Severity
    menu: str | None = None
    item: str | None = None
    number: str | None = None
    """The item's entry number, as people speak of it."""
    location: str | None = None
    device: Device | None = None
    audience: str | None = None
    language: str | None = None
    says: str
    fix: str | None = None
    """What would mend it, in words."""
    cause: str | None = None
    """What it comes of, where that may be the cause of others as well: `address https://…`, `page fares`."""

    def fingerprint(self) -> str:
        """The same for the same finding however its menu is rearranged: by code, cause and place, as SHA-256."""
        parts = [self.code, self.cause, self.menu, self.item, self.location, self.device, self.audience, self.language]
        return hashlib.sha256(rfc8785.dumps(parts)).hexdigest()
