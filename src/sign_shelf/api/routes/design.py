"""What sites look like and what templates offer: looks, templates, switching."""

import asyncio
from typing import Any, Literal

from fastapi import APIRouter, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, JsonValue

from sign_shelf.api.documents import SiteTemplate
from sign_shelf.api.guards import Db, In, Now, Someone
from sign_shelf.api.lens import Seen, whole_site
from sign_shelf.api.models import Answer, Widths
from sign_shelf.core.changes.switch import Kept, SwitchReport, Unfit, offers
from sign_shelf.core.drawing.elevation import Elevation, State, elevation
from sign_shelf.core.drawing.sample import sample_site
from sign_shelf.core.drawing.strip import strip_html
from sign_shelf.core.errors import NotFound
from sign_shelf.core.look import PLAIN_LOOK, PlaceLook, contrasts, tap_areas
from sign_shelf.core.look import State as LookState
from sign_shelf.core.look.export import css_text, design_tokens
from sign_shelf.core.model.documents import read
from sign_shelf.core.model.menu import Device
from sign_shelf.core.model.template import Template
from sign_shelf.core.resolve import Lens, Prepared
from sign_shelf.desk import design
from sign_shelf.desk.portfolio import arrangements_of, board, visible_sites
from sign_shelf.store import sites as site_records

router = APIRouter(prefix="/api", tags=["design"])


class ContrastOut(Answer):
    pair: Literal["text", "button", "below"]
    state: LookState
    text: str
    ground: str
    ratio: float
    needed: float
    passes: bool


class TapOut(Answer):
    what: str
    height: float
    passes: bool


class LookOut(Answer):
    """A look, drawn with what hangs in the place, and whether it can be read and tapped."""

    look: PlaceLook
    strip: str
    contrasts: list[ContrastOut]
    taps: list[TapOut]


class LookBody(BaseModel):
    look: dict[str, JsonValue]


class Offer(Answer):
    key: str
    title: str
    version: int
    newest: bool
    used_by: list[str]
    locations: int
    shapes: list[str]
    deepest: int
    fixed: list[str]
    phone: list[str]
    unreadable: list[str]


class SwitchBody(BaseModel):
    template: str
    version: int
    matches: dict[str, str | None] = {}


class HungOut(Answer):
    device: Device
    menu: str | None


class KeptOut(Answer):
    location: str
    title: str
    to: str | None
    to_title: str | None
    by: Literal["key", "shape", "title", "by hand", "none"]
    menus: list[HungOut]
    too_deep: tuple[Unfit, ...]
    kinds_refused: tuple[Unfit, ...]
    devices_lost: list[Device]
    folds: str | None


class PlaceName(Answer):
    key: str
    title: str


class WidthChange(Answer):
    device: Device
    before: Widths | None
    after: Widths | None


class SwitchOut(Answer):
    kept: list[KeptOut]
    choices: list[PlaceName]
    """The new template's locations."""
    empty: list[str]
    widths: list[WidthChange]
    fits: bool


class TemplateBody(BaseModel):
    template: dict[str, Any]


def _look_out(look: PlaceLook, strip: str) -> LookOut:
    return LookOut(
        look=look,
        strip=strip,
        contrasts=[
            ContrastOut(
                pair=one.pair,
                state=one.state,
                text=one.text,
                ground=one.ground,
                ratio=round(one.ratio, 2),
                needed=one.needed,
                passes=one.passes,
            )
            for one in contrasts(look)
        ],
        taps=[TapOut(what=one.what, height=round(one.height, 1), passes=one.passes) for one in tap_areas(look)],
    )


@router.post("/sites/{site}/looks/{location}/try")
async def try_look(
    site: str,
    location: str,
    body: LookBody,
    database: Db,
    person: Someone,
    view: In,
    now: Now,
    seen: Seen,
) -> LookOut:
    """How the place would look, without keeping it."""
    prepared = await whole_site(database, person, site, view, seen.when(now))
    document = prepared.site
    look = read(PlaceLook, body.look, what="look")
    place = document.template.location(location)
    if place is None:
        raise NotFound(f'The template has no location "{location}".', where=f"sites/{site}/looks/{location}")
    lens = seen.of(document, now)
    got = prepared.resolve(location, lens)
    tried = place.model_copy(update={"look": look})
    name = document.site.name
    base = document.site.base
    strip = strip_html(got.items, tried, device=lens.device, language=lens.language, name=name, base=base)
    return _look_out(look, strip)


