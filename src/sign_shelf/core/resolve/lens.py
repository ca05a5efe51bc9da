"""The point of view through which a menu is resolved."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from sign_shelf.core.model.facts import FactValue
from sign_shelf.core.model.menu import Device


@dataclass(frozen=True, kw_only=True)
class Lens:
    """`at` is a reading of the site's clock (see core/basics/clock.py); `page` a reference; `width` the viewport's, in CSS pixels,
    and what is usual for the device where it is None."""

    device: Device
    language: str
    at: str
    page: str | None = None
    width: int | None = None
    facts: Mapping[str, FactValue] = field(default_factory=dict)
