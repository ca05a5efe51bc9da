"""What a change brings visitors of one of its sites: who sees what, what is within reach, what is mended, and how its places are drawn
before and after."""

import asyncio
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sign_shelf.core.basics.clock import clock_of
from sign_shelf.core.drawing.strip import strip_html
from sign_shelf.core.errors import NotFound
from sign_shelf.core.fit.bar import fit
from sign_shelf.core.fit.fonts import FontSet
from sign_shelf.core.fit.place import SIDE_BY_SIDE, request_of
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.template import Location, Shape
from sign_shelf.core.outgoing import Brings, brings
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.core.resolve.resolved import Resolved
from sign_shelf.desk import fonts, put_live
from sign_shelf.desk.permission import Person
from sign_shelf.desk.review import one_change
from sign_shelf.store.database import Database

MOST_DRAWN = 12
"""Places of one site."""


@dataclass(frozen=True, kw_only=True)
class Side:
    """A place drawn. `fits_from`: the narrowest window in which its entries stand in one row, None where they never do or need not."""

    html: str
    fits_from: int | None


@dataclass(frozen=True, kw_only=True)
class DrawnPlace:
    location: str
    title: str
    shape: Shape
    before: Side | None
    """None where it showed nothing, or there was no such place."""
    after: Side | None


async def brought(
    database: Database, person: Person, change_id: UUID, site_key: str, now: datetime
) -> tuple[Brings, dict[str, str], dict[str, str]]:
    """With the addresses of pages and the names of menus. Raises NotFound for a site that the change does nothing at."""
    before, after = await _sides(database, person, change_id, site_key)
    at = clock_of(after.site.site.zone).now(now)
    found = await asyncio.to_thread(brings, before, after, at=at)
    paths = {page.ref: page.path for page in after.site.pages}
    return found, paths, {key: menu.name for side in (before, after) for key, menu in side.site.menus.items()}


async def drawn(
    database: Database, person: Person, change_id: UUID, site_key: str, device: Device, language: str | None, now: datetime
) -> list[DrawnPlace]:  # fmt: skip
    """The places that are drawn otherwise after the change, for anybody on the device. Raises as `brought` does."""
    before, after = await _sides(database, person, change_id, site_key)
    every = await fonts.every_font(database)
    languages = after.site.site.languages
    spoken = language if language in languages else languages[0]
    lens = Lens(device=device, language=spoken or "en", at=clock_of(after.site.site.zone).now(now))

    def each() -> list[DrawnPlace]:
        found = []
        places = {one.key: one for side in (before, after) for one in side.site.template.locations}
        for location, place in places.items():
            was, then = (_side(every, side, location, lens) for side in (before, after))
            if was != then:
                found.append(
                    DrawnPlace(location=location, title=place.title, shape=place.shape, before=was, after=then)
                )
        return found[:MOST_DRAWN]

    return await asyncio.to_thread(each)


async def _sides(database: Database, person: Person, change_id: UUID, site_key: str) -> tuple[Prepared, Prepared]:
    async with database.transaction() as session:
        found = await one_change(session, person, change_id)
        at = next(((site, part) for site, part in found.parts if site.key == site_key), None)
        if at is None:
            raise NotFound(f"{found.row.title} does nothing at {site_key}.", where=f"changes/{change_id}")
        site, part = at
        before, after = [Prepared(await put_live.whole(session, site, name)) for name in (part.base, part.head)]
    return before, after


def _side(every: FontSet, side: Prepared, location: str, lens: Lens) -> Side | None:
    place = side.site.template.location(location)
    if place is None or lens.device not in place.devices:
        return None
    items = side.resolve(location, lens).items
    if not items:
        return None
    site = side.site.site
    html = strip_html(items, place, device=lens.device, language=lens.language, name=site.name, base=site.base)
    return Side(html=html, fits_from=_fits_from(every, place, items, lens))


def _fits_from(every: FontSet, place: Location, items: tuple[Resolved, ...], lens: Lens) -> int | None:
    if place.shape not in SIDE_BY_SIDE or lens.device == "phone":
        return None
    return fit(every, request_of(items, place, language=lens.language, device=lens.device)).fits_from
