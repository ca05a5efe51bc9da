"""A menu as JSON-LD (schema.org SiteNavigationElement): nested by `hasPart`."""

from sign_shelf.core.model.href import Addresses
from sign_shelf.core.model.menu import (
    AnyItem,
    Divider,
    Include,
    Labelled,
    Link,
    Listing,
    MenuDocument,
    PageTarget,
    children,
)
from sign_shelf.core.model.site import SiteDocument
from sign_shelf.core.model.tree import Tree

MEDIA_TYPE = "application/ld+json"


def menu_to_jsonld(
    document: MenuDocument, *, language: str = "en", site: SiteDocument | None = None
) -> dict[str, object]:
    """Entries that say something: links, headings and openers, with the address where there is one."""
    addresses = Addresses.of_site(site)
    parts = [_element(item, addresses, language) for item in document.items if _says(item)]
    whole: dict[str, object] = {
        "@context": "https://schema.org",
        "@type": "SiteNavigationElement",
        "name": document.name,
        "inLanguage": language,
    }
    return whole | ({"url": addresses.base} if addresses.base else {}) | ({"hasPart": parts} if parts else {})


def _says(item: AnyItem) -> bool:
    return not isinstance(item, Divider | Include | Listing)


def _element(item: AnyItem, addresses: Addresses, language: str) -> dict[str, object]:
    label = item.label if isinstance(item, Labelled) else {}
    name = label.get(language) or next(iter(label.values()), "")
    href = None
    if isinstance(item, Link):
        href = addresses.href(item.target)
        if not name and isinstance(item.target, PageTarget):
            name = addresses.title(item.target.page, language) or item.target.page
    below: Tree = children(item)
    parts = [_element(child, addresses, language) for child in below if _says(child)]
    element: dict[str, object] = {"@type": "SiteNavigationElement", "name": name}
    return element | ({"url": href} if href else {}) | ({"hasPart": parts} if parts else {})
