"""Who is in which change just now."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from sqlalchemy import delete
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import ChangePartRow, PersonRow, PresenceRow, SiteRow


async def be_there(session: Session, row: PresenceRow) -> None:
    """In place of where the page was; another's page stays theirs."""
    values = row.model_dump()
    statement = insert(PresenceRow).values(values)
    others = {name: value for name, value in values.items() if name not in {"page", "person_id"}}
    mine = PresenceRow.person_id == row.person_id
    await session.exec(statement.on_conflict_do_update(index_elements=["page"], set_=others, where=mine))  # type: ignore[arg-type]


async def leave(session: Session, page: UUID, person_id: UUID) -> None:
    gone = delete(PresenceRow).where(col(PresenceRow.page) == page, col(PresenceRow.person_id) == person_id)
    await session.exec(gone)


async def forget(session: Session, before: datetime) -> None:
    """Pages that were not heard of since."""
    await session.exec(delete(PresenceRow).where(col(PresenceRow.at) < before))


async def there(session: Session, change_id: UUID, since: datetime) -> Sequence[tuple[PresenceRow, str]]:
    """With their names."""
    query = select(PresenceRow, PersonRow.name).join(PersonRow, col(PersonRow.id) == PresenceRow.person_id)
    query = query.where(PresenceRow.change_id == change_id, col(PresenceRow.at) >= since)
    return list(await session.exec(query.order_by(PersonRow.name, col(PresenceRow.page))))


async def heads(session: Session, change_id: UUID) -> dict[str, str]:
    """What the change wants at each of its sites, by their keys."""
    query = select(SiteRow.key, ChangePartRow.head).join(SiteRow, col(SiteRow.id) == ChangePartRow.site_id)
    return dict((await session.exec(query.where(ChangePartRow.change_id == change_id))).all())
