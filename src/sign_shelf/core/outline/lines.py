"""Every item of a menu as one line of an index, in which items of many menus are looked for."""

from collections.abc import Iterator
from typing import NamedTuple

from sign_shelf.core.basics.address import host_of
from sign_shelf.core.model.menu import (
    EmailTarget,
    Labelled,
    Link,
    LinkTarget,
    MenuDocument,
    Opener,
    OverlayTarget,
    PageTarget,
    PartTarget,
    PhoneTarget,
    UrlTarget,
    walk,
)
from sign_shelf.core.model.tree import numbers


class ItemLine(NamedTuple):
    item: str
    number: str
    kind: str
    label: str
    """In every language that it has one in, one below the other."""
    page: str | None
    """The reference of the page that it leads to, whatever part of it."""
    address: str | None
    """Where else it leads, as it stands in the menu: an address, `mailto:` or `tel:`, `#` and a part, `!` and an overlay."""
    host: str | None
    """Of an address with one, in lower case."""
    rule: str | None
    opens: str | None
    closes: str | None
    """Its window, on the site's clock."""


def item_lines(document: MenuDocument) -> Iterator[ItemLine]:
    """In document order."""
    number = numbers(document.items)
    for _, item in walk(document.items):
        label = "\n".join(item.label.values()) if isinstance(item, Labelled) else ""
        page, address, host = _leads_to(item.target) if isinstance(item, Link | Opener) else (None, None, None)
        yield ItemLine(
            item.id, number[item.id], item.kind, label, page, address, host, item.when, item.from_, item.until
        )


def _leads_to(target: LinkTarget | OverlayTarget) -> tuple[str | None, str | None, str | None]:
    match target:
        case PageTarget(page=page):
            return page, None, None
        case UrlTarget(url=url):
            return None, url, (host_of(url) or None) if "//" in url else None
        case EmailTarget(email=email):
            return None, f"mailto:{email}", None
        case PhoneTarget(phone=phone):
            return None, f"tel:{phone}", None
        case PartTarget(part=part):
            return None, f"#{part}", None
        case OverlayTarget(overlay=overlay):
            return None, f"!{overlay}", None
        case _:
            return None, None, None
