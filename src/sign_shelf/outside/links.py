"""Asks addresses what core/links wants to know, and no more than a host bears."""

import asyncio
import ssl
from collections.abc import AsyncIterator, Generator, Iterable
from typing import TypeVar, cast

from cachetools import LRUCache
from protego import Protego

from sign_shelf.core.basics.address import host_of, origin
from sign_shelf.core.errors import HostUnknown, NoAnswer, PrivateHost, SourceRefused, TooLarge
from sign_shelf.core.links import Answer, Ask, Came, Failed, LinkFinding, Pause, decide, once
from sign_shelf.outside.apart import apart
from sign_shelf.outside.fetch import PER_HOST, Fetcher
from sign_shelf.outside.reading.parts import parts_of
from sign_shelf.outside.reading.robots import AGENT, read_robots

AT_ONCE = 60
"""Requests under way, to all hosts together: fewer than the fetcher's connections, so that none waits for one."""


PAGES_KEPT = 500
"""Pages whose parts are remembered, by one that asks."""

Settled = TypeVar("Settled")


class LinkAsker:
    """Carries questions out. Hosts in `own` are asked as their owners want it; what others say in their robots.txt holds
    (RFC 9309), where they have one that can be read."""

    def __init__(self, fetcher: Fetcher, own: Iterable[str] = ()) -> None:
        self._fetcher = fetcher
        self._own = frozenset(own)
        self._robots: dict[str, asyncio.Task[Protego | None]] = {}
        self._room = asyncio.Semaphore(AT_ONCE)
        self._hosts: dict[str, asyncio.Semaphore] = {}
        self._pages: LRUCache[str, asyncio.Task[Answer]] = LRUCache(PAGES_KEPT)

    async def check(self, address: str, *, pause_s: float) -> LinkFinding:
        """What is found of an absolute address. Never raises what an address can bring about."""
        return await self._through(decide(address, pause_s=pause_s))

    async def once(self, address: str) -> tuple[LinkFinding, float | None]:
        """The same, asked a single time: with the seconds for which its host wants to be left alone."""
        return await self._through(once(address))

    async def _through(self, asking: Generator[Ask | Pause, Answer | None, Settled]) -> Settled:
        answer: Answer | None = None
        while True:
            try:
                step = asking.send(answer)
            except StopIteration as done:
                return cast(Settled, done.value)
            if isinstance(step, Pause):
                await asyncio.sleep(step.seconds)
                answer = None
            else:
                answer = await self._answer(step)

    async def _answer(self, ask: Ask) -> Answer:
        """Menus lead to many parts of one page: it is read once for all of them. What failed is asked anew the next time."""
        if not ask.parts:
            return await self._asked(ask)
        reading = self._pages.get(ask.address)
        if reading is None:
            reading = self._pages[ask.address] = asyncio.create_task(self._asked(ask))
        # Who gives up waiting keeps no other from the answer.
        answer = await asyncio.shield(reading)
        if not (isinstance(answer, Came) and answer.parts is not None) and self._pages.get(ask.address) is reading:
            del self._pages[ask.address]
        return answer

    async def _asked(self, ask: Ask) -> Answer:
        try:
            if not await self._may_ask(ask.address):
                return Failed("not-asked", f"{host_of(ask.address)} asks programs to leave it alone (robots.txt).")
            # First the host's own turn, then a place among all: who waits for a slow host keeps nobody else from asking.
            async with self._hosts.setdefault(host_of(ask.address), asyncio.Semaphore(PER_HOST)), self._room:
                came = await self._fetcher.ask(ask.method, ask.address, page=ask.parts)
        except PrivateHost as refused:
            return Failed("not-asked", refused.says)
        except HostUnknown as refused:
            return Failed("no-host", refused.says)
        except TooLarge as refused:
            return Failed("too-big", refused.says)
        except NoAnswer as refused:
            return _failed(refused)
        except SourceRefused as refused:
            return Failed("refused", refused.says)
        try:
            read = ask.parts and came.is_html and 200 <= came.status < 300
            parts = await apart(ask.address, parts_of, ask.address, came.body) if read else None
        except SourceRefused as refused:
            return Failed("too-big", refused.says)
        return Came(came.status, came.headers.get("location"), came.wait_s, parts)

    async def _may_ask(self, address: str) -> bool:
        if host_of(address) in self._own:
            return True
        at = origin(address)
        reading = self._robots.get(at)
        if reading is None:
            reading = self._robots[at] = asyncio.create_task(self._read_robots(at))
        robots = await reading
        return robots is None or bool(robots.can_fetch(address, AGENT))

    async def _read_robots(self, at: str) -> Protego | None:
        """None where none can be read: whether the host answers is then seen by asking for the page."""
        try:
            async with self._room:
                return await read_robots(self._fetcher, at)
        except SourceRefused:
            return None


async def check_all(
    asker: LinkAsker, addresses: Iterable[str], *, pause_s: float
) -> AsyncIterator[tuple[str, LinkFinding]]:
    """Each of the addresses with what is found of it, as soon as it is."""

    async def one(address: str) -> tuple[str, LinkFinding]:
        return address, await asker.check(address, pause_s=pause_s)

    tasks = [asyncio.create_task(one(address)) for address in addresses]
    try:
        for done in asyncio.as_completed(tasks):
            yield await done
    finally:
        for task in tasks:
            task.cancel()


def _failed(refused: NoAnswer) -> Failed:
    causes: list[BaseException] = []
    at: BaseException | None = refused.__cause__
    while at is not None and len(causes) < 10:
        causes.append(at)
        at = at.__cause__ or at.__context__
    # The first cause is the one of the library: those of the carrier repeat it without its reason.
    for cause in reversed(causes):
        if isinstance(cause, ssl.SSLError):
            why = getattr(cause, "verify_message", "") or cause.reason or "it cannot be used"
            return Failed("tls", f"Its certificate is not accepted: {why}.")
    if any(isinstance(cause, TimeoutError) for cause in causes):
        return Failed("slow", "It did not answer in time.")
    return Failed("refused", "There is no connection to it, or it was hung up.")
