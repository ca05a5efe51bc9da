"""The placed menu (`sign-shelf/placed-menu`): what a site is sent for one place, and answers when asked."""

from collections.abc import Iterable, Mapping
from typing import Literal

from sign_shelf.core.basics.text import Address, Day, Key, Label, MenuRef, PageRef, RuleText
from sign_shelf.core.model.asked import asked_for
from sign_shelf.core.model.facts import FactName, FactSet, FactType
from sign_shelf.core.model.includes import all_included
from sign_shelf.core.model.menu import Device, MenuDocument, Model
from sign_shelf.core.model.site import Page
from sign_shelf.core.model.tree import targeted_pages


class PlacedPage(Model):
    """Where a page stands and what it is called, so that a site can turn references into addresses. From the day `ends` on, on the
    site's clock, entries that lead there show to nobody."""

    path: Address
    title: Label = {}
    ends: Day | None = None


class PlacedMenu(Model):
    format: Literal["sign-shelf/placed-menu"]
    version: Literal[1]
    location: Key
    device: Device
    menu: MenuDocument
    included: dict[MenuRef, MenuDocument] = {}
    """The menus that it includes, and those that they include in turn: the site has no others to look in."""
    pages: dict[PageRef, PlacedPage] = {}
    rules: dict[FactName, RuleText] = {}
    """The rules with a name that stand in those of the entries, and those that stand in them in turn."""
    facts: dict[FactName, FactType] = {}
    """What the facts that all of these ask for can be, where every site does not have them."""


def placed_menu(
    location: str,
    device: Device,
    menu: MenuDocument,
    pages: Iterable[Page],
    menus: Mapping[str, MenuDocument] = {},
    facts: FactSet | None = None,
) -> PlacedMenu:
    """`menus` are the site's, by their keys; `facts` what it knows of its visitors."""
    known = {page.ref: page for page in pages}
    within = all_included(menu.items, menus)
    asked = asked_for((menu, *within.values()), facts or FactSet())
    return PlacedMenu(
        format="sign-shelf/placed-menu",
        version=1,
        location=location,
        device=device,
        menu=menu,
        included=within,
        pages={
            ref: PlacedPage(path=known[ref].path, title=known[ref].title, ends=known[ref].ends)
            for one in (menu, *within.values())
            for ref in targeted_pages(one.items)
            if ref in known
        },
        rules=asked.rules,
        facts=asked.facts,
    )
