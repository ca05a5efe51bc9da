"""Reading a page for what crawlers and assistive technology make of its navigations.

Sources: WAI-ARIA 1.2 (navigation landmark, aria-current, aria-expanded), the ARIA Authoring Practices Guide (landmark regions,
disclosure navigation), WCAG 2.2 (1.3.1, 2.4.8, 4.1.2).
"""

from collections.abc import Iterator

from selectolax.lexbor import LexborHTMLParser, LexborNode

from sign_shelf.core.basics.address import normal
from sign_shelf.core.basics.text import PageRef
from sign_shelf.core.crawled.page import LiveNavigation, LivePage
from sign_shelf.core.formats.html_tree import attribute, tidy_words, words_of
from sign_shelf.core.formats.navigation import outermost, selector_of

MOST_LINKS = 20_000
MOST_NAVIGATIONS = 40
MOST_OPENERS = 10
_MENU_LINKS = 3
"""A region with fewer is no menu that lacks a landmark."""


def read_live(url: str, tree: LexborHTMLParser, at: str, page: PageRef | None = None) -> LivePage:
    """`at`: when it was read, on the site's clock. `page`: as which it was asked for, None for the home page."""
    links = {address for node in tree.css("a[href]")[:MOST_LINKS] if (address := _address(node, url)) is not None}
    roots = outermost(tree.css("nav, [role=navigation]"))
    landmarks = {root.mem_id for root in roots}
    loose = [
        region for region in outermost(tree.css("header, [role=banner], [class*=drawer i], [id*=drawer i]"))
        if len(region.css("a[href]")) >= _MENU_LINKS
        and not region.css("nav, [role=navigation]") and not _within(region, landmarks)
    ]  # fmt: skip
    own = normal(url, url)
    found = tuple(
        _navigation(tree, root, root.mem_id in landmarks, url, own) for root in [*roots, *loose][:MOST_NAVIGATIONS]
    )
    return LivePage(address=url, page=page, at=at, links=tuple(sorted(links)), navigations=found)


def _address(node: LexborNode, url: str) -> str | None:
    found = normal(attribute(node, "href"), url)
    return found.partition("#")[0] if found is not None and len(found) <= 2_000 else None


def _within(node: LexborNode, roots: set[int]) -> bool:
    at = node.parent
    while at is not None:
        if at.mem_id in roots:
            return True
        at = at.parent
    return False


def _navigation(tree: LexborHTMLParser, root: LexborNode, landmark: bool, url: str, own: str | None) -> LiveNavigation:
    links = root.css("a[href]")
    here = [node for node in links if _address(node, url) == own and attribute(node, "href") not in {"", "#"}]
    return LiveNavigation(
        selector=selector_of(root), name=_name(tree, root), landmark=landmark,
        lists=len(links) < _MENU_LINKS or len(root.css("li a[href]")) * 2 >= len(links),
        marks=any(attribute(node, "aria-current") not in {"", "false"} for node in here) if here else None,
        openers=tuple(dict.fromkeys(_openers(root)))[:MOST_OPENERS], links=len(links),
    )  # fmt: skip


def _name(tree: LexborHTMLParser, root: LexborNode) -> str:
    """By `aria-label`, or by the elements that `aria-labelledby` names."""
    named = attribute(root, "aria-labelledby").split()
    words = (
        [words_of(node) for one in named if (node := tree.css_first(f'[id="{one}"]')) is not None]
        if _plain(named)
        else []
    )
    return tidy_words(" ".join(words)) or tidy_words(attribute(root, "aria-label"))


def _plain(ids: list[str]) -> bool:
    return len(ids) < 10 and not any('"' in one or "\\" in one for one in ids)


def _openers(root: LexborNode) -> Iterator[str]:
    """What says that it opens something, or stands before a level and leads nowhere, but is no button that says whether it is
    open. `summary` says so by itself."""
    for node in root.css(
        "[aria-haspopup], [aria-controls], [aria-expanded], [onclick], a[href='#'], a[href=''], a[href^='javascript' i]"
    ):
        is_button = node.tag in {"button", "summary"} or attribute(node, "role") in {"button", "menuitem"}
        says = node.tag == "summary" or attribute(node, "aria-expanded") in {"true", "false"}
        dialog = attribute(node, "aria-haspopup") == "dialog"
        opens = _has_level(node) or node.attributes.get("aria-controls") is not None
        if opens and not dialog and not (is_button and says):
            yield words_of(node)[:80] or node.tag or "an opener"


def _has_level(node: LexborNode) -> bool:
    """Whether a list stands beside it in its entry."""
    row = node.parent
    while row is not None and row.tag not in {"li", "nav", "body"}:
        row = row.parent
    return row is not None and row.tag == "li" and bool(row.css("ul, ol"))
