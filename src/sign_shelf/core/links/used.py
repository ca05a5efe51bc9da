"""Which addresses a site's menus lead to, and where they stand."""

from collections.abc import Mapping
from dataclasses import dataclass
from urllib.parse import urldefrag

from sign_shelf.core.basics.address import followed
from sign_shelf.core.model.menu import EmailTarget, Item, PageTarget, PartTarget, PhoneTarget, UrlTarget, walk
from sign_shelf.core.model.site import Page, SiteDocument
from sign_shelf.core.model.tree import numbers


@dataclass(frozen=True)
class Use:
    menu: str
    item: str
    number: str


@dataclass(frozen=True)
class Address:
    """`address` as it stands in the menus, a page by its path; `absolute` None where nobody can be asked for it: then
    `why_not` says why."""

    address: str
    absolute: str | None
    why_not: str
    used: tuple[Use, ...]


def addresses_of(site: SiteDocument) -> list[Address]:
    """Every distinct address of all menus once, in the order in which they are met."""
    pages = {page.ref: page for page in site.pages}
    used: dict[str, list[Use]] = {}
    for key, menu in site.menus.items():
        number = numbers(menu.items)
        for _, item in walk(menu.items):
            address = stands(item, pages)
            if address is not None:
                used.setdefault(address, []).append(Use(key, item.id, number[item.id]))
    return [_address(address, site.site.base, uses) for address, uses in used.items()]


def _address(address: str, base: str, uses: list[Use]) -> Address:
    absolute = asked_at(address, base)
    return Address(address, absolute, _why_not(address) if absolute is None else "", tuple(uses))


def stands(item: Item, pages: Mapping[str, Page]) -> str | None:
    """The address that the item leads to, as it stands in the menu; a page's path."""
    match getattr(item, "target", None):
        case UrlTarget(url=url):
            return url
        case PageTarget(page=ref, part=part) if ref in pages:
            return pages[ref].path + (f"#{part}" if part else "")
        case PartTarget(part=part):
            return f"#{part}"
        case EmailTarget(email=email):
            return f"mailto:{email}"
        case PhoneTarget(phone=phone):
            return f"tel:{phone}"
        case _:
            return None


def asked_at(address: str, base: str) -> str | None:
    """The absolute address that is asked for it; None where nobody can be asked."""
    return None if address.startswith("#") else followed(address, base)


def _why_not(address: str) -> str:
    if address.startswith("#"):
        return "It leads to a part of whatever page the visitor is on."
    scheme = urldefrag(address)[0].partition(":")[0]
    return f"Nobody can be asked for an address of {scheme}:, or for one with a name and password in it."
