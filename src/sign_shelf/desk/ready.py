"""Sites made ready for visitors, kept by the names of all that they are made of."""

import asyncio
import json
from collections.abc import AsyncIterator, Iterable
from contextlib import asynccontextmanager
from uuid import UUID

from sign_shelf.core.model.tree import count
from sign_shelf.core.resolve import Prepared
from sign_shelf.desk.portfolio import Board
from sign_shelf.store import sites
from sign_shelf.store.database import Session
from sign_shelf.store.recent import Recent


def _weight(one: Prepared) -> int:
    return 1 + len(one.site.pages) + sum(count(menu.items) for menu in one.site.menus.values())


_ready: Recent[Prepared] = Recent(40_000, _weight)
"""By their items and pages: sixty usual sites, or two of the largest menus."""
_under_way: dict[tuple[asyncio.AbstractEventLoop, str], asyncio.Lock] = {}
"""A lock belongs to the loop that it is waited for in."""
_ALL, _LED_TO = "all pages", "pages led to"


async def ready(session: Session, found: Board) -> Prepared:
    """The site of the board with all its pages. It is read once, however many ask for it at the same time."""
    name = _name(found, _ALL)
    if known := _ready.known([name]).get(name):
        return known
    async with _alone(name):
        if known := _ready.known([name]).get(name):
            return known
        made = Prepared(found.document(await sites.pages_of_site(session, found.site.id)))
        _ready.keep({name: made})
        return made


async def ready_for_signs(session: Session, boards: Iterable[Board]) -> dict[UUID, Prepared]:
    """The sites of the boards, by their ids, as their signs need them: with those pages alone that links of their menus
    lead to, and with all of them where a menu lists pages by itself."""
    found: dict[UUID, Prepared] = {}
    missing: list[Board] = []
    for one in boards:
        kept = _ready.known([_name(one, _ALL), _name(one, _LED_TO)])
        if kept:
            found[one.site.id] = next(iter(kept.values()))
        elif any(menu.summary.lists for menu in one.menus.values()):
            found[one.site.id] = await ready(session, one)
        else:
            missing.append(one)
    led_to = {one.site.id: [menu.hash for menu in one.menus.values()] for one in missing}
    pages = await sites.pages_led_to(session, led_to) if missing else {}
    for one in missing:
        found[one.site.id] = made = Prepared(one.document(pages.get(one.site.id, ())))
        _ready.keep({_name(one, _LED_TO): made})
    return found


def _name(found: Board, pages: str) -> str:
    """What a state is called never means anything else; what is administered beside it has no name."""
    particulars = json.dumps(found.site.particulars, sort_keys=True)
    return f"{found.site.id} {found.state} {found.site.inventory} {pages} {particulars}"


@asynccontextmanager
async def _alone(name: str) -> AsyncIterator[None]:
    mine = asyncio.get_running_loop(), name
    lock = _under_way.setdefault(mine, asyncio.Lock())
    try:
        async with lock:
            yield
    finally:
        if not lock.locked():
            _under_way.pop(mine, None)


def forget() -> None:
    """Of another database the same names may mean something else."""
    _ready.forget()
