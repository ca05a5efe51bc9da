"""Fit: the ruler of a menu in its place, and the fonts that are measured with."""

import asyncio
import base64

from fastapi import APIRouter, Request, Response

from sign_shelf.api.guards import Db, In, Now, Someone
from sign_shelf.api.lens import Seen, whole_site
from sign_shelf.api.models import Answer, Widths
from sign_shelf.core.errors import NotFound
from sign_shelf.core.fit import NARROWEST, SIDE_BY_SIDE, WIDEST, FontSet, fit, request_of, suggestions, zones
from sign_shelf.core.fit.place import Suggestion
from sign_shelf.desk import fonts as font_desk

router = APIRouter(prefix="/api", tags=["fit"])


class Zone(Answer):
    low: int
    high: int
    says: str


class EntryWidth(Answer):
    id: str
    label: str
    width: float


class LanguageFit(Answer):
    """What the ruler shows of one language; widths are CSS pixels."""

    language: str
    natural: float
    fits_from: int | None
    first_to_go: EntryWidth | None
    drawer_from_overflow: Widths | None
    """Widths at which the bar shows and does not fit."""
    entries: list[EntryWidth]
    zones: list[Zone]
    fallbacks: dict[str, str]
    missing: list[str]


class Ruler(Answer):
    """`languages` is empty where entries do not stand side by side, so that there is nothing to fit."""

    narrowest: int
    widest: int
    drawer_below: int | None
    languages: list[LanguageFit]
    suggestions: list[Suggestion]


class FontOut(Answer):
    family: str
    lightest: int
    heaviest: int
    own: bool
    """Whether the agency uploaded it."""


@router.get("/sites/{site}/places/{location}/fit")
async def ruler(
    site: str,
    location: str,
    database: Db,
    person: Someone,
    view: In,
    now: Now,
    seen: Seen,
    width: int | None = None,
) -> Ruler:
    """Every language of the site on one ruler, and what would make the first one fit at the width."""
    prepared = await whole_site(database, person, site, view, seen.when(now))
    document = prepared.site
    device = seen.device
    place = document.template.location(location)
    if place is None:
        raise NotFound(f'The template has no location "{location}".', where=f"sites/{site}/places/{location}")
    if place.shape not in SIDE_BY_SIDE or device not in place.devices:
        return Ruler(narrowest=NARROWEST, widest=WIDEST, drawer_below=None, languages=[], suggestions=[])
    fonts = await font_desk.every_font(database)

    def measured(language: str) -> LanguageFit:
        lens = seen.of(document, now, language=language)
        items = prepared.resolve(location, lens).items
        request = request_of(items, place, language=language, device=device)
        got = fit(fonts, request)
        over = got.drawer_from_overflow
        shown = [item for item in items if item.kind != "divider"]
        if place.look.direction == "reversed":
            shown.reverse()
        entries = [
            EntryWidth(id=item.id, label=item.label, width=round(one, 2))
            for item, one in zip(shown, got.item_widths, strict=True)
        ]
        return LanguageFit(
            language=language,
            natural=round(got.natural, 2),
            fits_from=got.fits_from,
            first_to_go=entries[got.first_to_go] if got.first_to_go is not None else None,
            drawer_from_overflow=Widths(low=over[0], high=over[1]) if over else None,
            entries=entries,
            zones=[Zone(low=low, high=high, says=says) for low, high, says in zones(got, place.look.drawer_below)],
            fallbacks=got.fallbacks,
            missing=list(got.missing),
        )

    def whole() -> Ruler:
        languages = [measured(language) for language in document.site.languages]
        spoken = document.site.languages[0]
        lens = seen.of(document, now, language=spoken)
        titles = {page.ref: prepared.addresses.title(page.ref, spoken) or "" for page in document.pages}
        listed = suggestions(
            fonts, prepared.resolve(location, lens).items, place, document.template, language=spoken, device=device,
            titles=titles, width=width or document.template.width_of(device),
        )  # fmt: skip
        return Ruler(
            narrowest=NARROWEST,
            widest=WIDEST,
            drawer_below=place.look.drawer_below,
            languages=languages,
            suggestions=list(listed),
        )

    return await asyncio.to_thread(whole)


@router.get("/fonts")
async def fonts(database: Db, person: Someone) -> list[FontOut]:
    """Every family that can be measured with and drawn in."""
    known: FontSet = await font_desk.every_font(database)
    own = {row.family for row in await font_desk.own_fonts(database)}
    return [
        FontOut(family=one.name, lightest=one.weights[0], heaviest=one.weights[1], own=one.name in own)
        for one in sorted(known.families.values(), key=lambda one: one.name)
    ]


@router.post("/fonts", status_code=201)
async def upload(request: Request, database: Db, person: Someone, now: Now) -> FontOut:
    """A font of the agency's own: OpenType, TrueType or WOFF2, at most 4 MB, as the request's body."""
    facts = await font_desk.keep_font(database, person, await request.body(), now)
    return FontOut(family=facts.family, lightest=facts.weights[0], heaviest=facts.weights[1], own=True)


@router.get("/fonts/own.css", response_class=Response)
async def own_css(database: Db, person: Someone) -> Response:
    """The agency's own fonts as `@font-face` rules."""
    rules = "".join(
        f'@font-face{{font-family:"{row.family}";font-weight:{row.lightest} {row.heaviest};'
        f'src:url("/api/fonts/own/{base64.urlsafe_b64encode(row.family.encode()).decode()}/{row.hash[:16]}")}}\n'
        for row in await font_desk.own_fonts(database)
    )
    return Response(rules, media_type="text/css")


@router.get("/fonts/own/{name}/{version}", response_class=Response)
async def own_file(name: str, version: str, database: Db, person: Someone) -> Response:
    """The file of one of the agency's own fonts."""
    for row in await font_desk.own_fonts(database):
        if base64.urlsafe_b64encode(row.family.encode()).decode() == name:
            return Response(row.file, media_type="font/otf")
    raise NotFound("There is no such font.", where="fonts")
