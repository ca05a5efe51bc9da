"""Which menus lead to a page: by hand, which an index tells, or because they list it."""

from collections.abc import Sequence

from sign_shelf.core.model.site import Page
from sign_shelf.core.resolve.listing import led_to
from sign_shelf.desk.portfolio import Board
from sign_shelf.desk.ready import ready
from sign_shelf.store import menus
from sign_shelf.store.database import Session


async def led_to_from(session: Session, found: Board, pages: Sequence[Page]) -> dict[str, list[str]]:
    """The names of the board's menus that lead to each of the pages, by the pages' references. A menu is read only where
    it lists pages by itself."""
    refs = [page.ref for page in pages]
    by_hand = await menus.leading_to(session, [menu.hash for menu in found.menus.values()], refs)
    names: dict[str, list[str]] = {ref: [] for ref in refs}
    for menu in found.menus.values():
        listed = set()
        if menu.summary.lists:
            prepared = await ready(session, found)
            listed = led_to(menu.document, prepared.addresses.pages, prepared.site.site.languages[0])
        for ref in refs:
            if (menu.hash, ref) in by_hand or ref in listed:
                names[ref].append(menu.document.name)
    return names
