"""What sites that ask are given."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from pydantic_core import from_json
from sqlalchemy import func, text
from sqlmodel import col, or_, select

from sign_shelf.core.changes.arrangement import Arrangement
from sign_shelf.core.changes.state import Contents, site_of
from sign_shelf.core.model.documents import read, read_menu
from sign_shelf.core.model.facts import FactSet
from sign_shelf.core.model.site import Page, Particulars, SiteDocument
from sign_shelf.core.model.template import Template
from sign_shelf.store.database import Session
from sign_shelf.store.keys import KeyKind
from sign_shelf.store.tables import SiteKeyRow, SiteRow


@dataclass(frozen=True)
class Delivered:
    """Where a site that asks stands: its keys that count now, and the state that it is given."""

    site_id: UUID
    keys: tuple[tuple[KeyKind, str, datetime | None], ...]
    """Kind, sealed, until when it counts."""
    state: str
    inventory: int
    """The version of what is known of its pages."""


async def delivered(session: Session, site_key: str, now: datetime) -> Delivered | None:
    """None for an unknown site, and for one that nothing is delivered to."""
    query = (
        select(SiteKeyRow, func.coalesce(SiteRow.trying_state, SiteRow.live_state), SiteRow.inventory)
        .join(SiteRow, col(SiteRow.id) == SiteKeyRow.site_id)
        .where(
            SiteRow.key == site_key,
            col(SiteKeyRow.kind).in_(["delivery", "facts"]),
            or_(col(SiteKeyRow.until).is_(None), col(SiteKeyRow.until) > now),
        )
        .order_by(col(SiteKeyRow.id).desc())
    )
    rows = (await session.exec(query)).all()
    if not rows:
        return None
    keys = tuple((key.kind, key.sealed, key.until) for key, _, _ in rows)
    return Delivered(rows[0][0].site_id, keys, rows[0][1], rows[0][2])  # type: ignore[arg-type]


@dataclass(frozen=True)
class GivenTexts:
    """A site whole, as it is kept: reading it takes long, and is not for an event loop (`read_given`)."""

    particulars: str
    arrangement: str
    template: str
    sets: tuple[tuple[str, int, str], ...]
    menus: tuple[tuple[str, str], ...]
    pages: str


_WHOLE = text(
    """
    SELECT site.particulars::text AS particulars, arrangement.document::text AS arrangement,
      (SELECT document::text FROM template WHERE key = arrangement.document -> 'template' ->> 'key'
         AND version = (arrangement.document -> 'template' ->> 'version')::int) AS template,
      coalesce((SELECT json_agg(to_json(page) ORDER BY page.position)::text FROM page WHERE page.site_id = site.id), '[]')
        AS pages
    FROM site, state JOIN arrangement ON arrangement.hash = state.arrangement
    WHERE site.id = :site AND state.hash = :state
    """
)
_MENUS = text(
    """
    SELECT named.key, tree.document::text AS document FROM state,
      json_each_text(state.menus) WITH ORDINALITY AS named(key, hash, at) JOIN tree ON tree.hash = named.hash
    WHERE state.hash = :state ORDER BY named.at
    """
)
_SETS = text(
    """
    SELECT fact_set.key, fact_set.version, fact_set.document::text AS document
    FROM state JOIN arrangement ON arrangement.hash = state.arrangement,
      json_array_elements(coalesce(arrangement.document -> 'sets', '[]')) WITH ORDINALITY AS followed(one, at)
      JOIN fact_set ON fact_set.key = followed.one ->> 'key' AND fact_set.version = (followed.one ->> 'version')::int
    WHERE state.hash = :state ORDER BY followed.at
    """
)


async def given_texts(session: Session, told: Delivered) -> GivenTexts:
    connection = await session.connection()
    asked = {"site": told.site_id, "state": told.state}
    whole = (await connection.execute(_WHOLE, asked)).one()
    sets = await connection.execute(_SETS, asked)
    menus = await connection.execute(_MENUS, asked)
    return GivenTexts(
        whole.particulars,
        whole.arrangement,
        whole.template,
        tuple((row.key, row.version, row.document) for row in sets),
        tuple((row.key, row.document) for row in menus),
        whole.pages,
    )


def read_given(texts: GivenTexts) -> SiteDocument:
    pages = [
        Page.model_construct(
            **{name: one[name] for name in _PAGE_FIELDS} | {name: tuple(one[name]) for name in ("parts", "overlays")}
        )
        for one in from_json(texts.pages)
    ]
    contents = Contents(
        arrangement=read(Arrangement, from_json(texts.arrangement), what="arrangement"),
        menus={key: read_menu(from_json(document)) for key, document in texts.menus},
    )
    shared = [read(FactSet, from_json(document), what=f"fact set {key}") for key, _, document in texts.sets]
    template = read(Template, from_json(texts.template), what="template")
    return site_of(read(Particulars, from_json(texts.particulars)), contents, template, shared, pages)


_PAGE_FIELDS = ("ref", "path", "title", "type", "language", "state", "under", "date")
