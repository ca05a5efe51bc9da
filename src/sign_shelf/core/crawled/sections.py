"""Which pages show what the section places of a site have: what stands in them differs by the page that one is on."""

from collections.abc import Iterator
from dataclasses import replace

from sign_shelf.core.basics.text import PageRef
from sign_shelf.core.model.menu import Link, MenuDocument, PageTarget, walk
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.visitors.who_sees import walk_resolved

MOST_SECTIONS = 12
"""Pages that are read of one site besides its home page: a section is made the same way as the next."""


def section_pages(prepared: Prepared, lens: Lens) -> tuple[PageRef, ...]:
    """One page for each different navigation that a section place gives, in the order of the menus. `lens` is of a visitor
    of whom nothing is known."""
    return tuple(dict.fromkeys(_each_section(prepared, lens)))[:MOST_SECTIONS]


def _each_section(prepared: Prepared, lens: Lens) -> Iterator[PageRef]:
    for location in prepared.site.template.locations:
        if location.shape != "section":
            continue
        seen: set[tuple[str, ...]] = set()
        for device in location.devices:
            menu = prepared.source(location.of or location.key, device).menu
            for ref in _led_to(prepared.site.menus[menu]) if menu is not None else ():
                shown = prepared.resolve(location.key, replace(lens, device=device, page=ref)).items
                entries = tuple(entry.id for entry in walk_resolved(shown))
                if entries and entries not in seen:
                    seen.add(entries)
                    yield ref


def _led_to(menu: MenuDocument) -> Iterator[PageRef]:
    for _, item in walk(menu.items):
        if isinstance(item, Link) and isinstance(item.target, PageTarget):
            yield item.target.page
