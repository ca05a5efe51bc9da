"""Sets of facts that sites share."""

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import select

from sign_shelf.core.documents import read
from sign_shelf.core.facts import FactSet
from sign_shelf.store.database import Session
from sign_shelf.store.tables import FactSetRow


async def fact_sets(session: Session, *, lock: bool = False) -> dict[str, FactSet]:
    """By key, in the order of their titles."""
    query = select(FactSetRow).order_by(FactSetRow.title)
    rows = await session.exec(query.with_for_update() if lock else query)
    return {row.key: read(FactSet, row.document, what=f"fact set {row.key}") for row in rows}


async def keep_fact_set(session: Session, key: str, shared: FactSet) -> None:
    values = {"title": shared.title, "document": shared.to_json()}
    statement = insert(FactSetRow).values({"key": key} | values)
    await session.exec(statement.on_conflict_do_update(index_elements=["key"], set_=values))
