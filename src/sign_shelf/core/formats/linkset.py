"""A menu as a link set (RFC 9264, JSON form): every entry with an address is an `item` (RFC 6573) of what it stands under."""

from sign_shelf.core.model.href import Addresses
from sign_shelf.core.model.menu import AnyItem, Labelled, Link, MenuDocument, PageTarget, children
from sign_shelf.core.model.site import SiteDocument

MEDIA_TYPE = "application/linkset+json"


def menu_to_linkset(
    document: MenuDocument, *, language: str = "en", site: SiteDocument | None = None
) -> dict[str, object]:
    """Entries without an address are left out; what stands below them belongs to the next entry above. `rel` values
    of a link are relations of their own."""
    addresses = Addresses.of_site(site)
    contexts: dict[str, dict[str, list[dict[str, object]]]] = {}

    def visit(items: tuple[AnyItem, ...], anchor: str) -> None:
        for item in items:
            href = addresses.href(item.target) if isinstance(item, Link) else None
            if isinstance(item, Link) and href is not None:
                goal = {"href": href, **_titles(item, addresses, language)}
                relations = contexts.setdefault(anchor, {})
                for relation in ("item", *item.rel):
                    relations.setdefault(relation, []).append(goal)
            visit(children(item), href or anchor)

    visit(document.items, addresses.base or "/")
    return {"linkset": [{"anchor": anchor, **relations} for anchor, relations in contexts.items()]}


def _titles(item: Labelled, addresses: Addresses, language: str) -> dict[str, object]:
    label = dict(item.label)
    if not label and isinstance(item, Link) and isinstance(item.target, PageTarget):
        page = addresses.pages.get(item.target.page)
        label = dict(page.title) if page else {}
    if not label:
        return {}
    title = label.get(language) or next(iter(label.values()))
    starred = [{"value": words, "language": tag} for tag, words in label.items()]
    return {"title": title, "title*": starred}
