"""Fonts of the agency's own."""

from sqlmodel import select

from sign_shelf.store.database import Session
from sign_shelf.store.tables import FontRow


async def all_fonts(session: Session) -> list[FontRow]:
    return list(await session.exec(select(FontRow).order_by(FontRow.family)))


async def font_named(session: Session, family: str) -> FontRow | None:
    return await session.get(FontRow, family)
