"""Sites as they are live, whole."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import select

from sign_shelf.core.documents import content_hash, read
from sign_shelf.core.site import SiteDocument
from sign_shelf.store.database import Session
from sign_shelf.store.tables import LiveSiteRow, SiteRow


async def keep_live(session: Session, site_id: UUID, document: SiteDocument, at: datetime) -> None:
    """What is live from now on. A trigger tells whoever delivers it."""
    values = {"hash": content_hash(document), "document": document.to_json(), "at": at}
    statement = insert(LiveSiteRow).values({"site_id": site_id} | values)
    await session.exec(statement.on_conflict_do_update(index_elements=["site_id"], set_=values))


async def live_document(session: Session, site_id: UUID) -> SiteDocument | None:
    row = await session.get(LiveSiteRow, site_id)
    return read(SiteDocument, row.document, what="live site") if row else None


@dataclass(frozen=True)
class Delivered:
    """What a site shows when it asks, what it signs visitors' facts with, and the hash of what is live."""

    key: str
    facts_key: str
    hash: str | None


async def delivered(session: Session, site_key: str) -> Delivered | None:
    """None for an unknown site."""
    query = (
        select(SiteRow.delivery_key, SiteRow.facts_key, LiveSiteRow.hash)
        .join(LiveSiteRow, LiveSiteRow.site_id == SiteRow.id, isouter=True)  # type: ignore[arg-type]
        .where(SiteRow.key == site_key)
    )
    found = (await session.exec(query)).first()
    return Delivered(*found) if found else None
