"""Menus as copies: new ids that remember where they came from, and pages found again on another site."""

from collections.abc import Collection, Iterable

from sign_shelf.core.basics.ids import ReadableIds
from sign_shelf.core.errors import Problem
from sign_shelf.core.model.menu import (
    AnyItem,
    Include,
    Labelled,
    Link,
    MenuDocument,
    PageTarget,
    Pending,
    PendingTarget,
    children,
    walk,
)
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.tree import Tree, rebuilt, targeted_pages, with_children


class PagesBetween:
    """Which page of one site is which of another: of the same address, else of the same title."""

    def __init__(self, from_pages: Iterable[Page], to_pages: Iterable[Page]) -> None:
        self.known = {page.ref: page for page in from_pages}
        there = tuple(to_pages)
        self.by_path = {page.path.rstrip("/"): page.ref for page in there}
        self.by_title = {title.casefold(): page.ref for page in reversed(there) for title in page.title.values()}

    def there(self, ref: str) -> str | None:
        page = self.known.get(ref)
        if page is None:
            return None
        if (same := self.by_path.get(page.path.rstrip("/"))) is not None:
            return same
        titles = (self.by_title.get(title.casefold()) for title in page.title.values())
        return next((found for found in titles if found is not None), None)

    def called(self, ref: str) -> str:
        page = self.known.get(ref)
        return f"{next(iter(page.title.values()), page.path)} ({page.path})" if page else ref


def copied_from(menu: str, site: str = "") -> str:
    """What stands before an old id where a copy remembers what it was made of; `site` where that is another site."""
    return f"{site}/{menu}/" if site and not menu.startswith("shared:") else f"{menu}/"


def copy_items(
    items: Tree, *, origin: str, between: PagesBetween | None = None, taken: Collection[str] = ()
) -> tuple[Tree, tuple[Problem, ...]]:
    """The items with new ids, apart from those `taken`, each remembering the item it was copied from.

    `origin` stands before the old id: "" within a menu, "header/" within a site, "hollin/header/" from another site.
    `between`, given, is for another site: pages are found again there, or become pending; includes are left out.
    """
    ids = ReadableIds(taken)
    notes: list[Problem] = []

    def copied(item: AnyItem) -> dict[str, object]:
        words = next(iter(item.label.values()), "") if isinstance(item, Labelled) else ""
        fields: dict[str, object] = {"id": ids.take(words, otherwise=item.kind), "origin": f"{origin}{item.id}"}
        if between is not None and isinstance(item, Link) and isinstance(item.target, PageTarget):
            there = between.there(item.target.page)
            if there is None:
                said = between.called(item.target.page)
                notes.append(Problem(where=words or item.id, says=f"there is no page like {said} here; made pending"))
                fields["target"] = PendingTarget(pending=Pending(note=f"was {said}"[:500]))
                fields |= {} if item.label else {"label": {"en": said[:500]}}
            else:
                fields["target"] = item.target.model_copy(update={"page": there})
        return fields

    kept = items
    if between is not None:
        for _, item in walk(items):
            if isinstance(item, Include):
                notes.append(Problem(where=item.id, says=f"included {item.menu}, which is a menu there; left out"))
        kept = _without_includes(items)
    return tuple(rebuilt(item, copied) for item in kept), tuple(notes)


def _without_includes(items: Tree) -> Tree:
    return tuple(
        with_children(item, _without_includes(children(item))) for item in items if not isinstance(item, Include)
    )


def already_there(incoming: Tree, menu: MenuDocument) -> frozenset[str]:
    """Ids of the incoming links that lead where a link of the menu leads already."""
    pages = set(targeted_pages(menu.items))
    goals = {repr(item.target) for _, item in walk(menu.items) if isinstance(item, Link) and not _is_pending(item)}
    return frozenset(
        item.id
        for _, item in walk(incoming)
        if isinstance(item, Link)
        and not _is_pending(item)
        and (repr(item.target) in goals or (isinstance(item.target, PageTarget) and item.target.page in pages))
    )


def _is_pending(item: Link) -> bool:
    return isinstance(item.target, PendingTarget)
