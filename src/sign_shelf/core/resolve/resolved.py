"""What one visitor gets in one location, and why the rest is left out."""

from dataclasses import dataclass
from typing import Literal, NamedTuple

from sign_shelf.core.model.menu import PLAIN, Device, Look

Because = Literal["window", "device", "language", "rule", "page", "parent", "empty", "tidy", "place"]
Current = Literal["page", "branch", "none"]


class Resolved(NamedTuple):
    """An entry that a visitor gets. A tuple, as every visitor's menu is made of new ones: it is made five times as fast."""

    id: str
    kind: Literal["link", "heading", "divider", "opener"]
    label: str = ""
    href: str | None = None
    overlay: str | None = None
    new_tab: bool = False
    rel: tuple[str, ...] = ()
    look: Look = PLAIN
    current: Current = "none"
    items: tuple["Resolved", ...] = ()
    page: str | None = None
    """The reference of the page that it leads to, as a whole."""
    listed: bool = False
    """Whether a listing made it."""


class Hidden(NamedTuple):
    id: str
    because: Because
    detail: str


@dataclass(frozen=True, slots=True)
class Source:
    """Where the menu came from: its own placement, a wider device's, a stand-in location's, or nowhere."""

    placement: Literal["own", "inherited", "stand-in", "none"]
    device: Device | None = None
    location: str | None = None
    menu: str | None = None


@dataclass(frozen=True, slots=True)
class ResolvedMenu:
    items: tuple[Resolved, ...]
    hidden: tuple[Hidden, ...]
    source: Source
