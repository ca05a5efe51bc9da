"""What a listing fills itself with: a query over the pages of the inventory."""

from collections.abc import Callable, Collection, Iterable, Mapping

from sign_shelf.core.basics.collation import sort_key
from sign_shelf.core.model.menu import Listing, MenuDocument, Query, walk
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.tree import targeted_pages
from sign_shelf.core.resolve.section import lineage


def listed_pages(
    pages: Mapping[str, Page], query: Query, *, by_hand: Collection[str], title: Callable[[Page], str], language: str,
    day: str = "",
) -> list[Page]:  # fmt: skip
    """Published pages in the query's order. `by_hand` are the pages that a query for the rest leaves out; `title` says
    what a page is called where the order is by title, and `language` whose order that is. Pages of the same date keep the
    inventory's order. Those that end on `day` or before are left out."""
    found = [page for page in that_answer(pages, query, by_hand) if page.ends is None or page.ends > day]
    return _ordered(found, query, title, language)[: query.limit]


def that_answer(pages: Mapping[str, Page], query: Query, by_hand: Collection[str] = ()) -> list[Page]:
    """The published pages that the query asks for, however many it takes, in the inventory's order."""
    left_out = set(query.except_) | (set(by_hand) if query.rest else set())
    return [
        page
        for page in pages.values()
        if page.state == "published"
        and (query.type is None or page.type == query.type)
        and page.ref not in left_out
        and (query.under is None or query.under in lineage(page.under, pages))
    ]


def _ordered(pages: Iterable[Page], query: Query, title: Callable[[Page], str], language: str) -> list[Page]:
    match query.order:
        case "title":
            return sorted(pages, key=lambda page: sort_key(title(page), language))
        case "path":
            return sorted(pages, key=lambda page: page.path)
        case "date":
            return sorted(pages, key=lambda page: page.date or "", reverse=True)
        case "inventory":
            return list(pages)


def led_to(menu: MenuDocument, pages: Mapping[str, Page], language: str) -> set[str]:
    """The references of the pages that the menu leads to, by hand or through its listings as they are in the language: of
    a listing by title, those at its limit may differ in another."""

    def title(page: Page) -> str:
        return page.title.get(language) or next(iter(page.title.values()), page.path)

    by_hand = set(targeted_pages(menu.items))
    found = set(by_hand)
    for _, item in walk(menu.items):
        if isinstance(item, Listing):
            listed = listed_pages(pages, item.list, by_hand=by_hand, title=title, language=language)
            found.update(page.ref for page in listed)
    return found
