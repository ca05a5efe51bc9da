"""Targets as addresses: the one place where a reference becomes what a browser follows."""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Self
from urllib.parse import quote

from sign_shelf.core.basics.address import joined
from sign_shelf.core.model.facts import FactValue
from sign_shelf.core.model.menu import (
    EmailTarget,
    LinkTarget,
    PageTarget,
    PartTarget,
    PendingTarget,
    PhoneTarget,
    UrlTarget,
)
from sign_shelf.core.model.site import Page, SiteDocument


@dataclass(frozen=True)
class Addresses:
    """A site's base address and its pages by reference; without a site, pages have no address."""

    base: str
    pages: Mapping[str, Page]

    @classmethod
    def of(cls, base: str, pages: Iterable[Page]) -> Self:
        return cls(base, {page.ref: page for page in pages})

    @classmethod
    def of_site(cls, site: SiteDocument | None) -> Self:
        return cls.of(site.site.base, site.pages) if site else cls("", {})

    def href(self, target: LinkTarget) -> str | None:
        """The address; None for a page that is not in the inventory, a pending target, and a pattern: what that leads to
        follows from the visitor's facts."""
        match target:
            case PageTarget(page=ref, part=part):
                page = self.pages.get(ref)
                return joined(self.base, page.path) + (f"#{part}" if part else "") if page else None
            case UrlTarget(url=url):
                return None if "{" in url else url
            case PartTarget(part=part):
                return f"#{part}"
            case EmailTarget(email=filled) | PhoneTarget(phone=filled) if "{" in filled:
                return None
            case EmailTarget(email=email):
                return f"mailto:{email}"
            case PhoneTarget(phone=phone):
                return "tel:" + re.sub(r"[^0-9+]", "", phone)
            case PendingTarget():
                return None

    def title(self, ref: str, language: str) -> str | None:
        """The page's own title: in the language, else in any; None for a page that is not in the inventory."""
        page = self.pages.get(ref)
        return (page.title.get(language) or next(iter(page.title.values()), page.path)) if page else None


FACT = re.compile(r"\{([^{}]*)\}")
_HOST = re.compile(r"^(?:[a-z]+:)?//[^/?#]*", re.IGNORECASE)


def facts_in(pattern: str) -> list[str]:
    """The names of the facts that an address has in it."""
    return FACT.findall(pattern)


def said(value: FactValue) -> str:
    """A fact as it stands in an address: percent-encoded, so that it is one piece of it."""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, float):
        return f"{value:g}"
    return quote(",".join(value) if isinstance(value, tuple | list) else str(value), safe="")


def made_address(pattern: str, facts: Mapping[str, FactValue]) -> str | None:
    """The pattern with this visitor's facts in it. None where that would lead elsewhere than the pattern does: to
    another host, or up to another page, as an empty fact or one of dots would."""
    made = FACT.sub(lambda name: said(facts[name[1]]), pattern)
    path, before = made.partition("?")[0].partition("#")[0], pattern.partition("?")[0].partition("#")[0]
    host, meant = _HOST.match(made), _HOST.match(pattern)
    if (host and host[0]) != (meant and meant[0]):
        return None
    pieces = zip(path.split("/"), before.split("/"), strict=True)
    return None if any(one != was and one in {"", ".", ".."} for one, was in pieces) else made
