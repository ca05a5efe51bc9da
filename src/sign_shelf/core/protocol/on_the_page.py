"""The navigations of a page, and those of them that stand where places of the site are known to be."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Generic, TypeVar

from sign_shelf.core.errors import InvalidDocument
from sign_shelf.core.formats import read_menus
from sign_shelf.core.formats.html_reading import menus_at
from sign_shelf.core.model.menu import MenuDocument
from sign_shelf.core.model.site import Page

Navigation = TypeVar("Navigation")
Other = TypeVar("Other")


@dataclass(frozen=True)
class OnThePage(Generic[Navigation]):
    """`every` from top to bottom; `at` by location, where its selector finds something on this page."""

    every: Sequence[Navigation]
    at: Mapping[str, Navigation] = field(default_factory=dict)

    def of(self, location: str) -> Sequence[Navigation]:
        """What may be the location: what its selector finds and nothing beside, else whichever is like it."""
        return (self.at[location],) if location in self.at else self.every

    def each(self, read: Callable[[Navigation], Other]) -> "OnThePage[Other]":
        return OnThePage([read(one) for one in self.every], {key: read(one) for key, one in self.at.items()})


def on_the_page(
    page: bytes, pages: Iterable[Page], *, language: str, base: str, seen_at: Mapping[str, str]
) -> OnThePage[MenuDocument]:
    """The page's navigations as menus, with its site's pages as what they lead to. `seen_at`: CSS selectors by location."""
    known = tuple(pages)
    try:
        every = [one.document for one in read_menus(page, "html", language=language, base=base, pages=known)]
    except InvalidDocument:
        every = []
    return OnThePage(every, menus_at(page, seen_at, language=language, base=base, pages=known) if seen_at else {})