@router.put("/sites/{site}/looks/{location}")
async def keep_look(
    site: str, location: str, body: LookBody, database: Db, person: Someone, view: In, now: Now
) -> PlaceLook:
    """The place's look on this site from now on; it goes live with the draft."""
    return await design.set_look(database, person, site, location, body.look, now, view=view)


@router.get("/sites/{site}/looks.{kind}", response_class=Response)
async def export_looks(site: str, kind: Literal["css", "tokens"], database: Db, person: Someone, view: In) -> Response:
    """Every place's look, as CSS custom properties or as design tokens."""
    prepared = await whole_site(database, person, site, view)
    document = prepared.site
    looks = {location.key: location.look for location in document.template.locations}
    if kind == "css":
        return Response(css_text(looks), media_type="text/css")
    return JSONResponse(design_tokens(looks), media_type="application/design-tokens+json")


def _kept_out(one: Kept) -> KeptOut:
    return KeptOut(
        location=one.location,
        title=one.title,
        to=one.to,
        to_title=one.to_title,
        by=one.by,
        menus=[HungOut(device=device, menu=menu) for device, menu in one.menus],
        too_deep=one.too_deep,
        kinds_refused=one.kinds_refused,
        devices_lost=list(one.devices_lost),
        folds=one.folds,
    )


def _widths(bounds: tuple[int, int | None] | None) -> Widths | None:
    return Widths(low=bounds[0], high=bounds[1]) if bounds else None


def _switch_out(after: Template, told: SwitchReport) -> SwitchOut:
    return SwitchOut(
        kept=[_kept_out(one) for one in told.kept],
        choices=[PlaceName(key=one.key, title=one.title) for one in after.locations],
        empty=list(told.empty),
        widths=[
            WidthChange(device=device, before=_widths(before), after=_widths(then))
            for device, before, then in told.widths
        ],
        fits=not any(one.too_deep or one.kinds_refused for one in told.kept),
    )


@router.post("/sites/{site}/switch/report")
async def switch_told(site: str, body: SwitchBody, database: Db, person: Someone, view: In) -> SwitchOut:
    """What would happen on another template. Nothing is changed."""
    async with database.transaction() as session:
        found = await board(session, person, site, view)
        after, told = await design.report(session, found, body.template, body.version, body.matches)
    return _switch_out(after, told)


@router.post("/sites/{site}/switch", status_code=204)
async def switch(site: str, body: SwitchBody, database: Db, person: Someone, view: In, now: Now) -> None:
    """Moves the site to the template, as part of its draft."""
    await design.switch(
        database, person, site, view=view, key=body.template, version=body.version, by_hand=body.matches, now=now
    )


@router.get("/looks/plain")
async def plain_look(person: Someone) -> PlaceLook:
    """The look of a place of which its template says nothing."""
    return PLAIN_LOOK


@router.get("/templates")
async def templates(database: Db, person: Someone) -> list[Offer]:
    """Every version of every template, and what it offers."""
    async with database.transaction() as session:
        found = await site_records.all_templates(session)
        used = await arrangements_of(session, person, await visible_sites(session, person), "live")
    newest = {one.key: one.version for one in reversed(found)}
    return [
        Offer(
            key=one.key,
            title=one.title or one.key,
            version=one.version,
            newest=newest[one.key] == one.version,
            used_by=[
                row.name for row, each in used if (each.template.key, each.template.version) == (one.key, one.version)
            ],
            **offers(one),
        )
        for one in found
    ]


@router.get("/templates/{key}/{version}")
async def template(key: str, version: int, database: Db, person: Someone) -> SiteTemplate:
    """The template document."""
    async with database.transaction() as session:
        found = (await site_records.templates(session, {(key, version)})).get((key, version))
    if found is None:
        raise NotFound(f'There is no template "{key}" in version {version}.', where=f"templates/{key}/{version}")
    return found


@router.post("/templates/try")
async def try_template(
    body: TemplateBody,
    person: Someone,
    device: Device = "desktop",
    scrolled: bool = False,
    drawer: bool = False,
) -> Elevation:
    """The template's elevation with sample menus, without keeping it."""
    tried = read(Template, body.template, what="template")
    document = sample_site(tried)
    lens = Lens(device=device, language="en", at="2027-01-01T12:00", page="second-below")
    state = State(scrolled=scrolled, drawer_open=drawer)
    return await asyncio.to_thread(lambda: elevation(Prepared(document), lens, state))


@router.put("/templates")
async def save_template(body: TemplateBody, database: Db, person: Someone, now: Now) -> SiteTemplate:
    """The next version of the template; sites stay on theirs until they are moved."""
    return await design.save_template(database, person, body.template, now)
