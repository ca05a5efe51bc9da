"""Which addresses a site's menus lead to, and where they stand."""

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
            address = _stands(item, pages)
            if address is not None:
                used.setdefault(address, []).append(Use(key, item.id, number[item.id]))
    return [Address(address, *_asked_at(address, site.site.base), tuple(uses)) for address, uses in used.items()]


def _stands(item: Item, pages: dict[str, Page]) -> str | None:
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


def _asked_at(address: str, base: str) -> tuple[str | None, str]:
    if address.startswith("#"):
        return None, "It leads to a part of whatever page the visitor is on."
    absolute = followed(address, base)
    if absolute is not None:
        return absolute, ""
    scheme = urldefrag(address)[0].partition(":")[0]
    return None, f"Nobody can be asked for an address of {scheme}:, or for one with a name and password in it."
