"""Changes: the open draft of a site, and which menus are in it."""

from datetime import datetime
from uuid import UUID, uuid4

from sqlalchemy import text
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import ChangeMenuRow, ChangeRow


async def draft_of_site(session: Session, site_id: UUID, *, lock: bool = False) -> ChangeRow | None:
    query = select(ChangeRow).where(ChangeRow.site_id == site_id, ChangeRow.state == "draft")
    return (await session.exec(query.with_for_update() if lock else query)).first()


async def open_draft(session: Session, site_id: UUID, author_id: UUID, title: str, at: datetime) -> ChangeRow:
    """The site's draft, begun where there is none. Two at once get the same one: a unique index sees to it."""
    values = {
        "id": uuid4(), "site_id": site_id, "title": title, "state": "draft", "author_id": author_id, "created_at": at,
    }  # fmt: skip
    statement = insert(ChangeRow).values(values)
    await session.exec(
        statement.on_conflict_do_nothing(index_elements=["site_id"], index_where=text("state = 'draft'"))
    )
    draft = await draft_of_site(session, site_id, lock=True)
    assert draft is not None
    return draft


async def put_in_change(session: Session, change_id: UUID, menu_id: UUID, base: int | None, head: int) -> None:
    """The menu with its newest revision; what it set out from stays as first noted."""
    values = {"change_id": change_id, "menu_id": menu_id, "base_revision_id": base, "head_revision_id": head}
    statement = insert(ChangeMenuRow).values(values)
    await session.exec(
        statement.on_conflict_do_update(index_elements=["change_id", "menu_id"], set_={"head_revision_id": head})
    )


async def menus_in_change(session: Session, change_id: UUID) -> list[ChangeMenuRow]:
    return list(await session.exec(select(ChangeMenuRow).where(ChangeMenuRow.change_id == change_id)))
