"""Keeping sites' pages known: read again in their rhythm or when asked, compared, and doubted where too much is gone at once."""

import asyncio
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

import structlog

from sign_shelf.core.basics.address import joined, path_of
from sign_shelf.core.errors import Busy, NotFound, Refusal
from sign_shelf.core.inventory import Compared, KnownPage, News, compared, doubt, shared_ending
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.site import Page
from sign_shelf.desk.new_pages import put_top_level
from sign_shelf.desk.permission import Person, require
from sign_shelf.desk.portfolio import facts_of, site_row
from sign_shelf.desk.take_in import plain
from sign_shelf.outside.fetch import Fetcher
from sign_shelf.outside.reading.again import Again, Before, Kept, read_again
from sign_shelf.outside.reading.sitemap import SitemapFile
from sign_shelf.store import inventory, ledger, looks, sites
from sign_shelf.store.database import Database, Session
from sign_shelf.store.tables import PageSeenRow, SiteReadingRow, SiteRow

log = structlog.get_logger()
EVERY = {"hour": timedelta(hours=1), "day": timedelta(days=1), "week": timedelta(weeks=1)}
NEVER = timedelta(days=36_500)
AGAIN = timedelta(minutes=30)
"""After a reading that came to nothing."""
LONGEST_S = 900.0
MOST_NOTES = 20
ENOUGH_TITLES = 4
"""Of so many pages it is read what all titles end with; of fewer it is what it was."""


async def read_one(database: Database, fetcher: Fetcher, site_id: UUID, now: datetime) -> None:
    """Reads the site's pages and keeps what differs. Whatever a stranger's site can make go wrong is said of its reading."""
    try:
        async with asyncio.timeout(LONGEST_S):
            await _read(database, fetcher, site_id, now)
    except Busy:
        raise
    except TimeoutError:
        await _failed(database, site_id, f"Reading took longer than {LONGEST_S / 60:.0f} minutes.", now)
    except Refusal as refused:
        await _failed(database, site_id, str(refused), now)
    except Exception as exc:
        await _failed(database, site_id, f"Reading ended at something that it does not understand: {exc}", now)
        log.exception("reading_again_failed", site=str(site_id))


async def _failed(database: Database, site_id: UUID, says: str, now: datetime) -> None:
    async with database.transaction() as session:
        told = {"says": plain(says), "due_at": now + AGAIN, "progress": None}
        await inventory.put_reading(session, site_id, told)


async def _read(database: Database, fetcher: Fetcher, site_id: UUID, now: datetime) -> None:
    async with database.transaction() as session:
        site = await sites.site_by_id(session, site_id)
        pages = await sites.pages_of_site(session, site_id)
        seen = await inventory.sightings(session, site_id)
        reading = await inventory.reading_of(session, site_id)
    if reading is None:
        return

    async def progress(doing: str, done: int, of: int | None) -> None:
        async with database.transaction() as session:
            await inventory.put_reading(session, site_id, {"progress": {"doing": doing, "done": done, "of": of}})

    await progress("opening the home page", 0, None)
    again = await read_again(fetcher, site.base, _before(site, pages, seen, reading), progress)
    ending = shared_ending(again.titles) if len(again.titles) >= ENOUGH_TITLES else reading.ending
    language = facts_of(site).languages[0]
    known = [KnownPage(page, seen[page.ref].content if page.ref in seen else "") for page in pages]
    told = await asyncio.to_thread(
        compared, known, again.reading(), language=language, ending=ending, home=path_of(site.base)
    )
    await _keep(database, site_id, again, told, ending, now)


def _before(
    site: SiteRow, pages: Sequence[Page], seen: Mapping[str, PageSeenRow], reading: SiteReadingRow
) -> Before:  # fmt: skip
    def since(page: Page) -> float:
        row = seen.get(page.ref)
        return row.asked_at.timestamp() if row is not None and row.asked_at is not None else 0.0

    kept = {}
    for page in sorted(pages, key=since):
        row = seen.get(page.ref)
        # What is known of a page by its old address says nothing of the one that it has now.
        mine = Kept(row.etag, row.modified, row.listed_in, row.changed) if row is not None else Kept()
        kept[joined(site.base, page.path)] = replace(mine, etag=None, modified=None) if page.state == "gone" else mine
    files = [SitemapFile(**{**one, "sitemaps": tuple(one["sitemaps"])}) for one in reading.sitemaps]
    return Before(kept, {one.url: one for one in files})


