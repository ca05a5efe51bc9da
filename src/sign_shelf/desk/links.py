"""Asking what menus lead to, each address once for all menus of all sites, and only what is due."""

import asyncio
from collections.abc import Callable, Iterable
from datetime import datetime, timedelta
from uuid import UUID, uuid4

from sign_shelf.core.basics.address import host_of
from sign_shelf.core.links import Known, after, asked_at, stands
from sign_shelf.core.model.menu import walk
from sign_shelf.core.model.rel import own_hosts
from sign_shelf.desk.portfolio import facts_of
from sign_shelf.outside.fetch import PER_HOST, Fetcher
from sign_shelf.outside.links import LinkAsker
from sign_shelf.store import changes, links, looks, menus, sites, states
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import SiteRow

HOLD = timedelta(seconds=60)
"""So long nobody else asks a host whose worker was not heard of."""
HOSTS_AT_ONCE = 30
BATCH = 50
"""Answers of one host that are kept together: so many are asked again where a worker is killed."""

Clock = Callable[[], datetime]


async def gather(database: Database, site_id: UUID, leads: str, now: datetime) -> None:
    """Notes what the site's menus lead to: as it is live, and in its open changes. `leads` is what that is called."""
    async with database.transaction() as session:
        if (await looks.begin(session, site_id)).gathered == leads:
            return
        site = await sites.site_by_id(session, site_id)
        heads = [part.head for _, part, _ in await changes.changes_at(session, [site_id])]
        found = await _led_to(session, site, [site.live_state, *heads])
        await links.put_links(session, site_id, found, ours=own_hosts(facts_of(site)), now=now)
        await looks.gathered(session, site_id, leads)


async def _led_to(session: Session, site: SiteRow, named: Iterable[str]) -> set[tuple[str, str]]:
    """Addresses that can be asked, with their hosts."""
    pages = {page.ref: page for page in await sites.pages_of_site(session, site.id)}
    trees = {hash for state in (await states.states(session, named)).values() for hash in state.menus.values()}
    found: set[tuple[str, str]] = set()
    for document in (await menus.documents(session, trees)).values():
        for _, item in walk(document.items):
            address = stands(item, pages)
            # A pattern leads every visitor elsewhere: to nobody's page in particular.
            absolute = asked_at(address, site.base) if address is not None and "{" not in address else None
            if absolute is not None and len(absolute) <= LONGEST:
                found.add((absolute, host_of(absolute)))
    return found


LONGEST = 2_000
"""Characters of an address that is asked; none that a visitor could follow is longer (the index takes no more)."""


async def ask_due(database: Database, fetcher: Fetcher, clock: Clock) -> int:
    """Asks what is due of hosts that nobody else asks just now; how many addresses were asked."""
    me = uuid4()
    async with database.transaction() as session:
        hosts = await links.hold_hosts(session, me, clock(), HOLD, HOSTS_AT_ONCE)
    try:
        async with asyncio.TaskGroup() as together:
            tasks = [together.create_task(_ask_host(database, fetcher, host, me, clock)) for host in hosts]
    finally:
        async with database.transaction() as session:
            await links.let_go(session, hosts, me)
    return sum(task.result() for task in tasks)


async def _ask_host(database: Database, fetcher: Fetcher, host: str, me: UUID, clock: Clock) -> int:
    count = 0
    while True:
        async with database.transaction() as session:
            now = clock()
            if not await links.still_hold(session, host, me, now + HOLD):
                return count
            rows = await links.due(session, host, now, BATCH)
            waiting = [(row.address, links.known(row)) for row in rows]
            asker = LinkAsker(fetcher, {host} if any(row.ours for row in rows) else ())
        if not waiting:
            return count
        answers: list[tuple[str, Known, Known, datetime]] = []
        room = asyncio.Semaphore(PER_HOST)

        async def one(
            address: str, before: Known, asker: LinkAsker = asker, answers: list[tuple[str, Known, Known, datetime]] = answers,
            room: asyncio.Semaphore = room,
        ) -> None:  # fmt: skip
            async with room:
                found, wait_s = await asker.once(address)
            known, due_at = after(before, address, found, wait_s, clock())
            answers.append((address, before, known, due_at))

        try:
            async with asyncio.TaskGroup() as together:
                for address, before in waiting:
                    together.create_task(one(address, before))
        finally:
            # Whoever is told to stop keeps what it was answered.
            async with database.transaction() as session:
                await links.put_answers(session, answers, clock())
        count += len(answers)
