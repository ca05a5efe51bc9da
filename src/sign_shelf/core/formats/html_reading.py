"""The navigations of an HTML page or piece of a page as menu documents."""

from collections.abc import Iterable, Mapping

from selectolax.lexbor import LexborHTMLParser

from sign_shelf.core.formats.binding import NOWHERE, Binder
from sign_shelf.core.formats.html_tree import parse
from sign_shelf.core.formats.incoming import IncomingMenu
from sign_shelf.core.formats.navigation import FoundNavigation, Where, entries_of, find_navigations, outermost
from sign_shelf.core.model.menu import MenuDocument, menu_document
from sign_shelf.core.model.site import Page
from sign_shelf.core.outline.writing import NO_NAME

TITLES: dict[Where, str] = {
    "header": "Header",
    "drawer": "Drawer",
    "aside": "Side",
    "footer": "Footer",
    "main": "Contents",
    "body": "Contents",
}


def menus_of_html(
    html: bytes, *, language: str, base: str = "", pages: Iterable[Page] = (), name: str | None = None
) -> tuple[IncomingMenu, ...]:
    """Every navigation, in document order; of a piece without one, its lists, else its links, as one menu.

    Links to the `pages` of the site at `base` become references to them.
    """
    tree = parse(html, "the page")
    known = tuple(pages)
    found: list[IncomingMenu] = []
    navigations = find_navigations(tree, strict=True)
    for one in navigations or _loose(tree):
        binder = Binder(known, base or NOWHERE, language)
        items = binder.items(one.entries)
        title = one.title or name or (TITLES[one.where] if navigations else NO_NAME)
        found.append(IncomingMenu(title, one.where, menu_document(title, items), tuple(binder.notes)))
    return tuple(found)


def _loose(tree: LexborHTMLParser) -> list[FoundNavigation]:
    """What a person copied out of a page: usually lists without a navigation around them."""
    if tree.body is None:
        return []
    if (nav := tree.css_first("nav")) is not None:
        return [FoundNavigation("body", "nav", (nav.attributes.get("aria-label") or "").strip(), entries_of(nav))]
    roots = outermost(tree.body.css("ul, ol, menu, dl")) or [tree.body]
    entries = [entry for root in roots for entry in entries_of(root)]
    return [FoundNavigation("body", "body", "", entries)] if entries else []


def menus_at(
    html: bytes, selectors: Mapping[str, str], *, language: str, base: str, pages: Iterable[Page] = ()
) -> dict[str, MenuDocument]:
    """What stands on the page where each of these CSS selectors finds something first, by the key of the selector: its lists and links
    as a menu, which may be empty."""
    tree, known = parse(html, "the page"), tuple(pages)
    found: dict[str, MenuDocument] = {}
    for key, selector in selectors.items():
        node = tree.css_first(selector)
        if node is not None:
            found[key] = menu_document(key, Binder(known, base, language).items(entries_of(node)))
    return found
