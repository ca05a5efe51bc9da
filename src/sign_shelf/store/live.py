"""Sites as they are live, whole."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from pydantic_core import from_json
from sqlalchemy import Text, cast
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, or_, select

from sign_shelf.core.documents import content_hash, read
from sign_shelf.core.site import SiteDocument
from sign_shelf.store.database import Session
from sign_shelf.store.keys import KeyKind
from sign_shelf.store.tables import LiveSiteRow, SiteKeyRow, SiteRow


async def keep_live(session: Session, site_id: UUID, document: SiteDocument, at: datetime) -> None:
    """What is live from now on. A trigger tells whoever delivers it."""
    values = {"hash": content_hash(document), "document": document.to_json(), "at": at}
    statement = insert(LiveSiteRow).values({"site_id": site_id} | values)
    await session.exec(statement.on_conflict_do_update(index_elements=["site_id"], set_=values))


async def live_document(session: Session, site_id: UUID) -> SiteDocument | None:
    row = await session.get(LiveSiteRow, site_id)
    return read(SiteDocument, row.document, what="live site") if row else None


async def live_text(session: Session, site_id: UUID) -> str:
    """The site as it is live, as it is kept: reading it takes long, and is not for an event loop (`read_live`)."""
    query = select(cast(col(LiveSiteRow.document), Text)).where(LiveSiteRow.site_id == site_id)
    return str((await session.exec(query)).one())


def read_live(text: str) -> SiteDocument:
    return read(SiteDocument, from_json(text), what="live site")


@dataclass(frozen=True)
class Delivered:
    """Where a site that asks stands: its keys that count now, and the hash of what is live."""

    site_id: UUID
    keys: tuple[tuple[KeyKind, str, datetime | None], ...]
    """Kind, sealed, until when it counts."""
    hash: str | None


async def delivered(session: Session, site_key: str, now: datetime) -> Delivered | None:
    """None for an unknown site, and for one that nothing is delivered to."""
    query = (
        select(SiteKeyRow, LiveSiteRow.hash)
        .join(SiteRow, col(SiteRow.id) == SiteKeyRow.site_id)
        .join(LiveSiteRow, col(LiveSiteRow.site_id) == SiteRow.id, isouter=True)
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
    keys = tuple((key.kind, key.sealed, key.until) for key, _ in rows)
    return Delivered(rows[0][0].site_id, keys, rows[0][1])  # type: ignore[arg-type]
