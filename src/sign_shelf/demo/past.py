"""The year that was, in the demo: what went live at four sites and why, one that came back at its end, a
release that failed, a change that was undone, and one that was missed.

Each was carried out at its own moment by the shelf's clock and the sites'; at the end every menu is as it was at first.
"""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from uuid import UUID
from zoneinfo import ZoneInfo

import httpx

from sign_shelf.core.model.documents import read
from sign_shelf.core.outline import format_outline
from sign_shelf.core.protocol.placed import PlacedMenu
from sign_shelf.demo.at_work import AtWork
from sign_shelf.demo.stand_ins.server import CLOCK, MENUS, StandIn
from sign_shelf.desk import changes, drift, give_back, put_live, sending
from sign_shelf.desk.permission import Person
from sign_shelf.jobs import releasing
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.store import releases
from sign_shelf.store.database import Database
from sign_shelf.store.requests import RequestKey
from sign_shelf.store.sites import site_by_key

BEGINS = timedelta(days=372)
# Days ago, site, title, why, what entries are called from then on.
WENT_LIVE: tuple[tuple[int, str, str, str, dict[str, str]], ...] = (
    (341, "brackwater", "Winter words", "Passengers looked for sailings, not for timetables.", {"timetables": "Sailings"}),
    (318, "thornby", "Steam first", "Most come for the engines.", {"ride-with-us": "Ride behind steam"}),
    (290, "kestrel", "Plain words", "Readers asked what was on today.", {"what-s-on": "Today and soon"}),
    (251, "vesper", "Festival words", "The press writes of the festival's news.", {"nieuws": "Festival news"}),
    (224, "brackwater", "Summer words", "The summer timetable is out.", {"timetables": "Summer sailings"}),
    (180, "thornby", "Collection open", "The shed is open again.", {"collection": "The collection is open"}),
    (133, "kestrel", "Term begins", "The council's own word for it.", {"learn": "Learn with us"}),
    (96, "vesper", "After the festival", "Nothing is new until spring.", {"nieuws": "News"}),
    (61, "brackwater", "As it was", "The summer is over.", {"timetables": "Timetables"}),
    (47, "thornby", "As it was", "The special trains are over.", {"ride-with-us": "Ride with us", "collection": "Collection"}),
    (26, "kestrel", "As it was", "The campaign is over.", {"what-s-on": "What's on", "learn": "Learn"}),
)  # fmt: skip


async def year_that_was(database: Database, author: Person, beside: Person, stand_ins: Sequence[StandIn]) -> None:
    """The sites are running."""
    sites = {site.content.key: site for site in stand_ins}
    today = datetime.now(UTC)
    async with httpx.AsyncClient(trust_env=False) as client, Fetcher(frozenset({"127.0.0.1"})) as fetcher:
        year = _Year(database, author, beside, sites, client, fetcher)
        for days, site, title, why, called in WENT_LIVE:
            if days < 200 and site == "thornby" and title == "Collection open":
                await year.undone(today - timedelta(days=197))
            at = today - timedelta(days=days)
            await year.live(at, site, title, why, called)
            if title == "Term begins":
                await year.failed(at + timedelta(days=9))
            if title == "Summer words":
                await year.ended(at + timedelta(days=40))
        await year.missed(today - timedelta(days=16))
        for one in sites.values():
            await year.clock(one, None)


class _Year:
    def __init__(
        self, database: Database, author: Person, beside: Person, sites: dict[str, StandIn], client: httpx.AsyncClient, fetcher: Fetcher
    ) -> None:  # fmt: skip
        self.database, self.author, self.beside = database, author, beside
        self.sites, self.client, self.fetcher = sites, client, fetcher

    async def clock(self, site: StandIn, at: datetime | None) -> None:
        answer = await self.client.put(f"{site.base}{CLOCK[1:]}", json={"at": at.isoformat() if at else None})
        answer.raise_for_status()

    async def live(self, at: datetime, site: str, title: str, why: str, called: dict[str, str]) -> UUID:
        """Approved, put live and verified."""
        work = AtWork(self.database, self.author, self.beside, lambda: at)
        change = await work.calls(site, title, why, called)
        await work.approved(change)
        release = await put_live.ask(
            self.database,
            self.author,
            site,
            view=change,
            request_key=RequestKey(f"demo {change}"),
            now=at + timedelta(hours=2),
        )
        await self._carried_out(site, release, at + timedelta(hours=2))
        return change

    async def undone(self, at: datetime) -> None:
        """Live for a day."""
        change = await self.live(
            at, "vesper", "Lottery for the boats", "The boats were full last year.", {"nieuws": "Boat lottery"}
        )
        back = at + timedelta(days=1)
        for release in await give_back.undo(
            self.database, self.beside, change, at_site=None, choices={}, now=back
        ):  # fmt: skip
            await self._carried_out("vesper", release, back)

    async def ended(self, at: datetime) -> None:
        """Went live by itself, and came back ten days later."""
        work = AtWork(self.database, self.author, self.beside, lambda: at)
        change = await work.calls("brackwater", "Regatta sailings", "Extra boats.", {"timetables": "Regatta sailings"})
        moments = [at + timedelta(days=days) for days in (2, 12)]
        goes, ends = (one.astimezone(ZoneInfo("Europe/London")).strftime("%Y-%m-%dT%H:%M") for one in moments)
        await work.at(change, goes, ends)
        await work.approved(change)
        for moment in moments:
            due = moment + timedelta(minutes=1)
            await releasing.begin_due(self.database, lambda due=due: due)  # type: ignore[misc]
            async with self.database.transaction() as session:
                site = await site_by_key(session, "brackwater")
                assert site is not None
                begun = (await releases.newest(session, [site.id]))[site.id]
            await self._carried_out("brackwater", begun.id, due)

    async def failed(self, at: datetime) -> None:
        """Somebody at the libraries edits the menu themselves; what was approved is put back the next day."""
        site = self.sites["kestrel"]
        there = await self.client.get(f"{site.base}{MENUS[1:]}/header/desktop")
        outline = format_outline(read(PlacedMenu, there.json()).menu)
        await self._by_hand(site, f"{outline}Bookmobile -> /events\n")
        await self.live(at, "kestrel", "Van days", "The van has new days.", {"the-van": "The van's days"})
        day = at + timedelta(days=1)
        back = await drift.read_again(
            self.database, self.fetcher, self.beside, "kestrel", location="header", device="desktop", then="put back",
            request_key=RequestKey("demo-put-back"), now=day,
        )  # fmt: skip
        assert back is not None
        await self._carried_out("kestrel", back, day)

    async def missed(self, at: datetime) -> None:
        """Nobody agreed in time."""
        work = AtWork(self.database, self.author, self.beside, lambda: at)
        change = await work.change("thornby", "Members' evening")
        moment = at + timedelta(days=2)
        await work.at(change, moment.astimezone(ZoneInfo("America/Halifax")).strftime("%Y-%m-%dT%H:%M"), None)
        await changes.work_in(self.database, self.author, "thornby", None)
        await releasing.begin_due(self.database, lambda: moment + timedelta(minutes=1))

    async def _by_hand(self, site: StandIn, outline: str) -> None:
        answer = await self.client.post(
            f"{site.base}back-office/header/desktop", data={"outline": outline, "who": "Nia at the libraries"}
        )
        assert answer.status_code == 303, answer.text

    async def _carried_out(self, site: str, release: UUID, at: datetime) -> None:
        await self.clock(self.sites[site], at)
        await sending.carry_out(self.database, self.fetcher, release, lambda: at)