async def _keep(database: Database, site_id: UUID, again: Again, told: Compared, ending: str, now: datetime) -> None:
    async with database.transaction() as session:
        site = await sites.site_by_id(session, site_id, lock=True)
        reading = await inventory.reading_of(session, site_id, lock=True)
        assert reading is not None
        pages = {page.ref: page for page in await sites.pages_of_site(session, site_id)}
        # Who read at the same time was first, or somebody settled something: only what still stands as it was read counts.
        news = [one for one in told.news if pages.get(one.ref) == one.before or _only_end(pages.get(one.ref), one)]
        counts = again.from_sitemap != "no"
        listed = len(again.listed) if again.from_sitemap == "yes" else 0
        says = doubt(
            list(pages.values()), news, listed=listed, listed_before=reading.listed if counts else 0,
        )  # fmt: skip
        lost = [one for one in news if one.kind in {"gone", "unpublished"}]
        if says is not None:
            news = [one for one in news if one not in lost]
        if news:
            await inventory.put_pages(session, site_id, news, now)
        await inventory.put_sightings(
            session, _sightings(site, again, told, await inventory.sightings(session, site_id), now)
        )
        doubted = None
        if says is not None:
            doubted = {
                "says": says, "at": now.isoformat(), "listed": listed,
                "lost": [{"ref": one.ref, "state": one.after.state} for one in lost],
            }  # fmt: skip
        every = facts_of(site).pages.every
        await inventory.put_reading(session, site_id, {
            "due_at": now + (NEVER if every == "never" else EVERY[every]), "read_at": now, "says": "", "progress": None,
            "ending": ending, "notes": [plain(one) for one in again.notes[:MOST_NOTES]], "doubt": doubted,
            "listed": reading.listed if doubted is not None or not counts else listed,
            "sitemaps": [
                {"url": one.url, "etag": one.etag, "modified": one.modified, "sitemaps": list(one.sitemaps)}
                for one in again.sitemaps
            ],
        })  # fmt: skip
        await looks.read_home_again(session, site_id)
    await put_top_level(database, site_id, [one.after for one in news if one.kind == "new"], now)


def _only_end(page: Page | None, one: News) -> bool:
    """Whether somebody only entered a planned end meanwhile."""
    return (
        page is not None and one.before is not None and page.model_copy(update={"ends": one.before.ends}) == one.before
    )


def _sightings(
    site: SiteRow, again: Again, told: Compared, before: Mapping[str, PageSeenRow], now: datetime
) -> list[dict[str, Any]]:
    """Of pages that were asked, and of those that sitemaps tell something else of."""
    was = {one.ref: one.before.path for one in told.news if one.before is not None}
    rows = []
    for page in told.pages:
        asked = again.asked.get(page.path) or again.asked.get(was.get(page.ref, page.path))
        kept = again.listed.get(page.path, Kept())
        row = before.get(page.ref) or PageSeenRow(site_id=site.id, ref=page.ref, alternates={})
        values = row.model_dump() | {
            "content": told.contents.get(page.ref, ""), "listed_in": kept.listed_in, "changed": kept.changed
        }  # fmt: skip
        if asked is not None:
            values |= {
                "status": asked.status,
                "asked_at": now,
                "etag": asked.kept.etag,
                "modified": asked.kept.modified,
            }
            if asked.answered.answer in {"page", "unchanged", "moved"}:
                values["seen_at"] = now
            if asked.answered.page is not None:
                values["alternates"] = dict(asked.answered.page.alternates)
        if page.ref not in before or values != row.model_dump():
            rows.append(values)
    return rows


async def in_rhythm(session: Session, site_id: UUID, every: str, now: datetime) -> None:
    """Another rhythm holds from now on: it begins with a reading, where it wants any."""
    await inventory.read_by(session, site_id, now)
    if every == "never":
        await inventory.put_reading(session, site_id, {"due_at": now + NEVER})


async def read_now(database: Database, person: Person, site_key: str, now: datetime) -> None:
    """The site's pages are read as soon as a worker can."""
    require(person, "edit", f"sites/{site_key}/inventory", site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key)
        await inventory.read_by(session, site.id, now)
        waits = {"doing": "waiting for a worker", "done": 0, "of": None}
        await inventory.put_reading(session, site.id, {"progress": waits})


async def answer_doubt(database: Database, person: Person, site_key: str, *, believe: bool, now: datetime) -> None:
    """What a reading told and was not believed: the pages are gone, or stay. Raises NotFound where nothing is asked."""
    where = f"sites/{site_key}/inventory/doubt"
    require(person, "edit", where, site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)
        reading = await inventory.reading_of(session, site.id, lock=True)
        if reading is None or reading.doubt is None:
            raise NotFound(
                "Nothing is asked of this site's pages any more.", where=where, remedy="Look at its pages again."
            )
        doubted = reading.doubt
        pages = {page.ref: page for page in await sites.pages_of_site(session, site.id)}
        lost = [one for one in doubted["lost"] if one["ref"] in pages] if believe else []
        news = [
            News(kind="gone" if one["state"] == "gone" else "unpublished", ref=one["ref"], before=pages[one["ref"]],
                 after=read(Page, dict(pages[one["ref"]]) | {"state": one["state"]}, what="page"),
                 because=f"confirmed by {person.name}")
            for one in lost
        ]  # fmt: skip
        if news:
            await inventory.put_pages(session, site.id, news, now)
        # A sitemap that was asked about is the one that the next is held against.
        await inventory.put_reading(session, site.id, {"doubt": None, "listed": doubted["listed"]})
        says = f"{len(news)} pages of {site.name} are gone" if believe else f"The pages of {site.name} stay as they are"
        ledger.write(session, "pages", f"{says}: {doubted['says']}", at=now, person_id=person.id, site_id=site.id)


async def plan_end(
    database: Database, person: Person, site_key: str, ref: str, ends: str | None, now: datetime
) -> None:
    """The day from which on the page will not be there; None takes it back. Raises NotFound."""
    where = f"sites/{site_key}/pages/{ref}/ends"
    require(person, "edit", where, site_key)
    async with database.transaction() as session:
        site = await site_row(session, person, site_key, lock=True)
        if not await inventory.put_end(session, site.id, ref, ends):
            raise NotFound(f"{site.name} has no page @{ref}.", where=where)
        says = f"@{ref} of {site.name} " + (f"ends on {ends}" if ends else "has no planned end any more")
        ledger.write(session, "pages", says, at=now, person_id=person.id, site_id=site.id)
