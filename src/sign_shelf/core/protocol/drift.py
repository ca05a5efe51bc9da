"""What a site shows against what was last verified there, entry by entry.

A place that is read over the site protocol mostly keeps the ids of entries. A page does not: there the navigation that is most like the place's
menu is taken for it, and its entries are matched by content (core/compare/matching.py), with how sure that is.
"""

import re
from collections.abc import Collection, Iterable, Mapping, Sequence, Set
from dataclasses import dataclass
from difflib import SequenceMatcher
from hashlib import sha256
from typing import cast

from sign_shelf.core.compare import Conflict, Side, diff, merge
from sign_shelf.core.compare.apply import without
from sign_shelf.core.compare.edits import Edit
from sign_shelf.core.compare.matching import adopt_ids, match_by_content
from sign_shelf.core.formats.binding import Binder
from sign_shelf.core.formats.navigation import Entry
from sign_shelf.core.model.menu import (
    AnyItem,
    Divider,
    Heading,
    Labelled,
    Link,
    MenuDocument,
    Parent,
    PendingTarget,
    children,
    walk,
)
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.tree import Tree, index_by_id
from sign_shelf.core.resolve.resolved import Resolved, ResolvedMenu

LIKE_ENOUGH = 0.3
"""Below it, no navigation of the page is taken for the place's."""


@dataclass(frozen=True)
class Drifted:
    """`base` is what was verified, `there` what the site shows, with the ids of the entries that it still has; `edits` lead from the
    one to the other. `sure` from 0 to 1: how sure it is that entries are those that they are taken for."""

    base: Tree
    there: Tree
    edits: tuple[Edit, ...]
    sure: float = 1.0

    def chosen(self, keys: Collection[str] | None) -> Tree:
        """What the site shows as far as these edits go, named by their keys; None: all of them."""
        if keys is None:
            return self.there
        return without(self.base, self.there, {edit.key for edit in self.edits} - set(keys))


def place_drift(base: Tree, there: Tree, language: str) -> Drifted | None:
    """Of a place that is read over the site protocol; None where it shows what was verified. Entries whose ids the site did not keep
    are matched by content."""
    mine, theirs = index_by_id(base), index_by_id(there)
    sure = 1.0
    if theirs.keys() - mine.keys() and mine.keys() - theirs.keys():
        matches = match_by_content(base, there, {one: one for one in theirs.keys() & mine.keys()})
        there = adopt_ids(base, there, matches)
        sure = min((match.confidence for match in matches.values()), default=1.0)
    edits = tuple(diff(base, there, language=language))
    return Drifted(base, there, edits, sure) if edits else None


def page_drift(
    given: ResolvedMenu,
    found: Iterable[MenuDocument],
    pages: Iterable[Page],
    *,
    language: str,
    base: str,
    menu: Tree = (),
    surely: bool = False,
) -> Drifted | None:
    """Of a place as a visitor of whom nothing is known gets it on a page; None where the page shows it so. `found` are the navigations
    that may be it (`OnThePage.of`); `surely`: there is one, and it is. Where none is like it, all of its entries are gone, and that is not
    sure. `menu` is what hangs there: its entries that lead nowhere yet, which nobody is given, may stand on the page."""
    mine = _plain(given.items, Binder(pages, base, language))
    if not mine:
        return None
    wanted, nowhere = _lines(mine), {_words(item) for _, item in walk(menu) if _leads_nowhere(item)}
    shown = [_without(one.items, nowhere) for one in found]
    scored = [(SequenceMatcher(None, wanted, _lines(one), autojunk=False).ratio(), one) for one in shown]
    likest, there = max(scored, key=lambda one: one[0], default=(0.0, ()))
    if likest < LIKE_ENOUGH and not surely:
        return Drifted(mine, (), tuple(diff(mine, (), language=language)), 0.0)
    if _lines(there) == wanted:
        return None
    bare = tuple(_bare(item, language) for item in there)
    matches = match_by_content(mine, bare)
    same = adopt_ids(mine, bare, matches)
    edits = tuple(diff(mine, same, language=language))
    sure = min((match.confidence for match in matches.values()), default=1.0 if surely else 0.0)
    return Drifted(mine, same, edits, sure) if edits else None


def drifted_between(base: MenuDocument, there: MenuDocument) -> Drifted:
    """As it was kept."""
    return Drifted(base.items, there.items, tuple(diff(base.items, there.items)))


def taken_over(
    drifted: Drifted, draft: Tree, keys: Collection[str] | None, live: Tree | None = None
) -> tuple[Tree, tuple[Conflict, ...]]:
    """The draft with what the site shows beside its own edits (all, or those of these keys), and where the two do not agree: there the
    draft's holds. `live` is the menu that was verified with all that no page shows of it (rules, dress, other languages), which stays."""
    base, there = drifted.base, drifted.chosen(keys)
    if live is not None and live != base:
        everything = {item.id: "theirs" for tree in (base, live, there) for _, item in walk(tree)}
        base, there = live, merge(base, live, there, choices=cast(Mapping[str, Side], everything)).items
    merged = merge(base, draft, there)
    return merged.items, tuple(merged.conflicts)


def _leads_nowhere(item: AnyItem) -> bool:
    """By itself and by what is below it."""
    if isinstance(item, Link):
        return isinstance(item.target, PendingTarget)
    return isinstance(item, Heading) and all(map(_leads_nowhere, item.items))


def _without(tree: Tree, nowhere: Set[str]) -> Tree:
    return tuple(
        item.model_copy(update={"items": _without(item.items, nowhere)}) if isinstance(item, Parent) else item
        for item in tree
        if not (_words(item) in nowhere and _leads_nowhere(item))
    )


def _lines(tree: Sequence[AnyItem]) -> list[tuple[int, str, str]]:
    return [(depth, _words(item), _goal(item)) for depth, item in walk(tuple(tree))]


def _words(item: AnyItem) -> str:
    label = next(iter(item.label.values()), "") if isinstance(item, Labelled) else ""
    return " ".join(label.split()) or item.kind


def _goal(item: AnyItem) -> str:
    return item.target.model_dump_json() if isinstance(item, Link) else ""


def _plain(given: Sequence[Resolved], binder: Binder) -> Tree:
    """What a visitor gets as items that say no more than a page does: words and where they lead."""
    found: list[AnyItem] = []
    for one in given:
        entry = Entry(one.label, href=one.href, overlay=one.overlay, divider=one.kind == "divider")
        for item in binder.items([entry]):
            below = _plain(one.items, binder)
            whole = _bare(item, binder.language).model_copy(update={"id": _item_id(one.id)})
            found.append(whole.model_copy(update={"items": below}) if below and isinstance(whole, Parent) else whole)
    return tuple(found)


def _item_id(given: str) -> str:
    """What a block made of pages has a name of two parts, which is none of an item: it gets one that stays the same."""
    return given if re.fullmatch(r"[A-Za-z0-9_.-]{1,64}", given) else f"made-{sha256(given.encode()).hexdigest()[:20]}"


def _bare(item: AnyItem, language: str) -> AnyItem:
    below = tuple(_bare(child, language) for child in children(item))
    words = _words(item)
    match item:
        case Link():
            return Link(id=item.id, kind="link", label={language: words}, target=item.target, items=below)
        case Divider():
            return Divider(id=item.id, kind="divider")
        case _:
            return Heading(id=item.id, kind="heading", label={language: words}, items=below)
