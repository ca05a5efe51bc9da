"""What is planned in the demo for the year to come: changes at three sites in every state that one waits in, and a freeze."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from uuid import UUID

from sign_shelf.core.changes.review import Verdict
from sign_shelf.core.changes.schedule import ByTheClock
from sign_shelf.core.changes.season import Season
from sign_shelf.core.model.menu import Link, UrlTarget
from sign_shelf.core.model.tree import rebuilt
from sign_shelf.desk import changes, edit, freezes, review, schedule, seasons
from sign_shelf.desk.permission import Person
from sign_shelf.desk.portfolio import board
from sign_shelf.store.database import Database

MENU = "header"
YEARLY = Season(goes="date", ends="date", approved=True)


async def plan_a_year(database: Database, author: Person, beside: Person, now: datetime) -> None:
    """The author's changes, of which the other approves some."""
    year = now.year + 1
    plan = _Plan(database, author, beside)
    sailings = "timetables"
    summer = await plan.change("brackwater", "Summer timetable", {sailings: "Summer sailings"})
    await plan.at(summer, f"{year}-04-01T04:00", f"{year}-10-01T04:00")
    await plan.approved(summer)
    regatta = await plan.change("brackwater", "Regatta week", {sailings: "Regatta sailings"})
    await plan.at(regatta, f"{year}-06-10T06:00", f"{year}-06-20T22:00")
    await plan.approved(regatta)
    deck = await plan.change("brackwater", "Café on deck")
    await plan.at(deck, f"{year}-05-03T09:00", None)
    programme = await plan.change("vesper", "Programme")
    await plan.at(programme, f"{year}-05-15T10:00", None)
    await plan.approved(programme)
    winter = await plan.change("thornby", "Winter closing")
    await plan.at(winter, f"{year}-12-20T05:00", f"{year + 1}-02-06T18:00")
    await plan.approved(winter)
    await seasons.set_season(database, author, winter, YEARLY, plan.now())
    steam = await plan.change("thornby", "Steam season")
    await plan.at(steam, f"{year}-04-03T05:00", f"{year}-10-30T18:00")
    await plan.approved(steam)
    await seasons.set_season(database, author, steam, YEARLY, plan.now())
    held = await plan.change("vesper", "Late-night boats")
    await plan.at(held, f"{year}-07-03T09:00", None)
    await plan.approved(held)
    await schedule.hold(database, beside, held, says="The boats are not booked yet.", now=plan.now())
    asked = await plan.change("kestrel", "A branch at the mill")
    await review.ask_for_review(database, author, asked, plan.now())
    declined = await plan.change("kestrel", "Fines are gone")
    await review.ask_for_review(database, author, declined, plan.now())
    await plan.judged(declined, "declined", "Not before the council has said so.")
    agreed = await plan.change("vesper", "Where to eat")
    await plan.approved(agreed)
    withdrawn = await plan.change("thornby", "Santa trains")
    await changes.withdraw(database, author, withdrawn, plan.now())
    for site in ("brackwater", "vesper", "kestrel", "thornby"):
        await changes.work_in(database, author, site, None)
    await freezes.add(
        database, beside, site_key="vesper", begins=f"{year}-06-05T00:00", ends=f"{year}-06-28T00:00", why="Festival days", now=now
    )  # fmt: skip


@dataclass(frozen=True)
class _Plan:
    database: Database
    author: Person
    beside: Person

    def now(self) -> datetime:
        return datetime.now(UTC)

    async def change(self, site: str, title: str, called: Mapping[str, str] | None = None) -> UUID:
        """A change that puts an entry of its name at the end of the site's header, and calls others otherwise."""
        made = await changes.begin(
            self.database, self.author, site, title=title, why="", request_key=f"demo {title}", now=self.now()
        )
        async with self.database.transaction() as session:
            has = (await board(session, self.author, site, made)).menus[MENU]
        words = called or {}
        items = tuple(
            rebuilt(
                item,
                lambda one: {"label": {**getattr(one, "label", {}), "en": words[one.id]}} if one.id in words else {},
            )
            for item in has.document.items
        )
        new = Link(id=f"demo-{made.hex[:8]}", kind="link", label={"en": title}, target=UrlTarget(url="/"))
        await edit.save_menu(
            self.database, self.author, site, MENU, view=made, expected=has.hash,
            document=has.document.with_items((*items, new)), now=self.now(),
        )  # fmt: skip
        return made

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
