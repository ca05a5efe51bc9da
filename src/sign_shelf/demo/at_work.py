"""Two people at work in the demo, at whatever moment their clock shows: one edits, the other agrees."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from uuid import UUID, uuid4

from sign_shelf.core.changes.review import Verdict
from sign_shelf.core.changes.schedule import ByTheClock
from sign_shelf.core.model.menu import Link, UrlTarget
from sign_shelf.core.model.tree import rebuilt
from sign_shelf.desk import changes, edit, review, schedule
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import board
from sign_shelf.store.database import Database
from sign_shelf.store.requests import RequestKey

MENU = "header"


def _now() -> datetime:
    return datetime.now(UTC)


@dataclass(frozen=True)
class AtWork:
    database: Database
    author: Person
    beside: Person
    now: Callable[[], datetime] = _now

    async def change(self, site: str, title: str, called: Mapping[str, str] | None = None) -> UUID:
        """A change that puts an entry of its name at the end of the site's header, and calls others otherwise."""
        made = await self._begun(site, title, "")
        new = Link(id=f"demo-{made.hex[:8]}", kind="link", label={"en": title}, target=UrlTarget(url="/"))
        await self._saved(site, made, called or {}, new)
        return made

    async def calls(self, site: str, title: str, why: str, called: Mapping[str, str]) -> UUID:
        """A change that calls entries of the site's header otherwise, by their ids."""
        made = await self._begun(site, title, why)
        await self._saved(site, made, called)
        return made

    async def _begun(self, site: str, title: str, why: str) -> UUID:
        return await changes.begin(
            self.database, self.author, site, title=title, why=why, request_key=RequestKey(f"demo {uuid4()}"), now=self.now()
        )  # fmt: skip

    async def _saved(self, site: str, made: UUID, words: Mapping[str, str], *more: Link) -> None:
        async with self.database.transaction() as session:
            has = (await board(session, self.author, site, made)).menus[MENU]
        items = tuple(
            rebuilt(
                item,
                lambda one: {"label": {**getattr(one, "label", {}), "en": words[one.id]}} if one.id in words else {},
            )
            for item in has.document.items
        )
        await edit.save_menu(
            self.database, self.author, site, MENU, view=made, expected=has.hash,
            document=has.document.with_items((*items, *more)), now=self.now(),
        )  # fmt: skip

    async def at(self, change: UUID, goes: str, ends: str | None) -> None:
        asked = ByTheClock(kind="clock", goes=goes, ends=ends)
        await schedule.set_schedule(self.database, self.author, change, asked, self.now())

    async def approved(self, change: UUID) -> None:
        await review.ask_for_review(self.database, self.author, change, self.now())
        await self.judged(change, "approved", "")

    async def judged(self, change: UUID, verdict: Verdict, says: str) -> None:
        async with self.database.transaction() as session:
            content = (await review.one_change(session, self.beside, change)).content
        await review.judge(self.database, self.beside, change, verdict, content=content, says=says, now=self.now())
