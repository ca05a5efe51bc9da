"""A site's places: what hangs where, the drawn page, devices side by side, reach."""

import asyncio
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel

from sign_shelf.api.guards import Config, Db, In, Net, Now, Once, Someone
from sign_shelf.api.lens import Seen, whole_site
from sign_shelf.api.models import Answer, HangBody
from sign_shelf.core.drawing.elevation import Elevation, State, elevation
from sign_shelf.core.model.menu import DEVICES, Device
from sign_shelf.core.protocol.delivery import menu_html
from sign_shelf.core.visitors.reach import lacking, reach
from sign_shelf.core.visitors.side_by_side import DeviceColumn, side_by_side
from sign_shelf.desk import drift, hang

router = APIRouter(prefix="/api/sites/{site}", tags=["places"])


class ReachedPage(Answer):
    """`steps` per device; None where no menu leads there."""

    ref: str
    path: str
    title: str
    steps: dict[Device, int | None]


class ReachOut(Answer):
    pages: list[ReachedPage]
    lacking: dict[Device, list[str]]
    """Pages that another device reaches and this one does not."""


class OwnMenu(Answer):
    menu: str


@router.put("/places/{location}/{device}", status_code=204)
async def hang_menu(
    site: str, location: str, device: Device, body: HangBody, database: Db, person: Someone, view: In, now: Now
) -> None:
    """Hangs a menu, or none on purpose."""
    await hang.hang(database, person, site, view=view, location=location, device=device, menu_key=body.menu, now=now)


@router.delete("/places/{location}/{device}", status_code=204)
async def take_down(
    site: str, location: str, device: Device, database: Db, person: Someone, view: In, now: Now
) -> None:
    """Takes down what hangs there; the place takes what wider devices have, or its stand-in."""
    await hang.take_down(database, person, site, view=view, location=location, device=device, now=now)


@router.post("/places/{location}/{device}/own", status_code=201)
async def give_own(
    site: str, location: str, device: Device, database: Db, person: Someone, view: In, now: Now
) -> OwnMenu:
    """A menu of the device's own, begun as a copy of what it inherits."""
    key = await hang.give_own(database, person, site, view=view, location=location, device=device, now=now)
    return OwnMenu(menu=key)


class ReadAgainBody(BaseModel):
    what: drift.Then
    """take over: what the site shows is the place's menu in the change; put back: what is live is sent again."""


class ReadAgainOut(Answer):
    release: UUID | None
    """The release that puts back."""


@router.post("/places/{location}/{device}/read-again")
async def read_again(
    site: str,
    location: str,
    device: Device,
    body: ReadAgainBody,
    database: Db,
    net: Net,
    person: Someone,
    view: In,
    key: Once,
    now: Now,
) -> ReadAgainOut:
    """Reads a place that was changed on the site itself, and takes that over or puts back what was approved."""
    release = await drift.read_again(
        database, net, person, site, location=location, device=device, then=body.what, request_key=key, now=now,
        view=view,
    )  # fmt: skip
    return ReadAgainOut(release=release)


@router.get("/elevation")
async def drawn(
    site: str,
    database: Db,
    person: Someone,
    view: In,
    now: Now,
    seen: Seen,
    scrolled: bool = False,
    drawer: bool = False,
    width: Annotated[int | None, Query(ge=240, le=3_840)] = None,
) -> Elevation:
    """The site's page through the lens, every place where its template puts it."""
    prepared = await whole_site(database, person, site, view, seen.when(now))
    document = prepared.site
    lens = seen.of(document, now, width=width)
    state = State(scrolled=scrolled, drawer_open=drawer)
    return await asyncio.to_thread(lambda: elevation(prepared, lens, state))


@router.get("/places/{location}/devices")
async def devices(
    site: str, location: str, database: Db, person: Someone, view: In, now: Now, seen: Seen
) -> list[DeviceColumn]:
    """What every device gets in the place, with what one lacks that another has."""
    prepared = await whole_site(database, person, site, view, seen.when(now))
    document = prepared.site
    lens = seen.of(document, now, device="desktop")
    return await asyncio.to_thread(side_by_side, prepared, location, lens)


class PlainOut(Answer):
    """`html` is a navigation with nested lists that needs no script; `given_at` is where delivery gives the same, as what is live
    changes."""

    title: str
    html: str
    given_at: str


@router.get("/places/{location}/plain")
async def plain(
    site: str,
    location: str,
    database: Db,
    person: Someone,
    view: In,
    now: Now,
    seen: Seen,
    request: Request,
    settings: Config,
) -> PlainOut:
    """What a visitor gets in the place, ready to be put into the page's HTML."""
    prepared = await whole_site(database, person, site, view, seen.when(now))
    lens = seen.of(prepared.site, now)
    got = await asyncio.to_thread(prepared.resolve, location, lens)
    place = prepared.site.template.location(location)
    title = place.title if place is not None else location
    base = f"https://{settings.delivery_host}/" if settings.delivery_host else settings.address or str(request.base_url)
    called = prepared.site.site.called(location)
    return PlainOut(
        title=title, html=menu_html(title, got, language=lens.language).decode(),
        given_at=f"{base}live/{site}/{called}?device={lens.device}&language={lens.language}",
    )  # fmt: skip


@router.get("/reach")
async def reached(site: str, database: Db, person: Someone, view: In, now: Now, seen: Seen) -> ReachOut:
    """How many choices each page is from the home page, on each device."""
    prepared = await whole_site(database, person, site, view, seen.when(now))
    document = prepared.site
    by_device = await asyncio.to_thread(
        lambda: {device: reach(prepared, seen.of(document, now, device=device)) for device in DEVICES}
    )
    spoken = seen.of(document, now).language
    pages = []
    for rows in zip(*by_device.values(), strict=True):
        page = prepared.addresses.pages[rows[0].ref]
        steps = dict(zip(by_device, (row.steps for row in rows), strict=True))
        title = prepared.addresses.title(page.ref, spoken) or page.path
        pages.append(ReachedPage(ref=page.ref, path=page.path, title=title, steps=steps))
    return ReachOut(
        pages=pages,
        lacking={
            device: list(dict.fromkeys(ref for other in DEVICES for ref in lacking(by_device[other], mine)))
            for device, mine in by_device.items()
        },
    )
