"""Whether a page shows what it was given: order, labels, addresses and levels, and nothing beside it."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from types import MappingProxyType

from sign_shelf.core.model.menu import AnyItem, Labelled, Link, MenuDocument, walk
from sign_shelf.core.outline.writing import target_text
from sign_shelf.core.protocol.delivery import menu_html
from sign_shelf.core.protocol.on_the_page import OnThePage, on_the_page
from sign_shelf.core.resolve.resolved import ResolvedMenu


@dataclass(frozen=True)
class Entry:
    level: int
    label: str
    address: str | None


def navigations(
    page: bytes, *, language: str, base: str, seen_at: Mapping[str, str] = MappingProxyType({})
) -> OnThePage[tuple[Entry, ...]]:
    """The navigations of a page, each as what it shows from top to bottom."""
    found = on_the_page(page, (), language=language, base=base, seen_at=seen_at)
    return found.each(lambda document: tuple(_entries(document)))


def missing(
    title: str, given: ResolvedMenu, found: Sequence[Sequence[Entry]], *, language: str, base: str
) -> str | None:
    """What keeps the page from showing the menu that it was given, as a sentence; None where it shows it.

    Both sides are read in the same way, so that the markup does not count.
    """
    html = menu_html(title, given, language=language) if given.items else b""
    wanted = navigations(html, language=language, base=base).every if html else []
    if not wanted or any(tuple(one) == wanted[0] for one in found):
        return None
    likest = max(found, key=lambda one: SequenceMatcher(None, one, wanted[0]).ratio(), default=())
    return _difference(title, wanted[0], likest)


def _difference(title: str, wanted: Sequence[Entry], shown: Sequence[Entry]) -> str:
    labels = {one.label for one in shown}
    for entry in wanted:
        if entry.label not in labels:
            return f'{title} does not show "{entry.label}".'
    for entry in shown:
        if entry.label not in {one.label for one in wanted}:
            return f'{title} shows "{entry.label}", which a visitor is not to see.'
    for at, (mine, theirs) in enumerate(zip(wanted, shown, strict=False), 1):
        if mine.label != theirs.label:
            return f'{title} shows "{theirs.label}" as entry {at}, where "{mine.label}" belongs.'
        if mine.level != theirs.level:
            return f'{title} shows "{mine.label}" at level {theirs.level}, not {mine.level}.'
        if mine.address != theirs.address:
            return f'{title} leads with "{mine.label}" to {theirs.address or "nowhere"}, not to {mine.address or "nowhere"}.'
    return f"{title} shows {len(shown)} entries, not {len(wanted)}."


def _entries(document: MenuDocument) -> Iterator[Entry]:
    for depth, item in walk(document.items):
        yield Entry(depth, _label(item), target_text(item.target) if isinstance(item, Link) else None)


def _label(item: AnyItem) -> str:
    label = " ".join(next(iter(item.label.values()), "").split()) if isinstance(item, Labelled) else ""
    return label or item.kind
