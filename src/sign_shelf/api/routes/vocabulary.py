"""What items can name: icons, link relations, and a site's page types, overlays, facts and menus; outlines as text."""

from collections import Counter
from typing import Annotated

from fastapi import APIRouter, Query, Response

from sign_shelf.api.documents import Menu
from sign_shelf.api.guards import Db, In, Language, Someone
from sign_shelf.api.models import FactOut, IconOut, OverlayOut, PageType, Vocabulary
from sign_shelf.core.icons import icon_svg, search_icons
from sign_shelf.core.model.rel import RELATIONS, Relation
from sign_shelf.core.outline import format_outline
from sign_shelf.desk.portfolio import board
from sign_shelf.desk.ready import ready

router = APIRouter(prefix="/api", tags=["vocabulary"])


@router.get("/icons")
async def icons(
    person: Someone,
    words: Annotated[str, Query(max_length=100)] = "",
    limit: Annotated[int, Query(ge=1, le=200)] = 48,
) -> list[IconOut]:
    """Icons of the shipped set whose name or subject holds all the words."""
    return [
        IconOut(name=icon.name, words=list(icon.words), svg=icon_svg(icon.name)) for icon in search_icons(words, limit)
    ]


@router.get("/relations")
async def relations(person: Someone) -> list[Relation]:
    """Registered link relations, each with what it tells."""
    return list(RELATIONS)


@router.get("/sites/{site}/vocabulary")
async def vocabulary(site: str, database: Db, person: Someone, view: In) -> Vocabulary:
    async with database.transaction() as session:
        found = await board(session, person, site, view)
        pages = (await ready(session, found)).site.pages
    published = [page for page in pages if page.state == "published"]
    types = Counter(page.type for page in published)
    overlays = Counter(overlay for page in pages for overlay in page.overlays)
    facts = found.document().facts
    return Vocabulary(
        types=[PageType(type=kind, pages=number) for kind, number in types.most_common()],
        overlays=[OverlayOut(key=key, pages=number) for key, number in sorted(overlays.items())],
        facts=[FactOut(name=name, type=fact.type) for name, fact in facts.items()],
        menus=list(found.menus),
    )


@router.post("/outline", response_class=Response)
async def outline(document: Menu, person: Someone, language: Language = None) -> Response:
    """The sent menu document as outline text, for the clipboard."""
    text = format_outline(document, language=language or "en")
    return Response(text, media_type="text/plain; charset=utf-8")
